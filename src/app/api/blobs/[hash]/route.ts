import { database } from '@/server/db/connection';
import { answer, Refusal } from '@/server/http/respond';
import { blobBytes, readChunks } from '@/server/storage/blobs';

/** Content by its SHA-256. */
export const GET = (request: Request, { params }: { params: Promise<{ hash: string }> }) =>
  answer(request, async () => {
    const { hash } = await params;
    const sql = database();
    const bytes = /^[0-9a-f]{64}$/.test(hash) ? await blobBytes(sql, hash) : null;
    if (bytes === null) throw new Refusal(404, 'no-blob', 'there is no such content', 'hash');
    const chunks = readChunks(sql, hash, bytes);
    const stream = new ReadableStream<Uint8Array>({
      pull: async (controller) => {
        const { done, value } = await chunks.next();
        if (done) controller.close();
        else controller.enqueue(new Uint8Array(value));
      },
      cancel: async () => {
        await chunks.return(undefined);
      },
    });
    return new Response(stream, {
      headers: {
        'content-type': 'application/octet-stream',
        'content-length': String(bytes),
        'cache-control': 'private, max-age=31536000, immutable',
      },
    });
  });
