import { type FilmLayers, isExact, type Layer, OPEN_REACHES, OPENNESS, opennessAt, reachNumber, restOf } from '../film';
import { fitsHalf } from './codecs/numbers';
import { type Depth, layerOfChannel, MEMBERS, PREFIX, pixelTypeOf, type ReadPart } from './film-file';
import {
  type Channel,
  COMPRESSIONS,
  type Compression,
  isLossy,
  type Part,
  type PartHeader,
  type PixelType,
} from './types';
import type { LatePart } from './write';

/** How layers are written. */
export interface Writing {
  depth: Depth;
  compression: Compression;
  /** Side of tiles in pixels; lines where there is none. */
  tilePx?: number | null;
}

const tilesOf = ({ tilePx }: Writing): PartHeader['tiles'] =>
  tilePx ? { width: tilePx, height: tilePx, levels: 'one', roundsUp: false } : undefined;

/** A layer of a file: its part, and which of that part's channels are its own. */
export interface FileLayer {
  name: string;
  part: number;
  channels: number[];
}

/** The layers of a file by its headers, in order. Parts with bare R G B A are told apart as when a film is read. */
export function layersInFile(
  parts: readonly (Pick<PartHeader, 'name' | 'channels'> & Partial<Pick<PartHeader, 'attributes'>>)[],
): FileLayer[] {
  const found = new Map<string, FileLayer>();
  parts.forEach((part, p) => {
    part.channels.forEach((c, i) => {
      const name = layerOfChannel(parts, part, c.name);
      const known = found.get(name);
      if (known?.part === p) known.channels.push(i);
      else if (!known) found.set(name, { name, part: p, channels: [i] });
    });
  });
  return [...found.values()];
}

/**
 * How a layer is stored of what is asked for: exact ones as floats without loss, light that half does not hold as floats,
 * and not packed by what takes floats through half.
 */
async function storedAs(
  name: string,
  { depth, compression }: Writing,
  planes: () => Promise<Float32Array[]>,
): Promise<{ type: PixelType; compression: Compression }> {
  if (isExact(name)) return { type: 'float', compression: isLossy(compression) ? 'zip' : compression };
  const { throughHalf = false } = COMPRESSIONS[compression];
  const needed = depth !== 'float' || throughHalf ? await planes() : [];
  const type = pixelTypeOf({ name, channels: [], planes: needed, kind: 'color' }, depth);
  return { type, compression: throughHalf && !needed.every(fitsHalf) ? 'zip' : compression };
}

/**
 * A part with some of its channels alone, as it is written anew; `keep` says which, `layer` of what layer they are. Whether half
 * holds them is told by their pixels, which are read for it.
 */
export async function cutPart(
  header: PartHeader,
  read: () => Promise<readonly ReadPart['planes'][number][]>,
  keep: readonly boolean[],
  layer: string,
  writing: Writing,
): Promise<LatePart> {
  const planes = async () => (await read()).filter((_, i) => keep[i]) as Part['planes'];
  const how = await storedAs(layer, writing, planes as () => Promise<Float32Array[]>);
  const channels = header.channels.filter((_, i) => keep[i]).map((c) => ({ name: c.name, type: how.type }));
  return { ...header, tiles: tilesOf(writing), compression: how.compression, channels, planes };
}

/** A part of a layer that is made when its turn comes, beside `header`'s; half where that holds it, exact layers without loss. */
export async function madePart(
  header: PartHeader,
  { name, channels }: Pick<Layer, 'name' | 'channels'>,
  make: () => Promise<Float32Array[]>,
  writing: Writing,
  attributes: PartHeader['attributes'] = {},
): Promise<LatePart> {
  const how = await storedAs(name, writing, make);
  const own = Object.entries(header.attributes).filter(([key]) => !key.startsWith('cryptomatte/') && key !== MEMBERS);
  return {
    ...header,
    tiles: tilesOf(writing),
    name,
    compression: how.compression,
    channels: channels.map((c) => ({ name: `${name}.${c}`, type: how.type })),
    attributes: { ...Object.fromEntries(own), ...attributes },
    planes: make,
  };
}

/** Openness up to a reach as a part, made of the film's openness by reach when its turn comes. */
export function opennessPart(
  header: PartHeader,
  read: () => Promise<readonly (Float32Array | Uint32Array)[]>,
  reachMetres: number | null,
  writing: Writing,
): Promise<LatePart> {
  const make = async () => {
    const planes = (await read()) as Float32Array[];
    // A file has its channels sorted, as their names are here: b00, b01 … open.
    return [opennessAt(planes, reachMetres)];
  };
  const reach = reachMetres === null ? 'to the end' : `${OPEN_REACHES[reachNumber(reachMetres)].toFixed(3)} m`;
  const said = { 'lantern:reach': { type: 'string' as const, value: reach } };
  return madePart(header, { name: OPENNESS.layer, channels: ['Y'] }, make, writing, said);
}

/** The remainder of a family as a part: the beauty less `less`, read by their names when its turn comes. */
export function restPart(
  header: PartHeader,
  layer: string,
  less: readonly string[],
  read: (names: readonly string[]) => Promise<FilmLayers>,
  writing: Writing,
): Promise<LatePart> {
  const make = async () => {
    const { layers } = await read(['beauty', ...less]);
    const parts = less.map((n) => layers.get(n)!);
    return restOf(layers.get('beauty')!.planes, parts);
  };
  return madePart(header, { name: layer, channels: ['R', 'G', 'B'] }, make, writing);
}

/**
 * A part whose layers are called by a prefix and their names. Bare channels of the beauty and those of ids stay as they are: by
 * them others know what they are.
 */
export function prefixed(part: LatePart, prefix: string): LatePart {
  const isKnown = Object.keys(part.attributes).some((key) => key.startsWith('cryptomatte/'));
  if (prefix === '' || isKnown || part.channels.every((c) => !c.name.includes('.'))) return part;
  const named = (c: Channel): Channel => (c.name.includes('.') ? { ...c, name: `${prefix}${c.name}` } : c);
  return {
    ...part,
    name: `${prefix}${part.name}`,
    channels: part.channels.map(named),
    attributes: { ...part.attributes, [PREFIX]: { type: 'string', value: prefix } },
  };
}

/** All channels of several parts in one; packed without loss where one of them is not to lose any. */
export function inOnePart(parts: readonly LatePart[]): LatePart {
  return {
    ...(parts.find((p) => !isLossy(p.compression)) ?? parts[0]),
    name: 'rgba',
    channels: parts.flatMap((p) => p.channels),
    planes: async () => {
      const all: Part['planes'] = [];
      for (const p of parts) all.push(...(await p.planes()));
      return all;
    },
    attributes: Object.assign({}, ...parts.map((p) => p.attributes)),
  };
}
