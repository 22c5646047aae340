import type { Tracer } from '../pool/protocol';

/** A tracing thread in the page: a web worker. */
export function spawn(): Tracer {
  const worker = new Worker(new URL('./trace.worker.ts', import.meta.url), { type: 'module' });
  return {
    post: (message) => worker.postMessage(message),
    listen: (onMessage, onFailure) => {
      worker.onmessage = (event) => onMessage(event.data);
      worker.onerror = (event) => onFailure(new Error(event.message || 'a tracing thread failed'));
      worker.onmessageerror = () => onFailure(new Error('a tracing thread sent what cannot be read'));
    },
    terminate: () => worker.terminate(),
  };
}
