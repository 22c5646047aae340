import type { Display } from '../image';
import { LEDGER_LAYERS } from './catalogue';
import type { FilmLayers } from './layers';
import { ENOUGH_CELL, ENOUGH_RMS, pictureAtLimit } from './ledger';
import { SMOOTH, smoothed } from './smoothed';

/** How deep rays that the camera sees an object by must go. */
export interface ObjectDepth {
  /** Number in the coverage plane, from 1. */
  id: number;
  /** Pixels of which it covers most. */
  pixels: number;
  /** Least limit of the ledger's axis at which it looks as in the whole picture; null when even the deepest is not enough. */
  enough: number | null;
}

const CELL = 16;
/** Objects with fewer pixels, and cells with fewer pixels of an object, tell too little. */
const [LEAST_PIXELS, LEAST_IN_CELL] = [48, 24];

/**
 * The least limit for each object by itself, from a film with a ledger and a mask by object: over the pixels that it covers
 * most of, root mean square and worst cell as for the whole picture. The largest first. Null when either is missing.
 */
export function objectDepths(film: FilmLayers, exposure: Display): ObjectDepth[] | null {
  const whole = pictureAtLimit(film, LEDGER_LAYERS.length - 1);
  const mask = film.layers.get('coverage');
  if (!whole || !mask) return null;
  const { width, height } = film;
  const [ids, shares] = mask.planes;
  const full = smoothed(whole, width, height, exposure);
  const covers = (i: number) => (shares[i] > 0.5 ? ids[i] : 0);
  const [all, inner] = [new Map<number, number>(), new Map<number, number>()];
  const isInner = new Uint8Array(width * height);
  for (let i = 0; i < width * height; i++) {
    const id = covers(i);
    if (id === 0) continue;
    all.set(id, (all.get(id) ?? 0) + 1);
    const [x, y] = [i % width, Math.floor(i / width)];
    // Nearer to a border the smoothing mixes in what lies beyond it.
    const free = [-1, 1].every((j) => {
      const row = Math.min(height - 1, Math.max(0, y + j * SMOOTH));
      return [-1, 1].every((k) => covers(row * width + Math.min(width - 1, Math.max(0, x + k * SMOOTH))) === id);
    });
    if (!free) continue;
    isInner[i] = 1;
    inner.set(id, (inner.get(id) ?? 0) + 1);
  }
  const thin = (id: number) => (inner.get(id) ?? 0) < LEAST_PIXELS;
  const own = (i: number) => (isInner[i] || thin(covers(i)) ? covers(i) : 0);
  const pixels = new Map([...all].map(([id, n]) => [id, thin(id) ? n : inner.get(id)!]));
  const enough = new Map<number, number | null>([...pixels.keys()].map((id) => [id, null]));
  const across = Math.ceil(width / CELL);
  // From the deepest up: an object's limit is the one above the last that is not enough.
  const open = new Set(pixels.keys());
  for (let limit = LEDGER_LAYERS.length - 1; limit >= 0 && open.size > 0; limit--) {
    const at = smoothed(pictureAtLimit(film, limit)!, width, height, exposure);
    const sums = new Map<number, number>();
    const cells = new Map<string, { id: number; sum: number; n: number }>();
    for (let i = 0; i < width * height; i++) {
      const id = own(i);
      if (!open.has(id)) continue;
      const d = (at[i] - full[i]) ** 2;
      sums.set(id, (sums.get(id) ?? 0) + d);
      const key = `${id}/${Math.floor(i / width / CELL) * across + Math.floor((i % width) / CELL)}`;
      const cell = cells.get(key) ?? { id, sum: 0, n: 0 };
      cell.sum += d;
      cell.n++;
      cells.set(key, cell);
    }
    const failed = new Set<number>();
    for (const [id, sum] of sums) if (Math.sqrt(sum / pixels.get(id)!) > ENOUGH_RMS) failed.add(id);
    for (const { id, sum, n } of cells.values())
      if (n >= LEAST_IN_CELL && Math.sqrt(sum / n) > ENOUGH_CELL) failed.add(id);
    for (const id of open) {
      if (failed.has(id)) open.delete(id);
      else enough.set(id, limit);
    }
  }
  return [...all]
    .filter(([, n]) => n >= LEAST_PIXELS)
    .map(([id, n]) => ({ id, pixels: n, enough: enough.get(id) ?? null }))
    .sort((a, b) => b.pixels - a.pixels);
}
