import { type Picture, relit } from '../picture';
import { blurred } from './blur';

/** Deviations of the kernels over the radius, and their shares: a narrow core and two wide skirts. */
const KERNELS: readonly (readonly [number, number])[] = [
  [0.5, 0.5],
  [1.5, 0.3],
  [4, 0.2],
];

/**
 * Light that spreads and is added: `amount` of it times kernels that sum to 1, `radius` in parts of the height. Linear in light where `above` is 0: twice a lamp
 * has twice its glow. Above a level only what is beyond it spreads. What spreads over the edge of the picture is gone; nothing is taken from what glows.
 */
export function glow(
  p: Picture,
  { amount, radius, above }: { amount: number; radius: number; above: number },
): Picture {
  if (amount === 0) return p;
  const { width, height, planes } = p;
  const spread = (plane: Float32Array): Float32Array => {
    const bright = above > 0 ? plane.map((v) => Math.max(0, v - above)) : plane;
    const out = plane.slice();
    for (const [size, share] of KERNELS) {
      const sigma = size * radius * height;
      const soft = sigma > 0 ? blurred(bright, width, height, sigma, 'nothing') : bright;
      for (let i = 0; i < out.length; i++) out[i] += amount * share * soft[i];
    }
    return out;
  };
  return relit(p, [spread(planes[0]), spread(planes[1]), spread(planes[2])]);
}
