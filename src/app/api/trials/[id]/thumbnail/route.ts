import { database } from '@/server/db/connection';
import { thumbnailOf } from '@/server/db/trials';
import { findTrial } from '@/server/http/find';
import { answer, Refusal } from '@/server/http/respond';

export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const trial = await findTrial((await params).id);
    const png = await thumbnailOf(database(), trial.id);
    if (!png) throw new Refusal(404, 'no-thumbnail', 'the trial is not finished', 'id');
    return new Response(new Uint8Array(png), {
      headers: { 'content-type': 'image/png', 'cache-control': 'private, max-age=31536000, immutable' },
    });
  });
