import type { House } from '@/contract/shot';
import { storedBytes } from '@/server/db/blobs';
import { database } from '@/server/db/connection';
import { isDelivering, liveWorkers } from '@/server/db/workers';
import { answer } from '@/server/http/respond';

export const dynamic = 'force-dynamic';

/** How many workers there are, whether one puts files into folders, and how much is stored. */
export const GET = (request: Request) =>
  answer(request, async () => {
    const sql = database();
    const [workers, delivers, bytes] = await Promise.all([liveWorkers(sql), isDelivering(sql), storedBytes(sql)]);
    return Response.json({ workers, delivers, storedBytes: bytes } satisfies House);
  });
