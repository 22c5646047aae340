import { database } from '@/server/db/connection';
import { goOn } from '@/server/db/trial-life';
import { findTrial } from '@/server/http/find';
import { answer, Refusal } from '@/server/http/respond';
import { ring, sendingQueue } from '@/server/jobs/queue';

/** Lets a stopped trial go on from where it stopped, to the same film as if it never had; tries a failed one again. */
export const POST = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const sql = database();
    const trial = await findTrial((await params).id);
    if (!(await goOn(sql, trial.id, (await sendingQueue(sql)).add)))
      throw new Refusal(
        409,
        'cannot-go-on',
        trial.state === 'stopped'
          ? 'what it needs to go on is no longer there; log it again'
          : `the trial is ${trial.state}, neither stopped nor failed`,
        'id',
      );
    await ring(sql, trial.id, trial.shot);
    return Response.json({ ok: true });
  });
