import type { FilmLayers } from '@/core/film';
import { type Display, decodePng, toDisplayBytes, whiteOf } from '@/core/image';
import { COMP } from '@/core/runs';
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

/** Colour planes of a layer whose channels are in any order, one behind the other. */
const colours = (layer: { values: Float32Array; channels: readonly string[] }): Float32Array[] => {
  const size = layer.values.length / layer.channels.length;
  return ['R', 'G', 'B'].map((c) => {
    const at = layer.channels.findIndex((n) => n.split('.').at(-1) === c);
    if (at < 0) throw new Error('the layer has no colours');
    return layer.values.subarray(at * size, (at + 1) * size);
  });
};

/** What the shot's stack made of a frame, of the file that was delivered of it. */
async function shownComp(sql: Sql, trial: string, stackDisplay: Display): Promise<ShownFrame | null> {
  const file = (await filesOfFrame(sql, trial)).find((f) => f.output === COMP);
  const source = file && (await sourceOf(sql, file));
  if (!source) return null;
  if (file.name.endsWith('.exr')) {
    const layer = await layerOf(source, 'beauty');
    return layer && shownBy(colours(layer), layer.width, layer.height, stackDisplay);
  }
  try {
    const { width, height, values, channels } = decodePng(await source.read(0, source.size));
    const white = whiteOf(values);
    const rgb = new Uint8Array(width * height * 3);
    for (let i = 0; i < width * height; i++)
      for (let c = 0; c < 3; c++) rgb[i * 3 + c] = Math.round((values[i * channels + c] / white) * 255);
    return { width, height, rgb };
  } finally {
    await source.close?.();
  }
}

/** How frames of a run are displayed: their beauty, and light of which 1 is display white already. */
export interface ShownAs {
  display: Display;
  stackDisplay: Display;
}

/**
 * A finished frame of a run as it looks: its beauty as it was delivered, of its kept film where no file has it, or what the stack
 * made. Null where nothing of it is there any more.
 */
export async function shownFrame(
  sql: Sql,
  { id, film }: { id: string; film: string | null },
  shows: 'beauty' | 'comp',
  { display, stackDisplay }: ShownAs,
): Promise<ShownFrame | null> {
  if (shows === 'comp') return shownComp(sql, id, stackDisplay);
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
