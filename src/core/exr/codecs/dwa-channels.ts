import type { PixelType } from '../types';
import type { Block } from './block';

/** How DWA packs a channel: deflated as it is, by its cosines with loss, or by runs of its bytes. */
export const SCHEMES = ['plain', 'cosine', 'runs'] as const;
export type Scheme = (typeof SCHEMES)[number];

/** Which channels are packed how: by what stands behind the last dot of their names and by their type. */
export interface Rule {
  suffix: string;
  scheme: Scheme;
  /** Red, green or blue of a colour that is packed as brightness and two differences; −1 for none. */
  colour: number;
  type: PixelType;
  anyCase: boolean;
}

const rule = (suffix: string, type: PixelType, colour: number, anyCase: boolean, scheme: Scheme = 'cosine'): Rule => ({
  suffix,
  scheme,
  colour,
  type,
  anyCase,
});

/** What the library packs by: colours, brightness and its differences with loss as halves, coverage without. */
export const RULES: readonly Rule[] = [
  ...['R', 'G', 'B'].flatMap((s, i) => (['half', 'float'] as const).map((t) => rule(s, t, i, false))),
  ...['Y', 'BY', 'RY'].flatMap((s) => (['half', 'float'] as const).map((t) => rule(s, t, -1, false))),
  ...(['uint', 'half', 'float'] as const).map((t) => rule('A', t, -1, false, 'runs')),
];

/** What chunks without rules of their own were packed by: before version 2. */
export const OLD_RULES: readonly Rule[] = [
  ...[
    ['r', 'red'],
    ['g', 'grn', 'green'],
    ['b', 'blu', 'blue'],
  ].flatMap((names, i) => names.flatMap((s) => (['half', 'float'] as const).map((t) => rule(s, t, i, true)))),
  ...['y', 'by', 'ry'].flatMap((s) => (['half', 'float'] as const).map((t) => rule(s, t, -1, true))),
  ...(['uint', 'half', 'float'] as const).map((t) => rule('a', t, -1, true, 'runs')),
];

const parted = (name: string): [string, string] => {
  const dot = name.lastIndexOf('.');
  return dot < 0 ? ['', name] : [name.slice(0, dot), name.slice(dot + 1)];
};

/** Whether a rule is of a channel. */
export function isOf(r: Rule, name: string, type: PixelType): boolean {
  const [, suffix] = parted(name);
  return r.type === type && (r.anyCase ? r.suffix.toLowerCase() === suffix.toLowerCase() : r.suffix === suffix);
}

/** What a block's channels are packed as: the scheme of each, and the colours whose three are packed together. */
export interface Sorted {
  schemes: Scheme[];
  /** Channels red, green, blue of each colour, in the order in which they are packed. */
  colours: [number, number, number][];
}

/** Sorts channels by rules; of several that fit the last counts. */
export function sortChannels({ names, types }: Pick<Block, 'names' | 'types'>, rules: readonly Rule[]): Sorted {
  const schemes: Scheme[] = names.map(() => 'plain');
  const byPrefix = new Map<string, number[]>();
  names.forEach((name, c) => {
    for (const r of rules) {
      if (!isOf(r, name, types[c])) continue;
      schemes[c] = r.scheme;
      if (r.colour < 0) continue;
      const [prefix] = parted(name);
      const own = byPrefix.get(prefix) ?? [-1, -1, -1];
      own[r.colour] = c;
      byPrefix.set(prefix, own);
    }
  });
  const prefixes = [...byPrefix.keys()].sort((a, b) => (a < b ? -1 : 1));
  const colours = prefixes.map((p) => byPrefix.get(p)!).filter((own) => own.every((c) => c >= 0));
  return { schemes, colours: colours as [number, number, number][] };
}

/** Bytes of rules as a chunk of version 2 has them: the length of all, then suffix, flags and type of each. */
export function packRules(rules: readonly Rule[]): Uint8Array {
  const types: PixelType[] = ['uint', 'half', 'float'];
  const bytes = rules.flatMap((r) => [
    ...new TextEncoder().encode(r.suffix),
    0,
    ((r.colour + 1) << 4) | (SCHEMES.indexOf(r.scheme) << 2) | (r.anyCase ? 1 : 0),
    types.indexOf(r.type),
  ]);
  const length = bytes.length + 2;
  return Uint8Array.from([length & 255, length >> 8, ...bytes]);
}

/** The rules again, and how many bytes they took. Throws where the bytes are none. */
export function unpackRules(bytes: Uint8Array): { rules: Rule[]; length: number } {
  if (bytes.length < 2) throw new Error('the chunk is cut short');
  const length = bytes[0] | (bytes[1] << 8);
  if (length < 2 || length > bytes.length) throw new Error('rules of channels end beyond the chunk');
  const types: PixelType[] = ['uint', 'half', 'float'];
  const rules: Rule[] = [];
  for (let at = 2; at < length; ) {
    const end = bytes.indexOf(0, at);
    if (end < 0 || end + 2 >= length) throw new Error('a rule of channels is cut short');
    const [flags, type] = [bytes[end + 1], bytes[end + 2]];
    const scheme = (flags >> 2) & 3;
    const colour = (flags >> 4) - 1;
    if (scheme >= SCHEMES.length || type >= types.length || colour > 2)
      throw new Error('a rule of channels that is none');
    rules.push({
      suffix: new TextDecoder().decode(bytes.subarray(at, end)),
      scheme: SCHEMES[scheme],
      colour,
      type: types[type],
      anyCase: (flags & 1) === 1,
    });
    at = end + 3;
  }
  return { rules, length };
}
