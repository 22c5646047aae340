import { halfPlane } from '@/core/exr';
import type { Film } from '@/core/film';
import { type Display, encodePng, toDisplayBytes } from '@/core/image';

const THUMBNAIL_WIDTH = 236;

/** Red, green and blue as planar half floats. */
export function planesPreview(planes: readonly Float32Array[]): Uint8Array {
  const size = planes[0].length;
  const out = new Uint16Array(size * 3);
  planes.forEach((plane, c) => {
    halfPlane(plane, out.subarray(c * size, (c + 1) * size));
  });
  return new Uint8Array(out.buffer);
}

/** The beauty so far. */
export const previewBytes = (film: Film): Uint8Array => planesPreview(film.beauty());

/** A picture averaged down to the logbook's width. */
export function shrunk(
  planes: readonly Float32Array[],
  width: number,
  height: number,
): { planes: Float32Array[]; width: number; height: number } {
  const w = Math.min(width, THUMBNAIL_WIDTH);
  const h = Math.max(1, Math.round((height * w) / width));
  const small = planes.map((src) => {
    const out = new Float32Array(w * h);
    for (let y = 0; y < h; y++) {
      const y0 = Math.floor((y * height) / h);
      const y1 = Math.max(y0 + 1, Math.floor(((y + 1) * height) / h));
      for (let x = 0; x < w; x++) {
        const x0 = Math.floor((x * width) / w);
        const x1 = Math.max(x0 + 1, Math.floor(((x + 1) * width) / w));
        let sum = 0;
        for (let j = y0; j < y1; j++) for (let i = x0; i < x1; i++) sum += src[j * width + i];
        out[y * w + x] = sum / ((y1 - y0) * (x1 - x0));
      }
    }
    return out;
  });
  return { planes: small, width: w, height: h };
}

/** PNG of the beauty, averaged down to the logbook's width. */
export function thumbnail(
  planes: readonly Float32Array[],
  width: number,
  height: number,
  exposure: Display,
): Uint8Array {
  const { planes: small, width: w, height: h } = shrunk(planes, width, height);
  const rgba = new Uint8ClampedArray(w * h * 4);
  toDisplayBytes(small[0], small[1], small[2], w * h, exposure, rgba);
  return encodePng(w, h, rgba);
}
