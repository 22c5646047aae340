import { encodeSrgb, kelvinToRgb, luminance } from './color';

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

/** Settings of the display transform beyond exposure. */
export interface Look {
  /** Colour of light that shows as white; null leaves colours as they are. */
  whiteKelvin: number | null;
  /** Display value from which highlights roll off; 1 clips. */
  shoulder: number;
  /** Exponent about middle grey. */
  contrast: number;
  /** Points of a curve on display values, besides its ends. */
  curve: readonly (readonly [number, number])[];
}

/** How scene-linear light is brought to the screen: an exposure alone, or with a look. */
export type Display = number | { scale: number; look: Look };

export const scaleOf = (display: Display) => (typeof display === 'number' ? display : display.scale);

const isPlainTone = (l: Look) => l.shoulder === SHOULDER_START && l.contrast === 1 && l.curve.length === 0;

/** A smooth curve that goes through points and never turns back between them [Fritsch & Carlson 1980]. */
export function curveThrough(points: readonly (readonly [number, number])[]): (x: number) => number {
  const p = [[0, 0], ...[...points].sort((a, b) => a[0] - b[0]), [1, 1]].filter(
    (q, i, all) => i === 0 || q[0] > all[i - 1][0],
  );
  const n = p.length;
  const d = Array.from({ length: n - 1 }, (_, i) => (p[i + 1][1] - p[i][1]) / (p[i + 1][0] - p[i][0]));
  const m = p.map((_, i) => {
    if (i === 0) return d[0];
    if (i === n - 1) return d[n - 2];
    return d[i - 1] * d[i] <= 0 ? 0 : (d[i - 1] + d[i]) / 2;
  });
  for (let i = 0; i < n - 1; i++) {
    if (d[i] === 0) {
      m[i] = 0;
      m[i + 1] = 0;
      continue;
    }
    const [a, b] = [m[i] / d[i], m[i + 1] / d[i]];
    const r = a * a + b * b;
    if (r > 9) {
      m[i] = (3 / Math.sqrt(r)) * a * d[i];
      m[i + 1] = (3 / Math.sqrt(r)) * b * d[i];
    }
  }
  return (x) => {
    if (x <= 0) return 0;
    if (x >= 1) return 1;
    let i = 0;
    while (i < n - 2 && x > p[i + 1][0]) i++;
    const h = p[i + 1][0] - p[i][0];
    const t = (x - p[i][0]) / h;
    const [t2, t3] = [t * t, t * t * t];
    const y =
      p[i][1] * (2 * t3 - 3 * t2 + 1) +
      h * m[i] * (t3 - 2 * t2 + t) +
      p[i + 1][1] * (3 * t2 - 2 * t3) +
      h * m[i + 1] * (t3 - t2);
    return Math.min(1, Math.max(0, y));
  };
}

const MIDDLE_GREY = 0.18;

const tones = new WeakMap<Look, (exposed: number) => number>();

/** Display value in 0..1 of exposed light, by a look without its white point; made once a look. */
function toneOf(look: Look): (exposed: number) => number {
  const known = tones.get(look) ?? makeTone(look);
  tones.set(look, known);
  return known;
}

function makeTone(look: Look): (exposed: number) => number {
  if (isPlainTone(look)) return (v) => encodeSrgb(shoulder(Math.max(0, v)));
  const { contrast, shoulder: from, curve } = look;
  const room = 1 - from;
  const bend = curve.length > 0 ? curveThrough(curve) : (x: number) => x;
  return (exposed) => {
    const e = Math.max(0, exposed);
    const v = contrast === 1 ? e : MIDDLE_GREY * (e / MIDDLE_GREY) ** contrast;
    const x = room > 0 ? (v - from) / room : 0;
    const s = v <= from ? v : room > 0 ? from + (room * x) / (1 + x) : 1;
    return bend(encodeSrgb(Math.min(1, s)));
  };
}

/** Factors on linear red, green and blue that make light of the look's white colourless, luminance kept. */
export function whiteGains(look: Look | null): [number, number, number] {
  if (!look || look.whiteKelvin === null) return [1, 1, 1];
  const gains = kelvinToRgb(look.whiteKelvin).map((c) => 1 / Math.max(0.02, c));
  const y = luminance(gains[0] * 1, gains[1] * 1, gains[2] * 1);
  return gains.map((g) => g / y) as [number, number, number];
}

/** Display value in 0..1 of scene-linear luminance v (negative reads as 0). */
export function displayValue(v: number, display: Display): number {
  const scale = scaleOf(display);
  return typeof display === 'number' ? encodeSrgb(shoulder(Math.max(0, v * scale))) : toneOf(display.look)(v * scale);
}

/** Steps of the table of display values, over the square root of exposed light up to `READ_TOP`. */
const READ_STEPS = 16384;
const READ_TOP = 12;
const READERS = 8;
const readers: { display: Display; read: (v: number) => number }[] = [];
const isSame = (a: Display, b: Display) =>
  a === b || (typeof a !== 'number' && typeof b !== 'number' && a.scale === b.scale && a.look === b.look);

/**
 * `displayValue` of many values: from a table, between whose steps it is within 3·10⁻⁷ (near black, where they are the
 * longest against the value, within 0.4 % of a difference). The last few displays' tables are kept.
 */
export function displayReader(display: Display): (v: number) => number {
  const known = readers.find((r) => isSame(r.display, display));
  if (known) return known.read;
  const scale = scaleOf(display);
  const values = Float64Array.from({ length: READ_STEPS + 1 }, (_, i) =>
    displayValue(((i / READ_STEPS) * READ_TOP) ** 2 / scale, display),
  );
  const most = READ_TOP * READ_TOP;
  const read = (v: number) => {
    const e = v * scale;
    if (!(e > 0)) return values[0];
    if (e >= most) return displayValue(v, display);
    const x = (Math.sqrt(e) * READ_STEPS) / READ_TOP;
    const i = Math.floor(x);
    return values[i] + (values[i + 1] - values[i]) * (x - i);
  };
  readers.unshift({ display, read });
  readers.length = Math.min(readers.length, READERS);
  return read;
}

/** Derivative of `displayValue` by v, per unit of scene-linear light: what small differences are seen by. */
export function displaySlope(v: number, display: Display): number {
  const scale = scaleOf(display);
  const e = Math.max(0, v * scale);
  if (typeof display !== 'number' && !isPlainTone(display.look)) {
    const tone = toneOf(display.look);
    const step = Math.max(1e-5, e * 1e-3);
    const low = Math.max(0, e - step);
    return ((tone(e + step) - tone(low)) / (e + step - low)) * scale;
  }
  const s = shoulder(e);
  const encode = s <= 0.0031308 ? 12.92 : (1.055 / 2.4) * s ** (1 / 2.4 - 1);
  return encode * shoulderSlope(e) * scale;
}

/** Exposure scale of a camera: 2^stops / (1.2·2^EV100) [Lagarde & de Rousiers 2014], 2^stops without an EV. */
export function exposureScale(exposure: { ev100: number | null; stops: number }): number {
  return 2 ** exposure.stops / (exposure.ev100 === null ? 1 : 1.2 * 2 ** exposure.ev100);
}

/** How a camera's exposure and a scene's look bring light to the screen. */
export function displayOf(exposure: { ev100: number | null; stops: number }, look: Look): Display {
  const scale = exposureScale(exposure);
  return isPlainTone(look) && look.whiteKelvin === null ? scale : { scale, look };
}

const TABLE_SIZE = 4096;
/** Table over the square root of the value before the shoulder, up to 64 display whites. */
const TABLE_TOP = 8;
let table: { key: string; values: Uint8Array } | null = null;

/** Screen bytes by the root of exposed light; that of the last look is kept. */
function displayTable(look: Look | null): Uint8Array {
  const key = look === null || isPlainTone(look) ? '' : JSON.stringify([look.shoulder, look.contrast, look.curve]);
  if (table?.key === key) return table.values;
  const values = new Uint8Array(TABLE_SIZE);
  const tone = look === null ? (v: number) => encodeSrgb(shoulder(v)) : toneOf(look);
  for (let i = 0; i < TABLE_SIZE; i++) {
    const root = ((i + 0.5) / TABLE_SIZE) * TABLE_TOP;
    values[i] = Math.round(tone(root * root) * 255);
  }
  table = { key, values };
  return values;
}

/** Writes planar linear r, g, b as RGBA bytes for the screen. All planes have `count` values. */
export function toDisplayBytes(
  r: Float32Array,
  g: Float32Array,
  b: Float32Array,
  count: number,
  display: Display,
  out: Uint8ClampedArray,
): void {
  const look = typeof display === 'number' ? null : display.look;
  const scale = scaleOf(display);
  const [kr, kg, kb] = whiteGains(look).map((k) => k * scale);
  const t = displayTable(look);
  const k = TABLE_SIZE / TABLE_TOP;
  const last = TABLE_SIZE - 1;
  for (let i = 0, o = 0; i < count; i++, o += 4) {
    out[o] = t[Math.min(last, (Math.sqrt(Math.max(0, r[i] * kr)) * k) | 0)];
    out[o + 1] = t[Math.min(last, (Math.sqrt(Math.max(0, g[i] * kg)) * k) | 0)];
    out[o + 2] = t[Math.min(last, (Math.sqrt(Math.max(0, b[i] * kb)) * k) | 0)];
    out[o + 3] = 255;
  }
}
