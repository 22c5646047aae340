import { blobBytes } from '@/server/db/blobs';
import { database } from '@/server/db/connection';
import { answer, Refusal } from '@/server/http/respond';
import { streamOf } from '@/server/http/stream';
import { readChunks } from '@/server/storage/blobs';

/** Content by its SHA-256. */
export const GET = (request: Request, { params }: { params: Promise<{ hash: string }> }) =>
  answer(request, async () => {
    const { hash } = await params;
    const sql = database();
    const bytes = /^[0-9a-f]{64}$/.test(hash) ? await blobBytes(sql, hash) : null;
    if (bytes === null) throw new Refusal(404, 'no-blob', 'there is no such content', 'hash');
    return new Response(streamOf(readChunks(sql, hash, bytes)), {
      headers: {
        'content-type': 'application/octet-stream',
        'content-length': String(bytes),
        'cache-control': 'private, max-age=31536000, immutable',
      },
    });
  });
