import { interpolateCividis, interpolateMagma, interpolateViridis } from 'd3';
import {
  type Balance,
  type FilmLayers,
  isMask,
  type Layer,
  LEDGER_LAYERS,
  type Parting,
  pictureAtLimit,
  relight,
  tally,
} from '@/core/film';
import { type Display, displayValue, luminance, scaleOf, toDisplayBytes } from '@/core/image';
import { laidOver, noiseMap, noiseSquares, pictureErrors, type Rgb } from '@/core/stats';

/** What of a film the picture shows. */
export type View =
  | { kind: 'color'; layer: string }
  | { kind: 'relit'; groups: string[]; balance: Balance }
  | { kind: 'data'; layer: string; range: [number, number] | null }
  /** Of the picture, or of one light group as it stands in it. */
  | { kind: 'noise'; of: string | null }
  | { kind: 'cost' }
  | { kind: 'tally'; parting: Parting }
  /** A less B as displayed, at a gain; null fits the scale to what differs. */
  | { kind: 'difference'; gain: number | null }
  /** FLIP of A against B, as displayed. */
  | { kind: 'flip' }
  /** The picture at a limit of the ledger's axis, or how it differs from the whole one. */
  | { kind: 'depth'; limit: number; difference: boolean }
  /** The beauty, hatched where it is beyond white or black on screen. */
  | { kind: 'clipped' };

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

export interface Shown {
  pixels: Uint8ClampedArray<ArrayBuffer>;
  legend: Legend | null;
}

/** Layers a view needs. */
export function layersFor(view: View, hasGroups: string[]): string[] {
  switch (view.kind) {
    case 'color':
      return [view.layer];
    case 'relit':
      return view.groups.map((g) => `group.${g}`);
    case 'data':
      return [view.layer];
    case 'noise':
      return view.of === null
        ? ['half_a', 'half_b']
        : ['beauty', `group.${view.of}`, `half_a.${view.of}`, `half_b.${view.of}`];
    case 'cost':
      return ['cost'];
    case 'tally':
      return ['beauty', ...hasGroups.filter((n) => n.startsWith(`${view.parting}.`))];
    case 'depth':
      return LEDGER_LAYERS;
    case 'flip':
    case 'difference':
    case 'clipped':
      return ['beauty'];
  }
}

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

function finiteRange(plane: Float32Array): [number, number] {
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
function percentiles(plane: Float32Array, fractions: number[]): number[] {
  const step = Math.max(1, Math.floor(plane.length / 20000));
  const values: number[] = [];
  for (let i = 0; i < plane.length; i += step) if (Number.isFinite(plane[i])) values.push(plane[i]);
  if (values.length === 0) return fractions.map(() => 0);
  values.sort((a, b) => a - b);
  return fractions.map((f) => values[Math.min(values.length - 1, Math.floor(f * values.length))]);
}

function paint(
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

function color(planes: readonly Float32Array[], exposure: Display): Shown {
  const pixels = new Uint8ClampedArray(planes[0].length * 4);
  toDisplayBytes(planes[0], planes[1], planes[2], planes[0].length, exposure, pixels);
  return { pixels, legend: null };
}

const UNITS: Record<string, [string, string]> = {
  depth: ['Depth', 'm'],
  alpha: ['Alpha', ''],
  samples: ['Samples', 'a pixel'],
  cost: ['Cost', 'µs a pixel'],
  rays: ['Rays', 'a pixel'],
  distance: ['Distance', 'm'],
  motion: ['Motion', 'px a frame'],
  roughness: ['Roughness', ''],
  occlusion: ['Open', ''],
};

/** Okabe–Ito colours, for telling objects apart. */
const CATEGORIES = [
  [230, 159, 0],
  [86, 180, 233],
  [0, 158, 115],
  [240, 228, 66],
  [0, 114, 178],
  [213, 94, 0],
  [204, 121, 167],
  [150, 150, 150],
];

function coverage(layer: Layer): Shown {
  const size = layer.planes[0].length;
  const pixels = new Uint8ClampedArray(size * 4);
  const pair = layer.channels[0]?.startsWith('id') ?? false;
  const ranks = layer.planes.length / 2;
  const bits = new Uint32Array(1);
  const asFloat = new Float32Array(bits.buffer);
  const at = (r: number): [Float32Array, Float32Array] => {
    if (pair) return [layer.planes[r * 2], layer.planes[r * 2 + 1]];
    const name = (c: string) =>
      layer.planes[layer.channels.findIndex((n) => n.endsWith(`${String(r >> 1).padStart(2, '0')}.${c}`))];
    return r % 2 === 0 ? [name('R'), name('G')] : [name('B'), name('A')];
  };
  const rank = Array.from({ length: ranks }, (_, r) => at(r));
  for (let i = 0; i < size; i++) {
    let r = 0;
    let g = 0;
    let b = 0;
    for (const [id, share] of rank) {
      if (id[i] === 0) continue;
      asFloat[0] = id[i];
      const c = CATEGORIES[(pair ? id[i] : bits[0] >>> 3) % CATEGORIES.length];
      r += c[0] * share[i];
      g += c[1] * share[i];
      b += c[2] * share[i];
    }
    pixels[i * 4] = r;
    pixels[i * 4 + 1] = g;
    pixels[i * 4 + 2] = b;
    pixels[i * 4 + 3] = 255;
  }
  return { pixels, legend: null };
}

/** Vectors as colours: directions from −1 to 1, positions over the range they have, all else from 0 to 1. */
function channelsAsColors(layer: Layer): Uint8ClampedArray<ArrayBuffer> {
  const spans = layer.planes.map((plane): Range => {
    if (layer.name.startsWith('N')) return [-1, 1];
    return layer.name === 'P' ? (percentiles(plane, [0.01, 0.99]) as [number, number]) : [0, 1];
  });
  const size = layer.planes[0].length;
  const pixels = new Uint8ClampedArray(size * 4);
  for (let i = 0; i < size; i++) {
    layer.planes.forEach((plane, c) => {
      const [low, high] = spans[c];
      pixels[i * 4 + c] = (255 * (plane[i] - low)) / (high - low || 1);
    });
    pixels[i * 4 + 3] = 255;
  }
  return pixels;
}

type Range = readonly [number, number];

function data(layer: Layer, range: Range | null): Shown {
  if (isMask(layer.name)) return coverage(layer);
  if (layer.planes.length === 3 || layer.name === 'uv') return { pixels: channelsAsColors(layer), legend: null };
  const plane =
    layer.planes.length === 2
      ? layer.planes[0].map((x, i) => Math.sqrt(x * x + layer.planes[1][i] ** 2))
      : layer.planes[0];
  const [dataLow, dataHigh] = finiteRange(plane);
  const [low, high] =
    range ?? (['alpha', 'roughness', 'occlusion'].includes(layer.name) ? [0, 1] : percentiles(plane, [0.01, 0.99]));
  const [title, unit] = UNITS[layer.name] ?? [layer.name, ''];
  return {
    pixels: paint(plane, 'viridis', low, high),
    legend: { title, unit, scale: 'viridis', low, high, dataLow, dataHigh },
  };
}

function planes3(film: FilmLayers, name: string): Rgb | null {
  const layer = film.layers.get(name);
  return layer && layer.planes.length >= 3 ? [layer.planes[0], layer.planes[1], layer.planes[2]] : null;
}

/** Below this part of display white, 8 bits show black. */
const BLACK = 1 / (255 * 12.92);

/** The picture with stripes over what is beyond white in any channel (dark on light) and what is black (light on dark). */
function hatched(planes: readonly Float32Array[], width: number, exposure: Display): Shown {
  const shown = color(planes, exposure);
  const scale = scaleOf(exposure);
  const [r, g, b] = planes;
  for (let i = 0; i < r.length; i++) {
    const top = Math.max(r[i], g[i], b[i]) * scale;
    const over = top > 1;
    if (!over && top > BLACK) continue;
    const stripe = ((i % width) + Math.floor(i / width)) % 8 < 3;
    if (stripe) shown.pixels.fill(over ? 20 : 150, i * 4, i * 4 + 3);
  }
  return shown;
}

/** Halves whose difference is the noise shown: the picture's, or those of a group laid over the rest of the picture. */
function noisyHalves(film: FilmLayers, of: string | null): [Rgb, Rgb] | null {
  const a = planes3(film, of === null ? 'half_a' : `half_a.${of}`);
  const b = planes3(film, of === null ? 'half_b' : `half_b.${of}`);
  if (!a || !b) return null;
  if (of === null) return [a, b];
  const [whole, own] = [planes3(film, 'beauty'), planes3(film, `group.${of}`)];
  return whole && own && [laidOver(a, own, whole), laidOver(b, own, whole)];
}

function noise(film: FilmLayers, of: string | null, exposure: Display, scale: Range | null): Shown | null {
  const halves = noisyHalves(film, of);
  if (!halves) return null;
  const [a, b] = halves;
  const map = noiseMap(noiseSquares(a, b, film.width, film.height, exposure), film.width, film.height);
  const [dataLow, dataHigh] = finiteRange(map);
  const high = scale ? scale[1] : percentiles(map, [0.98])[0];
  return {
    pixels: paint(map, 'magma', 0, high),
    legend: {
      title: of === null ? 'Noise' : `Noise of ${of.replaceAll('_', ' ')}`,
      unit: '% of white',
      scale: 'magma',
      low: 0,
      high,
      dataLow,
      dataHigh,
    },
  };
}

/** Signed difference of two pictures as displayed: amber where A is brighter, cyan where B is. */
function difference(a: FilmLayers, b: FilmLayers, exposure: Display, gain: number | null): Shown | null {
  const p = planes3(a, 'beauty');
  const q = planes3(b, 'beauty');
  if (!p || !q || a.width !== b.width || a.height !== b.height) return null;
  return differenceOf(p, q, 'A − B', exposure, gain);
}

/** Where A and B look different when flicked between. */
function flip(a: FilmLayers, b: FilmLayers, exposure: Display): Shown | null {
  const [p, q] = [planes3(a, 'beauty'), planes3(b, 'beauty')];
  if (!p || !q || a.width !== b.width || a.height !== b.height) return null;
  const { flip: map } = pictureErrors(q, p, a.width, a.height, exposure);
  const [dataLow, dataHigh] = finiteRange(map);
  const high = Math.max(0.05, percentiles(map, [0.995])[0]);
  return {
    pixels: paint(map, 'magma', 0, high),
    legend: { title: 'FLIP', unit: '0 to 1', scale: 'magma', low: 0, high, dataLow, dataHigh },
  };
}

function differenceOf(p: Rgb, q: Rgb, title: string, exposure: Display, gain: number | null = null): Shown {
  const size = p[0].length;
  const d = new Float32Array(size);
  for (let i = 0; i < size; i++) {
    d[i] =
      (displayValue(luminance(p[0][i], p[1][i], p[2][i]), exposure) -
        displayValue(luminance(q[0][i], q[1][i], q[2][i]), exposure)) *
      100;
  }
  const [dataLow, dataHigh] = finiteRange(d);
  const [low, high] = percentiles(d, [0.01, 0.99]);
  const top = gain === null ? Math.max(Math.abs(low), Math.abs(high), 0.01) : 100 / gain;
  const pixels = new Uint8ClampedArray(size * 4);
  for (let i = 0, o = 0; i < size; i++, o += 4) {
    const k = Math.max(-1, Math.min(1, d[i] / top));
    const m = Math.abs(k);
    pixels[o] = k > 0 ? 20 + 222 * m : 20 + 70 * m;
    pixels[o + 1] = 20 + (k > 0 ? 156 : 178) * m;
    pixels[o + 2] = k > 0 ? 20 + 40 * m : 20 + 194 * m;
    pixels[o + 3] = 255;
  }
  return {
    pixels,
    legend: { title, unit: '% of white', scale: 'a-b', low: -top, high: top, dataLow, dataHigh },
  };
}

/**
 * Renders a view of a film as screen pixels. Null when the film lacks what the view needs. `scale`: the ends of
 * the scale instead of the film's own, so that two films side by side compare.
 */
export function show(
  film: FilmLayers,
  view: View,
  exposure: Display,
  other: FilmLayers | null,
  scale: Range | null = null,
): Shown | null {
  switch (view.kind) {
    case 'color': {
      const planes = planes3(film, view.layer);
      return planes && color(planes, exposure);
    }
    case 'relit': {
      const planes = relight(film, view.groups, view.balance, 'group.');
      return planes && color(planes, exposure);
    }
    case 'data': {
      const layer = film.layers.get(view.layer);
      return layer ? data(layer, view.range ?? scale) : null;
    }
    case 'noise':
      return noise(film, view.of, exposure, scale);
    case 'cost': {
      const layer = film.layers.get('cost');
      if (!layer) return null;
      const [dataLow, dataHigh] = finiteRange(layer.planes[0]);
      const high = scale ? scale[1] : percentiles(layer.planes[0], [0.99])[0];
      return {
        pixels: paint(layer.planes[0], 'cividis', 0, high),
        legend: { title: 'Cost', unit: 'µs a pixel', scale: 'cividis', low: 0, high, dataLow, dataHigh },
      };
    }
    case 'tally': {
      const result = tally(film, view.parting);
      if (!result) return null;
      const log = result.map.map((v) => (v > 0 ? Math.log10(v) : -9));
      const [dataLow, dataHigh] = finiteRange(log);
      return {
        pixels: paint(log, 'magma', -8, -2),
        legend: {
          title: 'Tally error',
          unit: 'log10 of the share of the beauty',
          scale: 'magma',
          low: -8,
          high: -2,
          dataLow,
          dataHigh,
        },
      };
    }
    case 'clipped': {
      const planes = planes3(film, 'beauty');
      return planes && hatched(planes, film.width, exposure);
    }
    case 'depth': {
      const at = pictureAtLimit(film, view.limit);
      if (!at) return null;
      if (!view.difference) return color(at, exposure);
      return differenceOf(at, pictureAtLimit(film, LEDGER_LAYERS.length - 1)!, 'at the limit − whole', exposure);
    }
    case 'flip':
      return other ? flip(film, other, exposure) : null;
    case 'difference':
      return other ? difference(film, other, exposure, view.gain) : null;
  }
}
