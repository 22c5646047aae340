import { interpolateCividis, interpolateMagma, interpolateViridis } from 'd3';
import type { FilmLayers } from '@/core/film';
import { type Display, toDisplayBytes } from '@/core/image';
import type { Rgb } from '@/core/stats';

export type ScaleName = 'viridis' | 'magma' | 'cividis' | 'a-b';

/** How a scale reads: the values at its ends and what they mean. */
export interface Legend {
  title: string;
  unit: string;
  scale: ScaleName;
  low: number;
  high: number;
  /** The data's own least and greatest finite value. */
  dataLow: number;
  dataHigh: number;
}

/** Screen pixels, and how to read them where they are no picture. */
export interface Painted {
  pixels: Uint8ClampedArray<ArrayBuffer>;
  legend: Legend | null;
  /** Of a screen with other primaries than those of sRGB. */
  space?: 'display-p3';
}

export type Range = readonly [number, number];

const INTERPOLATORS = { viridis: interpolateViridis, magma: interpolateMagma, cividis: interpolateCividis };
const tables = new Map<string, Uint8Array>();

function scaleTable(name: keyof typeof INTERPOLATORS): Uint8Array {
  const known = tables.get(name);
  if (known) return known;
  const t = new Uint8Array(256 * 3);
  for (let i = 0; i < 256; i++) {
    const text = INTERPOLATORS[name](i / 255);
    const hex = /^#(..)(..)(..)$/.exec(text);
    const rgb = hex
      ? hex.slice(1).map((h) => Number.parseInt(h, 16))
      : (text.match(/[\d.]+/g) ?? ['0', '0', '0']).map(Number);
    t.set(rgb.slice(0, 3), i * 3);
  }
  tables.set(name, t);
  return t;
}

/** The least and greatest finite value of a plane; 0 and 1 where it has none. */
export function finiteRange(plane: Float32Array): [number, number] {
  let low = Infinity;
  let high = -Infinity;
  for (let i = 0; i < plane.length; i++) {
    const v = plane[i];
    if (!Number.isFinite(v)) continue;
    if (v < low) low = v;
    if (v > high) high = v;
  }
  return low <= high ? [low, high] : [0, 1];
}

/** Values at the given fractions of the sorted finite data, from a sample of at most 20,000. */
export function percentiles(plane: Float32Array, fractions: number[]): number[] {
  const step = Math.max(1, Math.floor(plane.length / 20000));
  const values: number[] = [];
  for (let i = 0; i < plane.length; i += step) if (Number.isFinite(plane[i])) values.push(plane[i]);
  if (values.length === 0) return fractions.map(() => 0);
  values.sort((a, b) => a - b);
  return fractions.map((f) => values[Math.min(values.length - 1, Math.floor(f * values.length))]);
}

/** Values of a plane on a scale; what is beyond its ends takes their colours. */
export function paint(
  plane: Float32Array,
  scale: keyof typeof INTERPOLATORS,
  low: number,
  high: number,
): Uint8ClampedArray<ArrayBuffer> {
  const t = scaleTable(scale);
  const out = new Uint8ClampedArray(plane.length * 4);
  const k = high > low ? 255 / (high - low) : 0;
  for (let i = 0, o = 0; i < plane.length; i++, o += 4) {
    const v = plane[i];
    const q = Number.isFinite(v) ? Math.max(0, Math.min(255, Math.round((v - low) * k))) : v > 0 ? 255 : 0;
    out[o] = t[q * 3];
    out[o + 1] = t[q * 3 + 1];
    out[o + 2] = t[q * 3 + 2];
    out[o + 3] = 255;
  }
  return out;
}

/** Linear colour as displayed. */
export function color(planes: readonly Float32Array[], exposure: Display): Painted {
  const pixels = new Uint8ClampedArray(planes[0].length * 4);
  toDisplayBytes(planes[0], planes[1], planes[2], planes[0].length, exposure, pixels);
  return { pixels, legend: null };
}

/** The colour planes of a layer; null where the film lacks it or it has none. */
export function planes3(film: FilmLayers, name: string): Rgb | null {
  const layer = film.layers.get(name);
  return layer && layer.planes.length >= 3 ? [layer.planes[0], layer.planes[1], layer.planes[2]] : null;
}
