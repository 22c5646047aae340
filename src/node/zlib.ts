import { promisify } from 'node:util';
import { deflate, inflate } from 'node:zlib';
import type { ChunkThreads, Deflate, Inflate } from '@/core/exr';
import { packingThreads } from './packing/threads';

const deflateAsync = promisify(deflate);
const inflateAsync = promisify(inflate);

/** zlib on Node's thread pool. Level 4: within 2 % of the default's size on noisy data at twice the speed. */
export const deflateHere: Deflate = async (bytes) => deflateAsync(bytes, { level: 4 }) as Promise<Buffer>;
export const inflateHere: Inflate = async (bytes, most) =>
  inflateAsync(bytes, { maxOutputLength: most, chunkSize: Math.max(64, most) }) as Promise<Buffer>;

/** One for all of the process, however many bundles it is made of. */
const holder = globalThis as unknown as { lanternPacking?: ChunkThreads };
const threads = (): ChunkThreads | null => holder.lanternPacking ?? null;

/** Has threads of a bundled script pack what takes long, in all of this process, from now on. */
export function packOnThreads(script: URL): void {
  holder.lanternPacking ??= packingThreads(script);
}

/** The same, with the process's packing threads. */
export const nodeDeflate: Deflate = Object.assign((bytes: Uint8Array) => deflateHere(bytes), { threads });
export const nodeInflate: Inflate = Object.assign((bytes: Uint8Array, most: number) => inflateHere(bytes, most), {
  threads,
});
