import { type FilmLayers, LAYER, type Layer, layerInfo } from '../film';
import { boxMeans } from './box';
import type { Plane, Size } from './filter';
import { coolHotPixels, type HotLight } from './hot';
import { GUIDE_COUNT } from './layout';
import { type Lead, varianceOf } from './lead';
import { type Family, type Picture, type Results, STEP } from './picture';
import { type Points, takePoints } from './points';

/** A film that cannot be denoised, and what it needs. */
export class DenoiseError extends Error {}

/** Gives a plane of so many zeros; shared where threads are to see it. */
export type MakePlane = (size: number) => Plane;

/** A film laid out for filtering, and the names of its parts. */
export interface Prepared {
  picture: Picture;
  results: Results;
  leads: string[];
  followers: string[];
  /** What display white is, in the film's units. */
  white: number;
}

const NO_POINTS: Points = { pixels: new Int32Array(0), values: new Float32Array(0) };

const isDark = (layer: Layer) => layer.planes.every((p) => p.every((v) => v === 0));

/** Light groups that have halves. */
function groupsOf({ layers }: FilmLayers): string[] {
  const groups = [...layers.keys()].filter((n) => layerInfo(n).family === 'group').map((n) => layerInfo(n).group!);
  return groups.filter((g) => layers.has(LAYER.half('a', g)) && layers.has(LAYER.half('b', g)));
}

/** Share of the light by which parts may miss the whole: what is rounded to half floats misses by less. */
const MOST_MISSING = 1e-3;

/** Families of parts without halves, and the layer that each sums to: a file may hold some of a family alone. */
export function familiesOf(film: FilmLayers, names: readonly string[]): { names: string[]; whole: string }[] {
  const groups = [...film.layers.values()].flatMap((l) =>
    layerInfo(l.name).family === 'group' ? [layerInfo(l.name).group!] : [],
  );
  const all = [
    ...(['class', 'bounce'] as const).map((f) => ({
      names: names.filter((n) => layerInfo(n).family === f),
      whole: 'beauty',
    })),
    ...groups.map((g) => ({
      names: names.filter((n) => layerInfo(n).family === 'pair' && layerInfo(n).group === g),
      whole: LAYER.group(g),
    })),
  ];
  return all.filter((f) => f.names.length > 0 && film.layers.has(f.whole) && sumTo(film, f.names, f.whole));
}

/** Whether layers sum to another. */
function sumTo({ layers }: FilmLayers, names: readonly string[], whole: string): boolean {
  let [missing, light] = [0, 0];
  layers.get(whole)!.planes.forEach((plane, c) => {
    const sum = new Float64Array(plane.length);
    for (const n of names) {
      const part = layers.get(n)!.planes[c];
      for (let i = 0; i < sum.length; i++) sum[i] += part[i];
    }
    for (let i = 0; i < sum.length; i++) {
      missing += Math.abs(sum[i] - plane[i]);
      light += Math.abs(plane[i]);
    }
  });
  return missing <= MOST_MISSING * light;
}

/** Factors that make a difference of 1 a clear edge, of each channel of the guides a film keeps. */
const GUIDE_SCALES = [2, 2, 2, 1, 1, 1, 4];

/** What fits are linear in: data of what is seen, of the first hit, and the place in the picture, each about 1 over an edge. */
function guidesOf({ width, height, layers }: FilmLayers, make: MakePlane): Plane[] {
  const out = Array.from({ length: GUIDE_COUNT }, () => make(width * height));
  // Files have channels in an order of their own.
  const channel = (layer: Layer, name: string) => layer.planes[layer.channels.indexOf(name)];
  const fill = (k: number, from: readonly Plane[], factor: number) => {
    const to = out[k];
    for (const plane of from) for (let i = 0; i < to.length; i++) to[i] += (plane[i] * factor) / from.length;
  };
  const [a, b] = [layers.get(LAYER.guides('a')), layers.get(LAYER.guides('b'))];
  if (a && b)
    layerInfo(a.name).channels.forEach((name, k) => {
      fill(k, [channel(a, name), channel(b, name)], GUIDE_SCALES[k]);
    });
  else
    for (const [layer, from] of [
      ['albedo', 0],
      ['N', 3],
    ] as const)
      layers.get(layer)?.planes.forEach((plane, c) => {
        fill(from + c, [plane], GUIDE_SCALES[from + c]);
      });
  const depth = layers.get('depth')?.planes[0];
  if (depth) {
    const finite = depth.filter(Number.isFinite).sort();
    const middle = finite.length ? finite[finite.length >> 1] : 1;
    for (let i = 0; i < depth.length; i++)
      out[7][i] = Number.isFinite(depth[i]) ? (4 * middle) / (middle + depth[i]) : 0;
  }
  const alpha = layers.get('alpha');
  if (alpha) fill(8, [alpha.planes[0]], 1);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      out[9][i] = x / 9;
      out[10][i] = y / 9;
    }
  return out;
}

/** Variance of what is seen, from the halves of the guides, averaged over 3×3 pixels; none where they were not kept. */
function guideVarianceOf({ width, height, layers }: FilmLayers, make: MakePlane): Plane {
  const raw = new Float32Array(width * height);
  const [a, b] = [layers.get(LAYER.guides('a')), layers.get(LAYER.guides('b'))];
  if (a && b)
    layerInfo(a.name).channels.forEach((name, k) => {
      const [p, q] = [a, b].map((l) => l.planes[l.channels.indexOf(name)]);
      for (let i = 0; i < raw.length; i++) raw[i] += ((GUIDE_SCALES[k] * (p[i] - q[i])) / 2) ** 2;
    });
  const out = make(width * height);
  out.set(boxMeans(raw, { width, height }, 1));
  return out;
}

/**
 * Lays a film out for filtering. `scale` brings its light to units of display white. Hot pixels are still in it, and
 * variances are not yet made: see `readyLead`. Throws `DenoiseError` where halves are missing.
 */
export function prepare(film: FilmLayers, scale: number, make: MakePlane): Prepared {
  const { width, height, layers } = film;
  if (!layers.has(LAYER.half('a')) || !layers.has(LAYER.half('b')))
    throw new DenoiseError('it has no halves (layers half_a and half_b), by which noise is told from detail');
  const size = width * height;
  const scaled = (name: string) =>
    layers.get(name)!.planes.map((p) => {
      const out = make(size);
      for (let i = 0; i < size; i++) out[i] = p[i] * scale;
      return out;
    });
  const groups = groupsOf(film);
  const ofGroups = groups.map((g) => LAYER.half('a', g));
  // The beauty is a lead of its own where its groups are not all there.
  const led = sumTo(film, ofGroups, LAYER.half('a')) ? groups : [undefined, ...groups];
  const leads = led.map((g) => (g === undefined ? 'beauty' : LAYER.group(g)));
  const halves = (half: 'a' | 'b') => led.map((g) => scaled(LAYER.half(half, g)));
  const [a, b] = [halves('a'), halves('b')];
  const followers = [...layers.values()]
    .filter((l) => ['class', 'bounce', 'pair'].includes(layerInfo(l.name).family) && !isDark(l))
    .map((l) => l.name);
  const parts = leads[0] === 'beauty' ? [0] : leads.map((_, l) => l);
  const families = familiesOf(film, followers).flatMap(({ names, whole }): Family[] => {
    const of = whole === 'beauty' ? parts : [leads.indexOf(whole)];
    return of.includes(-1) ? [] : [{ followers: names.map((n) => followers.indexOf(n)), of }];
  });
  const three = () => [0, 1, 2].map(() => make(size));
  return {
    picture: {
      size: { width, height },
      guides: guidesOf(film, make),
      guideVariance: guideVarianceOf(film, make),
      leads: a.map((planes, l) => ({
        a: planes,
        b: b[l],
        steerA: three(),
        steerB: three(),
        variance: make(size),
        points: NO_POINTS,
      })),
      parts,
      whole: { planes: three(), variance: make(size) },
      followers: followers.map((n) => ({ planes: scaled(n) })),
      families,
    },
    results: { leads: leads.map(() => ({ a: three(), b: three() })), followers: followers.map(three) },
    leads,
    followers,
    white: 1 / scale,
  };
}

/** Takes a lead's points out, cools its hot pixels and makes its variance, in place. Returns what was hot. */
export function readyLead(lead: Lead, size: Size): HotLight {
  lead.points = takePoints(lead.a, lead.b, size);
  const copy = (half: readonly Plane[]) => half.map((p) => p.slice());
  const [a, b] = [copy(lead.a), copy(lead.b)];
  lead.steerA.forEach((p, c) => {
    p.set(lead.a[c]);
    lead.steerB[c].set(lead.b[c]);
  });
  const [hotA, hotB] = [coolHotPixels(lead.a, b, size, lead.steerA), coolHotPixels(lead.b, a, size, lead.steerB)];
  lead.variance.set(varianceOf(lead.steerA, lead.steerB, size));
  return { pixels: hotA.pixels + hotB.pixels, share: (hotA.share + hotB.share) / 2 };
}

/** Sums what steers followers from leads that are ready, in place. */
export function readyWhole({ leads, parts, whole, size }: Picture): void {
  const [a, b] = ['a', 'b'].map((half) =>
    [0, 1, 2].map((c) => {
      const out = new Float32Array(size.width * size.height);
      for (const l of parts) {
        const p = (half === 'a' ? leads[l].steerA : leads[l].steerB)[c];
        for (let i = 0; i < out.length; i++) out[i] += p[i];
      }
      return out;
    }),
  );
  whole.planes.forEach((p, c) => {
    for (let i = 0; i < p.length; i++) p[i] = (a[c][i] + b[c][i]) / 2;
  });
  // Of the mean of both halves: half the variance of one.
  whole.variance.set(varianceOf(a, b, size).map((v) => v / 2));
}

/** Writes what filtering made of the beauty in the square at (x, y) into its planes. */
export function paintSquare(
  { picture, results, white }: Prepared,
  { x, y }: { x: number; y: number },
  planes: Plane[],
): void {
  const { width, height } = picture.size;
  const right = Math.min(width, x + STEP);
  for (let v = y; v < Math.min(height, y + STEP); v++)
    planes.forEach((plane, c) => {
      plane.fill(0, v * width + x, v * width + right);
      for (const l of picture.parts)
        for (let i = v * width + x; i < v * width + right; i++)
          plane[i] += ((results.leads[l].a[c][i] + results.leads[l].b[c][i]) / 2) * white;
    });
}

/** Layers of a film that denoising changes. */
export function changedNames({ layers }: FilmLayers, { leads, followers }: Prepared): string[] {
  const halves = (group: string | undefined) => [LAYER.half('a', group), LAYER.half('b', group)];
  const groups = leads.flatMap((n) => layerInfo(n).group ?? []);
  const all = ['beauty', ...halves(undefined), ...groups.flatMap((g) => [LAYER.group(g), ...halves(g)]), ...followers];
  return all.filter((n) => layers.has(n));
}

/**
 * The film with its parts denoised: (1 − strength) of what it was and the rest of what filtering made, in linear light. The
 * beauty is the sum of its groups. `strength` from 0 to 1; at 0 it is the film itself.
 */
export function denoisedLayers(film: FilmLayers, prepared: Prepared, strength = 1): FilmLayers {
  if (strength === 0) return film;
  const { results, white } = prepared;
  const layers = new Map(film.layers);
  const put = (name: string, planes: readonly Plane[]) => {
    const was = film.layers.get(name);
    if (!was) return;
    const mixed = planes.map((p, c) => {
      const out = new Float32Array(p.length);
      for (let i = 0; i < p.length; i++) out[i] = was.planes[c][i] * (1 - strength) + p[i] * white * strength;
      return out;
    });
    layers.set(name, { ...was, planes: mixed });
  };
  const mean = ({ a, b }: { a: readonly Plane[]; b: readonly Plane[] }) =>
    a.map((p, c) => p.map((v, i) => (v + b[c][i]) / 2));
  const sum = (of: readonly (readonly Plane[])[]) =>
    [0, 1, 2].map((c) => {
      const out = new Float32Array(film.width * film.height);
      for (const planes of of) for (let i = 0; i < out.length; i++) out[i] += planes[c][i];
      return out;
    });
  prepared.leads.forEach((name, l) => {
    const group = layerInfo(name).group ?? undefined;
    if (group === undefined) return;
    put(name, mean(results.leads[l]));
    put(LAYER.half('a', group), results.leads[l].a);
    put(LAYER.half('b', group), results.leads[l].b);
  });
  const parts = prepared.picture.parts.map((l) => results.leads[l]);
  put('beauty', sum(parts.map(mean)));
  put(LAYER.half('a'), sum(parts.map((l) => l.a)));
  put(LAYER.half('b'), sum(parts.map((l) => l.b)));
  prepared.followers.forEach((name, f) => {
    put(name, results.followers[f]);
  });
  return { ...film, layers };
}
