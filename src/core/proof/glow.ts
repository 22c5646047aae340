/** Widths of the halos that a glow is taken to be a mixture of, in pixels of standard deviation. */
export const HALOS = [2, 5, 12, 30] as const;

/** One pass of a box of 2r + 1 pixels along lines; beyond the edges there is nothing. */
function boxed(src: Float64Array, count: number, lines: number, step: number, next: number, r: number): Float64Array {
  const out = new Float64Array(src.length);
  const scale = 1 / (2 * r + 1);
  for (let l = 0; l < lines; l++) {
    const at = l * next;
    let sum = 0;
    for (let i = 0; i < Math.min(r, count); i++) sum += src[at + i * step];
    for (let i = 0; i < count; i++) {
      if (i + r < count) sum += src[at + (i + r) * step];
      if (i - r - 1 >= 0) sum -= src[at + (i - r - 1) * step];
      out[at + i * step] = sum * scale;
    }
  }
  return out;
}

/** A plane blurred by three boxes, which come near a Gaussian of that standard deviation [Wells 1986]. */
export function blurred(plane: Float64Array, width: number, height: number, sigma: number): Float64Array {
  const r = Math.max(1, Math.round((Math.sqrt(4 * sigma * sigma + 1) - 1) / 2));
  let out = plane;
  for (let k = 0; k < 3; k++) {
    out = boxed(out, width, height, 1, width, r);
    out = boxed(out, height, width, width, 1, r);
  }
  return out;
}
