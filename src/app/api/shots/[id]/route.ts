import { database } from '@/server/db/connection';
import { liveMachines } from '@/server/db/machines';
import { draftOf, latestRevision, revisionById } from '@/server/db/shots';
import { listTrials, storedBytes } from '@/server/db/trials';
import { findShot } from '@/server/http/find';
import { answer } from '@/server/http/respond';

export const dynamic = 'force-dynamic';

/** A shot with the scene revision its draft stands on, draft and logbook. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const sql = database();
    const shot = await findShot((await params).id);
    const draft = await draftOf(sql, shot.id);
    const [revision, trials, workers, bytes] = await Promise.all([
      draft ? revisionById(sql, draft.revision) : latestRevision(sql, shot.id),
      listTrials(sql, shot.id),
      liveMachines(sql),
      storedBytes(sql),
    ]);
    return Response.json({ shot, revision, draft, trials, workers, storedBytes: bytes });
  });
