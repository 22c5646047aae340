import { LOGBOOK_PAGE, type LogbookPage } from '@/contract/trial';
import { database } from '@/server/db/connection';
import { listTrials } from '@/server/db/trials';
import { findShot } from '@/server/http/find';
import { answer, Refusal } from '@/server/http/respond';

export const dynamic = 'force-dynamic';

/** A page of a shot's logbook, newest first: trials numbered below `before`. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const shot = await findShot((await params).id);
    const asked = new URL(request.url).searchParams.get('before');
    const before = asked === null ? null : Number(asked);
    if (before !== null && !(Number.isInteger(before) && before > 0 && before < 2 ** 31))
      throw new Refusal(400, 'invalid', 'must be the number of a trial', 'before');
    const page: LogbookPage = await listTrials(database(), shot.id, before, LOGBOOK_PAGE);
    return Response.json(page);
  });
