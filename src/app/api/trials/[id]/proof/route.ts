import { database } from '@/server/db/connection';
import { layersOf } from '@/server/db/trials';
import { proveCut } from '@/server/films/proof';
import { cutAsked } from '@/server/http/cut';
import { madeOf } from '@/server/http/denoised';
import { findTrial } from '@/server/http/find';
import { answer, Refusal } from '@/server/http/respond';

/** What chosen layers come to as they would be written: packed, read back and held against what was rendered. Asked as `film.exr` is. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const trial = await findTrial((await params).id);
    const places = await layersOf(database(), trial.id);
    const asked = trial.film ? cutAsked(new URL(request.url), places) : null;
    const made = asked && asked.denoised !== 'no' ? await madeOf(database(), trial.id) : null;
    const proof = asked && (await proveCut(database(), trial.film!, places, asked, made));
    if (!proof) throw new Refusal(404, 'no-film', 'the trial has no film yet', 'id');
    return Response.json({ proof });
  });
