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

/**
 * Samples of a window: its inner part in rows of eight, then the rest in rows of twenty, a sample in one of them. Beyond the
 * inner part every second row is left out.
 */
const INNER_ROW = 8;
const OUTER_ROW = 20;
const ROWS_BEYOND = Math.floor((REACH - INNER) / 2);
const OUTER_ROWS = 2 * INNER + 1 + 2 * ROWS_BEYOND;
const SAMPLES = INNER_ROW * (2 * INNER + 1) + OUTER_ROW * OUTER_ROWS;
const FEATURES = GUIDE_COUNT + 1;
const CENTRES = SIDE / BLOCK + 2;
/** Weights of a row of windows lie side by side, so many values apart. */
const CENTRES_ROW = Math.ceil(CENTRES / 4) * 4;
/**
 * Planes that middles of blocks are compared in have every `BLOCK`-th column of a row side by side: first those of the first
 * column of a block, then those of the second, so many values apart.
 */
export const PHASE = Math.ceil(WIDTH / BLOCK / 16) * 16;
export const PHASED_ROW = BLOCK * PHASE;
/** Results of a pixel: colours by whole windows, by inner parts, and means of three, or of all colours once. */
const LANES = Math.ceil((MOST_CHANNELS + 6) / 4) * 4;
const ROWS = FEATURES + MOST_CHANNELS;

let at = 1024;
const take = (bytes: number) => {
  at += bytes;
  return at - bytes;
};
const PLANE = WIDTH * WIDTH * 4;
const PHASED = WIDTH * PHASED_ROW * 4;
const OUT_PLANE = SIDE * SIDE * 4;

/** Where things lie in the filter's memory, in bytes. Planes with margins, then its own, then results. */
export const PLACES = {
  STEER: take(3 * PHASED),
  VARIANCE: take(PHASED),
  MASK: take(PHASED),
  SURFACES: take(SURFACE_GUIDES * PHASED),
  GUIDE_VARIANCE: take(PHASED),
  DISTANCE: take(PHASED),
  LINE_SUMS: take(PHASED_ROW * 4),
  SOURCE: take(MOST_CHANNELS * PLANE),
  GUIDES: take(GUIDE_COUNT * PLANE),
  ALIKE: take(CENTRES * CENTRES_ROW * SAMPLES * 4),
  VARYING: take(CENTRES * CENTRES_ROW * 4),
  WEIGHTS: take(CENTRES * CENTRES_ROW * SAMPLES * 4),
  WINDOWS: take(4 * SAMPLES * 4),
  GATHERED: take(ROWS * SAMPLES * 4),
  WEIGHED: take(FEATURES * SAMPLES * 4),
  MATRIX: take(FEATURES * ROWS * 8),
  FACTOR: take(FEATURES * FEATURES * 8),
  SOLUTION: take(FEATURES * 8),
  FEATURES: take(FEATURES * 4),
  BETAS: take(FEATURES * LANES * 4),
  LEAST: take(LANES * 4),
  MOST: take(LANES * 4),
  SUMS: take(SIDE * SIDE * LANES * 4),
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
  CENTRES_ROW,
  PHASE,
  PHASED_ROW,
  LANES,
  INNER_ROW,
  OUTER_ROW,
  OUTER_ROWS,
  SAMPLES,
  ROWS,
};
export const WASM_REALS: Record<string, number> = {};
export const WASM_ADDRESSES: Record<string, number> = {
  PLANE_BYTES: PLANE,
  PHASED_BYTES: PHASED,
  OUT_BYTES: OUT_PLANE,
  ...Object.fromEntries(Object.entries(PLACES).map(([name, place]) => [`AT_${name}`, place])),
};
