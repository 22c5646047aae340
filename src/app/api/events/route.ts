import { database } from '@/server/db/connection';
import { eventStream } from '@/server/http/events';
import { answer } from '@/server/http/respond';

export const dynamic = 'force-dynamic';

/** Server-sent events: what happens, as it happens. */
export const GET = (request: Request) =>
  answer(
    request,
    async () =>
      new Response(eventStream(database(), request.signal), {
        headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store', 'x-accel-buffering': 'no' },
      }),
  );
