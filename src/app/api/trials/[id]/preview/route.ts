import { database } from '@/server/db/connection';
import { previewOf } from '@/server/db/trials';
import { findTrial } from '@/server/http/find';
import { answer } from '@/server/http/respond';

/** The beauty so far of a trial in progress: planar half R, G, B; 204 before there is one. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const trial = await findTrial((await params).id);
    const preview = await previewOf(database(), trial.id);
    if (!preview) return new Response(null, { status: 204 });
    return new Response(new Uint8Array(preview.data), {
      headers: {
        'content-type': 'application/octet-stream',
        'x-width': String(preview.width),
        'x-height': String(preview.height),
        'cache-control': 'no-store',
      },
    });
  });
