import { database } from '@/server/db/connection';
import { patchPixels } from '@/server/db/denoised';
import { findTrial } from '@/server/http/find';
import { answer, Refusal } from '@/server/http/respond';

/** Pixels that a denoised film is held against: 32-bit floats, cell by cell, three planes of either half of two films. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const pixels = await patchPixels(database(), (await findTrial((await params).id)).id);
    if (!pixels) throw new Refusal(404, 'no-patches', 'there are no patches to hold it against', 'id');
    return new Response(new Uint8Array(pixels), {
      headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' },
    });
  });
