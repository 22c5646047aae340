import { type Picture, relit } from '../picture';
import { blurred } from './blur';

/** Deviations of the kernels over the radius, and their shares: a narrow core and two wide skirts. */
const KERNELS: readonly (readonly [number, number])[] = [
  [0.5, 0.5],
  [1.5, 0.3],
  [4, 0.2],
];

/** What of a plane is beyond a level. */
function beyond(plane: Float32Array, level: number): Float32Array {
  const out = new Float32Array(plane.length);
  for (let i = 0; i < out.length; i++) out[i] = Math.max(0, plane[i] - level);
  return out;
}

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
  const kernels = KERNELS.map(([size, share]) => ({ sigma: size * radius * height, share: amount * share }));
  const glowing = (c: 0 | 1 | 2) => {
    const plane = planes[c];
    const out = blurred(above > 0 ? beyond(plane, above) : plane, width, height, kernels, 'nothing');
    for (let i = 0; i < out.length; i++) out[i] += plane[i];
    return out;
  };
  return relit(p, [glowing(0), glowing(1), glowing(2)]);
}
