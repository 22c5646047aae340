import { database } from '@/server/db/connection';
import { answer, Refusal } from '@/server/http/respond';
import { putStream } from '@/server/storage/blobs';

/** Largest content that may be put in one request. */
const MOST_BYTES = 500e6;

/** Stores content once by its hash: all of it or nothing. */
export const PUT = (request: Request) =>
  answer(request, async () => {
    const declared = Number(request.headers.get('content-length') ?? 0);
    if (declared > MOST_BYTES)
      throw new Refusal(413, 'too-large', `content may have ${MOST_BYTES} bytes at most`, '', {
        mostBytes: MOST_BYTES,
      });
    if (!request.body) throw new Refusal(400, 'empty', 'the request has no content');
    const { hash, bytes } = await putStream(
      database(),
      request.body as unknown as AsyncIterable<Uint8Array>,
      MOST_BYTES,
    );
    return Response.json({ hash, bytes }, { status: 201 });
  });
