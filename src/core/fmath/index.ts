/**
 * Elementary functions made of +, −, ×, ÷ and square root only, so that packing a scene gives the same
 * bits in every JavaScript engine (`Math.sin` and its kin may differ between them).
 * Errors stay below 1e-12 relative for the arguments used here (|x| < 1e5).
 */
// Taken out of the global once: hosts that wrap it make each look-up slow.
const { PI, LN2, SQRT1_2, SQRT2, max, round, sqrt } = Math;
const NAN = Number.NaN;
const INFINITE = Infinity;
const HALF_PI = PI / 2;
/** π/2 in two parts, for argument reduction [Cody & Waite 1980]. */
const HALF_PI_HIGH = 1.5707963267341256;
const HALF_PI_LOW = 6.077100506506192e-11;
const LN2_HIGH = 0.6931471803691238;
const LN2_LOW = 1.9082149292705877e-10;

/** A power of two, written by its exponent's bits. */
const POWER = new Float64Array(1);
const POWER_WORDS = new Uint32Array(POWER.buffer);

function sinKernel(x: number): number {
  const z = x * x;
  let sum = 0;
  for (let k = 10; k >= 1; k--) sum = (-z / (2 * k * (2 * k + 1))) * (1 + sum);
  return x * (1 + sum);
}

function cosKernel(x: number): number {
  const z = x * x;
  let sum = 0;
  for (let k = 10; k >= 1; k--) sum = (-z / ((2 * k - 1) * 2 * k)) * (1 + sum);
  return 1 + sum;
}

function quadrant(x: number): [number, number] {
  const k = round(x / HALF_PI);
  return [x - k * HALF_PI_HIGH - k * HALF_PI_LOW, ((k % 4) + 4) % 4];
}

export function sin(x: number): number {
  const [r, q] = quadrant(x);
  const v = q % 2 === 0 ? sinKernel(r) : cosKernel(r);
  return q >= 2 ? -v : v;
}

export function cos(x: number): number {
  return sin(x + HALF_PI);
}

export function tan(x: number): number {
  const [r, q] = quadrant(x);
  return q % 2 === 0 ? sinKernel(r) / cosKernel(r) : -cosKernel(r) / sinKernel(r);
}

/** Arc tangent, by halving the angle twice and a series. */
export function atan(x: number): number {
  if (x < 0) return -atan(-x);
  if (x > 1) return HALF_PI - atan(1 / x);
  let y = x / (1 + sqrt(1 + x * x));
  y = y / (1 + sqrt(1 + y * y));
  y = y / (1 + sqrt(1 + y * y));
  const z = y * y;
  let sum = 0;
  for (let k = 14; k >= 0; k--) sum = 1 / (2 * k + 1) - z * sum;
  return 8 * y * sum;
}

export function atan2(y: number, x: number): number {
  if (x > 0) return atan(y / x);
  if (x < 0) return y >= 0 ? atan(y / x) + PI : atan(y / x) - PI;
  return y > 0 ? HALF_PI : y < 0 ? -HALF_PI : 0;
}

export function acos(x: number): number {
  return atan2(sqrt(max(0, (1 - x) * (1 + x))), x);
}

/** 2^k for an integer k, exactly. */
function scaleByPowerOfTwo(x: number, k: number): number {
  let v = x;
  let n = k;
  while (n > 512) {
    v *= 2 ** 512;
    n -= 512;
  }
  while (n < -512) {
    v *= 2 ** -512;
    n += 512;
  }
  POWER_WORDS[1] = (n + 1023) << 20;
  return v * POWER[0];
}

export function exp(x: number): number {
  if (x > 709) return INFINITE;
  if (x < -745) return 0;
  const k = round(x / LN2);
  const r = x - k * LN2_HIGH - k * LN2_LOW;
  let sum = 1;
  for (let n = 14; n >= 1; n--) sum = 1 + (r / n) * sum;
  return scaleByPowerOfTwo(sum, k);
}

/** Natural logarithm of x > 0, by the area tangent series of the mantissa. */
export function log(x: number): number {
  if (!(x > 0)) return x === 0 ? -INFINITE : NAN;
  if (x === INFINITE) return INFINITE;
  let m = x;
  let k = 0;
  while (m > SQRT2) {
    m /= 2;
    k++;
  }
  while (m < SQRT1_2) {
    m *= 2;
    k--;
  }
  const s = (m - 1) / (m + 1);
  const z = s * s;
  let sum = 0;
  for (let n = 12; n >= 0; n--) sum = 1 / (2 * n + 1) + z * sum;
  return 2 * s * sum + k * LN2_HIGH + k * LN2_LOW;
}

export function pow(x: number, y: number): number {
  if (x === 0) return y === 0 ? 1 : 0;
  return exp(y * log(x));
}
