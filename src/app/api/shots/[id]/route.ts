import { editShotSchema, type ShotData } from '@/contract/shot';
import { database } from '@/server/db/connection';
import { draftOf, removeShot, renameShot, revisionById } from '@/server/db/shots';
import { findShot } from '@/server/http/find';
import { answer, body, Refusal } from '@/server/http/respond';

export const dynamic = 'force-dynamic';

type Context = { params: Promise<{ id: string }> };

/** A shot with its draft and the scene revision that the draft stands on. */
export const GET = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const shot = await findShot((await params).id);
    const draft = (await draftOf(database(), shot.id))!;
    const revision = (await revisionById(database(), draft.revision))!;
    return Response.json({ shot, revision, draft } satisfies ShotData);
  });

/** Renames a shot, takes it out of the list, or puts it back. */
export const PATCH = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const shot = await findShot((await params).id);
    const { name, removed } = await body(request, editShotSchema);
    if (name !== undefined && !(await renameShot(database(), shot.id, name)))
      throw new Refusal(409, 'name-taken', `there is a shot ${name} already`, 'name');
    if (removed !== undefined) await removeShot(database(), shot.id, removed);
    return Response.json({ id: shot.id, name: name ?? shot.name });
  });
