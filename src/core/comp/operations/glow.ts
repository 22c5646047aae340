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
  const light = [planes[0], planes[1], planes[2]];
  const bright = above > 0 ? light.map((plane) => beyond(plane, above)) : light;
  const out = light.map((plane) => plane.slice());
  for (const [size, share] of KERNELS) {
    const sigma = size * radius * height;
    const soft = sigma > 0 ? blurred(bright, width, height, sigma, 'nothing') : bright;
    const k = amount * share;
    out.forEach((o, c) => {
      const s = soft[c];
      for (let i = 0; i < o.length; i++) o[i] += k * s[i];
    });
  }
  return relit(p, [out[0], out[1], out[2]]);
}
