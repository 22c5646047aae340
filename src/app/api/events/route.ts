import { CHANNEL, database } from '@/server/db/connection';
import { answer } from '@/server/http/respond';

export const dynamic = 'force-dynamic';

/** Server-sent events: what NOTIFY tells, passed on; a comment every 15 s keeps the line open. */
export const GET = (request: Request) =>
  answer(request, async () => {
    const sql = database();
    const encoder = new TextEncoder();
    let close = () => {};
    const stream = new ReadableStream<Uint8Array>({
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
        const beat = setInterval(() => send(': alive\n\n'), 15000);
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
        request.signal.addEventListener('abort', () => close());
      },
      cancel: () => close(),
    });
    return new Response(stream, {
      headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' },
    });
  });
