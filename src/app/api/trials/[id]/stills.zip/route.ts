import { displayOf } from '@/core/image';
import { two } from '@/core/words';
import { database } from '@/server/db/connection';
import { revisionById, shotById } from '@/server/db/shots';
import { stillsZip } from '@/server/films/still';
import { askedCut, noFilm } from '@/server/http/cut';
import { answer } from '@/server/http/respond';
import { streamOf } from '@/server/http/stream';

/** Every layer that is asked for (`layers=a,b`) as a PNG of its own, in one .zip that is made as it is read; data that PNG cannot hold are left out. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const { trial, hash, cut, made } = await askedCut(request, (await params).id);
    const sql = database();
    const document = (await revisionById(sql, trial.revision))?.document;
    const camera = document?.cameras.find((c) => c.name === trial.camera);
    if (!document || !camera) throw noFilm();
    const shot = ((await shotById(sql, trial.shot))?.name ?? 'shot').replace(/[^A-Za-z0-9._-]+/g, '-');
    const stem = `${shot}_${two(trial.number)}`;
    const zip = stillsZip(sql, hash, cut, made, displayOf(camera.exposure, document.look), stem);
    return new Response(streamOf(zip), {
      headers: {
        'content-type': 'application/zip',
        'content-disposition': `attachment; filename="${stem}_layers.zip"`,
        'cache-control': 'no-store',
      },
    });
  });
