import { type Factors, LAYER, relight } from '@/core/film';
import { type Display, scaleOf } from '@/core/image';
import type { Kind } from './kind';
import { color, type Painted, planes3 } from './painting';

/** Below this part of display white, 8 bits show black. */
const BLACK = 1 / (255 * 12.92);

/** The picture with stripes over what is beyond white in any channel (dark on light) and what is black (light on dark). */
function hatched(planes: readonly Float32Array[], width: number, exposure: Display): Painted {
  const shown = color(planes, exposure);
  const scale = scaleOf(exposure);
  const [r, g, b] = planes;
  for (let i = 0; i < r.length; i++) {
    const top = Math.max(r[i], g[i], b[i]) * scale;
    const over = top > 1;
    if (!over && top > BLACK) continue;
    const stripe = ((i % width) + Math.floor(i / width)) % 8 < 3;
    if (stripe) shown.pixels.fill(over ? 20 : 150, i * 4, i * 4 + 3);
  }
  return shown;
}

/** The beauty, or the light groups mixed, hatched where it is beyond white or black on screen. */
export const clipped: Kind<{ mix?: { groups: readonly string[]; factors: Factors } }> = {
  layers: ({ mix }) => (mix ? mix.groups.map(LAYER.group) : ['beauty']),
  paint: (film, { mix }, { exposure }) => {
    const planes = mix ? relight(film, mix.groups, mix.factors) : planes3(film, 'beauty');
    return planes && hatched(planes, film.width, exposure);
  },
};
