import {
  boxHeight,
  boxWidth,
  type Compression,
  type Depth,
  type Part,
  pixelTypeOf,
  readHeaders,
  readPart,
  writeExr,
} from '@/core/exr';
import { nodeDeflate, nodeInflate } from '@/render/node-files';
import { database } from '@/server/db/connection';
import { layersOf } from '@/server/db/trials';
import { findTrial } from '@/server/http/find';
import { answer, Refusal } from '@/server/http/respond';
import { blobBytes, blobSource } from '@/server/storage/blobs';

const DEPTHS: Depth[] = ['auto', 'half', 'float'];
const COMPRESSIONS: Compression[] = ['none', 'zips', 'zip'];

function choice<T extends string>(url: URL, name: string, allowed: readonly T[], otherwise: T): T {
  const value = url.searchParams.get(name) ?? otherwise;
  if (!allowed.includes(value as T)) throw new Refusal(400, 'invalid', `must be one of ${allowed.join(', ')}`, name);
  return value as T;
}

/** A multi-layer OpenEXR of chosen layers (`layers=a,b`, all by default), depth, compression and parting (`parts=one|many`). */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }) =>
  answer(request, async () => {
    const url = new URL(request.url);
    const trial = await findTrial((await params).id);
    const sql = database();
    const bytes = trial.film ? await blobBytes(sql, trial.film) : null;
    if (bytes === null || !trial.film) throw new Refusal(404, 'no-film', 'the trial has no film yet', 'id');
    const rows = await layersOf(sql, trial.id);
    const depth = choice(url, 'depth', DEPTHS, 'auto');
    const compression = choice(url, 'compression', COMPRESSIONS, 'zip');
    const parting = choice(url, 'parts', ['one', 'many'] as const, 'many');
    const names = url.searchParams.get('layers')?.split(',').filter(Boolean) ?? rows.map((r) => r.name);
    const unknown = names.find((n) => !rows.some((r) => r.name === n));
    if (unknown !== undefined || names.length === 0)
      throw new Refusal(
        400,
        'no-layer',
        unknown === undefined ? 'choose at least one layer' : `the film has no layer ${unknown}`,
        'layers',
        rows.map((r) => r.name),
      );
    const source = blobSource(sql, trial.film, bytes);
    const file = await readHeaders(source);
    const wanted = [...new Set(names.map((n) => rows.find((r) => r.name === n)!.part))];
    const parts: Part[] = [];
    for (const index of wanted) {
      const header = file.parts[index];
      const planes = await readPart(source, file, index, nodeInflate);
      const own = rows.filter((r) => r.part === index).map((r) => r.name);
      const keep = header.channels.map((c) => own.length === 1 || names.includes(c.name === 'A' ? 'alpha' : 'beauty'));
      const kept = planes.filter((_, i) => keep[i]) as Float32Array[];
      const type = pixelTypeOf(
        { name: own.includes('beauty') ? 'beauty' : own[0], channels: [], planes: kept, kind: 'color' },
        depth,
      );
      parts.push({
        ...header,
        compression,
        channels: header.channels.filter((_, i) => keep[i]).map((c) => ({ name: c.name, type })),
        planes: kept,
      });
    }
    const one: Part[] = [
      {
        ...parts[0],
        name: 'rgba',
        channels: parts.flatMap((p) => p.channels),
        planes: parts.flatMap((p) => p.planes),
        attributes: Object.assign({}, ...parts.map((p) => p.attributes)),
      },
    ];
    const made = await writeExr(parting === 'one' ? one : parts, nodeDeflate);
    const size = `${boxWidth(parts[0].dataWindow)}x${boxHeight(parts[0].dataWindow)}`;
    return new Response(made.bytes.slice().buffer, {
      headers: {
        'content-type': 'image/x-exr',
        'content-disposition': `attachment; filename="trial-${String(trial.number).padStart(2, '0')}-${size}.exr"`,
        'cache-control': 'no-store',
      },
    });
  });
