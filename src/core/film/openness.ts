import { OCCLUSION_FIRST_METRES, OCCLUSION_PLANES, OCCLUSION_RATIO, OCCLUSION_REACHES } from '../kernel';

/** Layer of openness, and that which keeps it by reach, of which it is made. */
export const OPENNESS = { layer: 'occlusion', bands: 'occlusion_bands' } as const;

/** Reaches in metres up to which openness can be told after the render, shortest first, with the kernel’s own rounding. */
export const OPEN_REACHES: readonly number[] = Array.from({ length: OCCLUSION_REACHES }).reduce<number[]>(
  (all) => [...all, all.length === 0 ? OCCLUSION_FIRST_METRES : Math.fround(all[all.length - 1] * OCCLUSION_RATIO)],
  [],
);

/** Number of the reach nearest to so many metres, by their ratio; that after the last for null: as far as rays looked. */
export function reachNumber(metres: number | null): number {
  if (metres === null) return OCCLUSION_REACHES;
  const off = OPEN_REACHES.map((r) => Math.abs(Math.log(r / metres)));
  return off.indexOf(Math.min(...off));
}

/**
 * Openness, 0 to 1, of the bands of a film: the share of a pixel’s rays that meet nothing up to the reach nearest to
 * `metres`, times the share of the pixel that surfaces cover.
 */
export function opennessAt(bands: readonly Float32Array[], metres: number | null): Float32Array {
  const from = reachNumber(metres);
  const out = Float32Array.from(bands[OCCLUSION_PLANES - 1]);
  for (let b = from + 1; b < OCCLUSION_PLANES - 1; b++) for (let i = 0; i < out.length; i++) out[i] += bands[b][i];
  return out;
}
