/**
 * The byte arrangement in front of deflate in OpenEXR's ZIP and ZIPS: even bytes first, odd bytes
 * after, each then replaced by its difference from the one before, plus 128.
 */
export function arrange(src: Uint8Array): Uint8Array {
  const n = src.length;
  const out = new Uint8Array(n);
  const half = (n + 1) >> 1;
  for (let i = 0, j = 0; i < n; i += 2, j++) out[j] = src[i];
  for (let i = 1, j = half; i < n; i += 2, j++) out[j] = src[i];
  let previous = n > 0 ? out[0] : 0;
  for (let i = 1; i < n; i++) {
    const v = out[i];
    out[i] = (v - previous + 384) & 255;
    previous = v;
  }
  return out;
}

/** The inverse of `arrange`; changes `src`. */
export function restore(src: Uint8Array): Uint8Array {
  const n = src.length;
  let sum = n > 0 ? src[0] : 0;
  for (let i = 1; i < n; i++) {
    sum = (sum + src[i] - 128) & 255;
    src[i] = sum;
  }
  const out = new Uint8Array(n);
  const half = (n + 1) >> 1;
  for (let i = 0, j = 0; i < n; i += 2, j++) out[i] = src[j];
  for (let i = 1, j = half; i < n; i += 2, j++) out[i] = src[j];
  return out;
}
