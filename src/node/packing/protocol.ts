import type { Block, Packing } from '@/core/exr';

/** A chunk to be packed, or to be unpacked to so many bytes. */
export interface ChunkTask {
  id: number;
  compression: Packing;
  bytes: Uint8Array;
  block: Block;
  /** Null where it is to be packed. */
  expected: number | null;
}

export type ChunkAnswer = { id: number; bytes: Uint8Array } | { id: number; fault: string };
