import { isExact, type Layer } from '../film';
import { type Depth, layerOfChannel, pixelTypeOf, type ReadPart } from './film-file';
import { type Compression, isLossy, type Part, type PartHeader } from './types';
import type { LatePart } from './write';

/** How layers are written. */
export interface Writing {
  depth: Depth;
  compression: Compression;
}

/** A layer of a file: its part, and which of that part's channels are its own. */
export interface FileLayer {
  name: string;
  part: number;
  channels: number[];
}

/** The layers of a file by its headers, in order. Parts with bare R G B A are told apart as when a film is read. */
export function layersInFile(parts: readonly Pick<PartHeader, 'name' | 'channels'>[]): FileLayer[] {
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
 * A part with some of its channels alone, as it is written anew; `keep` says which, `layer` of what layer they are. Whether half
 * holds them is told by their pixels, which are read for it.
 */
export async function cutPart(
  header: PartHeader,
  read: () => Promise<readonly ReadPart['planes'][number][]>,
  keep: readonly boolean[],
  layer: string,
  { depth, compression }: Writing,
): Promise<LatePart> {
  const planes = async () => (await read()).filter((_, i) => keep[i]) as Part['planes'];
  const own: Layer = {
    name: layer,
    channels: [],
    planes: depth === 'float' ? [] : ((await planes()) as Float32Array[]),
    kind: 'color',
  };
  const type = pixelTypeOf(own, depth);
  const channels = header.channels.filter((_, i) => keep[i]).map((c) => ({ name: c.name, type }));
  // Depth, ids and the like keep every bit, whatever the rest is packed by.
  const packing = isLossy(compression) && isExact(layer) ? 'zip' : compression;
  return { ...header, compression: packing, channels, planes };
}

/** All channels of several parts in one. */
export function inOnePart(parts: readonly LatePart[]): LatePart {
  return {
    ...parts[0],
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
