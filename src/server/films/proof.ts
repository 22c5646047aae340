import type { Proof } from '@/contract/proof';
import type { Cut } from '@/core/cut';
import {
  boxHeight,
  boxWidth,
  fromBytes,
  fromHalf,
  type LatePart,
  layersInFile,
  readHeaders,
  readPart,
  streamExr,
  toHalf,
} from '@/core/exr';
import { isExact, type Layer, layerInfo, restFamily, TALLY_LIMITS, tally } from '@/core/film';
import { luminance } from '@/core/image';
import { nodeDeflate, nodeInflate } from '@/node/zlib';
import type { Sql } from '../db/connection';
import { cutStored, type Made } from './cut';
import type { LayerPlace } from './open';

type Planes = readonly (Float32Array | Uint32Array)[];

/** Decibels of an RMS error against an RMS value; null for no error. */
function decibelsOf(own: Planes, back: Planes): number | null {
  let [error, power] = [0, 0];
  own.forEach((plane, c) => {
    for (let i = 0; i < plane.length; i++) {
      if (!Number.isFinite(plane[i])) continue;
      error += (back[c][i] - plane[i]) ** 2;
      power += plane[i] ** 2;
    }
  });
  return error === 0 ? null : 10 * Math.log10(error / power);
}

/** A part as a file of its own, and read from it again. */
async function thereAndBack(part: LatePart): Promise<{ own: Planes; back: Planes; bytes: number }> {
  const own = await part.planes();
  const { size, bytes } = await streamExr([{ ...part, planes: () => own }], nodeDeflate);
  const whole = new Uint8Array(size);
  let at = 0;
  for await (const piece of bytes) {
    whole.set(piece, at);
    at += piece.length;
  }
  const source = fromBytes(whole);
  const file = await readHeaders(source);
  const read = await readPart(source, file, 0, nodeInflate);
  // A file has its channels sorted.
  const back = part.channels.map((c) => read[file.parts[0].channels.findIndex((d) => d.name === c.name)]);
  return { own, back, bytes: size };
}

/** Red, green and blue of a layer: as they are read back, and as their pixel type alone would have left them. */
interface Light {
  back: Planes;
  stored: Planes;
}

const colour = (name: string, planes: Planes): Layer => ({
  name,
  channels: ['R', 'G', 'B'],
  planes: planes as Float32Array[],
  kind: 'color',
});

/** Sums of the layers of a family as they are read back, and as they would be packed without loss. */
class Summed {
  private sums: { back: Float32Array[]; stored: Float32Array[] } | null = null;
  private parts = 0;
  private hasRest = false;

  constructor(private readonly family: 'group' | 'class') {}

  add(light: Light, isRest = false): void {
    this.parts++;
    this.hasRest ||= isRest;
    const zeros = () => light.back.map((p) => new Float32Array(p.length));
    this.sums ??= { back: zeros(), stored: zeros() };
    for (const key of ['back', 'stored'] as const)
      light[key].forEach((p, c) => {
        const sum = this.sums![key][c];
        for (let i = 0; i < p.length; i++) sum[i] += p[i];
      });
  }

  /** What comes of holding the sum against the beauty; `stored`: whether it adds up when nothing but the pixel type loses. */
  tallied(
    beauty: Light | null,
    of: number,
    size: { width: number; height: number },
    limit: number,
  ): { read: NonNullable<Proof['group']>; stored: boolean } | null {
    const { sums } = this;
    if (!beauty || !sums || (this.parts < of && !this.hasRest)) return null;
    const held = (key: 'back' | 'stored') => {
      const layers = [colour('beauty', beauty[key]), colour(`${this.family}.sum`, sums[key])];
      return tally({ ...size, layers: new Map(layers.map((l) => [l.name, l])) }, this.family)!;
    };
    const { maxError, decibels, map } = held('back');
    const addsUp = maxError <= limit;
    return {
      read: {
        parts: this.parts,
        maxError,
        decibels: Number.isFinite(decibels) ? decibels : null,
        addsUp,
        failing: addsUp ? null : failingOf(map, beauty.back, limit),
      },
      stored: addsUp || held('stored').maxError <= limit,
    };
  }
}

/** How many pixels do not add up, and which. */
function failingOf(map: Float32Array, [r, g, b]: Planes, limit: number): { share: number; bright: number } {
  const light = map.map((_, i) => luminance(r[i], g[i], b[i]));
  const mean = light.reduce((sum, v) => sum + v, 0) / light.length;
  let [failing, bright] = [0, 0];
  map.forEach((error, i) => {
    if (error <= limit) return;
    failing++;
    if (light[i] > mean) bright++;
  });
  return { share: failing / map.length, bright: failing === 0 ? 0 : bright / failing };
}

/** Packs chosen layers of a stored film part by part, reads them back and measures both. Null when the film is not there. */
export async function proveCut(
  sql: Sql,
  hash: string,
  places: readonly LayerPlace[],
  cut: Omit<Cut, 'parting'>,
  made: Made | null = null,
): Promise<Proof | null> {
  const parts = await cutStored(sql, hash, cut, made);
  if (!parts) return null;
  const sums = { group: new Summed('group'), class: new Summed('class') };
  let beauty: Light | null = null;
  const proved: Proof['parts'] = [];
  for (const part of parts) {
    const { own, back, bytes } = await thereAndBack(part);
    const [{ type }] = part.channels;
    const isExactPart = layersInFile([part]).every((l) => isExact(l.name));
    const beyondHalf = cut.depth === 'half' && type === 'float';
    const keptFloat = !isExactPart && (beyondHalf || part.compression !== cut.compression);
    proved.push({ name: part.name, type, bytes, decibels: decibelsOf(own, back), keptFloat });
    for (const { name, channels } of layersInFile([part])) {
      const rgb = ['R', 'G', 'B'].map((c) => channels.find((i) => part.channels[i].name.split('.').at(-1) === c));
      if (rgb.some((i) => i === undefined)) continue;
      const stored = (plane: Planes[number]) => (type === 'half' ? plane.map((v) => fromHalf(toHalf(v))) : plane);
      const light = { back: rgb.map((i) => back[i!]), stored: rgb.map((i) => stored(own[i!])) };
      if (name === 'beauty') beauty = light;
      const rest = restFamily(name);
      const family = rest ?? layerInfo(name).family;
      if (family === 'group' || family === 'class') sums[family].add(light, rest !== null);
    }
  }
  const { dataWindow } = parts[0];
  const size = { width: boxWidth(dataWindow), height: boxHeight(dataWindow) };
  const limit = TALLY_LIMITS[proved.some((p) => p.type === 'half') ? 'half' : 'float'];
  const countOf = (family: string) => places.filter((p) => layerInfo(p.name).family === family).length;
  const [group, pathClass] = (['group', 'class'] as const).map((f) => sums[f].tallied(beauty, countOf(f), size, limit));
  const fails = [group, pathClass].filter((t) => t && !t.read.addsUp);
  const isByPacking = fails.every((t) => t!.stored);
  return {
    bytes: proved.reduce((n, p) => n + p.bytes, 0),
    parts: proved,
    group: group?.read ?? null,
    class: pathClass?.read ?? null,
    cause: fails.length === 0 ? null : isByPacking ? 'packing' : 'half',
  };
}
