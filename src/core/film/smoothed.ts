import { type Display, displayValue, luminance } from '../image';
import { type Rgb, sampled, separable, unit } from '../stats';

const CELL = 16;
/** Half the width of the window over which the grain of what is missing is averaged out. */
export const SMOOTH = 3;

/** Display values of luminance, smoothed over 7×7 pixels in linear light, percent. */
export function smoothed(rgb: Rgb, width: number, height: number, exposure: Display): Float32Array {
  const grey = Float32Array.from(rgb[0], (_, i) => luminance(rgb[0][i], rgb[1][i], rgb[2][i]));
  const box = unit(sampled(SMOOTH, () => 1));
  return separable(grey, width, height, box, box).map((v) => 100 * displayValue(v, exposure));
}

/** Root mean square over all pixels and over the worst cell. */
export function distance(
  a: Float32Array,
  b: Float32Array,
  width: number,
  height: number,
): { rms: number; worstCell: number } {
  let sum = 0;
  let worst = 0;
  for (let y = 0; y < height; y += CELL)
    for (let x = 0; x < width; x += CELL) {
      let own = 0;
      let n = 0;
      for (let j = y; j < Math.min(y + CELL, height); j++)
        for (let i = x; i < Math.min(x + CELL, width); i++) {
          own += (a[j * width + i] - b[j * width + i]) ** 2;
          n++;
        }
      sum += own;
      worst = Math.max(worst, own / n);
    }
  return { rms: Math.sqrt(sum / (width * height)), worstCell: Math.sqrt(worst) };
}
