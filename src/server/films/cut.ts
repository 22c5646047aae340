import { blendLayer, neededToBlend, type Strengths } from '@/core/denoise';
import {
  boxHeight,
  boxWidth,
  type Compression,
  cutPart,
  type Depth,
  inOnePart,
  type LatePart,
  layersOf,
  type Masking,
  maskNeeds,
  maskPart,
  opennessPart,
  type Part,
  prefixed,
  restPart,
  streamExr,
} from '@/core/exr';
import { type FilmLayers, isMask, layerInfo, OPENNESS, restFamily } from '@/core/film';
import { writes } from '@/core/outputs';
import { nodeDeflate } from '@/node/zlib';
import type { Sql } from '../db/connection';
import { type LayerPlace, openFilm, readLayers } from './open';

export interface Cut {
  layers: readonly string[];
  /** What each layer of a mask is made of. */
  masks?: Readonly<Record<string, Masking>>;
  /** Layers that all files of the output write, by name or family: what remainders are less of. */
  written?: readonly string[];
  /** How far openness looks; null = to the end. */
  reachMetres?: number | null;
  depth: Depth;
  compression: Compression;
  /** Side of tiles in pixels; lines where there is none. */
  tilePx?: number | null;
  /** Stands before the names of layers. */
  prefix?: string;
  parting: 'one' | 'many';
  /** Whether denoised layers are taken in place of the plain ones, or beside them under names of their own. */
  denoised?: 'no' | 'instead' | 'beside';
}

/** What denoising made of a film: where it is kept, its layers, and how much of it is taken. */
export interface Made {
  hash: string;
  places: readonly LayerPlace[];
  strengths: Strengths;
}

/** Before the names of denoised layers that are taken beside the plain ones. */
const BESIDE = 'denoised';

/** Layers of a stored film by their names; those that denoising changed as it left them, where it is to be. Throws where the film is gone. */
async function layersNamed(
  sql: Sql,
  plain: { hash: string; places: readonly LayerPlace[] },
  made: Made | null,
  names: readonly string[],
): Promise<FilmLayers> {
  const kept = made?.places.map((p) => p.name) ?? [];
  const changed = names.filter((n) => kept.includes(n));
  const needed = new Set(made ? changed.flatMap((n) => neededToBlend(n, kept, made.strengths)) : []);
  const film = await readLayers(sql, plain.hash, plain.places, (n) => names.includes(n) || needed.has(n));
  if (!film) throw new Error('the film is not there any more');
  if (!made || changed.length === 0) return film;
  const other = await readLayers(sql, made.hash, made.places, (n) => needed.has(n));
  if (!other) throw new Error('the denoised film is not there any more');
  const blended = changed.map((n) => [n, blendLayer(n, kept, film, other, made.strengths)] as const);
  return { ...film, layers: new Map([...film.layers, ...blended]) };
}

/** A part with its changed layers denoised. */
function denoisedPart(
  sql: Sql,
  plain: { hash: string; places: readonly LayerPlace[] },
  made: Made,
  part: LatePart,
  layerOf: (channel: string) => string,
): LatePart {
  const kept = made.places.map((p) => p.name);
  const { all, groups } = made.strengths;
  const own = Object.entries(groups).map(([g, s]) => `, ${g} ${Math.round(s * 100)} %`);
  return {
    ...part,
    attributes: {
      ...part.attributes,
      'lantern:denoised': { type: 'string', value: `${Math.round(all * 100)} %${own.join('')}` },
    },
    planes: async () => {
      const planes = await part.planes();
      const names = [...new Set(part.channels.map((c) => layerOf(c.name)))].filter((n) => kept.includes(n));
      const blended = (await layersNamed(sql, plain, made, names)).layers;
      return part.channels.map((c, i) => {
        const layer = blended.get(layerOf(c.name));
        const at = layer?.channels.indexOf(c.name.slice(c.name.lastIndexOf('.') + 1)) ?? -1;
        return layer && at >= 0 ? layer.planes[at] : planes[i];
      });
    },
  };
}

/** The same under names of its own, without what denoising does not change. */
function besidePart(part: LatePart): LatePart {
  const keep = part.channels.map((c) => c.name !== 'A');
  return {
    ...part,
    name: `${BESIDE}.${part.name}`,
    channels: part.channels.filter((_, i) => keep[i]).map((c) => ({ ...c, name: `${BESIDE}.${c.name}` })),
    planes: async () => (await part.planes()).filter((_, i) => keep[i]) as Part['planes'],
  };
}

/** The parts of a file of chosen layers, made when their turn comes; null when the film is not there. */
export async function cutParts(
  sql: Sql,
  hash: string,
  places: readonly LayerPlace[],
  {
    layers,
    masks = {},
    written = layers,
    reachMetres = null,
    depth,
    compression,
    tilePx = null,
    denoised = 'no',
  }: Omit<Cut, 'parting'>,
  made: Made | null = null,
): Promise<LatePart[] | null> {
  const opened = await openFilm(sql, hash);
  if (!opened) return null;
  const { file, read } = opened;
  const writing = { depth, compression, tilePx };
  const open = places.some((p) => p.name === OPENNESS.layer)
    ? undefined
    : places.find((p) => p.name === OPENNESS.bands);
  const isMade = (n: string) => Object.hasOwn(masks, n) || restFamily(n) !== null || (open && n === OPENNESS.layer);
  const kept = layers.filter((n) => !isMade(n));
  const wanted = [...new Set(kept.map((n) => places.find((p) => p.name === n)!.part))];
  const parts: LatePart[] = [];
  for (const index of wanted) {
    const header = file.parts[index];
    const own = places.filter((p) => p.part === index).map((p) => p.name);
    const keep = header.channels.map((c) => own.length === 1 || layers.includes(c.name === 'A' ? 'alpha' : 'beauty'));
    const name = own.includes('beauty') ? 'beauty' : own[0];
    const part = await cutPart(header, () => read(index), keep, name, writing);
    const changed = made?.places.filter((p) => own.includes(p.name) && layers.includes(p.name)) ?? [];
    if (!made || denoised === 'no' || changed.length === 0) {
      parts.push(part);
      continue;
    }
    const layerOf = (channel: string) => (own.length === 1 ? own[0] : channel === 'A' ? 'alpha' : 'beauty');
    const other = denoisedPart(sql, { hash, places }, made, part, layerOf);
    if (denoised === 'instead') parts.push(other);
    else parts.push(part, besidePart(other));
  }
  if (open && layers.includes(OPENNESS.layer))
    parts.push(await opennessPart(file.parts[open.part], () => read(open.part), reachMetres, writing));
  for (const layer of layers.filter((n) => Object.hasOwn(masks, n))) {
    const needs = maskNeeds(masks[layer]).map((n) => places.find((p) => p.name === n));
    const [first] = needs;
    if (!first || needs.some((p) => !p)) throw new Error(`the film does not keep what ${layer} is made of`);
    const named = async () => {
      const of = new Map<string, { channels: string[]; planes: Float32Array[] }>();
      for (const { name, part } of needs as LayerPlace[])
        of.set(name, {
          channels: file.parts[part].channels.map((c) => c.name),
          planes: (await read(part)) as Float32Array[],
        });
      return of;
    };
    parts.push(await maskPart(file.parts[first.part], named, layer, masks[layer], writing));
  }
  for (const layer of layers.filter((n) => restFamily(n) !== null)) {
    const less = places.filter(
      (p) => layerInfo(p.name).family === restFamily(layer) && writes({ layers: written }, p.name),
    );
    const header = file.parts[places.find((p) => p.name === 'beauty')!.part];
    const read = (names: readonly string[]) =>
      layersNamed(sql, { hash, places }, denoised === 'instead' ? made : null, names);
    const names = less.map((p) => p.name);
    parts.push(await restPart(header, layer, names, read, writing));
  }
  return parts;
}

/**
 * Chosen layers of a stored film as an OpenEXR file, read and written part by part. `places` says which layers the film has,
 * `made` what denoising made of it. Null when the film is not there.
 */
export async function cutFilm(
  sql: Sql,
  hash: string,
  places: readonly LayerPlace[],
  { parting, prefix = '', ...cut }: Cut,
  made: Made | null = null,
): Promise<{ bytes: AsyncIterable<Uint8Array>; size: number; width: number; height: number } | null> {
  const parts = (await cutParts(sql, hash, places, cut, made))?.map((p) => prefixed(p, prefix));
  if (!parts) return null;
  const { bytes, size } = await streamExr(parting === 'one' ? [inOnePart(parts)] : parts, nodeDeflate);
  const window = parts[0].dataWindow;
  return { bytes, size, width: boxWidth(window), height: boxHeight(window) };
}

/** A layer as planar 32-bit floats, channels in its order; null when the film is not there. */
export async function planarLayer(
  sql: Sql,
  hash: string,
  { name, part }: LayerPlace,
): Promise<{ values: Float32Array<ArrayBuffer>; width: number; height: number; channels: string[] } | null> {
  const opened = await openFilm(sql, hash);
  if (!opened) return null;
  const header = opened.file.parts[part];
  const planes = await opened.read(part);
  const [width, height] = [boxWidth(header.dataWindow), boxHeight(header.dataWindow)];
  const { layers } = layersOf([{ name: header.name, channels: header.channels, planes, width, height }]);
  // A mask part holds identifiers; its channels are sent as they stand.
  const chosen = isMask(name)
    ? { channels: header.channels.map((c) => c.name), planes: planes as Float32Array[] }
    : (layers.get(name) ?? [...layers.values()][0]);
  const values = new Float32Array(chosen.planes.length * chosen.planes[0].length);
  chosen.planes.forEach((p, i) => {
    values.set(p, i * p.length);
  });
  return { values, width, height, channels: chosen.channels };
}
