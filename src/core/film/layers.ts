import { COVERAGE_SLOTS, GUIDE_PLANES, PATH_CLASSES, RAY_COUNTERS, TABLE } from '../kernel';
import { FEATURE_NAMES } from '../recipe';
import { COVERAGE_RANKS, FEATURES, isMask, LAYER, LEDGER_LAYERS, layerInfo, type MaskLayer } from './catalogue';
import type { Film, TakePlane } from './film';
import type { FilmSpec } from './spec';

/** One layer of a finished film: named planes of equal size. `data` layers are never colour-managed. */
export interface Layer {
  name: string;
  channels: string[];
  planes: Float32Array[];
  kind: 'color' | 'data';
}

/** A finished film as layers, the form in which it is stored, sent, compared and written. */
export interface FilmLayers {
  width: number;
  height: number;
  layers: Map<string, Layer>;
}

const RGB = ['R', 'G', 'B'];

function makersOf(film: Film, take?: TakePlane): Map<string, () => Layer> {
  const { planes, groups } = film.spec;
  const out = new Map<string, () => Layer>();
  const color = (name: string, index: number, how: 'mean' | 'half') =>
    out.set(name, () => ({
      name,
      channels: RGB,
      planes: [0, 1, 2].map((c) => film.plane(index + c, how, take)),
      kind: 'color',
    }));
  out.set('beauty', () => ({ name: 'beauty', channels: RGB, planes: film.beauty(take), kind: 'color' }));
  color(LAYER.half('a'), 0, 'half');
  color(LAYER.half('b'), 3, 'half');
  if (planes.groups >= 0) {
    groups.forEach((group, g) => {
      const name = LAYER.group(group);
      out.set(name, () => ({
        name,
        channels: RGB,
        kind: 'color',
        planes: [0, 1, 2].map((c) => {
          const a = film.plane(planes.groups + g * 3 + c, 'mean', take);
          const b = film.plane(planes.groups + (groups.length + g) * 3 + c, 'mean', take);
          for (let i = 0; i < a.length; i++) a[i] += b[i];
          return a;
        }),
      }));
    });
    groups.forEach((group, g) => {
      color(LAYER.half('a', group), planes.groups + g * 3, 'half');
      color(LAYER.half('b', group), planes.groups + (groups.length + g) * 3, 'half');
    });
  }
  if (planes.classes >= 0) {
    PATH_CLASSES.forEach((c, i) => {
      color(LAYER.class(c), planes.classes + i * 3, 'mean');
    });
  }
  for (const [pair, plane] of Object.entries(planes.pairs)) {
    const [g, c] = [Math.floor(Number(pair) / PATH_CLASSES.length), Number(pair) % PATH_CLASSES.length];
    color(LAYER.pair(groups[g], PATH_CLASSES[c]), plane, 'mean');
  }
  if (planes.ledger >= 0) {
    LEDGER_LAYERS.forEach((name, b) => {
      color(name, planes.ledger + b * 3, 'mean');
    });
  }
  if (planes.lost >= 0) color('lost', planes.lost, 'mean');
  if (planes.guides >= 0) {
    (['a', 'b'] as const).forEach((half, h) => {
      const name = LAYER.guides(half);
      const channels = [...layerInfo(name).channels];
      out.set(name, () => ({
        name,
        channels,
        planes: channels.map((_, c) => film.plane(planes.guides + h * GUIDE_PLANES + c, 'half', take)),
        kind: 'data',
      }));
    });
  }
  for (const name of FEATURE_NAMES) {
    const at = planes.features[name];
    if (at === undefined) continue;
    const { layer, how, data } = FEATURES[name];
    const channels = [...FEATURES[name].channels];
    const kind = data ? 'data' : 'color';
    if (isMask(name)) out.set(layer, () => coverageLayer(film, at, name, take));
    else if (name === 'shadow') out.set(layer, () => ({ name: layer, channels, planes: shadowPlanes(film, at), kind }));
    else if (name === 'shadowing')
      out.set(layer, () => ({ name: layer, channels, planes: shadowShares(film, at), kind }));
    else {
      out.set(layer, () => ({
        name: layer,
        channels,
        kind,
        planes: channels.map((_, c) => {
          if (how === 'mean') return film.plane(at + c, 'mean', take);
          return name === 'depth' || name === 'distance' ? farWhereUnseen(film, at) : film.plane(at + c, 'raw', take);
        }),
      }));
    }
  }
  out.set('cost', () => ({ name: 'cost', channels: ['Y'], planes: [costPlane(film)], kind: 'data' }));
  out.set('rays', () => ({ name: 'rays', channels: ['Y'], planes: [raysPlane(film)], kind: 'data' }));
  out.set('samples', () => ({ name: 'samples', channels: ['Y'], planes: [samplesPlane(film)], kind: 'data' }));
  return out;
}

/** A distance as the sample nearest to the pixel's centre gave it; infinity where nothing was sampled. */
function farWhereUnseen(film: Film, at: number): Float32Array {
  const near = film.plane(film.spec.planes.near, 'raw');
  return film.plane(at, 'raw').map((v, i) => (near[i] === 0 ? Infinity : v));
}

/**
 * Shadow that catchers receive from other objects: the share of a pixel that catchers cover times the share of their
 * light that is kept off. A plate shows through as plate · (1 − alpha − shadow).
 */
function shadowPlanes(film: Film, at: number): Float32Array[] {
  const cover = film.plane(at + 6, 'mean');
  return shadowShares(film, at).map((share) => share.map((s, i) => cover[i] * s));
}

/** Share of light that is kept off, by light without and with what stands in its way; 0 where there is none. */
function shadowShares(film: Film, at: number): Float32Array[] {
  return [0, 1, 2].map((c) => {
    const open = film.plane(at + c, 'raw');
    const lit = film.plane(at + 3 + c, 'raw');
    return open.map((o, i) => (o > 0 ? 1 - lit[i] / o : 0));
  });
}

/** A value for each cell, spread over its pixels. */
function cellPlane(film: Film, value: (t: number) => number): Float32Array {
  const out = new Float32Array(film.spec.region.width * film.spec.region.height);
  for (let t = 0; t < film.tileCount; t++) {
    const { x, y, w, h } = film.place(t);
    const v = value(t);
    for (let j = 0; j < h; j++)
      out.fill(v, (y + j) * film.spec.region.width + x, (y + j) * film.spec.region.width + x + w);
  }
  return out;
}

function samplesPlane(film: Film): Float32Array {
  return cellPlane(film, (t) => film.samples[t]);
}

/** Rays of all kinds that each pixel took, as counted over its cell. */
function raysPlane(film: Film): Float32Array {
  return cellPlane(film, (t) => {
    const { w, h } = film.place(t);
    let rays = 0;
    for (let k = 0; k < RAY_COUNTERS; k++) rays += film.tables(t)[TABLE.rays + k];
    return rays / (w * h);
  });
}

/** Microseconds of one thread spent on each pixel, as measured over its cell. */
function costPlane(film: Film): Float32Array {
  return cellPlane(film, (t) => {
    const { w, h } = film.place(t);
    return (film.tables(t)[TABLE.timeMs] * 1000) / (w * h);
  });
}

/**
 * Coverage by object, material or set: `COVERAGE_RANKS` pairs of (its number + 1, share of the pixel), largest share
 * first, lower number first on a tie; 0 marks an unused rank. Sets that share an object each have all of it.
 */
function coverageLayer(film: Film, base: number, name: MaskLayer, take?: TakePlane): Layer {
  const { materials, sets } = film.spec;
  /** Numbers + 1 of what an object counts as: itself, its material, or all sets it is in. */
  const countsAs = (id: number): readonly number[] => {
    if (name === 'coverage_set') return (sets.of[id - 1] ?? []).map((s) => s + 1);
    return [name === 'coverage_material' ? (materials.of[id - 1] ?? -1) + 1 : id];
  };
  const slots = Array.from({ length: COVERAGE_SLOTS }, (_, k) => ({
    id: film.plane(base + k * 2, 'raw', take),
    share: film.plane(base + k * 2 + 1, 'mean', take),
  }));
  const size = film.spec.region.width * film.spec.region.height;
  const planes = Array.from({ length: COVERAGE_RANKS * 2 }, () => (take ? take(size).fill(0) : new Float32Array(size)));
  const shares = new Map<number, number>();
  for (let i = 0; i < size; i++) {
    shares.clear();
    for (let k = 0; k < COVERAGE_SLOTS && slots[k].id[i] !== 0; k++) {
      for (const id of countsAs(slots[k].id[i])) if (id > 0) shares.set(id, (shares.get(id) ?? 0) + slots[k].share[i]);
    }
    const order = [...shares].sort((p, q) => q[1] - p[1] || p[0] - q[0]);
    for (let r = 0; r < Math.min(COVERAGE_RANKS, order.length); r++) {
      [planes[r * 2][i], planes[r * 2 + 1][i]] = order[r];
    }
  }
  const channels = planes.map((_, k) => `${k % 2 === 0 ? 'id' : 'share'}${k >> 1}`);
  return { name, channels, planes, kind: 'data' };
}

/** One layer of a film, in planes that `take` gives; null when the film has no such layer. */
export function makeLayer(film: Film, name: string, take?: TakePlane): Layer | null {
  return makersOf(film, take).get(name)?.() ?? null;
}

/** Every layer of a film. */
export function makeLayers(film: Film): FilmLayers {
  const layers = new Map<string, Layer>();
  for (const [name, make] of makersOf(film)) layers.set(name, make());
  return { width: film.spec.region.width, height: film.spec.region.height, layers };
}

/** Names of the layers that a film of this spec has. */
export function layerNames(spec: FilmSpec): string[] {
  // Names rest on the spec alone; only making a layer asks for the film.
  return [...makersOf({ spec } as Film).keys()];
}
