import { parentPort } from 'node:worker_threads';
import type { ToTracer } from '../pool/protocol';
import { makeTracer } from '../pool/tracer';

/** Entry of a tracing thread in Node. */
if (!parentPort) throw new Error('thread.mjs is started by the render pool, not by hand');
const port = parentPort;
const handle = makeTracer((message) => port.postMessage(message));
port.on('message', (message: ToTracer) => handle(message));
