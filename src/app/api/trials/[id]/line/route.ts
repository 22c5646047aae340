import { database } from '@/server/db/connection';
import { isId } from '@/server/db/ids';
import { trialLine } from '@/server/db/trials';
import { answer } from '@/server/http/respond';

/** A trial as the logbook lists it; null when it is not in it any more. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const { id } = await params;
    return Response.json({ trial: isId(id) ? await trialLine(database(), id) : null });
  });
