import { inPage, type LookTable, type Picture, type Showing, shownValues } from '@/core/comp';
import type { FilmLayers } from '@/core/film';
import {
  between,
  type Chromaticities,
  type Display,
  decodeSrgb,
  encodeSrgb,
  isIdentity,
  planesThrough,
  toDisplayBytes,
  whiteOf,
} from '@/core/image';
import { COMP } from '@/core/runs';
import { nodeInflate } from '@/node/zlib';
import { readPicture } from '@/render/import/read-picture';
import type { Sql } from '../db/connection';
import { filesOfFrame } from '../db/run-files';
import { deliveredLayer, layerOf, sourceOf } from './delivered';
import { readLayers } from './open';

/** A picture as displayed: R, G, B of 8 bits, top row first. */
export interface ShownFrame {
  width: number;
  height: number;
  rgb: Uint8Array;
}

function shownBy(planes: readonly Float32Array[], width: number, height: number, display: Display): ShownFrame {
  const count = width * height;
  const rgba = new Uint8ClampedArray(count * 4);
  toDisplayBytes(planes[0], planes[1], planes[2], count, display, rgba);
  const rgb = new Uint8Array(count * 3);
  for (let i = 0; i < count; i++) for (let c = 0; c < 3; c++) rgb[i * 3 + c] = rgba[i * 4 + c];
  return { width, height, rgb };
}

/** What a screen is given, 0 to 1, as bytes with channels interleaved. */
export function bytesOf(values: readonly Float32Array[]): Uint8Array {
  const out = new Uint8Array(values[0].length * 3);
  values.forEach((plane, c) => {
    for (let i = 0; i < plane.length; i++) out[i * 3 + c] = Math.round(plane[i] * 255);
  });
  return out;
}

/** Colour planes of a layer whose channels are in any order, one behind the other. */
const colours = (layer: { values: Float32Array; channels: readonly string[] }): Float32Array[] => {
  const size = layer.values.length / layer.channels.length;
  return ['R', 'G', 'B'].map((c) => {
    const at = layer.channels.findIndex((n) => n.split('.').at(-1) === c);
    if (at < 0) throw new Error('the layer has no colours');
    return layer.values.subarray(at * size, (at + 1) * size);
  });
};

/** How the page shows what a stack made, and the look tables that it has. */
export interface StackShown {
  by: Showing;
  display: Display;
  tables: ReadonlyMap<string, LookTable>;
}

/** Values for a screen of some primaries, encoded by the curve of sRGB, for sRGB. */
function forPage(values: readonly Float32Array[], primaries: Chromaticities): readonly Float32Array[] {
  const m = between(primaries, 'Rec.709');
  if (isIdentity(m)) return values;
  const light = planesThrough(
    values.map((p) => p.map(decodeSrgb)),
    m,
  );
  return light.map((p) => p.map((v) => encodeSrgb(Math.min(1, Math.max(0, v)))));
}

/** What the shot's stack made of a frame, of the file that was delivered of it. */
async function shownComp(sql: Sql, trial: string, shown: StackShown): Promise<ShownFrame | null> {
  const file = (await filesOfFrame(sql, trial)).find((f) => f.output === COMP);
  const source = file && (await sourceOf(sql, file));
  if (!source) return null;
  if (file.name.endsWith('.exr')) {
    const layer = await layerOf(source, 'beauty');
    if (!layer) return null;
    const { width, height } = layer;
    const [r, g, b] = colours(layer);
    const picture: Picture = { width, height, planes: [r, g, b, new Float32Array(r.length).fill(1)] };
    const values = shownValues(picture, inPage(shown.by), shown.display, (name) => shown.tables.get(name));
    return { width, height, rgb: bytesOf(values) };
  }
  try {
    const bytes = await source.read(0, source.size);
    const { width, height, values, channels, primaries } = await readPicture(file.name, bytes, nodeInflate);
    const white = whiteOf(values);
    const planes = [0, 1, 2].map((c) =>
      Float32Array.from({ length: width * height }, (_, i) => values[i * channels + c] / white),
    );
    return { width, height, rgb: bytesOf(primaries ? forPage(planes, primaries) : planes) };
  } finally {
    await source.close?.();
  }
}

/** How frames of a run are displayed: their beauty, and what its stack made. */
export interface ShownAs {
  display: Display;
  stack: StackShown | null;
}

/**
 * A finished frame of a run as it looks: its beauty as it was delivered, of its kept film where no file has it, or what the stack
 * made. Null where nothing of it is there any more.
 */
export async function shownFrame(
  sql: Sql,
  { id, film }: { id: string; film: string | null },
  shows: 'beauty' | 'comp',
  { display, stack }: ShownAs,
): Promise<ShownFrame | null> {
  if (shows === 'comp') return stack && shownComp(sql, id, stack);
  const layer = await deliveredLayer(sql, id, 'beauty');
  if (layer) return shownBy(colours(layer), layer.width, layer.height, display);
  const kept = film ? await readLayers(sql, film, (n) => n === 'beauty') : null;
  return kept && shownFilm(kept, display);
}

/** The beauty of a film as it looks; null where that is not among its layers. */
export function shownFilm({ layers, width, height }: FilmLayers, display: Display): ShownFrame | null {
  const beauty = layers.get('beauty');
  return beauty ? shownBy(beauty.planes as Float32Array[], width, height, display) : null;
}
