import { editMachineSchema } from '@/contract/worker';
import { database } from '@/server/db/connection';
import { setMachine } from '@/server/db/workers';
import { answer, body, Refusal } from '@/server/http/respond';
import { workersNow } from '@/server/http/workers';

export const dynamic = 'force-dynamic';

/** Workers that were heard of lately, and how another machine joins them. */
export const GET = (request: Request) => answer(request, async () => Response.json(await workersNow(database())));

/** Sets how many threads render on a machine, or whether it takes work. */
export const PATCH = (request: Request) =>
  answer(request, async () => {
    const { machine, ...change } = await body(request, editMachineSchema);
    if (!(await setMachine(database(), machine, change)))
      throw new Refusal(404, 'no-machine', `there is no machine ${machine.slice(0, 60)}`, 'machine');
    return Response.json({ ok: true });
  });
