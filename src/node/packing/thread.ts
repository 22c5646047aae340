/** A thread that packs and unpacks chunks of OpenEXR, one after another. */
import { parentPort } from 'node:worker_threads';
import { packHere, unpackHere } from '@/core/exr';
import { deflateHere, inflateHere } from '../zlib';
import type { ChunkAnswer, ChunkTask } from './protocol';

if (!parentPort) throw new Error('packing.mjs is started by whoever packs, not by hand');
const port = parentPort;

const done = ({ compression, bytes, block, expected }: ChunkTask): Promise<Uint8Array> =>
  expected === null
    ? packHere(compression, bytes, block, deflateHere)
    : unpackHere(compression, bytes, expected, block, inflateHere);

port.on('message', async (task: ChunkTask) => {
  try {
    const bytes = await done(task);
    // What lies in a buffer with other things goes alone.
    const own = bytes.byteLength === bytes.buffer.byteLength ? bytes : new Uint8Array(bytes);
    port.postMessage({ id: task.id, bytes: own } satisfies ChunkAnswer, [own.buffer as ArrayBuffer]);
  } catch (error) {
    port.postMessage({ id: task.id, fault: (error as Error).message } satisfies ChunkAnswer);
  }
});
