import type { FromTracer, Tracer } from './protocol';
import { makeTracer } from './tracer';

/** A tracer on the caller's own thread, one message at a time: for tests and single-threaded hosts. */
export function spawnInline(): Tracer {
  let listener: (m: FromTracer) => void = () => {};
  const handle = makeTracer((m) => listener(m));
  return {
    post: (message) => setTimeout(() => handle(message), 0),
    listen: (onMessage) => {
      listener = onMessage;
    },
    terminate: () => {},
  };
}
