import { screenLight } from '@/core/comp';
import { encodeSrgb } from '@/core/image';
import { type StackOver, stackPicture } from '../views/stack';
import { type Histogram, histogramOf } from './histogram';
import type { Question } from './question';
import { filmOfA, resultOf } from './stack-film';

const [ACROSS, LEVELS] = [240, 101];

/** How the pixels of a picture lie: about display white, and across it. */
export interface Scopes {
  histogram: Histogram | null;
  across: number;
  levels: number;
  /** Of red, green and blue, the share of a column's pixels at each level, the lowest first, column after column; above white and below black at the ends. */
  waves: Float32Array[];
}

/** Waveform and histogram of what a stack makes of the film of A. Values are light on the channels of the screen as sRGB encodes it, before the display's shoulder. */
export const scopes: Question<{ over: StackOver }, Scopes> = async (desk, { over }) => {
  const known = resultOf(desk, over);
  const made = async () => {
    const { film, place } = await filmOfA(desk, ['beauty', ...over.layers]);
    return stackPicture(over, film, place, await desk.besides.of(over));
  };
  const { width, height, ...picture } = known ?? (await made());
  const planes = screenLight({ width, height, ...picture }, over.stack);
  const across = Math.min(ACROSS, width);
  const waves = [0, 1, 2].map((c) => {
    const out = new Float32Array(across * LEVELS);
    const counts = new Float32Array(across);
    for (let x = 0; x < width; x++) counts[Math.floor((x * across) / width)] += height;
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const column = Math.floor((x * across) / width);
        const level = Math.round(encodeSrgb(Math.min(1, Math.max(0, planes[c][y * width + x]))) * (LEVELS - 1));
        out[column * LEVELS + level] += 1 / counts[column];
      }
    return out;
  });
  const [r, g, b] = planes;
  const film = {
    width,
    height,
    layers: new Map([
      ['beauty', { name: 'beauty', channels: ['R', 'G', 'B'], planes: [r, g, b], kind: 'color' as const }],
    ]),
  };
  return { histogram: histogramOf(film, 1), across, levels: LEVELS, waves };
};
