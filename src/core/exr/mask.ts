import type { Layer } from '../film';
import { maskBits } from './cryptomatte';
import { madePart, type Writing } from './cut';
import { ExrError, type PartHeader } from './types';
import type { LatePart } from './write';

/** What a mask picks of a coverage layer: by name, as files have it, and by number + 1, as films have it in memory. */
export interface Picked {
  names: readonly string[];
  numbers: readonly number[];
}

/** Ranks of a coverage layer, each the identifier and the share of every pixel. */
export interface Ranks {
  /** Whether identifiers are numbers, as in memory, and not hashes of names. */
  numbered: boolean;
  ranks: { id: Float32Array; share: Float32Array }[];
}

const PLACE: Record<string, number> = { r: 0, g: 1, b: 2, a: 3 };
const ROOT = ['r', 'g', 'b', 'a', 'red', 'green', 'blue', 'alpha'];

/** Where a channel stands among a Cryptomatte’s: `name01.G` is the fifth, counted from 0; null for any other. */
function slotOf(channel: string, mask: string | null): number | null {
  const dot = channel.lastIndexOf('.');
  const last = channel.slice(dot + 1).toLowerCase();
  const [, stem, level] = /^(.*?)(\d\d)$/s.exec(channel.slice(0, Math.max(0, dot))) ?? [];
  if (level === undefined || !ROOT.includes(last) || (mask !== null && stem !== mask)) return null;
  return Number(level) * 4 + PLACE[last[0]];
}

/** Ranks of planes by the names of their channels: pairs of `id0`, `share0`, or Cryptomatte’s `name00.R` … `name00.A`. */
export function ranksOf(channels: readonly string[], planes: readonly Float32Array[]): Ranks {
  if (channels[0]?.startsWith('id')) {
    const ranks = Array.from({ length: planes.length >> 1 }, (_, r) => ({
      id: planes[r * 2],
      share: planes[r * 2 + 1],
    }));
    return { numbered: true, ranks };
  }
  const slots = new Map(channels.map((c, i) => [slotOf(c, null), planes[i]]));
  const ranks: Ranks['ranks'] = [];
  for (let r = 0; slots.has(r * 2) && slots.has(r * 2 + 1); r++)
    ranks.push({ id: slots.get(r * 2)!, share: slots.get(r * 2 + 1)! });
  return { numbered: false, ranks };
}

/** The share of each pixel, 0 to 1, that what is picked covers. */
export function coverageOf(
  { channels, planes }: Pick<Layer, 'channels' | 'planes'>,
  picked: Picked | { ids: ReadonlySet<number> },
): Float32Array {
  const { numbered, ranks } = ranksOf(channels, planes);
  const out = new Float32Array(planes[0].length);
  const wanted = 'ids' in picked ? picked.ids : new Set(numbered ? picked.numbers : picked.names.map(maskBits));
  for (const { id, share } of ranks) {
    const ids = numbered ? id : new Uint32Array(id.buffer, id.byteOffset, id.length);
    for (let i = 0; i < out.length; i++) if (share[i] > 0 && wanted.has(ids[i])) out[i] += share[i];
  }
  for (let i = 0; i < out.length; i++) out[i] = Math.min(1, out[i]);
  return out;
}

/** A mask’s plane as a part of a file, made of the channels of the film’s coverage when its turn comes; float, without loss. */
export function maskPart(
  header: PartHeader,
  read: () => Promise<readonly (Float32Array | Uint32Array)[]>,
  layer: string,
  picked: Picked,
  writing: Writing,
): Promise<LatePart> {
  const channels = header.channels.map((c) => c.name);
  const make = async () => [coverageOf({ channels, planes: (await read()) as Float32Array[] }, picked)];
  const picks = { 'lantern:picks': { type: 'string' as const, value: picked.names.join('\n') } };
  return madePart(header, { name: layer, channels: ['Y'] }, make, writing, picks);
}

/** A Cryptomatte of a file: its name, where its channels are, and the names that its manifest has. */
export interface FileMask {
  name: string;
  /** Channels in the order of their ranks, each by the number of its part and its own there. */
  channels: { part: number; channel: number; name: string }[];
  /** Identifier by name. Null where the manifest lies in another file, which is named instead. */
  manifest: Map<string, number> | null;
  manifestFile: string | null;
}

/** Names and identifiers of a manifest. Throws `ExrError` where it is none. */
export function readManifest(text: string, where: string): Map<string, number> {
  let entries: unknown;
  try {
    entries = JSON.parse(text);
  } catch {
    throw new ExrError(`${where}: the manifest is no JSON`, null);
  }
  if (typeof entries !== 'object' || entries === null || Array.isArray(entries))
    throw new ExrError(`${where}: the manifest is no list of names`, null);
  const out = new Map<string, number>();
  for (const [name, hex] of Object.entries(entries)) {
    if (typeof hex !== 'string' || !/^[0-9a-f]{1,8}$/i.test(hex))
      throw new ExrError(`${where}: the identifier of ${name.slice(0, 60)} is no hexadecimal number`, null);
    out.set(name, Number.parseInt(hex, 16));
  }
  return out;
}

/** Channels of a Cryptomatte: `name00.R` in any part, or bare ones of a part that is called `name00`. */
function channelsOf(parts: readonly PartHeader[], mask: string): FileMask['channels'] {
  const found = parts.flatMap((p, part) =>
    p.channels.flatMap((c, channel) => {
      const name = c.name.includes('.') ? c.name : `${p.name}.${c.name}`;
      const slot = slotOf(name, mask);
      return slot === null ? [] : [{ slot, part, channel, name }];
    }),
  );
  return found.sort((a, b) => a.slot - b.slot).map(({ slot: _slot, ...rest }) => rest);
}

/** All Cryptomattes of a file by its headers, as the open specification 1.2 has them. Throws `ExrError` for a broken one. */
export function masksInFile(parts: readonly PartHeader[]): FileMask[] {
  const out: FileMask[] = [];
  for (const { attributes } of parts) {
    const text = (key: string) => {
      const a = attributes[key];
      return a?.type === 'string' ? a.value : null;
    };
    for (const key of Object.keys(attributes)) {
      const [head, id, field] = key.split('/');
      if (head !== 'cryptomatte' || field !== 'name') continue;
      const name = text(key) ?? '';
      const at = (f: string) => text(`cryptomatte/${id}/${f}`);
      const hash = at('hash') ?? 'MurmurHash3_32';
      const conversion = at('conversion') ?? 'uint32_to_float32';
      if (hash !== 'MurmurHash3_32' || conversion !== 'uint32_to_float32')
        throw new ExrError(`mask ${name}: ${hash} with ${conversion} is not read`, null);
      const manifest = at('manifest');
      if (out.some((m) => m.name === name)) continue;
      out.push({
        name,
        channels: channelsOf(parts, name),
        manifest: manifest === null ? null : readManifest(manifest, `mask ${name}`),
        manifestFile: at('manif_file'),
      });
    }
  }
  return out;
}
