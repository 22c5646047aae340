import { database } from '@/server/db/connection';
import { proveCut } from '@/server/films/proof';
import { askedCut, noFilm } from '@/server/http/cut';
import { answer } from '@/server/http/respond';

/** What chosen layers come to as they would be written: packed, read back and held against what was rendered. Asked as `film.exr` is. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const { hash, places, cut, made } = await askedCut(request, (await params).id);
    const proof = await proveCut(database(), hash, places, cut, made);
    if (!proof) throw noFilm();
    return Response.json({ proof });
  });
