// Weights of every window, from how alike patches are in units of their noise [Rousselle et al. 2012].
import {
  AT_ALIKE, AT_GUIDES, AT_GUIDE_VARIANCE, SURFACE_GUIDES,
  AT_COLUMNS, AT_DISTANCE, AT_MASK, AT_STEER, AT_VARIANCE, AT_WEIGHTS, BLOCK, CENTRES, INNER, INNER_ROW, MARGIN, OUTER_ROW, PATCH, PLANE_BYTES,
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

const PATCH_SIZE: i32 = (2 * PATCH + 1) * (2 * PATCH + 1);

/** Differences beyond this are all the same: no weight is left. */
const MOST: f32 = 1000;
/** What looks more alike than noise lets it makes up for no difference elsewhere in the patch. */
const LEAST: f32 = 0;

/**
 * Weighs the windows of the first `across` by `down` blocks, those before the square among them. `k`: differences of so many
 * standard deviations still count as alike.
 */
export function weigh(across: i32, down: i32, k: f32, floor: f32): void {
  memory.fill(AT_WEIGHTS, 0, usize(CENTRES * CENTRES * SAMPLES * 4));
  for (let dy = -REACH; dy <= REACH; dy++)
    for (let dx = -REACH; dx <= REACH; dx++) {
      measure(across, down, (dy * WIDTH + dx) << 2, k * k, floor);
      storeWeights(across, down, usize(slotOf(dx, dy) << 2));
    }
}

/**
 * How alike surfaces are in every window, 0 to 1, and none beyond the picture: by the guides of the middle and each sample,
 * less what noise makes of them.
 */
export function compare(across: i32, down: i32, soft: f32): void {
  memory.fill(AT_ALIKE, 0, usize(CENTRES * CENTRES * SAMPLES * 4));
  for (let cy = 0; cy < down; cy++)
    for (let cx = 0; cx < across; cx++) {
      const p = pixel(middleOf(cx), middleOf(cy));
      const to = AT_ALIKE + usize((cy * CENTRES + cx) * SAMPLES * 4);
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
          store<f32>(to + usize(slotOf(dx, dy) << 2), w * w * w * w);
        }
    }
}

// @ts-ignore: decorator
@inline
function slotOf(dx: i32, dy: i32): i32 {
  return abs<i32>(dx) <= INNER && abs<i32>(dy) <= INNER
    ? (dy + INNER) * INNER_ROW + dx + INNER
    : INNER_ROW * (2 * INNER + 1) + (dy + REACH) * OUTER_ROW + dx + REACH;
}

/** Distance of every pixel that a patch touches to the one `shift` bytes on: squared difference less what noise makes of it. */
function measure(across: i32, down: i32, shift: i32, k2: f32, floor: f32): void {
  const vk2 = f32x4.splat(k2), vf = f32x4.splat(floor), most = f32x4.splat(MOST), least = f32x4.splat(LEAST);
  const first = (middleOf(0) - PATCH) & ~3, last = middleOf(across - 1) + PATCH;
  for (let y = middleOf(0) - PATCH; y <= middleOf(down - 1) + PATCH; y++) {
    const end = pixel(last, y);
    for (let p = pixel(first, y); p <= end; p += 16) {
      const a = AT_STEER + p, b = a + usize(shift);
      let d = f32x4.sub(v128.load(a), v128.load(b));
      let sum = f32x4.mul(d, d);
      d = f32x4.sub(v128.load(a, PLANE_BYTES), v128.load(b, PLANE_BYTES));
      sum = f32x4.add(sum, f32x4.mul(d, d));
      d = f32x4.sub(v128.load(a, 2 * PLANE_BYTES), v128.load(b, 2 * PLANE_BYTES));
      sum = f32x4.add(sum, f32x4.mul(d, d));
      const vp = v128.load(AT_VARIANCE + p), vq = v128.load(AT_VARIANCE + p + usize(shift));
      sum = f32x4.sub(sum, f32x4.add(vp, f32x4.pmin(vp, vq)));
      sum = f32x4.div(sum, f32x4.add(vf, f32x4.mul(vk2, f32x4.add(vp, vq))));
      v128.store(AT_DISTANCE + p, f32x4.pmax(f32x4.pmin(sum, most), least));
    }
  }
}

/** Means of distances over the patch of every middle, as weights. */
function storeWeights(across: i32, down: i32, slot: usize): void {
  const row = usize(WIDTH << 2);
  const first = (middleOf(0) - PATCH) & ~3, last = middleOf(across - 1) + PATCH;
  const scale = f32(1) / f32(PATCH_SIZE);
  for (let cy = 0; cy < down; cy++) {
    const y = middleOf(cy);
    const end = pixel(last, y);
    for (let p = pixel(first, y); p <= end; p += 16) {
      let d = AT_DISTANCE + p - usize(PATCH) * row;
      let sum = v128.load(d);
      for (let i = 0; i < 2 * PATCH; i++) {
        d += row;
        sum = f32x4.add(sum, v128.load(d));
      }
      v128.store(AT_COLUMNS + p, sum);
    }
    let at = slot + usize(cy * CENTRES * SAMPLES * 4);
    // Where samples lie beyond the picture nothing is alike.
    for (let cx = 0; cx < across; cx++) {
      const p = pixel(middleOf(cx), y);
      let sum: f32 = 0;
      for (let i = -PATCH; i <= PATCH; i++) sum += load<f32>(AT_COLUMNS + p + usize(i << 2));
      // Close to exp(-d), and it ends.
      let w = max<f32>(0, f32(1) - max<f32>(0, sum * scale) * f32(0.25));
      w *= w;
      w *= w;
      store<f32>(AT_WEIGHTS + at, w * load<f32>(AT_ALIKE + at));
      at += usize(SAMPLES * 4);
    }
  }
}
