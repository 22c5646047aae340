import type { Compression, Depth } from '@/core/exr';
import { database } from '../db/connection';
import { layersOf, type TrialRow } from '../db/trials';
import type { Cut, Made } from '../films/cut';
import type { LayerPlace } from '../films/open';
import { madeOf } from './denoised';
import { findTrial } from './find';
import { Refusal } from './respond';

const DEPTHS: Depth[] = ['auto', 'half', 'float'];
const COMPRESSIONS: Compression[] = ['none', 'rle', 'zips', 'zip', 'piz', 'pxr24'];
const DENOISED: NonNullable<Cut['denoised']>[] = ['no', 'instead', 'beside'];
const PARTINGS: Cut['parting'][] = ['one', 'many'];

function choice<T extends string>(url: URL, name: string, allowed: readonly T[], otherwise: T): T {
  const value = url.searchParams.get(name) ?? otherwise;
  if (!allowed.includes(value as T)) throw new Refusal(400, 'invalid', `must be one of ${allowed.join(', ')}`, name);
  return value as T;
}

/** What of a film an address asks for. Throws a refusal where the film has no such layer. */
function cutAsked(url: URL, places: readonly LayerPlace[]): Cut {
  const has = places.map((p) => p.name);
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
    depth: choice(url, 'depth', DEPTHS, 'auto'),
    compression: choice(url, 'compression', COMPRESSIONS, 'zip'),
    parting: choice(url, 'parts', PARTINGS, 'many'),
    denoised: choice(url, 'denoised', DENOISED, 'no'),
  };
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
  const cut = cutAsked(new URL(request.url), places);
  const made = cut.denoised === 'no' ? null : await madeOf(sql, trial.id);
  return { trial, hash: trial.film, places, cut, made };
}
