// What is done to the colours of four planes, `stride` bytes apart, n floats of each, in place.

const LANE: usize = 16;

// Tables have so many steps in every doubling, from the first doubling on to the last; the same is in ../tables.ts.
const STEP_BITS: u32 = 14;
const FIRST: i32 = (127 - 24) << 9;
const STEPS: i32 = 44 << 9;

/** Light times a factor a channel. */
export function scale(at: usize, stride: usize, r: f32, g: f32, b: f32, n: u32): void {
  const end = at + (<usize>n << 2);
  const kr = f32x4.splat(r);
  const kg = f32x4.splat(g);
  const kb = f32x4.splat(b);
  for (; at < end; at += LANE) {
    v128.store(at, f32x4.mul(v128.load(at), kr));
    v128.store(at + stride, f32x4.mul(v128.load(at + stride), kg));
    v128.store(at + 2 * stride, f32x4.mul(v128.load(at + 2 * stride), kb));
  }
}

/** Light times a plane. */
export function times(at: usize, stride: usize, by: usize, n: u32): void {
  const end = at + (<usize>n << 2);
  for (; at < end; at += LANE, by += LANE) {
    const k = v128.load(by);
    for (let c: usize = 0; c < 3; c++) v128.store(at + c * stride, f32x4.mul(v128.load(at + c * stride), k));
  }
}

// @ts-expect-error: a decorator of AssemblyScript
@inline
function luminance(r: v128, g: v128, b: v128, kr: f32, kg: f32, kb: f32): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(r, f32x4.splat(kr)), f32x4.mul(g, f32x4.splat(kg))),
    f32x4.mul(b, f32x4.splat(kb)),
  );
}

/** Distance of colours from grey of their luminance, times an amount; kr, kg, kb are the weights of luminance. */
export function saturate(at: usize, stride: usize, amount: f32, kr: f32, kg: f32, kb: f32, n: u32): void {
  const end = at + (<usize>n << 2);
  const k = f32x4.splat(amount);
  for (; at < end; at += LANE) {
    const r = v128.load(at);
    const g = v128.load(at + stride);
    const b = v128.load(at + 2 * stride);
    const y = luminance(r, g, b, kr, kg, kb);
    v128.store(at, f32x4.add(y, f32x4.mul(k, f32x4.sub(r, y))));
    v128.store(at + stride, f32x4.add(y, f32x4.mul(k, f32x4.sub(g, y))));
    v128.store(at + 2 * stride, f32x4.add(y, f32x4.mul(k, f32x4.sub(b, y))));
  }
}

// @ts-expect-error: a decorator of AssemblyScript
@inline
function read(table: usize, v: f32): f32 {
  const bits = reinterpret<u32>(v);
  const step = <i32>(bits >> STEP_BITS) - FIRST;
  // Below the first step it goes to nothing as it began; beyond the last it goes on at its slope.
  if (step < 0) return load<f32>(table) * (v * 16777216);
  const i = min(step, STEPS - 1);
  const low = load<f32>(table + (<usize>i << 2));
  const high = load<f32>(table + (<usize>i << 2) + 4);
  if (step < STEPS) return low + (high - low) * (<f32>(bits & ((1 << STEP_BITS) - 1)) * <f32>(1.0 / 16384.0));
  const from = reinterpret<f32>(<u32>(i + FIRST) << STEP_BITS);
  const to = reinterpret<f32>(<u32>(i + 1 + FIRST) << STEP_BITS);
  return low + ((high - low) * (v - from)) / (to - from);
}

// @ts-expect-error: a decorator of AssemblyScript
@inline
function oneByOne(table: usize, v: v128): v128 {
  let o = f32x4.splat(read(table, f32x4.extract_lane(v, 0)));
  o = f32x4.replace_lane(o, 1, read(table, f32x4.extract_lane(v, 1)));
  o = f32x4.replace_lane(o, 2, read(table, f32x4.extract_lane(v, 2)));
  return f32x4.replace_lane(o, 3, read(table, f32x4.extract_lane(v, 3)));
}

/** The same of four at once; what is not above 0 reads anything. */
// @ts-expect-error: a decorator of AssemblyScript
@inline
function read4(table: usize, v: v128): v128 {
  const step = i32x4.sub(i32x4.shr_u(v, STEP_BITS), i32x4.splat(FIRST));
  // Above all steps there are, as what is below the first is when it is taken as one without a sign.
  if (v128.any_true(i32x4.ge_u(step, i32x4.splat(STEPS)))) return oneByOne(table, f32x4.max(v, f32x4.splat(0)));
  let one = v128.load64_zero(table + (<usize>i32x4.extract_lane(step, 0) << 2));
  one = v128.load_lane<u64>(table + (<usize>i32x4.extract_lane(step, 1) << 2), one, 1);
  let two = v128.load64_zero(table + (<usize>i32x4.extract_lane(step, 2) << 2));
  two = v128.load_lane<u64>(table + (<usize>i32x4.extract_lane(step, 3) << 2), two, 1);
  const low = v128.shuffle<f32>(one, two, 0, 2, 4, 6);
  const high = v128.shuffle<f32>(one, two, 1, 3, 5, 7);
  const part = f32x4.mul(
    f32x4.convert_i32x4_s(v128.and(v, i32x4.splat((1 << STEP_BITS) - 1))),
    f32x4.splat(<f32>(1.0 / 16384.0)),
  );
  return f32x4.add(low, f32x4.mul(f32x4.sub(high, low), part));
}

// @ts-expect-error: a decorator of AssemblyScript
@inline
function thereOr1(alpha: v128): v128 {
  return v128.bitselect(alpha, f32x4.splat(1), f32x4.gt(alpha, f32x4.splat(0)));
}

// @ts-expect-error: a decorator of AssemblyScript
@inline
function led(at: usize, table: usize, slope: f32, alpha: v128): void {
  const v = f32x4.div(v128.load(at), alpha);
  const o = v128.bitselect(read4(table, v), f32x4.mul(v, f32x4.splat(slope)), f32x4.gt(v, f32x4.splat(0)));
  v128.store(at, f32x4.mul(o, alpha));
}

/** Every channel through a table of its own; straight colours. What is below 0 is multiplied by `slope` of its channel. */
export function lead(
  at: usize,
  stride: usize,
  r: usize,
  g: usize,
  b: usize,
  slopeR: f32,
  slopeG: f32,
  slopeB: f32,
  n: u32,
): void {
  const end = at + (<usize>n << 2);
  for (; at < end; at += LANE) {
    const alpha = thereOr1(v128.load(at + 3 * stride));
    led(at, r, slopeR, alpha);
    led(at + stride, g, slopeG, alpha);
    led(at + 2 * stride, b, slopeB, alpha);
  }
}

/** Every channel times what a table of its own has for luminance; straight luminance. What has none takes the tables' first. */
export function gain(
  at: usize,
  stride: usize,
  r: usize,
  g: usize,
  b: usize,
  kr: f32,
  kg: f32,
  kb: f32,
  n: u32,
): void {
  const end = at + (<usize>n << 2);
  // The least step is as dark as can be told.
  const least = f32x4.splat(5.9604645e-8);
  for (; at < end; at += LANE) {
    const red = v128.load(at);
    const green = v128.load(at + stride);
    const blue = v128.load(at + 2 * stride);
    const light = luminance(red, green, blue, kr, kg, kb);
    const y = f32x4.max(f32x4.div(light, thereOr1(v128.load(at + 3 * stride))), least);
    const k = read4(r, y);
    v128.store(at, f32x4.mul(red, k));
    v128.store(at + stride, f32x4.mul(green, g === r ? k : read4(g, y)));
    v128.store(at + 2 * stride, f32x4.mul(blue, b === r ? k : read4(b, y)));
  }
}

/** Light of which a table of depth tells what is left, and a colour in the place of the rest; straight. What is beyond the table is all gone. */
export function veil(at: usize, stride: usize, depth: usize, left: usize, r: f32, g: f32, b: f32, n: u32): void {
  const end = at + (<usize>n << 2);
  for (; at < end; at += 4, depth += 4) {
    const own = load<f32>(at + 3 * stride);
    const alpha: f32 = own > 0 ? own : 1;
    const z = load<f32>(depth);
    let k: f32 = z > 0 ? 0 : 1;
    // Near the eye nothing is lost yet.
    if (z > 0 && z < 1048576) k = z < 5.9604645e-8 ? 1 : read(left, z);
    const rest: f32 = (1 - k) * alpha;
    store<f32>(at, load<f32>(at) * k + r * rest);
    store<f32>(at + stride, load<f32>(at + stride) * k + g * rest);
    store<f32>(at + 2 * stride, load<f32>(at + 2 * stride) * k + b * rest);
  }
}

/** Floats times a factor. */
export function weigh(at: usize, k: f32, n: u32): void {
  const end = at + (<usize>n << 2);
  const by = f32x4.splat(k);
  for (; at < end; at += LANE) v128.store(at, f32x4.mul(v128.load(at), by));
}
