/** A picture as the stack has it: linear light of the working space, premultiplied by alpha, unclamped; four planes of equal size. */
export interface Picture {
  width: number;
  height: number;
  /** Red, green, blue and alpha. */
  planes: readonly [Float32Array, Float32Array, Float32Array, Float32Array];
}

export type Rgb = readonly [number, number, number];

/** Nothing: black, and nowhere there. */
export function blank(width: number, height: number): Picture {
  const plane = () => new Float32Array(width * height);
  return { width, height, planes: [plane(), plane(), plane(), plane()] };
}

/** A colour with an alpha, all over; `rgb` straight. */
export function solid(width: number, height: number, rgb: Rgb, alpha: number): Picture {
  const plane = (v: number) => new Float32Array(width * height).fill(v);
  return { width, height, planes: [plane(rgb[0] * alpha), plane(rgb[1] * alpha), plane(rgb[2] * alpha), plane(alpha)] };
}

/** With other light, and the alpha that there is. */
export const relit = (p: Picture, light: readonly [Float32Array, Float32Array, Float32Array]): Picture => ({
  ...p,
  planes: [light[0], light[1], light[2], p.planes[3]],
});

/** Every channel of light times a factor. */
export function scaled(p: Picture, k: Rgb): Picture {
  if (k.every((v) => v === 1)) return p;
  const times = (c: 0 | 1 | 2) => p.planes[c].map((v) => v * k[c]);
  return relit(p, [times(0), times(1), times(2)]);
}

/**
 * Colours changed as if nothing were see-through: `to` is given the straight colour of each pixel and changes it in place. Where alpha is 0, or
 * light is there without any (as parts have it), colour is taken as it is.
 */
export function graded(p: Picture, to: (rgb: [number, number, number]) => void): Picture {
  const [r, g, b, a] = p.planes;
  const out: [Float32Array, Float32Array, Float32Array] = [r.slice(), g.slice(), b.slice()];
  const rgb: [number, number, number] = [0, 0, 0];
  for (let i = 0; i < a.length; i++) {
    const alpha = a[i] > 0 ? a[i] : 1;
    rgb[0] = r[i] / alpha;
    rgb[1] = g[i] / alpha;
    rgb[2] = b[i] / alpha;
    to(rgb);
    out[0][i] = rgb[0] * alpha;
    out[1][i] = rgb[1] * alpha;
    out[2][i] = rgb[2] * alpha;
  }
  return relit(p, out);
}
