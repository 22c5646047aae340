import { lastDeskSchema } from '@/contract/desk';
import { database } from '@/server/db/connection';
import { keepDesk, lastDesk } from '@/server/db/desk';
import { answer, body } from '@/server/http/respond';

export const dynamic = 'force-dynamic';

/** What was last looked at, so that another browser goes on there. */
export const GET = (request: Request) =>
  answer(request, async () => Response.json({ desk: await lastDesk(database()) }));

export const PUT = (request: Request) =>
  answer(request, async () => {
    await keepDesk(database(), await body(request, lastDeskSchema));
    return Response.json({});
  });
