import type { House } from '@/contract/shot';
import { storedBytes } from '@/server/db/blobs';
import { database } from '@/server/db/connection';
import { liveWorkers } from '@/server/db/workers';
import { answer } from '@/server/http/respond';

export const dynamic = 'force-dynamic';

/** How many workers there are, and how much is stored. */
export const GET = (request: Request) =>
  answer(request, async () => {
    const [workers, bytes] = await Promise.all([liveWorkers(database()), storedBytes(database())]);
    return Response.json({ workers, storedBytes: bytes } satisfies House);
  });
