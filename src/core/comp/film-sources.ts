import { type Masking, maskValues } from '../exr';
import { type FilmLayers, type Half, layerInfo } from '../film';
import type { Sources } from './evaluate';
import { halfOf, maskingOfItem } from './needs';
import type { LookTable } from './operations/cube';
import type { Picture } from './picture';
import { StackError } from './stack';

/** What a stack is made of, as it was read, by the names that the stack has for it. */
export interface Read {
  films: ReadonlyMap<string, FilmLayers>;
  pictures: ReadonlyMap<string, Picture>;
  tables: ReadonlyMap<string, LookTable>;
  /** Names of objects in the order in which films in memory number them; files have names themselves. */
  objects?: readonly string[];
  /** What layers of masks are made of, where films do not hold them as they are. */
  masks?: ReadonlyMap<string, Masking>;
}

/**
 * Sources of a stack over films and pictures of one size. `half`: light of every other sample instead, where films keep it; a layer that has no halves
 * is refused then, unless it is no light. Throws `StackError` for what is not there.
 */
export function sourcesOf({ films, pictures, tables, objects = [], masks }: Read, half: Half | null = null): Sources {
  const [first] = [...films.values(), ...pictures.values()];
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
  const layerOf = (film: string, name: string) => {
    const layer = filmOf(film).layers.get(name);
    if (!layer) throw new StackError(`films.${film}`, `it has no layer ${name}`);
    return layer;
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
      const { planes } = layerOf(source.film, named);
      const own = source.alpha === 'whole' ? undefined : filmOf(source.film).layers.get('alpha')?.planes[0];
      const alpha = own ?? new Float32Array(size).fill(1);
      const [r, g, b] = planes.length >= 3 ? planes : [planes[0], planes[0], planes[0]];
      return { width, height, planes: [r, g, b, alpha] };
    },
    mask: (item) => {
      const { layers } = filmOf(item.film);
      const made = item.kind === 'ramp' ? masks?.get(item.layer) : undefined;
      const numbers = item.kind === 'picked' ? item.names.map((n) => objects.indexOf(n) + 1).filter((n) => n > 0) : [];
      const values = maskValues((name) => layers.get(name), made ?? maskingOfItem(item, numbers));
      if (!values) throw new StackError(`films.${item.film}`, 'it lacks what the mask is made of');
      if (!made || item.kind !== 'ramp' || (item.low === 0 && item.high === 1)) return values;
      const { low, high } = item;
      return values.map((v) => Math.min(1, Math.max(0, (v - low) / (high - low))));
    },
    depth: (film) => layerOf(film, 'depth').planes[0],
    table: (name) => {
      const table = tables.get(name);
      if (!table) throw new StackError('tables', `there is no table ${name}`);
      return table;
    },
  };
}
