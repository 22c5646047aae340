import { database } from '@/server/db/connection';
import { layersOf } from '@/server/db/trials';
import { planarLayer } from '@/server/films/cut';
import { deliveredLayer } from '@/server/films/delivered';
import { findTrial } from '@/server/http/find';
import { answer, Refusal } from '@/server/http/respond';
import { layerResponse } from '@/server/http/stream';

/** One layer of a trial's film, or of a frame of a run as it was delivered: planar 32-bit floats, channels named in `x-channels`. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string; name: string }> }) =>
  answer(request, async () => {
    const { id, name } = await params;
    const trial = await findTrial(id);
    const place = (await layersOf(database(), trial.id)).find((l) => l.name === name);
    const stored = place && trial.film ? await planarLayer(database(), trial.film, place) : null;
    const layer = stored ?? (trial.run ? await deliveredLayer(database(), trial.id, name) : null);
    if (!layer)
      throw new Refusal(
        404,
        'no-layer',
        trial.run
          ? `the frame has no layer ${name.slice(0, 60)}: its film was not kept, and no file that is there has it`
          : `the trial has no layer ${name.slice(0, 60)}`,
        'name',
      );
    return layerResponse(layer);
  });
