// First-order regression of colours on guides over every window, with its weights [Bitterli et al. 2016].
import {
  AT_BETAS, AT_FACTOR, AT_FEATURES, AT_GATHERED, AT_GUIDES, AT_LEAST, AT_MATRIX, AT_MOST, AT_OUT, AT_OUT_WEIGHT, AT_SOLUTION,
  AT_SOURCE, AT_SUMS, AT_WEIGHED, AT_WEIGHTS, AT_WINDOWS, CENTRES_ROW, FEATURES, INNER, INNER_ROW, LANES, OUTER_ROW, OUTER_ROWS, OUT_BYTES,
  PLANE_BYTES, REACH, ROWS, SAMPLES, SIDE, SPREAD, SURFACE_GUIDES, WIDTH,
} from './layout';
import { isInPicture, middleOf, outerRow, pixel, varying, weightAt } from './weigh';

const ROW: usize = usize(SAMPLES * 4);
const INNER_SIZE: i32 = INNER_ROW * (2 * INNER + 1);
/** Samples of less weight are left out four by four. */
const LEAST: f32 = 0.02;
/** Weight of what a pixel has itself beside the windows' estimates, so that one unlike all about it stays. */
const OWN: f32 = 0.2;

/** Address of the weights of the window in hand. */
let window: usize = 0;

/** Makes windows of their own of the weights of four blocks side by side. */
function takeWindows(cx: i32, cy: i32): void {
  const size = usize(SAMPLES << 2);
  const row = usize(CENTRES_ROW << 2);
  let at = AT_WEIGHTS + weightAt(cx, cy, 0);
  for (let to = AT_WINDOWS, end = AT_WINDOWS + size; to < end; to += 16) {
    transpose(v128.load(at), v128.load(at + row), v128.load(at + 2 * row), v128.load(at + 3 * row), to, size);
    at += 4 * row;
  }
}

/** Stores the columns of four rows, `stride` bytes apart. */
// @ts-ignore: decorator
@inline
function transpose(a: v128, b: v128, c: v128, d: v128, to: usize, stride: usize): void {
  const p = v128.shuffle<i32>(a, b, 0, 4, 1, 5), q = v128.shuffle<i32>(a, b, 2, 6, 3, 7);
  const r = v128.shuffle<i32>(c, d, 0, 4, 1, 5), s = v128.shuffle<i32>(c, d, 2, 6, 3, 7);
  v128.store(to, v128.shuffle<i64>(p, r, 0, 2));
  v128.store(to + stride, v128.shuffle<i64>(p, r, 1, 3));
  v128.store(to + 2 * stride, v128.shuffle<i64>(q, s, 0, 2));
  v128.store(to + 3 * stride, v128.shuffle<i64>(q, s, 1, 3));
}

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
 * Gathers samples of the inner part of the window about `p`, or of the rest, that have any weight, four by four from place
 * `to4`: ones, guides less those of the middle, colours; guides times weights beside them. Returns the place after the last.
 */
function gather(p: usize, inner: bool, channels: i32, to4: i32): i32 {
  let next = usize(to4 << 2);
  const reach = inner ? INNER : REACH;
  const row = inner ? INNER_ROW : OUTER_ROW;
  let s = inner ? usize(0) : usize(INNER_SIZE << 2);
  const rows = inner ? 2 * INNER + 1 : OUTER_ROWS;
  for (let r = 0; r < rows; r++, s += usize(row << 2)) {
    const j = inner ? r - INNER : outerRow(r);
    const q = p + usize((j * WIDTH - reach) << 2);
    for (let i: usize = 0; i < usize(row << 2); i += 16) {
      const w = v128.load(window + s + i);
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
function solution(i: i32): usize {
  return AT_SOLUTION + usize(i << 3);
}

/** Address of the coefficient of feature `i` for result `lane`. */
// @ts-ignore: decorator
@inline
function beta(i: i32, lane: i32): usize {
  return AT_BETAS + usize((i * LANES + lane) << 2);
}

/**
 * Coefficients of every channel, for results from `lane` on, by Cholesky's factors; `ridge` keeps guides out that hardly vary
 * in the window.
 */
function solve(lane: i32, ridge: f64, channels: i32): void {
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
      for (let k = 0; k < i; k++) s -= load<f64>(factor(i, k)) * load<f64>(solution(k));
      store<f64>(solution(i), s * load<f64>(factor(i, i)));
    }
    for (let i = features - 1; i >= 0; i--) {
      let s = load<f64>(solution(i));
      for (let k = i + 1; k < features; k++) s -= load<f64>(factor(k, i)) * load<f64>(solution(k));
      s *= load<f64>(factor(i, i));
      store<f64>(solution(i), s);
      store<f32>(beta(i, lane + c), f32(s));
    }
  }
}

/** Deviations of a window's colours from their mean within which its estimates stay. */
const MOST_DEVIATIONS: f64 = 3;

/**
 * Least and most that estimates of each channel may be, whatever they are made by: fits are not to go on beyond what there is
 * in the window. Results after those of both fits are the means themselves.
 */
function findRanges(count: i32, channels: i32, results: i32): void {
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
    for (let lane = c; lane < results; lane += channels) {
      store<f32>(AT_LEAST + usize(lane << 2), f32(max(0.0, mean - MOST_DEVIATIONS * deviation)));
      store<f32>(AT_MOST + usize(lane << 2), f32(mean + MOST_DEVIATIONS * deviation));
    }
    if (results == channels) continue;
    store<f32>(beta(0, 2 * channels + c), f32(mean));
    for (let i = 1; i < features; i++) store<f32>(beta(i, 2 * channels + c), 0);
  }
}

/** Adds estimates for the pixel at `q` by the fit about `p`, `w` times, to what pixel `n` of the square has of each result. */
function estimate(p: usize, q: usize, n: i32, w: f32, results: i32): void {
  let to = AT_SUMS + usize((n * LANES) << 2);
  const vw = f32x4.splat(w);
  for (let lane = 0; lane < results; lane += 4) {
    let sum = v128.load(beta(0, lane));
    for (let k = 1; k < features; k++) {
      const apart = f32x4.splat(load<f32>(guide(k) + q) - load<f32>(guide(k) + p));
      sum = f32x4.add(sum, f32x4.mul(apart, v128.load(beta(k, lane))));
    }
    const v = f32x4.pmin(f32x4.pmax(sum, v128.load(AT_LEAST + usize(lane << 2))), v128.load(AT_MOST + usize(lane << 2)));
    v128.store(to, f32x4.add(v128.load(to), f32x4.mul(vw, v)));
    to += 16;
  }
}

// @ts-ignore: decorator
@inline
function tent(i: i32): i32 {
  return (SPREAD + 1) / 2 - (i < 0 ? -i : i);
}

/** Spreads the estimates of the block in the middle of a window over the pixels about it. */
function spread(x: i32, y: i32, p: usize, results: i32): void {
  const reach = SPREAD >> 1;
  for (let j = -reach; j <= reach; j++)
    for (let i = -reach; i <= reach; i++) {
      if (x + i < 0 || y + j < 0 || x + i >= SIDE || y + j >= SIDE) continue;
      const alike = load<f32>(window + usize(((j + INNER) * INNER_ROW + i + INNER) << 2));
      if (alike <= 0) continue;
      const w = alike * f32(tent(i) * tent(j));
      const n = (y + j) * SIDE + x + i;
      estimate(p, pixel(x + i, y + j), n, w, results);
      const at = AT_OUT_WEIGHT + usize(n << 2);
      store<f32>(at, load<f32>(at) + w);
    }
}

/** Brings the sums of all results to means with what pixels have themselves, plane by plane. */
function finish(channels: i32, results: i32): void {
  const own = f32x4.splat(OWN);
  for (let y = 0; y < SIDE; y++)
    for (let x = 0; x < SIDE; x += 4) {
      const n = y * SIDE + x;
      const sums = AT_SUMS + usize((n * LANES) << 2), row = usize(LANES << 2);
      const weight = f32x4.add(v128.load(AT_OUT_WEIGHT + usize(n << 2)), own);
      for (let lane = 0; lane < results; lane += 4) {
        const at = sums + usize(lane << 2);
        transpose(v128.load(at), v128.load(at + row), v128.load(at + 2 * row), v128.load(at + 3 * row), AT_WINDOWS, 16);
        for (let k = lane; k < min(lane + 4, results); k++) {
          const source = v128.load(AT_SOURCE + usize(k % channels) * PLANE_BYTES + pixel(x, y));
          const sum = f32x4.add(v128.load(AT_WINDOWS + usize((k - lane) << 4)), f32x4.mul(own, source));
          v128.store(AT_OUT + usize(k) * OUT_BYTES + usize(n << 2), f32x4.div(sum, weight));
        }
      }
    }
}

/**
 * Fits the first `across` by `down` blocks with the weights there are. Results of `channels` colours: by whole windows;
 * where `all` is asked for, then by their inner parts, then weighted means alone.
 */
export function fit(across: i32, down: i32, channels: i32, ridge: f64, all: bool): void {
  const results = all ? 3 * channels : channels;
  memory.fill(AT_SUMS, 0, usize(SIDE * SIDE * LANES * 4));
  memory.fill(AT_OUT_WEIGHT, 0, OUT_BYTES);
  memory.fill(AT_GATHERED, 0, usize(ROWS) * ROW);
  for (let i: usize = 0; i < ROW; i += 16) v128.store(AT_GATHERED + i, f32x4.splat(1));
  for (let cy = 0; cy < down; cy++)
    for (let cx = 0; cx < across; cx++) {
      if ((cx & 3) == 0) takeWindows(cx, cy);
      if (!isInPicture(cx, cy)) continue;
      window = AT_WINDOWS + usize((cx & 3) * SAMPLES) * 4;
      const x = middleOf(cx), y = middleOf(cy);
      const p = pixel(x, y);
      takeFeatures(cx, cy);
      const inner = gather(p, true, channels, 0);
      const whole = gather(p, false, channels, inner);
      memory.fill(AT_MATRIX, 0, usize(features * ROWS * 8));
      accumulate(0, inner, channels);
      if (all) solve(channels, ridge, channels);
      accumulate(inner, whole - inner, channels);
      solve(0, ridge, channels);
      findRanges(whole, channels, results);
      spread(x, y, p, results);
    }
  finish(channels, results);
}
