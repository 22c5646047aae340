import { CHANNEL, type Sql } from '../db/connection';

/** Milliseconds between comments that keep a line of events open. */
const ALIVE_MS = 15000;

/** Server-sent events: what NOTIFY tells, passed on until the reader goes. */
export function eventStream(sql: Sql, signal: AbortSignal): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder();
  let close = () => {};
  return new ReadableStream<Uint8Array>({
    async start(controller) {
      let open = true;
      const send = (text: string) => {
        if (!open) return;
        try {
          controller.enqueue(encoder.encode(text));
        } catch {
          close();
        }
      };
      const handle = await sql.listen(
        CHANNEL,
        (payload) => send(`data: ${payload}\n\n`),
        () => send('event: ready\ndata: {}\n\n'),
      );
      const beat = setInterval(() => send(': alive\n\n'), ALIVE_MS);
      close = () => {
        if (!open) return;
        open = false;
        clearInterval(beat);
        handle.unlisten().catch(() => {});
        try {
          controller.close();
        } catch {
          // The reader has gone already.
        }
      };
      signal.addEventListener('abort', () => close());
    },
    cancel: () => close(),
  });
}
