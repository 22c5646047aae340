import { database } from '@/server/db/connection';
import { shotById } from '@/server/db/shots';
import { zipOfRun } from '@/server/films/zip';
import { answer } from '@/server/http/respond';
import { findRun } from '@/server/http/runs';
import { streamOf } from '@/server/http/stream';

export const dynamic = 'force-dynamic';

/** All files of a run that there are, with their manifest, as one .zip that is made as it is read. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const sql = database();
    const run = await findRun(sql, (await params).id);
    const shot = (await shotById(sql, run.shot))?.name.replace(/[^A-Za-z0-9._-]+/g, '-') ?? 'shot';
    return new Response(streamOf(await zipOfRun(sql, run)), {
      headers: {
        'content-type': 'application/zip',
        'content-disposition': `attachment; filename="${shot}-run${String(run.number).padStart(2, '0')}.zip"`,
        'cache-control': 'no-store',
      },
    });
  });
