import type { Compression } from '../types';
import type { Block } from './block';

/** Compressions that pack. */
export type Packing = Exclude<Compression, 'none'>;

/** Threads of the host that pack and unpack chunks. Bytes that are handed over are gone for whoever hands them. */
export interface ChunkThreads {
  /** Chunks that are worth having under way at a time. */
  atOnce: number;
  pack(compression: Packing, raw: Uint8Array, block: Block): Promise<Uint8Array>;
  unpack(compression: Packing, packed: Uint8Array, expected: number, block: Block): Promise<Uint8Array>;
}

/** zlib deflate, handed in by the host, and threads for what takes long where it has some. */
export interface Deflate {
  (bytes: Uint8Array): Promise<Uint8Array>;
  threads?: () => ChunkThreads | null;
}
/** zlib inflate that refuses to give more than `most` bytes, handed in by the host in the same way. */
export interface Inflate {
  (bytes: Uint8Array, most: number): Promise<Uint8Array>;
  threads?: () => ChunkThreads | null;
}
