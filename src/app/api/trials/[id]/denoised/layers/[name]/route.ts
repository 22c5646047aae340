import { database } from '@/server/db/connection';
import { denoisedLayers, denoisedOf } from '@/server/db/denoised';
import { planarLayer } from '@/server/films/cut';
import { findTrial } from '@/server/http/find';
import { answer, Refusal } from '@/server/http/respond';
import { layerResponse } from '@/server/http/stream';

/** One layer of a trial's denoised film at full strength, in the form of the film's own. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string; name: string }> }) =>
  answer(request, async () => {
    const { id, name } = await params;
    const trial = await findTrial(id);
    const made = await denoisedOf(database(), trial.id);
    const place = (await denoisedLayers(database(), trial.id)).find((l) => l.name === name);
    const layer = place && made?.result ? await planarLayer(database(), made.result, place) : null;
    if (!layer) throw new Refusal(404, 'no-layer', `the denoised film has no layer ${name.slice(0, 60)}`, 'name');
    return layerResponse(layer);
  });
