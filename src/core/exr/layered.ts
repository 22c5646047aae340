import { type FilmLayers, type Layer, MASK_LAYERS } from '../film';
import type { Inflate } from './codecs/codec';
import { layersInFile } from './cut';
import { type FileMask, masksInFile } from './mask';
import type { ExrFile } from './read';
import { readPart } from './read-part';
import type { Box, ByteSource } from './types';

/** A layer of a file, whoever wrote it: its name, its channels' own names, and where they are. */
interface Found {
  name: string;
  channels: { part: number; channel: number; name: string }[];
}

/** What a file has, without its pixels. */
export interface Layered {
  width: number;
  height: number;
  layers: Found[];
  /** Names of things that its mask tells apart. */
  things: string[];
}

const COLOURS = ['R', 'G', 'B', 'A'];
const WORDS: Record<string, string> = { red: 'R', green: 'G', blue: 'B', alpha: 'A' };

/** Names of channels as they are called here: those of colours by one letter each. */
function called(names: readonly string[]): string[] {
  const last = names.map((n) => n.slice(n.lastIndexOf('.') + 1));
  const short = last.map((n) => WORDS[n.toLowerCase()] ?? (/^[rgba]$/.test(n) ? n.toUpperCase() : n));
  return ['R', 'G', 'B'].every((c) => short.includes(c)) ? short : last;
}

/** Red, green, blue, alpha in this order where they are there, all else as in the file. */
function inOrder(channels: Found['channels']): Found['channels'] {
  const names = called(channels.map((c) => c.name));
  const place = (i: number) => (COLOURS.includes(names[i]) ? COLOURS.indexOf(names[i]) : COLOURS.length + i);
  return channels
    .map((c, i) => ({ ...c, name: names[i], place: place(i) }))
    .sort((a, b) => a.place - b.place)
    .map(({ place: _place, ...c }) => c);
}

/** The mask that stands for the objects of a file: ours, or else its first. */
function objectMask(masks: readonly FileMask[]): FileMask | undefined {
  const own = `mask_${MASK_LAYERS.coverage}`;
  const full = masks.filter((m) => m.channels.length > 0);
  return full.find((m) => m.name === own) ?? full[0];
}

/**
 * The layers of any OpenEXR file: channels gathered by what stands before their last dot, bare ones by their part; its first Cryptomatte as `coverage`. Throws `ExrError` where
 * a mask of it is broken.
 */
export function layeredIn(file: ExrFile): Layered {
  const { xMin, yMin, xMax, yMax } = file.parts[0].displayWindow;
  const masks = masksInFile(file.parts);
  const isOfMask = (part: number, channel: number) =>
    masks.some((m) => m.channels.some((c) => c.part === part && c.channel === channel));
  const layers = layersInFile(file.parts).flatMap(({ name, part, channels }): Found[] => {
    const own = channels.filter((c) => !isOfMask(part, c));
    const found = own.map((channel) => ({ part, channel, name: file.parts[part].channels[channel].name }));
    return own.length > 0 ? [{ name, channels: inOrder(found) }] : [];
  });
  const mask = objectMask(masks);
  if (mask) layers.push({ name: 'coverage', channels: mask.channels });
  return {
    width: xMax - xMin + 1,
    height: yMax - yMin + 1,
    layers,
    things: mask?.manifest ? [...mask.manifest.keys()] : [],
  };
}

/** What lies beyond a part's data: nothing; of depth, what is infinitely far. */
const beyondOf = (layer: string): number => (/(^|\.)(depth|z)$/i.test(layer) ? Number.POSITIVE_INFINITY : 0);

/** A plane of a data window as the display window has it. */
function inFrame(plane: Float32Array, data: Box, frame: Box, beyond: number): Float32Array {
  const [w, width] = [data.xMax - data.xMin + 1, frame.xMax - frame.xMin + 1];
  const height = frame.yMax - frame.yMin + 1;
  if (data.xMin === frame.xMin && data.yMin === frame.yMin && w === width && plane.length === width * height)
    return plane;
  const out = new Float32Array(width * height).fill(beyond);
  const [x0, x1] = [Math.max(data.xMin, frame.xMin), Math.min(data.xMax, frame.xMax)];
  for (let y = Math.max(data.yMin, frame.yMin); y <= Math.min(data.yMax, frame.yMax); y++) {
    if (x1 < x0) break;
    const from = (y - data.yMin) * w - data.xMin;
    out.set(plane.subarray(from + x0, from + x1 + 1), (y - frame.yMin) * width + x0 - frame.xMin);
  }
  return out;
}

/** Layers of a file by their names, as large as its display window; those that it does not have are left out. */
export async function readLayered(
  source: ByteSource,
  file: ExrFile,
  names: readonly string[],
  inflate: Inflate,
): Promise<FilmLayers> {
  const { width, height, layers } = layeredIn(file);
  const frame = file.parts[0].displayWindow;
  const parts = new Map<number, readonly (Float32Array | Uint32Array)[]>();
  const wanted = layers.filter((l) => names.includes(l.name));
  for (const { channels } of wanted)
    for (const { part } of channels) if (!parts.has(part)) parts.set(part, await readPart(source, file, part, inflate));
  const read = wanted.map(({ name, channels }): [string, Layer] => {
    const planes = channels.map(({ part, channel }) => {
      const plane = parts.get(part)![channel];
      const floats = plane instanceof Float32Array ? plane : Float32Array.from(plane);
      return inFrame(floats, file.parts[part].dataWindow, frame, beyondOf(name));
    });
    const isColour = planes.length >= 3 && channels[0].name === 'R';
    return [name, { name, channels: channels.map((c) => c.name), planes, kind: isColour ? 'color' : 'data' }];
  });
  return { width, height, layers: new Map(read) };
}
