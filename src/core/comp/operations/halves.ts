/** What beyond the edge counts as: the `edge` itself, so that even planes stay, or `nothing`, so that light leaves the picture as from a lens. */
export type Beyond = 'edge' | 'nothing';

/** A plane of pixels, row after row. */
export interface Grid {
  plane: Float32Array;
  width: number;
  height: number;
}

/** Pixels of a row or column of half as many, with one beyond either end. */
const less = (n: number) => ((n + 1) >> 1) + 2;

/**
 * A plane of half the size, and a ring of pixels about it: what `doubled` is the transpose of, weights 1, 3, 3, 1 along each axis. So wherever a point of
 * light lies, its place and energy stay, and its variance grows by 3/4 of a pixel squared; doubling adds as much.
 */
export function halved({ plane, width, height }: Grid, beyond: Beyond): Grid {
  const [w, h] = [less(width), less(height)];
  const out = new Float32Array(w * h);
  const row = new Float32Array(width + 7);
  const isEdge = beyond === 'edge';
  for (let v = 0; v < h; v++) {
    row.fill(0);
    for (let k = 0; k < 4; k++) {
      const at = 2 * v - 3 + k;
      const y = isEdge ? Math.min(height - 1, Math.max(0, at)) : at;
      if (y < 0 || y >= height) continue;
      const weight = k === 0 || k === 3 ? 1 / 64 : 3 / 64;
      const from = y * width;
      for (let x = 0; x < width; x++) row[x + 3] += weight * plane[from + x];
    }
    if (isEdge) {
      row.fill(row[3], 0, 3);
      row.fill(row[width + 2], width + 3);
    }
    const to = v * w;
    for (let u = 0, x = 0; u < w; u++, x += 2) out[to + u] = row[x] + 3 * (row[x + 1] + row[x + 2]) + row[x + 3];
  }
  return { plane: out, width: w, height: h };
}

/** A plane so large, evenly between the pixels of one that has been halved. */
export function doubled({ plane, width: w }: Grid, width: number, height: number): Float32Array {
  const out = new Float32Array(width * height);
  const row = new Float32Array(w);
  for (let y = 0; y < height; y++) {
    const near = ((y >> 1) + 1) * w;
    const far = near + (y & 1 ? w : -w);
    for (let u = 0; u < w; u++) row[u] = 0.75 * plane[near + u] + 0.25 * plane[far + u];
    const to = y * width;
    for (let x = 0, u = 1; x < width; x += 2, u++) {
      out[to + x] = 0.75 * row[u] + 0.25 * row[u - 1];
      if (x + 1 < width) out[to + x + 1] = 0.75 * row[u] + 0.25 * row[u + 1];
    }
  }
  return out;
}
