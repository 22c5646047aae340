import { endsWithAlpha, type Layer, type Ramp, ramped } from '../film';
import { maskBits } from './cryptomatte';
import { madePart, type Writing } from './cut';
import { ExrError, type PartHeader } from './types';
import type { LatePart } from './write';

/** What a mask picks of a coverage layer: by name, as files have it, and by number + 1, as films have it in memory. */
export interface Picked {
  names: readonly string[];
  numbers: readonly number[];
}

/** What a mask is made of: what it picks of coverage, all of the picture where that is null, times a ramp of data. */
export interface Masking {
  picked: Picked | null;
  ramp: Ramp | null;
}

/** Layers that a mask is made of. */
export const maskNeeds = ({ picked, ramp }: Masking): string[] => [
  ...(picked ? ['coverage'] : []),
  ...(ramp ? [ramp.layer] : []),
  ...(ramp && endsWithAlpha(ramp.layer) ? ['alpha'] : []),
];

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

type Named = Pick<Layer, 'channels' | 'planes'>;

/** The plane of a channel; channels of files are called by their layer as well. */
const planeOf = ({ channels, planes }: Named, channel: string): Float32Array | undefined =>
  planes[channels.findIndex((c) => c.slice(c.lastIndexOf('.') + 1) === channel)];

/** A mask's plane, 0 to 1, of the layers that it needs, in memory or as a file has them; null where one of them is missing. */
export function maskValues(
  layerOf: (name: string) => Named | undefined,
  { picked, ramp }: Masking,
): Float32Array | null {
  const coverage = picked && layerOf('coverage');
  const data = ramp && layerOf(ramp.layer);
  const alpha = ramp && endsWithAlpha(ramp.layer) ? layerOf('alpha') : null;
  const plane = data && planeOf(data, ramp.channel);
  const seen = alpha ? planeOf(alpha, 'A') : null;
  if ((picked && !coverage) || (ramp && !plane) || alpha === undefined || (!picked && !ramp)) return null;
  const share = coverage && coverageOf(coverage, picked);
  const led = plane && ramped(plane, ramp!, seen);
  if (!share || !led) return share || led || null;
  for (let i = 0; i < share.length; i++) share[i] *= led[i];
  return share;
}

/** A mask’s plane as a part of a file, made of the layers that it needs when its turn comes; float, without loss. */
export function maskPart(
  header: PartHeader,
  read: (layers: readonly string[]) => Promise<ReadonlyMap<string, Named>>,
  layer: string,
  masking: Masking,
  writing: Writing,
): Promise<LatePart> {
  const make = async () => {
    const layers = await read(maskNeeds(masking));
    const values = maskValues((name) => layers.get(name), masking);
    if (!values) throw new Error(`${layer}: the film lacks ${maskNeeds(masking).join(' or ')}`);
    return [values];
  };
  const { picked, ramp } = masking;
  const said = (value: string) => ({ type: 'string' as const, value });
  return madePart(header, { name: layer, channels: ['Y'] }, make, writing, {
    ...(picked ? { 'lantern:picks': said(picked.names.join('\n')) } : {}),
    ...(ramp ? { 'lantern:ramp': said(`${ramp.layer}.${ramp.channel} from ${ramp.from} to ${ramp.to}`) } : {}),
  });
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
