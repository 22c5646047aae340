import type { ToTracer } from './protocol';
import { makeTracer } from './tracer';

/** Entry of a tracing thread in the page. */
const handle = makeTracer((message) => postMessage(message));
self.onmessage = (event: MessageEvent<ToTracer>) => handle(event.data);
