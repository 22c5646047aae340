import { announce, database } from '@/server/db/connection';
import { goOn } from '@/server/db/trials';
import { findTrial } from '@/server/http/find';
import { answer, Refusal } from '@/server/http/respond';
import { sendingQueue, TRIAL_QUEUE } from '@/server/jobs/queue';

/** Lets a stopped trial go on from where it stopped, to the same film as if it never had. */
export const POST = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const sql = database();
    const trial = await findTrial((await params).id);
    if (!(await goOn(sql, trial.id)))
      throw new Refusal(
        409,
        'cannot-go-on',
        trial.state === 'stopped'
          ? 'what it needs to go on is no longer there; log it again'
          : `the trial is ${trial.state}, not stopped`,
        'id',
      );
    await (await sendingQueue(sql)).send(TRIAL_QUEUE, { trial: trial.id });
    await announce(sql, { type: 'trial', id: trial.id, shot: trial.shot, state: 'queued' });
    return Response.json({ ok: true });
  });
