import { Readable } from 'node:stream';
import { ZipFile } from 'yazl';
import type { Cut } from '@/core/cut';
import { boxHeight, boxWidth } from '@/core/exr';
import { stillKind } from '@/core/film';
import { type Display, encodePng, toDisplayBytes } from '@/core/image';
import type { Sql } from '../db/connection';
import { cutStored, type Made } from './cut';

/** Values of 0 to 1 as words, channels interleaved; what lies beyond is cut off. */
function words(planes: readonly ArrayLike<number>[]): Uint16Array {
  const out = new Uint16Array(planes.length * planes[0].length);
  planes.forEach((plane, c) => {
    for (let i = 0; i < plane.length; i++)
      out[i * planes.length + c] = Math.round(Math.min(1, Math.max(0, plane[i])) * 65535);
  });
  return out;
}

/**
 * One layer of a stored film as a PNG: data from 0 to 1 in 16 bits as it is, light in 8 bits as the display shows it. Null when
 * the film is not there. Throws for a layer of other data, which only floats hold.
 */
export async function stillOf(
  sql: Sql,
  hash: string,
  cut: Omit<Cut, 'depth' | 'compression' | 'parting'>,
  made: Made | null,
  exposure: Display,
): Promise<Uint8Array | null> {
  const [layer] = cut.layers;
  const kind = stillKind(layer);
  if (!kind) throw new Error(`${layer} is no data from 0 to 1: take it as OpenEXR`);
  const parts = await cutStored(sql, hash, { ...cut, depth: 'float', compression: 'none' }, made);
  if (!parts) return null;
  const [part] = parts;
  const planes = await part.planes();
  const [width, height] = [boxWidth(part.dataWindow), boxHeight(part.dataWindow)];
  // Files have their channels in the order of their names.
  const ordered = ['R', 'G', 'B'].map((c) => planes[part.channels.findIndex((p) => p.name.split('.').at(-1) === c)]);
  const rgb = ordered.every((p) => p) ? (ordered as Float32Array[]) : null;
  if (kind === 'data') {
    const channels = rgb ?? [planes[0]];
    return encodePng(width, height, words(channels), rgb ? 3 : 1);
  }
  const pixels = new Uint8ClampedArray(width * height * 4);
  const [r, g, b] = rgb!;
  toDisplayBytes(r, g, b, width * height, exposure, pixels);
  return encodePng(width, height, pixels);
}

/** Layers of a stored film as PNGs in one .zip, each made when its turn comes; those that PNG cannot hold are left out. */
export function stillsZip(
  sql: Sql,
  hash: string,
  cut: Omit<Cut, 'depth' | 'compression' | 'parting'>,
  made: Made | null,
  exposure: Display,
  stem: string,
): AsyncIterable<Uint8Array> {
  const zip = new ZipFile();
  for (const layer of cut.layers.filter((l) => stillKind(l) !== null)) {
    const png = async function* () {
      const bytes = await stillOf(sql, hash, { ...cut, layers: [layer] }, made, exposure);
      if (bytes) yield bytes;
    };
    const name = `${stem}_${layer.replace(/[^A-Za-z0-9._-]+/g, '-')}.png`;
    zip.addReadStreamLazy(name, { compress: false }, (done) => done(null, Readable.from(png(), { objectMode: false })));
  }
  zip.end();
  return zip.outputStream as unknown as AsyncIterable<Uint8Array>;
}
