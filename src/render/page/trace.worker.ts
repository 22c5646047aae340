import type { ToTracer } from '../pool/protocol';
import { makeTracer } from '../pool/tracer';

/** Entry of a tracing thread in the page. */
const handle = makeTracer((message) => postMessage(message));
self.onmessage = (event: MessageEvent<ToTracer>) => handle(event.data);
