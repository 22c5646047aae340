import { database } from '@/server/db/connection';
import { listShots } from '@/server/db/shots';
import { answer } from '@/server/http/respond';

export const dynamic = 'force-dynamic';

export const GET = (request: Request) =>
  answer(request, async () => Response.json({ shots: await listShots(database()) }));
