import { type Cut, DENOISED } from '@/core/cut';
import type { Depth } from '@/core/exr';
import { LAYER } from '@/core/film';
import { maskingOf, maskLayers, outputSchema, PACKINGS, TILES, withMade } from '@/core/outputs';
import { pickableOf, pickedBy } from '@/core/scene';
import { database } from '../db/connection';
import { draftOf, revisionById } from '../db/shots';
import { layersOf, type TrialRow } from '../db/trials';
import type { Made } from '../films/cut';
import type { LayerPlace } from '../films/open';
import { madeOf } from './denoised';
import { findTrial } from './find';
import { Refusal } from './respond';

const DEPTHS: Depth[] = ['auto', 'half', 'float'];
const PARTINGS: Cut['parting'][] = ['one', 'many'];

function choice<T extends string>(url: URL, name: string, allowed: readonly T[], otherwise: T): T {
  const value = url.searchParams.get(name) ?? otherwise;
  if (!allowed.includes(value as T)) throw new Refusal(400, 'invalid', `must be one of ${allowed.join(', ')}`, name);
  return value as T;
}

/** How far openness is to look; null where the address does not say. */
function metresIn(url: URL): number | null {
  const text = url.searchParams.get('reach');
  if (text === null || text === '') return null;
  const metres = Number(text);
  if (!(metres > 0 && Number.isFinite(metres))) throw new Refusal(400, 'invalid', 'must be metres above 0', 'reach');
  return metres;
}

/** What stands before the names of layers, as an output may say it. */
function prefixIn(url: URL): string {
  const said = outputSchema.shape.prefix.safeParse(url.searchParams.get('prefix') ?? '');
  if (!said.success) throw new Refusal(400, 'invalid', said.error.issues[0].message, 'prefix');
  return said.data;
}

/** What of a film an address asks for. Throws a refusal where the film has no such layer. */
function cutAsked(url: URL, places: readonly LayerPlace[], masks: NonNullable<Cut['masks']>): Cut {
  const own = places.map((p) => p.name);
  const has = [...withMade(own, []), ...Object.keys(masks)];
  const layers = url.searchParams.get('layers')?.split(',').filter(Boolean) ?? has;
  const unknown = layers.find((n) => !has.includes(n));
  if (unknown !== undefined || layers.length === 0)
    throw new Refusal(
      400,
      'no-layer',
      unknown === undefined ? 'choose at least one layer' : `the film has no layer ${unknown}`,
      'layers',
      has,
    );
  return {
    layers,
    masks: Object.fromEntries(Object.entries(masks).filter(([layer]) => layers.includes(layer))),
    written: url.searchParams.get('written')?.split(',').filter(Boolean),
    reachMetres: metresIn(url),
    depth: choice(url, 'depth', DEPTHS, 'auto'),
    compression: choice(url, 'compression', PACKINGS, 'zip'),
    tilePx: Number(choice(url, 'tiles', ['', ...TILES.map(String)], '')) || null,
    prefix: prefixIn(url),
    parting: choice(url, 'parts', PARTINGS, 'many'),
    denoised: choice(url, 'denoised', DENOISED, 'no'),
  };
}

/** What the shot's masks, as they are being edited, pick of the scene that a trial rendered. */
async function masksOf(trial: TrialRow, places: readonly LayerPlace[]): Promise<NonNullable<Cut['masks']>> {
  const sql = database();
  const [draft, revision] = [await draftOf(sql, trial.shot), await revisionById(sql, trial.revision)];
  if (!draft || !revision) return {};
  const from = pickableOf(revision.document);
  const there = draft.outputs.masks.filter((m) => maskLayers(m).every((n) => places.some((p) => p.name === n)));
  return Object.fromEntries(there.map((m) => [LAYER.mask(m.name), maskingOf(m, pickedBy(m.of, from))]));
}

/** What of a trial's film a request asks for. */
export interface AskedCut {
  trial: TrialRow;
  hash: string;
  places: LayerPlace[];
  cut: Cut;
  made: Made | null;
}

export const noFilm = () => new Refusal(404, 'no-film', 'the trial has no film yet', 'id');

/** Reads what of a trial's film a request asks for. Throws a refusal where there is no such trial, film or layer. */
export async function askedCut(request: Request, id: string): Promise<AskedCut> {
  const trial = await findTrial(id);
  if (!trial.film) throw noFilm();
  const sql = database();
  const places = await layersOf(sql, trial.id);
  const url = new URL(request.url);
  const asksMasks = (url.searchParams.get('layers') ?? '').split(',').some((n) => n.startsWith('mask.'));
  const cut = cutAsked(url, places, asksMasks ? await masksOf(trial, places) : {});
  const made = cut.denoised === 'no' ? null : await madeOf(sql, trial.id);
  return { trial, hash: trial.film, places, cut, made };
}
