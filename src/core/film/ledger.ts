import { type Display, luminance } from '../image';
import { LEDGER_PLANES, REACH_EXPONENT } from '../kernel';
import type { Rgb } from '../stats';
import { LEDGER_LAYERS } from './catalogue';
import type { FilmLayers } from './layers';
import { distance, smoothed } from './smoothed';

/** Display thresholds below which what is missing cannot be seen: of the whole picture, and of its worst 16×16 cell, percent. */
export const ENOUGH_RMS = 0.2;
export const ENOUGH_CELL = 1;

/** What a limit would leave out. */
export interface DepthStep {
  limit: number;
  /** Light beyond it as a share of all light in the picture. */
  missing: number;
  /** How far the picture at this limit is from the whole one on screen, percent of display white. */
  rms: number;
  worstCell: number;
}

export interface DepthCurve {
  steps: DepthStep[];
  /** Least limit that leaves nothing out that can be seen; null when even the deepest does. */
  enough: number | null;
  /** Light beyond what was traced, as a share of all; null when it was not looked for. */
  lost: number | null;
}

/** Metres up to which the band of `reach` at a ledger plane goes. */
export const reachOfBand = (band: number) => 2 ** (band + REACH_EXPONENT);

/** The picture at a limit: the sum of the ledger's parts up to it. Null when the film keeps no ledger. */
export function pictureAtLimit(film: FilmLayers, limit: number): Rgb | null {
  const size = film.width * film.height;
  const out: Rgb = [new Float32Array(size), new Float32Array(size), new Float32Array(size)];
  for (let b = 0; b <= Math.min(limit, LEDGER_PLANES - 1); b++) {
    const part = film.layers.get(LEDGER_LAYERS[b]);
    if (!part) return null;
    for (let c = 0; c < 3; c++) {
      const [sum, own] = [out[c], part.planes[c]];
      for (let i = 0; i < size; i++) sum[i] += own[i];
    }
  }
  return out;
}

const totalOf = (rgb: readonly Float32Array[]) =>
  rgb[0].reduce((s, _, i) => s + luminance(rgb[0][i], rgb[1][i], rgb[2][i]), 0);

/**
 * How far the picture at each limit is from the whole one. Both are smoothed first, so that the grain of what is missing
 * counts little; what is left of it makes the least limit that is enough err to the deep side. Null when the film keeps
 * no ledger.
 */
export function depthCurve(film: FilmLayers, exposure: Display): DepthCurve | null {
  const whole = pictureAtLimit(film, LEDGER_PLANES - 1);
  if (!whole) return null;
  const { width, height } = film;
  const full = smoothed(whole, width, height, exposure);
  const light = totalOf(whole);
  const steps: DepthStep[] = [];
  const size = film.width * film.height;
  const sum: Rgb = [new Float32Array(size), new Float32Array(size), new Float32Array(size)];
  for (let limit = 0; limit < LEDGER_PLANES; limit++) {
    const part = film.layers.get(LEDGER_LAYERS[limit])!;
    for (let c = 0; c < 3; c++) for (let i = 0; i < size; i++) sum[c][i] += part.planes[c][i];
    const missing = light > 0 ? Math.max(0, 1 - totalOf(sum) / light) : 0;
    steps.push({ limit, missing, ...distance(smoothed(sum, width, height, exposure), full, width, height) });
  }
  const lost = film.layers.get('lost');
  let beyond: { rms: number; worstCell: number } = { rms: 0, worstCell: 0 };
  if (lost) {
    const more = whole.map((p, c) => p.map((v, i) => v + lost.planes[c][i])) as unknown as Rgb;
    beyond = distance(smoothed(more, width, height, exposure), full, width, height);
  }
  const isEnough = (s: { rms: number; worstCell: number }) =>
    Math.hypot(s.rms, beyond.rms) <= ENOUGH_RMS && Math.hypot(s.worstCell, beyond.worstCell) <= ENOUGH_CELL;
  return {
    steps,
    enough: steps.find(isEnough)?.limit ?? null,
    lost: lost ? totalOf(lost.planes) / Math.max(light, 1e-30) : null,
  };
}
