import { z } from 'zod';
import { database } from '@/server/db/connection';
import { liveMachines } from '@/server/db/machines';
import { draftOf, latestRevision, removeShot, renameShot, revisionById } from '@/server/db/shots';
import { listTrials, storedBytes } from '@/server/db/trials';
import { findShot } from '@/server/http/find';
import { answer, body, Refusal } from '@/server/http/respond';

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

/** Renames a shot, takes it out of the list, or puts it back. */
export const PATCH = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const shot = await findShot((await params).id);
    const change = await body(
      request,
      z.strictObject({ name: z.string().trim().min(1).max(120).optional(), removed: z.boolean().optional() }),
    );
    const sql = database();
    if (change.name !== undefined && !(await renameShot(sql, shot.id, change.name)))
      throw new Refusal(409, 'name-taken', `there is a shot ${change.name} already`, 'name');
    if (change.removed !== undefined) await removeShot(sql, shot.id, change.removed);
    return Response.json({ id: shot.id, name: change.name ?? shot.name });
  });
