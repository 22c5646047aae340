import type { Compression } from '../types';
import { packB44, unpackB44 } from './b44';
import type { Block } from './block';
import type { Deflate, Inflate } from './codec';
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
  /** Whether the thread that asks does the work, chunk after chunk with others let in between. */
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

/** Packing that takes long on this thread lets others have it after each chunk. */
const withPauses = ({ pack, unpack }: Codec): Codec => ({
  pack: async (...a) => {
    await pause();
    return pack(...a);
  },
  unpack: async (...a) => {
    const raw = await unpack(...a);
    await pause();
    return raw;
  },
  isSlow: true,
});

const b44 = (flat: boolean): Codec =>
  withPauses({
    pack: async (raw, block) => packB44(raw, block, flat),
    unpack: async (packed, _, block) => unpackB44(packed, block),
  });

const dwa = withPauses({
  pack: packDwa,
  unpack: (packed, _, block, inflate) => unpackDwa(packed, block, inflate),
});

export const CODECS: Record<Exclude<Compression, 'none'>, Codec> = {
  rle: {
    pack: async (raw) => packRuns(arrange(raw), raw.length),
    unpack: async (packed, expected) => unpackRuns(packed, expected),
    leavesArranged: true,
  },
  zips: zip,
  zip,
  piz: withPauses({
    pack: async (raw, block) => packPiz(raw, block),
    unpack: async (packed, _, block) => unpackPiz(packed, block),
  }),
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

export const isSlow = (compression: Compression): boolean =>
  compression !== 'none' && CODECS[compression].isSlow === true;
