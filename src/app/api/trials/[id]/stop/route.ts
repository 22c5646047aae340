import { announce, database } from '@/server/db/connection';
import { requestStop } from '@/server/db/trial-life';
import { findTrial } from '@/server/http/find';
import { answer } from '@/server/http/respond';

/** Asks for a trial to stop; what it has rendered is kept. */
export const POST = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const { id, shot, state } = await findTrial((await params).id);
    const asked = await requestStop(database(), id);
    if (asked) await announce(database(), { type: 'trial', id, shot, state });
    return Response.json({ asked });
  });
