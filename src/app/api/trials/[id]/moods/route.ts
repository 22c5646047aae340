import { z } from 'zod';
import { database } from '@/server/db/connection';
import { listMoods, putMood, removeMood } from '@/server/db/moods';
import { findTrial } from '@/server/http/find';
import { answer, body, Refusal } from '@/server/http/respond';

export const dynamic = 'force-dynamic';

type Context = { params: Promise<{ id: string }> };
const factor = z.number().min(0).max(1000);
const balance = z.record(
  z.string().max(40),
  z.strictObject({
    stops: z.number().min(-20).max(20),
    color: z.tuple([factor, factor, factor]),
    on: z.boolean(),
    solo: z.boolean(),
  }),
);
const name = z.string().trim().min(1).max(60);

export const GET = (request: Request, { params }: Context) =>
  answer(request, async () =>
    Response.json({ moods: await listMoods(database(), (await findTrial((await params).id)).id) }),
  );

/** Keeps a mood with the trial. */
export const PUT = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const trial = await findTrial((await params).id);
    const asked = await body(request, z.strictObject({ name, balance }));
    return Response.json({ mood: await putMood(database(), trial.id, asked.name, asked.balance) });
  });

export const DELETE = (request: Request, { params }: Context) =>
  answer(request, async () => {
    const trial = await findTrial((await params).id);
    const asked = await body(request, z.strictObject({ name }));
    if (!(await removeMood(database(), trial.id, asked.name)))
      throw new Refusal(404, 'no-mood', 'there is no such mood', 'name');
    return Response.json({ ok: true });
  });
