/**
 * Fills what is not known of planes from what is about it [Gortler et al. 1996, pull-push]: halved again and again by means of what is known, then brought back
 * into the holes alone. `known`: how much of each pixel is known, 0 to 1; planes hold values times that. Known pixels stay as they are; where nothing is known at
 * all, 0.
 */
export function filled(
  planes: readonly Float32Array[],
  known: Float32Array,
  width: number,
  height: number,
): Float32Array[] {
  if (width <= 1 && height <= 1) return planes.map((p) => p.map((v, i) => (known[i] > 0 ? v / known[i] : 0)));
  const [w, h] = [(width + 1) >> 1, (height + 1) >> 1];
  const less = new Float32Array(w * h);
  const small = planes.map(() => new Float32Array(w * h));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [i, j] = [y * width + x, (y >> 1) * w + (x >> 1)];
      less[j] += known[i];
      for (let c = 0; c < planes.length; c++) small[c][j] += planes[c][i];
    }
  for (let j = 0; j < less.length; j++) {
    // What is known of four pixels together fills one: no surer than wholly.
    const over = Math.max(1, less[j]);
    less[j] /= over;
    for (const s of small) s[j] /= over;
  }
  const coarse = filled(small, less, w, h);
  return planes.map((p, c) => {
    const out = new Float32Array(p.length);
    const from = coarse[c];
    const at = (x: number, y: number) => from[Math.min(h - 1, Math.max(0, y)) * w + Math.min(w - 1, Math.max(0, x))];
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const i = y * width + x;
        const k = known[i];
        if (k >= 1) {
          out[i] = p[i];
          continue;
        }
        const [u, v] = [x / 2 - 0.25, y / 2 - 0.25];
        const [x0, y0] = [Math.floor(u), Math.floor(v)];
        const [s, t] = [u - x0, v - y0];
        const top = at(x0, y0) * (1 - s) + at(x0 + 1, y0) * s;
        const low = at(x0, y0 + 1) * (1 - s) + at(x0 + 1, y0 + 1) * s;
        out[i] = p[i] + (1 - k) * (top * (1 - t) + low * t);
      }
    return out;
  });
}
