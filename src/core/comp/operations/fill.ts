/** A plane halved: the sums of two by two pixels. */
function halved(plane: Float32Array, width: number, height: number, w: number): Float32Array {
  const out = new Float32Array(w * ((height + 1) >> 1));
  for (let y = 0; y < height; y++) {
    const to = (y >> 1) * w;
    const from = y * width;
    const pairs = width >> 1;
    for (let x = 0, i = from; x < pairs; x++, i += 2) out[to + x] += plane[i] + plane[i + 1];
    if (width & 1) out[to + pairs] += plane[from + width - 1];
  }
  return out;
}

/** Puts what is missing of each pixel of a plane into it, taken from one of half its size, evenly between its pixels. */
function complete(plane: Float32Array, known: Float32Array, coarse: Float32Array, width: number, height: number): void {
  const [w, h] = [(width + 1) >> 1, (height + 1) >> 1];
  for (let y = 0; y < height; y++) {
    // The nearer of two rows counts three quarters.
    const near = (y >> 1) * w;
    const far = Math.min(h - 1, Math.max(0, (y >> 1) + (y & 1 ? 1 : -1))) * w;
    const row = y * width;
    for (let x = 0; x < width; x++) {
      const k = known[row + x];
      if (k >= 1) continue;
      const u = x >> 1;
      const v = Math.min(w - 1, Math.max(0, u + (x & 1 ? 1 : -1)));
      const c = 0.75 * (0.75 * coarse[near + u] + 0.25 * coarse[near + v]);
      plane[row + x] += (1 - k) * (c + 0.25 * (0.75 * coarse[far + u] + 0.25 * coarse[far + v]));
    }
  }
}

/**
 * Fills what is not known of planes from what is about it [Gortler et al. 1996, pull-push]: halved again and again by means of what is known, then brought back
 * into the holes alone. `known`: how much of each pixel is known, 0 to 1; planes hold values times that. Known pixels stay as they are; where nothing is known at
 * all, 0. Planes are filled in place, and returned.
 */
export function filled(
  planes: readonly Float32Array[],
  known: Float32Array,
  width: number,
  height: number,
): readonly Float32Array[] {
  if (width <= 1 && height <= 1) return planes.map((p) => p.map((v, i) => (known[i] > 0 ? v / known[i] : 0)));
  const [w, h] = [(width + 1) >> 1, (height + 1) >> 1];
  const less = halved(known, width, height, w);
  const small = planes.map((p) => halved(p, width, height, w));
  // What is known of four pixels together fills one: no surer than wholly.
  const part = less.map((k) => (k > 1 ? 1 / k : 1));
  for (const s of small) for (let j = 0; j < s.length; j++) s[j] *= part[j];
  for (let j = 0; j < less.length; j++) if (less[j] > 1) less[j] = 1;
  const coarse = filled(small, less, w, h);
  planes.forEach((p, c) => {
    complete(p, known, coarse[c], width, height);
  });
  return planes;
}
