// First-order regression of colours on guides over every window, with its weights [Bitterli et al. 2016].
import {
  AT_APART, AT_BETA, AT_FACTOR, AT_FEATURES, AT_GATHERED, AT_GUIDES, AT_INNER_BETA, AT_MASK, AT_MATRIX, AT_OUT, AT_OUTER_BETA, AT_OUT_WEIGHT, AT_RANGES, AT_SOURCE, AT_WEIGHED, AT_WEIGHTS, AT_WINDOW,
  FEATURES, INNER, INNER_ROW, OUTER_ROW, OUT_BYTES, PLANE_BYTES, REACH, ROWS, SAMPLES, SIDE, SPREAD, SURFACE_GUIDES, WIDTH,
} from './layout';
import { middleOf, pixel, varying, weightAt } from './weigh';

const ROW: usize = usize(SAMPLES * 4);
const INNER_SIZE: i32 = INNER_ROW * (2 * INNER + 1);
/** Samples of less weight are left out four by four. */
const LEAST: f32 = 0.02;
/** Weight of what a pixel has itself beside the windows' estimates, so that one unlike all about it stays. */
const OWN: f32 = 0.2;

/** Features of the fit in hand: a constant, and the guides that vary in its window. */
let features: i32 = 0;

/** Takes the guides that vary in the window of a block: surfaces' by `varying`, the place in the picture always. */
function takeFeatures(cx: i32, cy: i32): void {
  const bits = varying(cx, cy);
  features = 1;
  for (let k = 0; k < FEATURES - 1; k++) {
    if (k < SURFACE_GUIDES && ((bits >> k) & 1) == 0) continue;
    store<u32>(AT_FEATURES + usize(features << 2), u32(AT_GUIDES + usize(k) * PLANE_BYTES));
    features++;
  }
}

/** Address of the plane of feature `k` > 0. */
// @ts-ignore: decorator
@inline
function guide(k: i32): usize {
  return usize(load<u32>(AT_FEATURES + usize(k << 2)));
}

/**
 * Gathers samples of the window about `p` that have any weight, four by four from place `to4`: ones, guides less those of the
 * middle, colours; guides times weights beside them. Returns the place after the last.
 */
function gather(p: usize, from: i32, reach: i32, row: i32, channels: i32, to4: i32): i32 {
  let next = usize(to4 << 2);
  for (let j = -reach; j <= reach; j++) {
    const q = p + usize((j * WIDTH - reach) << 2);
    const s = usize((from + (j + reach) * row) << 2);
    for (let i: usize = 0; i < usize(row << 2); i += 16) {
      const w = v128.load(AT_WINDOW + s + i);
      if (!v128.any_true(f32x4.gt(w, f32x4.splat(LEAST)))) continue;
      let to = next;
      next += 16;
      v128.store(AT_WEIGHED + to, w);
      for (let k = 1; k < features; k++) {
        to += ROW;
        const g = guide(k);
        const z = f32x4.sub(v128.load(g + q + i), v128.load32_splat(g + p));
        v128.store(AT_GATHERED + to, z);
        v128.store(AT_WEIGHED + to, f32x4.mul(z, w));
      }
      let c = AT_SOURCE + q + i;
      for (let k = 0; k < channels; k++) {
        to += ROW;
        v128.store(AT_GATHERED + to, v128.load(c));
        c += PLANE_BYTES;
      }
    }
  }
  return i32(next >> 2);
}

// @ts-ignore: decorator
@inline
function total(v: v128): f64 {
  return (f64(f32x4.extract_lane(v, 0)) + f64(f32x4.extract_lane(v, 1))) + (f64(f32x4.extract_lane(v, 2)) + f64(f32x4.extract_lane(v, 3)));
}

// @ts-ignore: decorator
@inline
function addTo(i: i32, j: i32, v: v128): void {
  const at = AT_MATRIX + usize((i * ROWS + j) << 3);
  store<f64>(at, load<f64>(at) + total(v));
}

/** Adds samples [from, from + count) to the normal equations of the features and `channels` colours. */
function accumulate(from: i32, count: i32, channels: i32): void {
  for (let i = 0; i < features; i += 2)
    for (let j = i; j < features + channels; j += 3) {
      let a = AT_WEIGHED + usize(i) * ROW + usize(from << 2), b = AT_GATHERED + usize(j) * ROW + usize(from << 2);
      const end = a + usize(count << 2);
      let s00 = f32x4.splat(0), s01 = s00, s02 = s00, s10 = s00, s11 = s00, s12 = s00;
      for (; a < end; a += 16) {
        const x0 = v128.load(a), x1 = v128.load(a + ROW);
        const y0 = v128.load(b), y1 = v128.load(b + ROW), y2 = v128.load(b + 2 * ROW);
        s00 = f32x4.add(s00, f32x4.mul(x0, y0));
        s01 = f32x4.add(s01, f32x4.mul(x0, y1));
        s02 = f32x4.add(s02, f32x4.mul(x0, y2));
        s10 = f32x4.add(s10, f32x4.mul(x1, y0));
        s11 = f32x4.add(s11, f32x4.mul(x1, y1));
        s12 = f32x4.add(s12, f32x4.mul(x1, y2));
        b += 16;
      }
      addTo(i, j, s00);
      addTo(i, j + 1, s01);
      addTo(i, j + 2, s02);
      addTo(i + 1, j, s10);
      addTo(i + 1, j + 1, s11);
      addTo(i + 1, j + 2, s12);
    }
}

// @ts-ignore: decorator
@inline
function matrix(i: i32, j: i32): f64 {
  return load<f64>(AT_MATRIX + usize((i * ROWS + j) << 3));
}
// @ts-ignore: decorator
@inline
function factor(i: i32, j: i32): usize {
  return AT_FACTOR + usize((i * FEATURES + j) << 3);
}

// @ts-ignore: decorator
@inline
function beta(i: i32): usize {
  return AT_BETA + usize(i << 3);
}

/** Coefficients of every channel, by Cholesky's factors; `ridge` keeps guides out that hardly vary in the window. */
function solve(to: usize, ridge: f64, channels: i32): void {
  const weight = matrix(0, 0);
  for (let i = 0; i < features; i++)
    for (let j = 0; j <= i; j++) {
      let s = matrix(j, i);
      if (i == j && i > 0) s += ridge * weight;
      for (let k = 0; k < j; k++) s -= load<f64>(factor(i, k)) * load<f64>(factor(j, k));
      if (i == j) store<f64>(factor(i, i), 1.0 / Math.sqrt(max(s, 1e-12 * weight)));
      else store<f64>(factor(i, j), s * load<f64>(factor(j, j)));
    }
  for (let c = 0; c < channels; c++) {
    for (let i = 0; i < features; i++) {
      let s = matrix(i, features + c);
      for (let k = 0; k < i; k++) s -= load<f64>(factor(i, k)) * load<f64>(beta(k));
      store<f64>(beta(i), s * load<f64>(factor(i, i)));
    }
    // Estimates take coefficients four by four.
    for (let i = features; i < padded(); i++) store<f32>(to + usize((c * FEATURES + i) << 2), 0);
    for (let i = features - 1; i >= 0; i--) {
      let s = load<f64>(beta(i));
      for (let k = i + 1; k < features; k++) s -= load<f64>(factor(k, i)) * load<f64>(beta(k));
      s *= load<f64>(factor(i, i));
      store<f64>(beta(i), s);
      store<f32>(to + usize((c * FEATURES + i) << 2), f32(s));
    }
  }
}

// @ts-ignore: decorator
@inline
function addOut(plane: i32, at: usize, value: f32): void {
  const to = AT_OUT + usize(plane) * OUT_BYTES + at;
  store<f32>(to, load<f32>(to) + value);
}

/** Deviations of a window's colours from their mean within which its estimates stay. */
const MOST_DEVIATIONS: f64 = 3;

/** Least and most that estimates of each channel may be: fits are not to go on beyond what there is in the window. */
function findRanges(count: i32, channels: i32): void {
  const whole = max(matrix(0, 0), 1e-30);
  for (let c = 0; c < channels; c++) {
    let a = AT_WEIGHED, b = AT_GATHERED + usize(features + c) * ROW;
    let sum = f32x4.splat(0);
    for (const end = a + usize(count << 2); a < end; a += 16) {
      const y = v128.load(b);
      sum = f32x4.add(sum, f32x4.mul(v128.load(a), f32x4.mul(y, y)));
      b += 16;
    }
    const mean = matrix(0, features + c) / whole;
    const deviation = Math.sqrt(max(0.0, total(sum) / whole - mean * mean));
    store<f32>(AT_RANGES + usize(c << 3), f32(max(0.0, mean - MOST_DEVIATIONS * deviation)));
    store<f32>(AT_RANGES + usize(c << 3), f32(mean + MOST_DEVIATIONS * deviation), 4);
  }
}

// @ts-ignore: decorator
@inline
function padded(): i32 {
  return (features + 3) & ~3;
}

/** Notes how guides of the pixel at `q` differ from those at `p`, after a one for the constant. */
function setApart(p: usize, q: usize): void {
  store<f32>(AT_APART, 1);
  for (let k = 1; k < features; k++) store<f32>(AT_APART + usize(k << 2), load<f32>(guide(k) + q) - load<f32>(guide(k) + p));
}

/** What the fit of channel `c` says of the pixel set apart last. */
// @ts-ignore: decorator
@inline
function estimate(c: i32, betas: usize): f32 {
  const b = betas + usize((c * FEATURES) << 2);
  let sum = f32x4.mul(v128.load(b), v128.load(AT_APART));
  for (let k: usize = 16; k < usize(padded() << 2); k += 16) sum = f32x4.add(sum, f32x4.mul(v128.load(b + k), v128.load(AT_APART + k)));
  const v = f32(total(sum));
  return min<f32>(load<f32>(AT_RANGES + usize(c << 3), 4), max<f32>(load<f32>(AT_RANGES + usize(c << 3)), v));
}

// @ts-ignore: decorator
@inline
function tent(i: i32): i32 {
  return (SPREAD + 1) / 2 - (i < 0 ? -i : i);
}

/** Spreads the estimates of the block in the middle of a window over the pixels about it. */
function spread(x: i32, y: i32, p: usize, channels: i32, all: bool): void {
  const whole = matrix(0, 0);
  const reach = SPREAD >> 1;
  for (let j = -reach; j <= reach; j++)
    for (let i = -reach; i <= reach; i++) {
      if (x + i < 0 || y + j < 0 || x + i >= SIDE || y + j >= SIDE) continue;
      const alike = load<f32>(AT_WINDOW + usize(((j + INNER) * INNER_ROW + i + INNER) << 2));
      if (alike <= 0) continue;
      const w = alike * f32(tent(i) * tent(j));
      setApart(p, pixel(x + i, y + j));
      const at = usize(((y + j) * SIDE + x + i) << 2);
      for (let c = 0; c < channels; c++) {
        addOut(c, at, w * estimate(c, AT_OUTER_BETA));
        if (!all) continue;
        addOut(channels + c, at, w * estimate(c, AT_INNER_BETA));
        addOut(2 * channels + c, at, w * f32(matrix(0, features + c) / whole));
      }
      store<f32>(AT_OUT_WEIGHT + at, load<f32>(AT_OUT_WEIGHT + at) + w);
    }
}

/**
 * Fits the first `across` by `down` blocks with the weights there are. Results of `channels` colours: by whole windows;
 * where `all` is asked for, then by their inner parts, then weighted means alone.
 */
export function fit(across: i32, down: i32, channels: i32, ridge: f64, all: bool): void {
  const results = all ? 3 * channels : channels;
  memory.fill(AT_OUT, 0, usize(results) * OUT_BYTES);
  memory.fill(AT_OUT_WEIGHT, 0, OUT_BYTES);
  memory.fill(AT_GATHERED, 0, usize(ROWS) * ROW);
  for (let i: usize = 0; i < ROW; i += 16) v128.store(AT_GATHERED + i, f32x4.splat(1));
  for (let cy = 0; cy < down; cy++)
    for (let cx = 0; cx < across; cx++) {
      const x = middleOf(cx), y = middleOf(cy);
      const p = pixel(x, y);
      if (load<f32>(AT_MASK + p) == 0) continue;
      for (let s = 0; s < SAMPLES; s++) store<f32>(AT_WINDOW + usize(s << 2), load<f32>(AT_WEIGHTS + weightAt(cx, cy, s)));
      takeFeatures(cx, cy);
      const inner = gather(p, 0, INNER, INNER_ROW, channels, 0);
      const whole = gather(p, INNER_SIZE, REACH, OUTER_ROW, channels, inner);
      memory.fill(AT_MATRIX, 0, usize(features * ROWS * 8));
      accumulate(0, inner, channels);
      if (all) solve(AT_INNER_BETA, ridge, channels);
      accumulate(inner, whole - inner, channels);
      solve(AT_OUTER_BETA, ridge, channels);
      findRanges(whole, channels);
      spread(x, y, p, channels, all);
    }
  for (let y = 0; y < SIDE; y++)
    for (let x = 0; x < SIDE; x++) {
      const at = usize((y * SIDE + x) << 2);
      const w = load<f32>(AT_OUT_WEIGHT + at);
      for (let k = 0; k < results; k++) {
        const to = AT_OUT + usize(k) * OUT_BYTES + at;
        const own = load<f32>(AT_SOURCE + usize(k % channels) * PLANE_BYTES + pixel(x, y));
        store<f32>(to, (load<f32>(to) + OWN * own) / (w + OWN));
      }
    }
}
