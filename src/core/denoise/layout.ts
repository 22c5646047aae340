/**
 * Sizes that the filter and what calls it share, in pixels. The filter's own constants are generated from `WASM_CONSTANTS`
 * before it is compiled, so that both sides agree by construction.
 */

/** Side of a block of pixels fitted at once, and of the square its estimates are spread over. */
export const BLOCK = 3;
export const SPREAD = 5;
/** Pixels that a window reaches from its middle, that its inner part reaches, and that a patch compared reaches. */
export const REACH = 9;
export const INNER = 3;
export const PATCH = 3;
/** Side of the square filtered in one call, a multiple of `BLOCK` and of 4. */
export const SIDE = 144;
/** Pixels about it that windows touch. */
export const MARGIN = 16;
export const WIDTH = SIDE + 2 * MARGIN;

/** Planes of guides: what the fits are linear in, beside a constant. */
export const GUIDE_COUNT = 11;
/** The first of them tell surfaces apart. */
export const SURFACE_GUIDES = 9;
/** Most colour planes filtered by one set of weights: three channels of twelve parts. */
export const MOST_CHANNELS = 36;

/** Samples of a window: its inner part in rows of eight, then all of it in rows of twenty, a sample in one of them. */
const INNER_ROW = 8;
const OUTER_ROW = 20;
const SAMPLES = INNER_ROW * (2 * INNER + 1) + OUTER_ROW * (2 * REACH + 1);
const FEATURES = GUIDE_COUNT + 1;
const CENTRES = SIDE / BLOCK + 2;
const ROWS = FEATURES + MOST_CHANNELS;

let at = 1024;
const take = (bytes: number) => {
  at += bytes;
  return at - bytes;
};
const PLANE = WIDTH * WIDTH * 4;
const OUT_PLANE = SIDE * SIDE * 4;

/** Where things lie in the filter's memory, in bytes. Planes with margins, then its own, then results. */
export const PLACES = {
  STEER: take(3 * PLANE),
  VARIANCE: take(PLANE),
  MASK: take(PLANE),
  SOURCE: take(MOST_CHANNELS * PLANE),
  GUIDES: take(GUIDE_COUNT * PLANE),
  GUIDE_VARIANCE: take(PLANE),
  ALIKE: take(CENTRES * CENTRES * SAMPLES * 4),
  VARYING: take(CENTRES * CENTRES * 4),
  DISTANCE: take(PLANE),
  LINE_SUMS: take(WIDTH * 4),
  LINE_WEIGHTS: take(WIDTH * 4),
  WEIGHTS: take(CENTRES * CENTRES * SAMPLES * 4),
  WINDOW: take(SAMPLES * 4),
  GATHERED: take(ROWS * SAMPLES * 4),
  WEIGHED: take(FEATURES * SAMPLES * 4),
  MATRIX: take(FEATURES * ROWS * 8),
  FACTOR: take(FEATURES * FEATURES * 8),
  BETA: take(FEATURES * 8),
  INNER_BETA: take(MOST_CHANNELS * FEATURES * 4),
  OUTER_BETA: take(MOST_CHANNELS * FEATURES * 4),
  FEATURES: take(FEATURES * 4),
  APART: take(FEATURES * 4),
  RANGES: take(MOST_CHANNELS * 8),
  OUT: take((MOST_CHANNELS + 6) * OUT_PLANE),
  OUT_WEIGHT: take(OUT_PLANE),
} as const;
export const MEMORY_PAGES = Math.ceil(at / 65536);

export const WASM_CONSTANTS: Record<string, number> = {
  BLOCK,
  SPREAD,
  REACH,
  INNER,
  PATCH,
  SIDE,
  MARGIN,
  WIDTH,
  FEATURES,
  SURFACE_GUIDES,
  CENTRES,
  INNER_ROW,
  OUTER_ROW,
  SAMPLES,
  ROWS,
};
export const WASM_REALS: Record<string, number> = {};
export const WASM_ADDRESSES: Record<string, number> = {
  PLANE_BYTES: PLANE,
  OUT_BYTES: OUT_PLANE,
  ...Object.fromEntries(Object.entries(PLACES).map(([name, place]) => [`AT_${name}`, place])),
};
