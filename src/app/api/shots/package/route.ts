import { database } from '@/server/db/connection';
import { takePackage } from '@/server/http/package';
import { answer, Refusal } from '@/server/http/respond';

export const dynamic = 'force-dynamic';

/** Brings in a shot with its content, as another machine packed it. */
export const POST = (request: Request) =>
  answer(request, async () => {
    if (!request.body) throw new Refusal(400, 'empty', 'the request has no content');
    const taken = await takePackage(database(), request.body as unknown as AsyncIterable<Uint8Array>);
    return Response.json(taken, { status: 201 });
  });
