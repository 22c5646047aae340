import { COVERAGE_RANKS, type FilmLayers, isExact, isMask, type Layer, MASK_LAYERS, type MaskLayer } from '../film';
import { maskHex, maskId, murmur3 } from './cryptomatte';
import { halfIsSafe } from './half';
import type { Attribute, Box, Compression, Part, PixelType } from './types';

export type Depth = 'auto' | 'half' | 'float';

/** Name of a mask in files. */
const maskName = (layer: MaskLayer) => `mask_${MASK_LAYERS[layer]}`;

/** The pixel type of a layer at the wished depth: `auto` takes half where it is safe. */
export function pixelTypeOf(layer: Layer, depth: Depth): PixelType {
  if (isExact(layer.name)) return 'float';
  if (depth !== 'auto') return depth;
  return layer.planes.every(halfIsSafe) ? 'half' : 'float';
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
  if (isMask(layer.name)) return maskChannels(layer, maskName(layer.name), options.maskNames[layer.name]);
  return {
    name: layer.name,
    attributes: {},
    channels: layer.channels.map((c, i) => ({ name: `${layer.name}.${c}`, plane: layer.planes[i], type })),
  };
}

function maskChannels(layer: Layer, mask: string, names: string[]): NamedChannels {
  const ids = [0, ...names.map(maskId)];
  const channels: NamedChannels['channels'] = [];
  for (let r = 0; r < COVERAGE_RANKS; r++) {
    const src = layer.planes[r * 2];
    const id = new Float32Array(src.length);
    for (let i = 0; i < src.length; i++) id[i] = ids[src[i]] ?? 0;
    const suffix = r % 2 === 0 ? ['R', 'G'] : ['B', 'A'];
    const rank = String(r >> 1).padStart(2, '0');
    channels.push({ name: `${mask}${rank}.${suffix[0]}`, plane: id, type: 'float' });
    channels.push({ name: `${mask}${rank}.${suffix[1]}`, plane: layer.planes[r * 2 + 1], type: 'float' });
  }
  const key = `cryptomatte/${murmur3(mask).toString(16).padStart(8, '0').slice(0, 7)}`;
  const manifest = Object.fromEntries(names.map((n) => [n, maskHex(n)]));
  return {
    name: mask,
    channels,
    attributes: {
      [`${key}/name`]: { type: 'string', value: mask },
      [`${key}/hash`]: { type: 'string', value: 'MurmurHash3_32' },
      [`${key}/conversion`]: { type: 'string', value: 'uint32_to_float32' },
      [`${key}/manifest`]: { type: 'string', value: JSON.stringify(manifest) },
    },
  };
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

/** Layers of a file read back: channels gathered by what stands before the last dot. */
export function layersOf(
  parts: { channels: { name: string }[]; planes: (Float32Array | Uint32Array)[]; width: number; height: number }[],
): FilmLayers {
  const layers = new Map<string, Layer>();
  const { width, height } = parts[0];
  for (const p of parts) {
    if (p.width !== width || p.height !== height) continue;
    p.channels.forEach((c, i) => {
      const dot = c.name.lastIndexOf('.');
      const channel = c.name.slice(dot + 1);
      const name = dot < 0 ? (channel === 'A' ? 'alpha' : 'beauty') : c.name.slice(0, dot);
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
  return { width, height, layers };
}

/** Name of the part that holds a layer. */
export function partOf(layer: string): string {
  if (layer === 'beauty' || layer === 'alpha') return 'rgba';
  return isMask(layer) ? maskName(layer) : layer;
}
