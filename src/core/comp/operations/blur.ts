import type { Picture } from '../picture';

const DEVIATIONS = 3.5;

/** Weights of a Gauss of so many pixels' deviation, to both sides; together 1. */
function weightsOf(sigma: number): Float64Array {
  const reach = Math.max(1, Math.ceil(sigma * DEVIATIONS));
  const weights = Float64Array.from({ length: 2 * reach + 1 }, (_, i) => Math.exp(-0.5 * ((i - reach) / sigma) ** 2));
  const sum = weights.reduce((s, w) => s + w, 0);
  return weights.map((w) => w / sum);
}

/**
 * A plane blurred by a Gauss of `sigma` pixels, one axis after the other. `keeps`: what beyond the edge counts as: the `edge` itself, so that even
 * planes stay, or `nothing`, so that light leaves the picture as from a lens.
 */
export function blurred(
  plane: Float32Array,
  width: number,
  height: number,
  sigma: number,
  beyond: 'edge' | 'nothing',
): Float32Array {
  const weights = weightsOf(sigma);
  const reach = (weights.length - 1) >> 1;
  const along = (src: Float32Array, count: number, step: number, lines: number, stride: number) => {
    const out = new Float32Array(src.length);
    for (let line = 0; line < lines; line++) {
      const base = line * stride;
      for (let i = 0; i < count; i++) {
        let sum = 0;
        for (let k = -reach; k <= reach; k++) {
          const j = i + k;
          if (j >= 0 && j < count) sum += weights[k + reach] * src[base + j * step];
          else if (beyond === 'edge') sum += weights[k + reach] * src[base + (j < 0 ? 0 : count - 1) * step];
        }
        out[base + i * step] = sum;
      }
    }
    return out;
  };
  return along(along(plane, width, 1, height, width), height, width, width, 1);
}

const each = (p: Picture, to: (plane: Float32Array) => Float32Array): Picture => {
  const [r, g, b, a] = p.planes;
  return { ...p, planes: [to(r), to(g), to(b), to(a)] };
};

/** Blur by a Gauss of `radius`, its deviation in parts of the height; alpha with it, so that edges stay right over anything. */
export function soften(p: Picture, { radius }: { radius: number }): Picture {
  const sigma = radius * p.height;
  if (sigma === 0) return p;
  return each(p, (plane) => blurred(plane, p.width, p.height, sigma, 'edge'));
}

/** What a blur of `radius` takes from light, added `amount` times: v + amount·(v − blur(v)). Even light and alpha stay. */
export function sharpen(p: Picture, { radius, amount }: { radius: number; amount: number }): Picture {
  const sigma = radius * p.height;
  if (amount === 0 || sigma === 0) return p;
  const [r, g, b, a] = p.planes;
  const sharp = (plane: Float32Array) => {
    const soft = blurred(plane, p.width, p.height, sigma, 'edge');
    return plane.map((v, i) => v + amount * (v - soft[i]));
  };
  return { ...p, planes: [sharp(r), sharp(g), sharp(b), a] };
}
