import { newTrialSchema } from '@/contract/trial';
import { announce, database } from '@/server/db/connection';
import { addTrial, trialLine } from '@/server/db/trials';
import { answer, body } from '@/server/http/respond';
import { sentTrial } from '@/server/http/sent-trial';
import { sendingQueue, TRIAL_QUEUE } from '@/server/jobs/queue';

/** Queues a trial of a recipe. */
export const POST = (request: Request) =>
  answer(request, async () => {
    const sql = database();
    const trial = await sentTrial(sql, await body(request, newTrialSchema));
    const { id } = await addTrial(sql, trial);
    await (await sendingQueue(sql)).send(TRIAL_QUEUE, { trial: id });
    await announce(sql, { type: 'trial', id, shot: trial.shot, state: 'queued' });
    return Response.json({ trial: await trialLine(sql, id) }, { status: 201 });
  });
