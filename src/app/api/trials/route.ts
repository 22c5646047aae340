import { newTrialSchema } from '@/contract/trial';
import { database } from '@/server/db/connection';
import { addTrial, trialLine } from '@/server/db/trials';
import { answer, body } from '@/server/http/respond';
import { sentTrial } from '@/server/http/sent-trial';
import { ring, sendingQueue } from '@/server/jobs/queue';

/** Queues a trial of a recipe. */
export const POST = (request: Request) =>
  answer(request, async () => {
    const sql = database();
    const trial = await sentTrial(sql, await body(request, newTrialSchema));
    const { id } = await addTrial(sql, trial, (await sendingQueue(sql)).add);
    await ring(sql, id, trial.shot);
    return Response.json({ trial: await trialLine(sql, id) }, { status: 201 });
  });
