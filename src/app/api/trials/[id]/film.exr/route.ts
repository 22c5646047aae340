import { database } from '@/server/db/connection';
import { layersOf } from '@/server/db/trials';
import { cutFilm } from '@/server/films/cut';
import { cutAsked } from '@/server/http/cut';
import { madeOf } from '@/server/http/denoised';
import { findTrial } from '@/server/http/find';
import { answer, Refusal } from '@/server/http/respond';
import { exrResponse } from '@/server/http/stream';

/** A multi-layer OpenEXR of chosen layers (`layers=a,b`, all by default), depth, compression and parting (`parts=one|many`), plain or denoised; saved as `name`, where it is given. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const trial = await findTrial((await params).id);
    const places = await layersOf(database(), trial.id);
    const asked = trial.film ? cutAsked(new URL(request.url), places) : null;
    const made = asked && asked.denoised !== 'no' ? await madeOf(database(), trial.id) : null;
    const cut = asked && (await cutFilm(database(), trial.film!, places, asked, made));
    if (!cut) throw new Refusal(404, 'no-film', 'the trial has no film yet', 'id');
    const given = new URL(request.url).searchParams.get('name');
    if (given !== null && !/^[A-Za-z0-9._-]{1,200}\.exr$/.test(given))
      throw new Refusal(400, 'invalid', 'letters, digits, dots, hyphens and underscores only, ending in .exr', 'name');
    const name = given ?? `trial-${String(trial.number).padStart(2, '0')}-${cut.width}x${cut.height}.exr`;
    return exrResponse(cut, name);
  });
