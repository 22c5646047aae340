import { database } from '@/server/db/connection';
import { cutFilm } from '@/server/films/cut';
import { askedCut, noFilm } from '@/server/http/cut';
import { answer, Refusal } from '@/server/http/respond';
import { exrResponse } from '@/server/http/stream';

/** A multi-layer OpenEXR of chosen layers (`layers=a,b`, all by default), depth, compression and parting (`parts=one|many`), plain or denoised; saved as `name`, where it is given. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const { trial, hash, cut: asked, made } = await askedCut(request, (await params).id);
    const given = new URL(request.url).searchParams.get('name');
    if (given !== null && !/^[A-Za-z0-9._-]{1,200}\.exr$/.test(given))
      throw new Refusal(400, 'invalid', 'letters, digits, dots, hyphens and underscores only, ending in .exr', 'name');
    const cut = await cutFilm(database(), hash, asked, made);
    if (!cut) throw noFilm();
    const name = given ?? `trial-${String(trial.number).padStart(2, '0')}-${cut.width}x${cut.height}.exr`;
    return exrResponse(cut, name);
  });
