import { stillKind } from '@/core/film';
import { displayOf } from '@/core/image';
import { database } from '@/server/db/connection';
import { revisionById } from '@/server/db/shots';
import { stillOf } from '@/server/films/still';
import { askedCut, noFilm } from '@/server/http/cut';
import { answer, Refusal } from '@/server/http/respond';

/** One layer (`layers=name`) as a PNG: data from 0 to 1 in 16 bits, light in 8 as the shot's camera and look display it. Saved as `name`. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const { trial, hash, cut, made } = await askedCut(request, (await params).id);
    const name = new URL(request.url).searchParams.get('name') ?? `${cut.layers[0]}.png`;
    if (!/^[A-Za-z0-9._-]{1,200}\.png$/.test(name))
      throw new Refusal(400, 'invalid', 'letters, digits, dots, hyphens and underscores only, ending in .png', 'name');
    if (cut.layers.length !== 1 || stillKind(cut.layers[0]) === null)
      throw new Refusal(400, 'no-still', 'one layer of light, or of data from 0 to 1; others need OpenEXR', 'layers');
    const document = (await revisionById(database(), trial.revision))?.document;
    const camera = document?.cameras.find((c) => c.name === trial.camera);
    if (!document || !camera) throw noFilm();
    const png = await stillOf(database(), hash, cut, made, displayOf(camera.exposure, document.look));
    if (!png) throw noFilm();
    return new Response(new Uint8Array(png), {
      headers: {
        'content-type': 'image/png',
        'content-disposition': `attachment; filename="${name}"`,
        'cache-control': 'no-store',
      },
    });
  });
