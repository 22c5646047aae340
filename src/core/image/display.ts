import { encodeSrgb } from './color';

/**
 * The display transform: exposure, a soft shoulder, sRGB.
 *
 * The shoulder is the identity up to `SHOULDER_START` and then rolls off as
 * s + (1−s)·x/(1+x), x = (v−s)/(1−s), with equal slope at the join; it reaches 1 at infinity.
 */
export const SHOULDER_START = 0.6;
const ROOM = 1 - SHOULDER_START;

export function shoulder(v: number): number {
  if (v <= SHOULDER_START) return v;
  const x = (v - SHOULDER_START) / ROOM;
  return SHOULDER_START + (ROOM * x) / (1 + x);
}

function shoulderSlope(v: number): number {
  if (v <= SHOULDER_START) return 1;
  const x = (v - SHOULDER_START) / ROOM;
  return 1 / ((1 + x) * (1 + x));
}

/** Display value in 0..1 of scene-linear v (negative reads as 0), `scale` = exposure. */
export function displayValue(v: number, scale: number): number {
  return encodeSrgb(shoulder(Math.max(0, v * scale)));
}

/** Derivative of `displayValue` by v, per unit of scene-linear light: the weight w of the noise figures. */
export function displaySlope(v: number, scale: number): number {
  const e = Math.max(0, v * scale);
  const s = shoulder(e);
  const encode = s <= 0.0031308 ? 12.92 : (1.055 / 2.4) * s ** (1 / 2.4 - 1);
  return encode * shoulderSlope(e) * scale;
}

/** Exposure scale of a camera: 2^stops / (1.2·2^EV100) [Lagarde & de Rousiers 2014], 2^stops without an EV. */
export function exposureScale(exposure: { ev100: number | null; stops: number }): number {
  return 2 ** exposure.stops / (exposure.ev100 === null ? 1 : 1.2 * 2 ** exposure.ev100);
}

const TABLE_SIZE = 4096;
/** Table over the square root of the value before the shoulder, up to 64 display whites. */
const TABLE_TOP = 8;
let table: Uint8Array | null = null;

function displayTable(): Uint8Array {
  if (table) return table;
  const t = new Uint8Array(TABLE_SIZE);
  for (let i = 0; i < TABLE_SIZE; i++) {
    const root = ((i + 0.5) / TABLE_SIZE) * TABLE_TOP;
    t[i] = Math.round(encodeSrgb(shoulder(root * root)) * 255);
  }
  table = t;
  return t;
}

/** Writes planar linear r, g, b as RGBA bytes for the screen. All planes have `count` values. */
export function toDisplayBytes(
  r: Float32Array,
  g: Float32Array,
  b: Float32Array,
  count: number,
  scale: number,
  out: Uint8ClampedArray,
): void {
  const t = displayTable();
  const k = TABLE_SIZE / TABLE_TOP;
  const last = TABLE_SIZE - 1;
  for (let i = 0, o = 0; i < count; i++, o += 4) {
    out[o] = t[Math.min(last, (Math.sqrt(Math.max(0, r[i] * scale)) * k) | 0)];
    out[o + 1] = t[Math.min(last, (Math.sqrt(Math.max(0, g[i] * scale)) * k) | 0)];
    out[o + 2] = t[Math.min(last, (Math.sqrt(Math.max(0, b[i] * scale)) * k) | 0)];
    out[o + 3] = 255;
  }
}
