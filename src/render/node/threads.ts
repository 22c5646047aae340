import { readFile } from 'node:fs/promises';
import { Worker } from 'node:worker_threads';
import type { Tracer } from '../pool/protocol';

/** A spawner of tracing threads from the bundled thread script. */
export function spawnNode(script: URL): () => Tracer {
  return () => {
    const worker = new Worker(script);
    return {
      post: (message) => worker.postMessage(message),
      listen: (onMessage, onFailure) => {
        worker.on('message', onMessage);
        worker.on('error', onFailure);
        worker.on('messageerror', onFailure);
        worker.on('exit', (code) => {
          if (code !== 0) onFailure(new Error(`a tracing thread ended with code ${code}`));
        });
      },
      terminate: () => {
        worker.removeAllListeners();
        void worker.terminate();
      },
    };
  };
}

export async function compileWasm(file: URL | string): Promise<WebAssembly.Module> {
  return WebAssembly.compile(new Uint8Array(await readFile(file)));
}
