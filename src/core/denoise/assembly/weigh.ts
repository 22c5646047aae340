// Weights of every window, from how alike patches are in units of their noise [Rousselle et al. 2012].
import {
  AT_ALIKE, AT_DISTANCE, AT_GUIDE_VARIANCE, AT_LINE_SUMS, AT_MASK, AT_STEER, AT_SURFACES, AT_VARIANCE, AT_VARYING, AT_WEIGHTS,
  BLOCK, CENTRES, CENTRES_ROW, INNER, INNER_ROW, MARGIN, OUTER_ROW, OUTER_ROWS, PATCH, PHASE, PHASED_BYTES, PHASED_ROW, REACH, SAMPLES,
  SURFACE_GUIDES, WIDTH,
} from './layout';

/** Byte offset of a pixel of the square in a plane with margins; it may lie in the margin. */
// @ts-ignore: decorator
@inline
export function pixel(x: i32, y: i32): usize {
  return usize(((y + MARGIN) * WIDTH + x + MARGIN) << 2);
}

/** Column or row of the middle of a block. */
// @ts-ignore: decorator
@inline
export function middleOf(block: i32): i32 {
  return (block - 1) * BLOCK + (BLOCK >> 1);
}

/** Byte offset of a row in a plane whose blocks' columns are apart. */
// @ts-ignore: decorator
@inline
function phasedRow(y: i32): usize {
  return usize(((y + MARGIN) * PHASED_ROW) << 2);
}

/** Values from the beginning of such a row to column `x` of the square; those of further blocks follow one by one. */
// @ts-ignore: decorator
@inline
function phased(x: i32): i32 {
  return ((x + MARGIN) % BLOCK) * PHASE + (x + MARGIN) / BLOCK;
}

/** Where the weight of a sample in the window of a block lies: those of a row of blocks side by side. */
// @ts-ignore: decorator
@inline
export function weightAt(cx: i32, cy: i32, slot: i32): usize {
  return usize(((cy * SAMPLES + slot) * CENTRES_ROW + cx) << 2);
}

// @ts-ignore: decorator
@inline
function varyingAt(cx: i32, cy: i32): usize {
  return AT_VARYING + usize((cy * CENTRES_ROW + cx) << 2);
}

/** Which guides of surfaces vary in the window of a block, a bit each from the lowest. */
// @ts-ignore: decorator
@inline
export function varying(cx: i32, cy: i32): i32 {
  return load<i32>(varyingAt(cx, cy));
}

/** Whether the middle of a block lies in the picture. */
// @ts-ignore: decorator
@inline
export function isInPicture(cx: i32, cy: i32): bool {
  return load<f32>(AT_MASK + phasedRow(middleOf(cy)) + usize(phased(middleOf(cx)) << 2)) != 0;
}

const PATCH_SIZE: i32 = (2 * PATCH + 1) * (2 * PATCH + 1);

/** What a pixel adds to a patch at most: one odd pixel must not make all patches that touch it unlike any other. */
const MOST: f32 = 14;
/** Difference from the middle above which a guide varies in a window: fits say nothing of what is explained by less. */
const LEAST_APART: f32 = 0.02;

/**
 * Weighs the windows of the first `across` by `down` blocks, those before the square among them. `k`: differences of so many
 * standard deviations still count as alike. Two pixels are as far apart seen from one as from the other, so each distance
 * serves both.
 */
export function weigh(across: i32, down: i32, k: f32, floor: f32): void {
  for (let row = OUTER_ROWS >> 1; row < OUTER_ROWS; row++) {
    const dy = outerRow(row);
    for (let dx = dy == 0 ? 0 : -REACH; dx <= REACH; dx++) {
      measure(down, dx, dy, k * k, floor);
      storeWeights(across, down, 0, 0, slotOf(dx, dy));
      if (dx != 0 || dy != 0) storeWeights(across, down, -dx, -dy, slotOf(-dx, -dy));
    }
  }
}

/**
 * How alike surfaces are in every window, 0 to 1, and none beyond the picture: by the guides of the middle and each sample,
 * less what noise makes of them. Notes which guides vary among those that are alike at all.
 */
export function compare(across: i32, down: i32, soft: f32): void {
  memory.fill(AT_ALIKE, 0, usize(CENTRES * CENTRES_ROW * SAMPLES * 4));
  memory.fill(AT_VARYING, 0, usize(CENTRES * CENTRES_ROW * 4));
  for (let row = 0; row < OUTER_ROWS; row++)
    for (let dx = -REACH; dx <= REACH; dx++)
      for (let cy = 0; cy < down; cy++) compareRow(across, cy, dx, outerRow(row), soft);
}

/** Compares all middles of a row of blocks with what lies at (dx, dy) from each. */
function compareRow(across: i32, cy: i32, dx: i32, dy: i32, soft: f32): void {
  const none = f32x4.splat(0), one = f32x4.splat(1), least = f32x4.splat(LEAST_APART), vs = f32x4.splat(soft);
  const y = middleOf(cy);
  let p = phasedRow(y) + usize(phased(middleOf(0)) << 2);
  let q = phasedRow(y + dy) + usize(phased(middleOf(0) + dx) << 2);
  let at = AT_ALIKE + weightAt(0, cy, slotOf(dx, dy)), to = varyingAt(0, cy);
  for (let cx = 0; cx < across; cx += 4) {
    let sum = none, bits = none;
    let g = AT_SURFACES;
    for (let k = 0; k < SURFACE_GUIDES; k++) {
      const d = f32x4.sub(v128.load(g + p), v128.load(g + q));
      sum = f32x4.add(sum, f32x4.mul(d, d));
      bits = v128.or(bits, v128.and(f32x4.gt(f32x4.abs(d), least), i32x4.splat(1 << k)));
      g += PHASED_BYTES;
    }
    const noise = f32x4.add(v128.load(AT_GUIDE_VARIANCE + p), v128.load(AT_GUIDE_VARIANCE + q));
    const far = f32x4.div(f32x4.pmax(f32x4.sub(sum, noise), none), f32x4.add(vs, noise));
    let w = f32x4.pmax(f32x4.sub(one, f32x4.mul(far, f32x4.splat(0.25))), none);
    w = f32x4.mul(w, v128.load(AT_MASK + q));
    v128.store(to, v128.or(v128.load(to), v128.and(bits, f32x4.gt(w, none))));
    w = f32x4.mul(w, w);
    v128.store(at, f32x4.mul(w, w));
    p += 16;
    q += 16;
    at += 16;
    to += 16;
  }
}

/** Rows from the middle of a window to that of a number; beyond the inner part every second is left out. */
// @ts-ignore: decorator
@inline
export function outerRow(row: i32): i32 {
  const dy = row - (OUTER_ROWS >> 1);
  return abs<i32>(dy) <= INNER ? dy : 2 * dy - (dy < 0 ? -INNER - 1 : INNER + 1);
}

// @ts-ignore: decorator
@inline
function numberOfRow(dy: i32): i32 {
  return (OUTER_ROWS >> 1) + (abs<i32>(dy) <= INNER ? dy : (dy + (dy < 0 ? -INNER - 1 : INNER + 1)) / 2);
}

// @ts-ignore: decorator
@inline
function slotOf(dx: i32, dy: i32): i32 {
  return abs<i32>(dx) <= INNER && abs<i32>(dy) <= INNER
    ? (dy + INNER) * INNER_ROW + dx + INNER
    : INNER_ROW * (2 * INNER + 1) + numberOfRow(dy) * OUTER_ROW + dx + REACH;
}

/**
 * Distance to the one at (dx, dy) from it, of every pixel that a patch about a middle touches, or one about what lies at
 * (−dx, −dy) from a middle: squared difference less what noise makes of it, in units of that.
 */
function measure(down: i32, dx: i32, dy: i32, k2: f32, floor: f32): void {
  const vk2 = f32x4.splat(k2), vf = f32x4.splat(floor), most = f32x4.splat(MOST), none = f32x4.splat(0);
  for (let r = 0; r < BLOCK; r++) {
    // Columns of the same place in their block are this far from those that are compared with them.
    const moved = r + dx + BLOCK * REACH;
    const columns = ((moved % BLOCK) - r) * PHASE + moved / BLOCK - REACH;
    const shift = usize((dy * PHASED_ROW + columns) << 2);
    for (let y = middleOf(0) - PATCH - dy; y <= middleOf(down - 1) + PATCH; y++) {
      let p = phasedRow(y) + usize((r * PHASE) << 2);
      for (const end = p + usize(((WIDTH + BLOCK - 1) / BLOCK) << 2); p < end; p += 16) {
        const a = AT_STEER + p, b = a + shift;
        let d = f32x4.sub(v128.load(a), v128.load(b));
        let sum = f32x4.mul(d, d);
        d = f32x4.sub(v128.load(a, PHASED_BYTES), v128.load(b, PHASED_BYTES));
        sum = f32x4.add(sum, f32x4.mul(d, d));
        d = f32x4.sub(v128.load(a, 2 * PHASED_BYTES), v128.load(b, 2 * PHASED_BYTES));
        sum = f32x4.add(sum, f32x4.mul(d, d));
        const vp = v128.load(AT_VARIANCE + p), vq = v128.load(AT_VARIANCE + p + shift);
        const both = f32x4.pmin(vp, vq);
        sum = f32x4.sub(sum, f32x4.add(both, both));
        sum = f32x4.div(sum, f32x4.add(vf, f32x4.mul(vk2, f32x4.add(vp, vq))));
        // What looks more alike than noise lets it makes up for no difference elsewhere in the patch.
        v128.store(AT_DISTANCE + p, f32x4.pmax(f32x4.pmin(sum, most), none));
      }
    }
  }
}

/** Address in the line of sums of column `x`, for the first of the blocks. */
// @ts-ignore: decorator
@inline
function lineAt(x: i32): usize {
  return AT_LINE_SUMS + usize(phased(x) << 2);
}

/** Means of distances over the patch at (ox, oy) from every middle, as weights. */
function storeWeights(across: i32, down: i32, ox: i32, oy: i32, slot: i32): void {
  const row = usize(PHASED_ROW << 2);
  // A quarter of the mean.
  const scale = f32x4.splat(f32(0.25) / f32(PATCH_SIZE));
  const one = f32x4.splat(1), none = f32x4.splat(0);
  const x = middleOf(0) + ox;
  const a = lineAt(x - 3), b = lineAt(x - 2), c = lineAt(x - 1), d = lineAt(x), e = lineAt(x + 1), f = lineAt(x + 2), g = lineAt(x + 3);
  for (let cy = 0; cy < down; cy++) {
    const top = AT_DISTANCE + phasedRow(middleOf(cy) + oy - PATCH);
    for (let i: usize = 0; i < row; i += 16) {
      const p = top + i;
      let sum = f32x4.add(v128.load(p), v128.load(p + row));
      sum = f32x4.add(sum, f32x4.add(v128.load(p + 2 * row), v128.load(p + 3 * row)));
      sum = f32x4.add(sum, f32x4.add(v128.load(p + 4 * row), v128.load(p + 5 * row)));
      v128.store(AT_LINE_SUMS + i, f32x4.add(sum, v128.load(p + 6 * row)));
    }
    let at = weightAt(0, cy, slot);
    for (let i: usize = 0; i < usize(across << 2); i += 16) {
      let sum = f32x4.add(f32x4.add(v128.load(a + i), v128.load(b + i)), f32x4.add(v128.load(c + i), v128.load(d + i)));
      sum = f32x4.add(sum, f32x4.add(f32x4.add(v128.load(e + i), v128.load(f + i)), v128.load(g + i)));
      // (1 − d / 4)⁴ is close to exp(−d), and it ends.
      let w = f32x4.pmax(f32x4.sub(one, f32x4.mul(sum, scale)), none);
      w = f32x4.mul(w, w);
      // Where samples lie beyond the picture nothing is alike.
      v128.store(AT_WEIGHTS + at, f32x4.mul(f32x4.mul(w, w), v128.load(AT_ALIKE + at)));
      at += 16;
    }
  }
}
