import { announce, database } from '@/server/db/connection';
import { leaveUntimed } from '@/server/db/trial-life';
import { findTrial } from '@/server/http/find';
import { answer } from '@/server/http/respond';

/** Lets the live picture go on beside a trial under way, which is not timed then. */
export const POST = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const { id, shot, state } = await findTrial((await params).id);
    const left = await leaveUntimed(database(), id);
    if (left) await announce(database(), { type: 'trial', id, shot, state });
    return Response.json({ left });
  });
