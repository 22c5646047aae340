import type { Compression } from '../types';
import { packB44, unpackB44 } from './b44';
import type { Block } from './block';
import type { ChunkThreads, Deflate, Inflate, Packing } from './codec';
import { packDwa, unpackDwa } from './dwa';
import { pause } from './pause';
import { packPiz, unpackPiz } from './piz';
import { arrange } from './predictor';
import { arrangePxr24, pxr24Bytes, restorePxr24 } from './pxr24';
import { packRuns, unpackRuns } from './rle';

/** A way to pack the lines of a chunk. */
interface Codec {
  /** The packed bytes; null where they are not fewer. */
  pack(raw: Uint8Array, block: Block, deflate: Deflate): Promise<Uint8Array | null>;
  /** As many bytes as were packed, or what `arrange` made of them. Throws where the packed ones do not hold them. */
  unpack(packed: Uint8Array, expected: number, block: Block, inflate: Inflate): Promise<Uint8Array>;
  /** Whether what is unpacked is what `arrange` made of the bytes. */
  leavesArranged?: boolean;
  /** Whether it takes so long that other threads do it where the host has some, and others are let in between where not. */
  isSlow?: boolean;
}

async function inflated(packed: Uint8Array, expected: number, inflate: Inflate): Promise<Uint8Array> {
  const raw = await inflate(packed, expected);
  if (raw.length !== expected) throw new Error(`it inflates to ${raw.length} bytes, expected ${expected}`);
  return raw;
}

const zip: Codec = {
  pack: async (raw, _, deflate) => deflate(arrange(raw)),
  unpack: (packed, expected, _, inflate) => inflated(packed, expected, inflate),
  leavesArranged: true,
};

const b44 = (flat: boolean): Codec => ({
  pack: async (raw, block) => packB44(raw, block, flat),
  unpack: async (packed, _, block) => unpackB44(packed, block),
  isSlow: true,
});

const dwa: Codec = {
  pack: packDwa,
  unpack: (packed, _, block, inflate) => unpackDwa(packed, block, inflate),
  isSlow: true,
};

const CODECS: Record<Packing, Codec> = {
  rle: {
    pack: async (raw) => packRuns(arrange(raw), raw.length),
    unpack: async (packed, expected) => unpackRuns(packed, expected),
    leavesArranged: true,
  },
  zips: zip,
  zip,
  piz: {
    pack: async (raw, block) => packPiz(raw, block),
    unpack: async (packed, _, block) => unpackPiz(packed, block),
    isSlow: true,
  },
  pxr24: {
    pack: async (raw, block, deflate) => deflate(arrangePxr24(raw, block)),
    unpack: async (packed, _, block, inflate) =>
      restorePxr24(await inflated(packed, pxr24Bytes(block), inflate), block),
  },
  b44: b44(false),
  b44a: b44(true),
  dwaa: dwa,
  dwab: dwa,
};

const isSlow = (compression: Compression): boolean => compression !== 'none' && CODECS[compression].isSlow === true;

/** The host's threads for chunks of a packing that takes long; null where they are packed by the thread that asks. */
const threadsFor = (compression: Compression, host: Deflate | Inflate): ChunkThreads | null =>
  isSlow(compression) ? (host.threads?.() ?? null) : null;

const CHUNKS_AT_ONCE = 8;

/** Chunks to have under way at once, so that a host with threads packs some while others are laid out. */
export const chunksAtOnce = (compression: Compression, host: Deflate | Inflate): number =>
  isSlow(compression) ? (threadsFor(compression, host)?.atOnce ?? 1) : CHUNKS_AT_ONCE;

/** The bytes of a chunk, packed by this thread where that makes them fewer. */
export async function packHere(
  compression: Packing,
  raw: Uint8Array,
  block: Block,
  deflate: Deflate,
): Promise<Uint8Array> {
  const packed = await CODECS[compression].pack(raw, block, deflate);
  return packed && packed.length < raw.length ? packed : raw;
}

/** What was packed, as `leavesArranged` says, by this thread. Throws where the bytes do not hold so many. */
export const unpackHere = (
  compression: Packing,
  packed: Uint8Array,
  expected: number,
  block: Block,
  inflate: Inflate,
): Promise<Uint8Array> => CODECS[compression].unpack(packed, expected, block, inflate);

/** The bytes of a chunk, packed where that makes them fewer; `raw` may be gone afterwards. */
export async function packChunk(
  compression: Compression,
  raw: Uint8Array,
  block: Block,
  deflate: Deflate,
): Promise<Uint8Array> {
  if (compression === 'none') return raw;
  const threads = threadsFor(compression, deflate);
  if (threads) return threads.pack(compression, raw, block);
  if (isSlow(compression)) await pause();
  return packHere(compression, raw, block, deflate);
}

/** What was packed, as `leavesArranged` says. Throws where the bytes do not hold so many. */
export async function unpackChunk(
  compression: Packing,
  packed: Uint8Array,
  expected: number,
  block: Block,
  inflate: Inflate,
): Promise<Uint8Array> {
  const threads = threadsFor(compression, inflate);
  // A copy, also of a host's buffers, whose slices are none.
  if (threads) return threads.unpack(compression, new Uint8Array(packed), expected, block);
  const raw = await unpackHere(compression, packed, expected, block, inflate);
  if (isSlow(compression)) await pause();
  return raw;
}

/** Whether what is unpacked is what the predictor made of the bytes: differences, low bytes of words before the high ones. */
export const leavesArranged = (compression: Compression): boolean =>
  compression !== 'none' && CODECS[compression].leavesArranged === true;
