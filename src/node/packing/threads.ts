import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import type { ChunkThreads } from '@/core/exr';
import type { ChunkAnswer, ChunkTask } from './protocol';

/** More do not help: laying chunks out is the work of one. */
const MOST_THREADS = 8;

interface Asked {
  resolve: (bytes: Uint8Array) => void;
  reject: (error: Error) => void;
}

/** A thread with what it was asked for. It keeps the process from ending only while it works. */
class PackingThread {
  readonly asked = new Map<number, Asked>();
  private readonly worker: Worker;

  constructor(script: URL, onEnd: (own: PackingThread) => void) {
    this.worker = new Worker(script);
    this.worker.unref();
    this.worker.on('message', (answer: ChunkAnswer) => {
      const own = this.asked.get(answer.id);
      this.asked.delete(answer.id);
      if (this.asked.size === 0) this.worker.unref();
      if ('fault' in answer) own?.reject(new Error(answer.fault));
      else own?.resolve(answer.bytes);
    });
    const end = (error: Error) => {
      onEnd(this);
      for (const { reject } of this.asked.values()) reject(error);
      this.asked.clear();
    };
    this.worker.on('error', end);
    this.worker.on('exit', (code) => end(new Error(`a packing thread ended with code ${code}`)));
  }

  ask(task: ChunkTask): Promise<Uint8Array> {
    return new Promise((resolve, reject) => {
      this.asked.set(task.id, { resolve, reject });
      this.worker.ref();
      this.worker.postMessage(task, [task.bytes.buffer as ArrayBuffer]);
    });
  }
}

/** Threads of a script that pack chunks, started as they are needed, one a core at most. */
export function packingThreads(script: URL): ChunkThreads {
  const most = Math.min(MOST_THREADS, availableParallelism());
  const threads = new Set<PackingThread>();
  let next = 0;
  const ask = (task: Omit<ChunkTask, 'id'>): Promise<Uint8Array> => {
    let idlest = [...threads].sort((a, b) => a.asked.size - b.asked.size)[0];
    if (!idlest || (idlest.asked.size > 0 && threads.size < most)) {
      idlest = new PackingThread(script, (own) => threads.delete(own));
      threads.add(idlest);
    }
    return idlest.ask({ ...task, id: next++ });
  };
  return {
    // One more than there are threads, which is laid out meanwhile.
    atOnce: most + 1,
    pack: (compression, raw, block) => ask({ compression, bytes: raw, block, expected: null }),
    unpack: (compression, packed, expected, block) => ask({ compression, bytes: packed, block, expected }),
  };
}
