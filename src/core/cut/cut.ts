import { blendLayer, neededToBlend, type Strengths } from '../denoise';
import {
  boxHeight,
  boxWidth,
  type Compression,
  cutPart,
  type Depth,
  inOnePart,
  type LatePart,
  layersInFile,
  layersOf,
  type Masking,
  maskNeeds,
  maskPart,
  opennessPart,
  type Part,
  type PartHeader,
  partOf,
  prefixed,
  type ReadPart,
  restPart,
} from '../exr';
import { type FilmLayers, layerInfo, OPENNESS, restFamily } from '../film';
import { type Output, writes } from '../outputs';

/** A film by its parts, wherever it is kept: headers at once, planes of a part when they are asked for. */
export interface OpenedFilm {
  parts: readonly PartHeader[];
  read: (part: number) => Promise<readonly ReadPart['planes'][number][]>;
}

/** What denoising made of a film, and how much of it is taken. */
export interface OpenedMade {
  film: OpenedFilm;
  strengths: Strengths;
}

export const DENOISED = ['no', 'instead', 'beside'] as const;

/** What of a film goes into a file, and how it is written. */
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
  denoised?: (typeof DENOISED)[number];
}

/** How an output has a file of these layers written; `masks` says what layers of masks are made of. */
export const cutFor = (
  { layers: written, depth, compression, tilePx, reachMetres, prefix, parts }: Output,
  layers: readonly string[],
  masks: Readonly<Record<string, Masking>>,
): Cut => ({
  ...{ layers, written, depth, compression, tilePx, reachMetres, prefix },
  masks: Object.fromEntries(Object.entries(masks).filter(([layer]) => layers.includes(layer))),
  parting: parts,
});

/** Before the names of denoised layers that are taken beside the plain ones. */
const BESIDE = 'denoised';

/** Parts that are read at the same time: one is inflated while another is fetched. */
const AT_ONCE = 4;

/** Names of the layers of a film, in order. */
export const layersIn = ({ parts }: Pick<OpenedFilm, 'parts'>): string[] => layersInFile(parts).map((l) => l.name);

/** Layers of a film by their names, and what shares their parts. */
export async function readNamed({ parts, read }: OpenedFilm, wanted: (name: string) => boolean): Promise<FilmLayers> {
  const numbers = [...new Set(layersInFile(parts).flatMap((l) => (wanted(l.name) ? [l.part] : [])))];
  const whole = async (number: number): Promise<ReadPart> => {
    const { name, channels, dataWindow } = parts[number];
    const planes = (await read(number)) as ReadPart['planes'];
    return { name, channels, planes, width: boxWidth(dataWindow), height: boxHeight(dataWindow) };
  };
  const found: ReadPart[] = [];
  for (let k = 0; k < numbers.length; k += AT_ONCE)
    found.push(...(await Promise.all(numbers.slice(k, k + AT_ONCE).map(whole))));
  return layersOf(found);
}

/** Layers of a film by their names; those that denoising changed as it left them. */
export async function layersNamed(
  film: OpenedFilm,
  made: OpenedMade | null,
  names: readonly string[],
): Promise<FilmLayers> {
  const kept = made ? layersIn(made.film) : [];
  const changed = names.filter((n) => kept.includes(n));
  const needed = new Set(made ? changed.flatMap((n) => neededToBlend(n, kept, made.strengths)) : []);
  const plain = await readNamed(film, (n) => names.includes(n) || needed.has(n));
  if (!made || changed.length === 0) return plain;
  const other = await readNamed(made.film, (n) => needed.has(n));
  const blended = changed.map((n) => [n, blendLayer(n, kept, plain, other, made.strengths)] as const);
  return { ...plain, layers: new Map([...plain.layers, ...blended]) };
}

/** A part with its changed layers denoised; `layerOf` tells the layer of each of its channels. */
function denoisedPart(film: OpenedFilm, made: OpenedMade, part: LatePart, layerOf: readonly string[]): LatePart {
  const kept = layersIn(made.film);
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
      const names = [...new Set(layerOf)].filter((n) => kept.includes(n));
      const blended = (await layersNamed(film, made, names)).layers;
      return part.channels.map((c, i) => {
        const layer = blended.get(layerOf[i]);
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

/**
 * The parts of a file of chosen layers, each made when its turn comes: those that the film keeps, then masks, openness and
 * remainders, which are made of others. Throws where the film does not keep what one is made of.
 */
export async function cutParts(
  film: OpenedFilm,
  { layers, masks = {}, written = layers, reachMetres = null, denoised = 'no', ...writing }: Omit<Cut, 'parting'>,
  made: OpenedMade | null = null,
): Promise<LatePart[]> {
  const there = layersInFile(film.parts);
  const placed = (name: string) => {
    const place = there.find((l) => l.name === name);
    if (!place) throw new Error(`the film does not keep ${name}`);
    return place;
  };
  const chosen = there.filter((l) => layers.includes(l.name));
  const parts: LatePart[] = [];
  // Beauty and alpha share a part; every other layer has one, and with it a depth of its own.
  for (const name of new Set(chosen.map((l) => partOf(l.name)))) {
    const own = chosen.filter((l) => partOf(l.name) === name);
    const [{ part: index }] = own;
    const header = film.parts[index];
    const layerOf = header.channels.map((_, i) => own.find((l) => l.channels.includes(i))?.name);
    const keep = layerOf.map((l) => l !== undefined);
    const part = { ...(await cutPart(header, () => film.read(index), keep, own[0].name, writing)), name };
    const changes = made && denoised !== 'no' ? layersIn(made.film).filter((n) => own.some((l) => l.name === n)) : [];
    if (!made || changes.length === 0) {
      parts.push(part);
      continue;
    }
    const other = denoisedPart(
      film,
      made,
      part,
      layerOf.flatMap((l) => l ?? []),
    );
    if (denoised === 'instead') parts.push(other);
    else parts.push(part, besidePart(other));
  }
  for (const layer of layers.filter((n) => Object.hasOwn(masks, n))) {
    const needs = maskNeeds(masks[layer]).map(placed);
    const named = async () => {
      const of = new Map<string, { channels: string[]; planes: Float32Array[] }>();
      for (const { name, part, channels } of needs) {
        const planes = (await film.read(part)) as Float32Array[];
        of.set(name, {
          channels: channels.map((c) => film.parts[part].channels[c].name),
          planes: channels.map((c) => planes[c]),
        });
      }
      return of;
    };
    parts.push(await maskPart(film.parts[needs[0].part], named, layer, masks[layer], writing));
  }
  const bands = there.find((l) => l.name === OPENNESS.bands);
  if (bands && layers.includes(OPENNESS.layer) && !there.some((l) => l.name === OPENNESS.layer)) {
    const read = async () => (await film.read(bands.part)) as Float32Array[];
    parts.push(await opennessPart(film.parts[bands.part], read, reachMetres, writing));
  }
  for (const layer of layers.filter((n) => restFamily(n) !== null)) {
    const less = there.filter(
      (l) => layerInfo(l.name).family === restFamily(layer) && writes({ layers: written }, l.name),
    );
    const names = less.map((l) => l.name);
    const read = (n: readonly string[]) => layersNamed(film, denoised === 'instead' ? made : null, n);
    parts.push(await restPart(film.parts[placed('beauty').part], layer, names, read, writing));
  }
  return parts;
}

/** The same as they stand in a file: named by the prefix, in one part or many. */
export async function fileParts(
  film: OpenedFilm,
  { parting, prefix = '', ...cut }: Cut,
  made: OpenedMade | null = null,
): Promise<LatePart[]> {
  const parts = (await cutParts(film, cut, made)).map((p) => prefixed(p, prefix));
  return parting === 'one' ? [inOnePart(parts)] : parts;
}
