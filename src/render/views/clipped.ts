import { type Factors, LAYER, relight } from '@/core/film';
import { scaleOf } from '@/core/image';
import type { Kind } from './kind';
import { color, type Painted, planes3 } from './painting';

/** Below this part of display white, 8 bits show black. */
const BLACK = 1 / (255 * 12.92);

/** How far below 0 a channel is, against the brightest, for a colour that the screen does not have. */
const NOT_ON_SCREEN = 1 / 100;

/**
 * Stripes over pixels of a picture that a screen cuts: what is beyond white in any channel (dark on light), what is black (light on dark), and colours that it does not have,
 * a channel of which is below 0 (leaning the other way). `light`: on the channels of the screen, white by `scale`.
 */
export function striped(shown: Painted, light: readonly Float32Array[], width: number, scale: number): Painted {
  const [r, g, b] = light;
  for (let i = 0; i < r.length; i++) {
    const top = Math.max(r[i], g[i], b[i]) * scale;
    const least = Math.min(r[i], g[i], b[i]) * scale;
    const [over, isBlack] = [top > 1, top <= BLACK];
    const isOutside = !over && !isBlack && least < -top * NOT_ON_SCREEN;
    if (!over && !isBlack && !isOutside) continue;
    const [x, y] = [i % width, Math.floor(i / width)];
    const stripe = (isOutside ? x - y + width * 8 : x + y) % 8 < 3;
    if (stripe) shown.pixels.fill(over ? 20 : isBlack ? 150 : 235, i * 4, i * 4 + 3);
  }
  return shown;
}

/** The beauty, or the light groups mixed, hatched where it is beyond white or black on screen. */
export const clipped: Kind<{ mix?: { groups: readonly string[]; factors: Factors } }> = {
  layers: ({ mix }) => (mix ? mix.groups.map(LAYER.group) : ['beauty']),
  paint: (film, { mix }, { exposure }) => {
    const planes = mix ? relight(film, mix.groups, mix.factors) : planes3(film, 'beauty');
    return planes && striped(color(planes, exposure), planes, film.width, scaleOf(exposure));
  },
};
