import { type Masking, maskValues } from '../exr';
import {
  type Factors,
  type FilmLayers,
  type Half,
  type Layer,
  layerInfo,
  OPENNESS,
  opennessAt,
  relight,
} from '../film';
import {
  between,
  type Chromaticities,
  isIdentity,
  type Matrix,
  planesThrough,
  type Space,
  type WorkingSpace,
} from '../image';
import type { Sources } from './evaluate';
import { halfOf, maskingOfItem } from './needs';
import type { LookTable } from './operations/cube';
import type { Picture } from './picture';
import { type Source, StackError } from './stack';

/** What a stack is made of, as it was read, by the names that the stack has for it. */
export interface Read {
  films: ReadonlyMap<string, FilmLayers>;
  pictures: ReadonlyMap<string, Picture>;
  tables: ReadonlyMap<string, LookTable>;
  /** Names of objects in the order in which films in memory number them; files have names themselves. */
  objects?: readonly string[];
  /** What layers of masks are made of, where films do not hold them as they are. */
  masks?: ReadonlyMap<string, Masking>;
  /** Moods as factors of light groups. */
  moods?: ReadonlyMap<string, MoodFactors>;
  /** How large the stack is; as its first film or picture is where it is not said. */
  size?: { width: number; height: number };
  /** What the stack works in; pictures are in it already. */
  space: WorkingSpace;
  /** Primaries of films that are not Rec.709, by their names. */
  primaries?: ReadonlyMap<string, Space | Chromaticities>;
}

/** What a mood does to the light groups of a film. */
export interface MoodFactors {
  groups: readonly string[];
  factors: Factors;
}

const led = new WeakMap<Float32Array, { m: Matrix; planes: readonly Float32Array[] }>();

/** Light through a matrix, kept for as long as it is there; what has no three planes, or is data, stays. */
function ledBy(planes: readonly Float32Array[], m: Matrix, isKept: boolean): readonly Float32Array[] {
  if (planes.length < 3 || isIdentity(m)) return planes;
  const known = led.get(planes[0]);
  if (known?.m === m) return known.planes;
  const made = planesThrough(planes, m);
  if (isKept) led.set(planes[0], { m, planes: made });
  return made;
}

/** A layer of a film; openness also of what it keeps by reach, up to so many metres. */
function layerAt({ layers }: FilmLayers, name: string, reachMetres: number | null): Layer | undefined {
  const bands = name === OPENNESS.layer ? layers.get(OPENNESS.bands) : undefined;
  if (!bands) return layers.get(name);
  return { ...bands, name, channels: ['Y'], planes: [opennessAt(bands.planes, reachMetres)] };
}

/**
 * Sources of a stack over films and pictures of one size. `half`: light of every other sample instead, where films keep it; a layer that has no halves
 * is refused then, unless it is no light. Throws `StackError` for what is not there.
 */
export function sourcesOf(
  { films, pictures, tables, objects = [], masks, moods, size: own, space, primaries }: Read,
  half: Half | null = null,
): Sources {
  const [first] = [...(own ? [own] : []), ...films.values(), ...pictures.values()];
  if (!first) throw new StackError('entries', 'the stack names neither a film nor a picture, so that it has no size');
  const { width, height } = first;
  const size = width * height;
  for (const [name, { width: w, height: h }] of [...films, ...pictures])
    if (w !== width || h !== height) throw new StackError(name, `is ${w}×${h} pixels, the others ${width}×${height}`);
  const filmOf = (name: string) => {
    const film = films.get(name);
    if (!film) throw new StackError('films', `there is no film ${name}`);
    return film;
  };
  const layerOf = (film: string, name: string, reachMetres: number | null = null) => {
    const layer = layerAt(filmOf(film), name, reachMetres);
    if (!layer) throw new StackError(`films.${film}`, `it has no layer ${name}`);
    return layer;
  };
  const matrices = new Map<string, Matrix>();
  const matrixOf = (film: string): Matrix => {
    const made = matrices.get(film) ?? between(primaries?.get(film) ?? 'Rec.709', space);
    matrices.set(film, made);
    return made;
  };
  const inMood = ({ film, layer, mood }: Extract<Source, { from: 'film' }>): readonly Float32Array[] => {
    const own = moods?.get(mood!);
    if (!own) throw new StackError('moods', `there is no mood ${mood}`);
    const { group } = layerInfo(layer);
    const lit = relight(filmOf(film), group === null ? own.groups : [group], own.factors, half ?? undefined);
    if (!lit) throw new StackError(`films.${film}`, `it keeps no light groups, which the mood ${mood} is made of`);
    return lit;
  };
  return {
    width,
    height,
    light: (source) => {
      if (source.from === 'picture') {
        const picture = pictures.get(source.picture);
        if (!picture) throw new StackError('pictures', `there is no picture ${source.picture}`);
        return picture;
      }
      const named = half === null || layerInfo(source.layer).data ? source.layer : halfOf(source.layer, half);
      if (named === null) throw new StackError(`films.${source.film}`, `${source.layer} is kept without halves`);
      const isInMood = source.mood !== null;
      const layer = isInMood ? null : layerOf(source.film, named, source.reachMetres);
      const own = layer?.planes ?? inMood(source);
      const planes = layerInfo(source.layer).data ? own : ledBy(own, matrixOf(source.film), !isInMood);
      // Layers of files may have an alpha of their own.
      const ownAlpha =
        layer?.channels[3] === 'A' ? layer.planes[3] : filmOf(source.film).layers.get('alpha')?.planes[0];
      const there = source.alpha === 'whole' ? undefined : ownAlpha;
      const alpha = there ?? new Float32Array(size).fill(1);
      if (named === OPENNESS.layer && there) {
        // Where no surface is nothing closes it in.
        const open = planes[0].map((v, i) => v + 1 - there[i]);
        return { width, height, planes: [open, open, open, alpha] };
      }
      const [r, g, b] = planes.length >= 3 ? planes : [planes[0], planes[0], planes[0]];
      if (source.alpha !== 'cut' || !there) return { width, height, planes: [r, g, b, alpha] };
      const cut = (plane: Float32Array) => plane.map((v, i) => v * there[i]);
      return { width, height, planes: [cut(r), cut(g), cut(b), alpha] };
    },
    mask: (item) => {
      const film = filmOf(item.film);
      const made = item.kind === 'ramp' ? masks?.get(item.layer) : undefined;
      const numbers = item.kind === 'picked' ? item.names.map((n) => objects.indexOf(n) + 1).filter((n) => n > 0) : [];
      const values = maskValues((name) => layerAt(film, name, null), made ?? maskingOfItem(item, numbers));
      if (!values) throw new StackError(`films.${item.film}`, 'it lacks what the mask is made of');
      if (!made || item.kind !== 'ramp' || (item.low === 0 && item.high === 1)) return values;
      const { low, high } = item;
      return values.map((v) => Math.min(1, Math.max(0, (v - low) / (high - low))));
    },
    depth: (film, layer) => layerOf(film, layer).planes[0],
    table: (name) => {
      const table = tables.get(name);
      if (!table) throw new StackError('tables', `there is no table ${name}`);
      return table;
    },
  };
}
