import { z } from 'zod';
import {
  COVERAGE_RANKS,
  type FilmLayers,
  isExact,
  isMask,
  type Layer,
  layerInfo,
  MASK_LAYERS,
  type MaskLayer,
} from '../film';
import { fitsHalf, halfIsSafe } from './codecs/numbers';
import { maskHex, maskId, maskKey } from './cryptomatte';
import type { Attribute, Box, Compression, Part, PixelType } from './types';
import type { LatePart } from './write';

export type Depth = 'auto' | 'half' | 'float';

/** Name of a mask in files. */
const maskName = (layer: MaskLayer) => `mask_${MASK_LAYERS[layer]}`;

/** The pixel type of a layer at the wished depth: `auto` takes half where it is safe, `half` wherever no value would become infinite. */
export function pixelTypeOf(layer: Layer, depth: Depth): PixelType {
  if (isExact(layer.name)) return 'float';
  if (depth === 'float') return depth;
  return layer.planes.every(depth === 'half' ? fitsHalf : halfIsSafe) ? 'half' : 'float';
}

export interface FilmFileOptions {
  layers: string[];
  depth: Depth;
  compression: Compression;
  /** One part a layer, or all channels in one part. */
  multiPart: boolean;
  dataWindow: Box;
  displayWindow: Box;
  attributes: Record<string, Attribute>;
  /** Names by number of what each mask tells apart, for its manifest. */
  maskNames: Record<MaskLayer, string[]>;
  /** Material of each object and objects of each set by name: what masks of materials and sets are made of. */
  members?: Members;
}

const membersSchema = z.object({
  materials: z.record(z.string(), z.string()),
  sets: z.record(z.string(), z.array(z.string())),
});
/** Which material objects have, and which objects are in sets. */
export type Members = z.infer<typeof membersSchema>;

/** Attribute of the part with the mask by object. */
export const MEMBERS = 'lantern:members';

/** What a file of ours says of the materials and sets of its objects; nothing of either where it does not say. */
export function membersIn(parts: readonly { attributes: Record<string, Attribute> }[]): Members {
  const found = parts.map((p) => p.attributes[MEMBERS]).find((a) => a?.type === 'string');
  let said: unknown = null;
  try {
    said = found?.type === 'string' ? JSON.parse(found.value) : null;
  } catch {
    // Said in no words of ours: nothing is known.
  }
  return membersSchema.safeParse(said).data ?? { materials: {}, sets: {} };
}

interface NamedChannels {
  name: string;
  channels: { name: string; plane: Float32Array; type: PixelType }[];
  attributes: Record<string, Attribute>;
}

/** Beauty and alpha make the root layer R G B A; a mask layer follows the Cryptomatte specification. */
function channelsOf(layer: Layer, options: FilmFileOptions): NamedChannels {
  const type = pixelTypeOf(layer, options.depth);
  if (layer.name === 'beauty' || layer.name === 'alpha') {
    return {
      name: 'rgba',
      attributes: {},
      channels: layer.channels.map((c, i) => ({ name: c, plane: layer.planes[i], type })),
    };
  }
  if (isMask(layer.name)) return maskChannels(layer, layer.name, options);
  return {
    name: layer.name,
    attributes: {},
    channels: layer.channels.map((c, i) => ({ name: `${layer.name}.${c}`, plane: layer.planes[i], type })),
  };
}

/** Channels of a mask as the Cryptomatte specification names them: rank by rank, identifier and share. */
const maskChannelNames = (mask: string): string[] =>
  Array.from({ length: COVERAGE_RANKS }, (_, r) => {
    const rank = String(r >> 1).padStart(2, '0');
    return (r % 2 === 0 ? ['R', 'G'] : ['B', 'A']).map((c) => `${mask}${rank}.${c}`);
  }).flat();

function maskAttributes(
  layer: MaskLayer,
  { maskNames, members }: Pick<FilmFileOptions, 'maskNames' | 'members'>,
): Record<string, Attribute> {
  const mask = maskName(layer);
  const key = maskKey(mask);
  const manifest = Object.fromEntries(maskNames[layer].map((n) => [n, maskHex(n)]));
  return {
    [`${key}/name`]: { type: 'string', value: mask },
    [`${key}/hash`]: { type: 'string', value: 'MurmurHash3_32' },
    [`${key}/conversion`]: { type: 'string', value: 'uint32_to_float32' },
    [`${key}/manifest`]: { type: 'string', value: JSON.stringify(manifest) },
    ...(layer === 'coverage' && members ? { [MEMBERS]: { type: 'string', value: JSON.stringify(members) } } : {}),
  };
}

function maskChannels(layer: Layer, own: MaskLayer, options: FilmFileOptions): NamedChannels {
  const mask = maskName(own);
  const ids = [0, ...options.maskNames[own].map(maskId)];
  const planes = layer.planes.map((plane, k) => (k % 2 === 0 ? plane.map((n) => ids[n] ?? 0) : plane));
  return {
    name: mask,
    channels: maskChannelNames(mask).map((name, k) => ({ name, plane: planes[k], type: 'float' })),
    attributes: maskAttributes(own, options),
  };
}

/** Names in files of a layer's channels. */
function channelNames(layer: string): string[] {
  const { channels } = layerInfo(layer);
  if (layer === 'beauty' || layer === 'alpha') return [...channels];
  return isMask(layer) ? maskChannelNames(maskName(layer)) : channels.map((c) => `${layer}.${c}`);
}

/**
 * The parts of a file that keeps a film whole, as 32-bit floats without compression: `make` gives a layer when its part's turn
 * comes, so that one part at a time is in memory.
 */
export function lateFilmParts(
  layers: readonly string[],
  make: (layer: string) => Layer,
  options: Omit<FilmFileOptions, 'layers' | 'depth' | 'compression' | 'multiPart'>,
): LatePart[] {
  const parts = new Map<string, string[]>();
  for (const layer of layers) parts.set(partOf(layer), [...(parts.get(partOf(layer)) ?? []), layer]);
  const whole: FilmFileOptions = { ...options, layers: [], depth: 'float', compression: 'none', multiPart: true };
  return [...parts].map(([name, own]) => ({
    name,
    compression: 'none',
    dataWindow: options.dataWindow,
    displayWindow: options.displayWindow,
    channels: own.flatMap(channelNames).map((channel) => ({ name: channel, type: 'float' })),
    attributes: Object.assign({}, options.attributes, ...own.map((l) => (isMask(l) ? maskAttributes(l, options) : {}))),
    planes: () => own.flatMap((l) => channelsOf(make(l), whole).channels.map((c) => c.plane)),
  }));
}

/** The parts of an OpenEXR file of chosen layers, for `writeExr`. Throws when a layer is missing. */
export function filmParts(film: FilmLayers, options: FilmFileOptions): Part[] {
  const groups = new Map<string, NamedChannels>();
  for (const name of options.layers) {
    const layer = film.layers.get(name);
    if (!layer) throw new Error(`the film has no layer ${name}`);
    const made = channelsOf(layer, options);
    const known = groups.get(made.name);
    if (known) known.channels.push(...made.channels);
    else groups.set(made.name, made);
  }
  const base = {
    compression: options.compression,
    dataWindow: options.dataWindow,
    displayWindow: options.displayWindow,
  };
  const part = (name: string, list: NamedChannels[]): Part => ({
    ...base,
    name,
    channels: list.flatMap((g) => g.channels.map((c) => ({ name: c.name, type: c.type }))),
    planes: list.flatMap((g) => g.channels.map((c) => c.plane)),
    attributes: Object.assign({}, options.attributes, ...list.map((g) => g.attributes)),
  });
  const all = [...groups.values()];
  return options.multiPart ? all.map((g) => part(g.name, [g])) : [part('rgba', all)];
}

/** A part of a file that was read. */
export interface ReadPart {
  name: string;
  channels: { name: string }[];
  planes: (Float32Array | Uint32Array)[];
  width: number;
  height: number;
  attributes?: Record<string, Attribute>;
}

const ROOT = ['R', 'G', 'B', 'A'];
const isBare = (channel: string) => !channel.includes('.');

type Named = Pick<ReadPart, 'name' | 'channels' | 'attributes'>;

/** Attribute of a part whose layers are called by more than their names: what stands before them. */
export const PREFIX = 'lantern:prefix';

/** A name of a part without what was set before it. */
function plain({ attributes }: Named, name: string): string {
  const said = attributes?.[PREFIX];
  const prefix = said?.type === 'string' ? said.value : '';
  return name.startsWith(prefix) ? name.slice(prefix.length) : name;
}

/** The part whose bare R G B A are the beauty: the one named so, or else the only one that has any. */
function beautyPart<P extends Named>(parts: readonly P[]): P | undefined {
  const bare = parts.filter((p) => p.channels.some((c) => ROOT.includes(c.name)));
  return (
    bare.find((p) => ['rgba', 'beauty', ''].includes(p.name.toLowerCase())) ?? (bare.length === 1 ? bare[0] : undefined)
  );
}

/** Layer of a channel of a file whose beauty lies in `beauty`. */
function layerIn(beauty: Named | undefined, part: Named, channel: string): string {
  if (!isBare(channel)) return plain(part, channel.slice(0, channel.lastIndexOf('.')));
  if (part !== beauty) return plain(part, part.name) || channel;
  if (channel === 'A') return 'alpha';
  return ROOT.includes(channel) ? 'beauty' : channel;
}

/** Layer of a channel of a part among all parts of a file; channels of a mask are of one layer, whatever their rank. */
export function layerOfChannel(parts: readonly Named[], part: Named, channel: string): string {
  const name = layerIn(beautyPart(parts), part, channel);
  const mask = (Object.keys(MASK_LAYERS) as MaskLayer[]).find((m) => new RegExp(`^${maskName(m)}\\d\\d$`).test(name));
  return mask ?? name;
}

const lastName = (channel: string) => channel.slice(channel.lastIndexOf('.') + 1);

/** Parts without the channels of some layers, and without those that have none left. */
function without<P extends ReadPart>(parts: readonly P[], but: readonly string[]): readonly P[] {
  if (but.length === 0) return parts;
  const beauty = beautyPart(parts);
  return parts
    .map((part) => {
      const stays = part.channels.map((c) => !but.includes(layerIn(beauty, part, c.name)));
      return {
        ...part,
        channels: part.channels.filter((_, i) => stays[i]),
        planes: part.planes.filter((_, i) => stays[i]),
      };
    })
    .filter((part) => part.channels.length > 0);
}

/** Parts of a file with the planes that `film` has for their channels, as they were where it has none, and without the layers of `but`. */
export function withLayers<P extends ReadPart>(
  parts: readonly P[],
  film: FilmLayers,
  but: readonly string[] = [],
): P[] {
  const kept = without(parts, but);
  const beauty = beautyPart(kept);
  return kept.map((part) => ({
    ...part,
    planes: part.channels.map((c, i) => {
      const layer = film.layers.get(layerIn(beauty, part, c.name));
      const at = layer?.channels.indexOf(lastName(c.name)) ?? -1;
      const fits = part.width === film.width && part.height === film.height;
      return layer && at >= 0 && fits && part.planes[i] instanceof Float32Array ? layer.planes[at] : part.planes[i];
    }),
  }));
}

/**
 * Layers of a file read back: channels gathered by what stands before the last dot, bare ones by the name of their part, or
 * by their own where the part is that of the beauty. Parts of another size than the beauty's, or the first's, are told in
 * `leftOut`.
 */
export function layersOf(parts: readonly ReadPart[]): FilmLayers & { leftOut: string[] } {
  const layers = new Map<string, Layer>();
  const beauty = beautyPart(parts);
  const { width, height } = beauty ?? parts[0];
  const leftOut: string[] = [];
  for (const p of parts) {
    if (p.width !== width || p.height !== height) {
      leftOut.push(`part ${p.name || 'without a name'} is ${p.width}×${p.height}, not ${width}×${height}`);
      continue;
    }
    p.channels.forEach((c, i) => {
      const channel = lastName(c.name);
      const name = layerIn(beauty, p, c.name);
      const plane =
        p.planes[i] instanceof Float32Array ? (p.planes[i] as Float32Array) : Float32Array.from(p.planes[i]);
      const layer: Layer = layers.get(name) ?? { name, channels: [], planes: [], kind: 'color' };
      layer.channels.push(channel);
      layer.planes.push(plane);
      layers.set(name, layer);
    });
  }
  for (const layer of layers.values()) {
    const rgb = ['R', 'G', 'B'].map((c) => layer.channels.indexOf(c));
    if (layer.channels.length === 3 && rgb.every((i) => i >= 0)) {
      layer.planes = rgb.map((i) => layer.planes[i]);
      layer.channels = ['R', 'G', 'B'];
    } else layer.kind = 'data';
  }
  return { width, height, layers, leftOut };
}

/** Name of the part that holds a layer. */
export function partOf(layer: string): string {
  if (layer === 'beauty' || layer === 'alpha') return 'rgba';
  return isMask(layer) ? maskName(layer) : layer;
}
