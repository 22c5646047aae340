import { z } from 'zod';
import { announce, database } from '@/server/db/connection';
import { placeAgain } from '@/server/db/run-files';
import { answer, body } from '@/server/http/respond';
import { findRun } from '@/server/http/runs';

const askedSchema = z.strictObject({ overwrites: z.boolean().default(false) });

/** Has files put into the folder that could not be; `overwrites` lets them take the place of others' files. */
export const POST = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const sql = database();
    const { id, shot } = await findRun(sql, (await params).id);
    await placeAgain(sql, id, (await body(request, askedSchema)).overwrites);
    await announce(sql, { type: 'run', id, shot, frames: false });
    return Response.json({ ok: true });
  });
