import { newShotSchema, type ShotList } from '@/contract/shot';
import { database } from '@/server/db/connection';
import { listShots } from '@/server/db/shots';
import { answer, body, MOST_SCENE_BYTES } from '@/server/http/respond';
import { addSentShot } from '@/server/http/sent-scene';

export const dynamic = 'force-dynamic';

export const GET = (request: Request) =>
  answer(request, async () => {
    const [shots, removed] = await Promise.all([listShots(database()), listShots(database(), true)]);
    return Response.json({ shots, removed } satisfies ShotList);
  });

/** Adds a shot of a scene whose content has been put before. */
export const POST = (request: Request) =>
  answer(request, async () => {
    const sent = await body(request, newShotSchema, MOST_SCENE_BYTES);
    return Response.json(await addSentShot(database(), sent), { status: 201 });
  });
