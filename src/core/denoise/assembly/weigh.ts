// Weights of every window, from how alike patches are in units of their noise [Rousselle et al. 2012].
import {
  AT_ALIKE, AT_GUIDES, AT_GUIDE_VARIANCE, AT_VARYING, SURFACE_GUIDES,
  AT_LINE_SUMS, AT_LINE_WEIGHTS, AT_DISTANCE, AT_MASK, AT_STEER, AT_VARIANCE, AT_WEIGHTS, BLOCK, CENTRES, INNER, INNER_ROW, MARGIN, OUTER_ROW, PATCH, PLANE_BYTES,
  REACH, SAMPLES, WIDTH,
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

/** Where the weight of a sample in the window of a block lies: those of a row of blocks side by side. */
// @ts-ignore: decorator
@inline
export function weightAt(cx: i32, cy: i32, slot: i32): usize {
  return usize(((cy * SAMPLES + slot) * CENTRES + cx) << 2);
}

const PATCH_SIZE: i32 = (2 * PATCH + 1) * (2 * PATCH + 1);

/** What a pixel adds to a patch at most: one odd pixel must not make all patches that touch it unlike any other. */
const MOST: f32 = 14;

/**
 * Weighs the windows of the first `across` by `down` blocks, those before the square among them. `k`: differences of so many
 * standard deviations still count as alike. Two pixels are as far apart seen from one as from the other, so each distance
 * serves both.
 */
export function weigh(across: i32, down: i32, k: f32, floor: f32): void {
  for (let dy = 0; dy <= REACH; dy++)
    for (let dx = dy == 0 ? 0 : -REACH; dx <= REACH; dx++) {
      measure(across, down, dx, dy, k * k, floor);
      storeWeights(across, down, 0, 0, slotOf(dx, dy));
      if (dx != 0 || dy != 0) storeWeights(across, down, -dx, -dy, slotOf(-dx, -dy));
    }
}

/** Difference from the middle above which a guide varies in a window: fits say nothing of what is explained by less. */
const LEAST_APART: f32 = 0.02;

// @ts-ignore: decorator
@inline
function varyingAt(cx: i32, cy: i32): usize {
  return AT_VARYING + usize((cy * CENTRES + cx) << 2);
}

/** Which guides of surfaces vary in the window of a block, a bit each from the lowest. */
// @ts-ignore: decorator
@inline
export function varying(cx: i32, cy: i32): i32 {
  return load<i32>(varyingAt(cx, cy));
}

/**
 * How alike surfaces are in every window, 0 to 1, and none beyond the picture: by the guides of the middle and each sample,
 * less what noise makes of them. Notes which guides vary among those that are alike at all.
 */
export function compare(across: i32, down: i32, soft: f32): void {
  memory.fill(AT_ALIKE, 0, usize(CENTRES * CENTRES * SAMPLES * 4));
  for (let cy = 0; cy < down; cy++)
    for (let cx = 0; cx < across; cx++) {
      const p = pixel(middleOf(cx), middleOf(cy));
      let bits: i32 = 0;
      for (let dy = -REACH; dy <= REACH; dy++)
        for (let dx = -REACH; dx <= REACH; dx++) {
          const q = p + usize((dy * WIDTH + dx) << 2);
          if (load<f32>(AT_MASK + q) == 0) continue;
          let sum: f32 = 0;
          let g = AT_GUIDES;
          for (let k = 0; k < SURFACE_GUIDES; k++) {
            const d = load<f32>(g + p) - load<f32>(g + q);
            sum += d * d;
            g += PLANE_BYTES;
          }
          const noise = load<f32>(AT_GUIDE_VARIANCE + p) + load<f32>(AT_GUIDE_VARIANCE + q);
          const far = max<f32>(0, sum - noise) / (soft + noise);
          const w = max<f32>(0, f32(1) - far * f32(0.25));
          store<f32>(AT_ALIKE + weightAt(cx, cy, slotOf(dx, dy)), w * w * w * w);
          if (w > 0 && sum > LEAST_APART * LEAST_APART) bits |= apart(p, q);
        }
      store<i32>(varyingAt(cx, cy), bits);
    }
}

/** Which guides of two pixels differ. */
function apart(p: usize, q: usize): i32 {
  let bits: i32 = 0;
  let g = AT_GUIDES;
  for (let k = 0; k < SURFACE_GUIDES; k++) {
    if (abs<f32>(load<f32>(g + p) - load<f32>(g + q)) > LEAST_APART) bits |= 1 << k;
    g += PLANE_BYTES;
  }
  return bits;
}

// @ts-ignore: decorator
@inline
function slotOf(dx: i32, dy: i32): i32 {
  return abs<i32>(dx) <= INNER && abs<i32>(dy) <= INNER
    ? (dy + INNER) * INNER_ROW + dx + INNER
    : INNER_ROW * (2 * INNER + 1) + (dy + REACH) * OUTER_ROW + dx + REACH;
}

/**
 * Distance to the one at (dx, dy) from it, of every pixel that a patch about a middle touches, or one about what lies at
 * (−dx, −dy) from a middle: squared difference less what noise makes of it, in units of that.
 */
function measure(across: i32, down: i32, dx: i32, dy: i32, k2: f32, floor: f32): void {
  const shift = usize((dy * WIDTH + dx) << 2);
  const vk2 = f32x4.splat(k2), vf = f32x4.splat(floor), most = f32x4.splat(MOST), none = f32x4.splat(0);
  const first = (middleOf(0) - PATCH - max<i32>(0, dx)) & ~3, last = middleOf(across - 1) + PATCH - min<i32>(0, dx);
  for (let y = middleOf(0) - PATCH - dy; y <= middleOf(down - 1) + PATCH; y++) {
    const end = pixel(last, y);
    for (let p = pixel(first, y); p <= end; p += 16) {
      const a = AT_STEER + p, b = a + shift;
      let d = f32x4.sub(v128.load(a), v128.load(b));
      let sum = f32x4.mul(d, d);
      d = f32x4.sub(v128.load(a, PLANE_BYTES), v128.load(b, PLANE_BYTES));
      sum = f32x4.add(sum, f32x4.mul(d, d));
      d = f32x4.sub(v128.load(a, 2 * PLANE_BYTES), v128.load(b, 2 * PLANE_BYTES));
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

/** Address of column `x` in a line. */
// @ts-ignore: decorator
@inline
function inLine(line: usize, x: i32): usize {
  return line + usize((x + MARGIN) << 2);
}

/** Means of distances over the patch at (ox, oy) from every middle, as weights. */
function storeWeights(across: i32, down: i32, ox: i32, oy: i32, slot: i32): void {
  const row = usize(WIDTH << 2);
  const begin = middleOf(0) + ox, end = middleOf(across - 1) + ox;
  // A quarter of the mean.
  const scale = f32x4.splat(f32(0.25) / f32(PATCH_SIZE));
  const one = f32x4.splat(1), none = f32x4.splat(0);
  for (let cy = 0; cy < down; cy++) {
    const y = middleOf(cy) + oy;
    for (let x = (begin - PATCH) & ~3; x <= end + PATCH; x += 4) {
      let d = AT_DISTANCE + pixel(x, y - PATCH);
      let sum = v128.load(d);
      for (let i = 0; i < 2 * PATCH; i++) {
        d += row;
        sum = f32x4.add(sum, v128.load(d));
      }
      v128.store(inLine(AT_LINE_SUMS, x), sum);
    }
    for (let x = begin; x <= end; x += 4) {
      let sum = v128.load(inLine(AT_LINE_SUMS, x - PATCH));
      for (let i = 1 - PATCH; i <= PATCH; i++) sum = f32x4.add(sum, v128.load(inLine(AT_LINE_SUMS, x + i)));
      // (1 − d / 4)⁴ is close to exp(−d), and it ends.
      let w = f32x4.pmax(f32x4.sub(one, f32x4.mul(sum, scale)), none);
      w = f32x4.mul(w, w);
      v128.store(inLine(AT_LINE_WEIGHTS, x), f32x4.mul(w, w));
    }
    let at = weightAt(0, cy, slot);
    for (let x = begin; x <= end; x += BLOCK) {
      // Where samples lie beyond the picture nothing is alike.
      store<f32>(AT_WEIGHTS + at, load<f32>(inLine(AT_LINE_WEIGHTS, x)) * load<f32>(AT_ALIKE + at));
      at += 4;
    }
  }
}
