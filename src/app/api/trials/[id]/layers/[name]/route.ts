import { boxHeight, boxWidth, layersOf, readHeaders, readPart } from '@/core/exr';
import { isMask } from '@/core/film';
import { nodeInflate } from '@/render/node-files';
import { database } from '@/server/db/connection';
import { layersOf as layerRows } from '@/server/db/trials';
import { findTrial } from '@/server/http/find';
import { answer, Refusal } from '@/server/http/respond';
import { blobBytes, blobSource } from '@/server/storage/blobs';

/** One layer of a trial's film: planar 32-bit floats, channels named in `x-channels`. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string; name: string }> }) =>
  answer(request, async () => {
    const { id, name } = await params;
    const trial = await findTrial(id);
    const sql = database();
    const row = (await layerRows(sql, trial.id)).find((l) => l.name === name);
    const bytes = trial.film ? await blobBytes(sql, trial.film) : null;
    if (!row || bytes === null || !trial.film)
      throw new Refusal(404, 'no-layer', `the trial has no layer ${name.slice(0, 60)}`, 'name');
    const source = blobSource(sql, trial.film, bytes);
    const file = await readHeaders(source);
    const part = file.parts[row.part];
    const planes = await readPart(source, file, row.part, nodeInflate);
    const { layers } = layersOf([
      { channels: part.channels, planes, width: boxWidth(part.dataWindow), height: boxHeight(part.dataWindow) },
    ]);
    const layer = layers.get(name) ?? [...layers.values()][0];
    // A mask part holds identifiers; its channels are sent as they stand.
    const chosen = isMask(name)
      ? { channels: part.channels.map((c) => c.name), planes: planes as Float32Array[] }
      : layer;
    const out = new Float32Array(chosen.planes.length * chosen.planes[0].length);
    chosen.planes.forEach((p, i) => {
      out.set(p, i * p.length);
    });
    return new Response(out.buffer, {
      headers: {
        'content-type': 'application/octet-stream',
        'x-width': String(boxWidth(part.dataWindow)),
        'x-height': String(boxHeight(part.dataWindow)),
        'x-channels': chosen.channels.join(','),
        'cache-control': 'private, max-age=31536000, immutable',
      },
    });
  });
