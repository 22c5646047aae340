import { luminance } from '../image';

/** Cells across and down in which a frame is compared with those beside it: larger than noise, smaller than things. */
const [ACROSS, DOWN] = [24, 14];

/**
 * Means of a picture's cells, as its display shows them: luma of 0…65535, rows from the top, in the machine's byte order for
 * little-endian. `pixels` has so many channels a pixel, of 0…255.
 */
export function glanceOf(pixels: ArrayLike<number>, width: number, height: number, channels: number): Uint8Array {
  const out = new DataView(new ArrayBuffer(ACROSS * DOWN * 2));
  for (let j = 0; j < DOWN; j++)
    for (let i = 0; i < ACROSS; i++) {
      const [x0, x1] = [i, i + 1].map((k) => Math.floor((k * width) / ACROSS));
      const [y0, y1] = [j, j + 1].map((k) => Math.floor((k * height) / DOWN));
      let sum = 0;
      for (let y = y0; y < Math.max(y0 + 1, y1); y++)
        for (let x = x0; x < Math.max(x0 + 1, x1); x++) {
          const p = (y * width + x) * channels;
          sum += luminance(pixels[p], pixels[p + 1], pixels[p + 2]);
        }
      const count = Math.max(1, x1 - x0) * Math.max(1, y1 - y0);
      out.setUint16((j * ACROSS + i) * 2, Math.round((sum / count) * 257), true);
    }
  return new Uint8Array(out.buffer);
}

/**
 * How far a frame stands out from what those beside it lead to expect, in percent of display white: RMS over the cells of
 * L(t) − (a·L(before) + (1 − a)·L(after)), `share` = a. What moves or brightens evenly gives nothing; a lamp that flashes, or a
 * frame that was rendered by another recipe, does.
 */
export function stepOf(before: Uint8Array, own: Uint8Array, after: Uint8Array, share: number): number {
  const [b, o, a] = [before, own, after].map((g) => new DataView(g.buffer, g.byteOffset, g.byteLength));
  let sum = 0;
  for (let i = 0; i < ACROSS * DOWN; i++) {
    const led = share * b.getUint16(i * 2, true) + (1 - share) * a.getUint16(i * 2, true);
    sum += ((o.getUint16(i * 2, true) - led) / 65535) ** 2;
  }
  return Math.sqrt(sum / (ACROSS * DOWN)) * 100;
}

/** The frames before and after one of a run's, and the share of the one before in what both lead to expect; null at its ends. */
export function framesBeside(
  frames: readonly number[],
  frame: number,
): { before: number; after: number; share: number } | null {
  const at = frames.indexOf(frame);
  if (at < 1 || at > frames.length - 2) return null;
  const [before, after] = [frames[at - 1], frames[at + 1]];
  return { before, after, share: (after - frame) / (after - before) };
}
