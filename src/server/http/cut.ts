import type { Compression, Depth } from '@/core/exr';
import type { Cut } from '../films/cut';
import type { LayerPlace } from '../films/open';
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
export function cutAsked(url: URL, places: readonly LayerPlace[]): Cut {
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
