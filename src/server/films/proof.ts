import type { Proof } from '@/contract/proof';
import {
  boxHeight,
  boxWidth,
  fromBytes,
  isLossy,
  type LatePart,
  layersInFile,
  readHeaders,
  readPart,
  streamExr,
} from '@/core/exr';
import { isExact, type Layer, layerInfo, restFamily, TALLY_LIMITS, tally } from '@/core/film';
import { nodeDeflate, nodeInflate } from '@/node/zlib';
import type { Sql } from '../db/connection';
import { type Cut, cutParts, type Made } from './cut';
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

/** Sums of the layers of a family as they are read back. */
class Summed {
  private layer: Layer | null = null;
  private parts = 0;
  private hasRest = false;

  constructor(private readonly family: 'group' | 'class') {}

  add(planes: Planes, isRest = false): void {
    this.parts++;
    this.hasRest ||= isRest;
    const name = `${this.family}.sum`;
    this.layer ??= {
      name,
      channels: ['R', 'G', 'B'],
      planes: planes.map((p) => new Float32Array(p.length)),
      kind: 'color',
    };
    planes.forEach((p, c) => {
      const sum = this.layer!.planes[c];
      for (let i = 0; i < p.length; i++) sum[i] += p[i];
    });
  }

  tallied(beauty: Layer | null, of: number, size: { width: number; height: number }, limit: number): Proof['group'] {
    if (!beauty || !this.layer || (this.parts < of && !this.hasRest)) return null;
    const layers = new Map([beauty, this.layer].map((l) => [l.name, l]));
    const { maxError, decibels } = tally({ ...size, layers }, this.family)!;
    return {
      parts: this.parts,
      maxError,
      decibels: Number.isFinite(decibels) ? decibels : null,
      addsUp: maxError <= limit,
    };
  }
}

/** Packs chosen layers of a stored film part by part, reads them back and measures both. Null when the film is not there. */
export async function proveCut(
  sql: Sql,
  hash: string,
  places: readonly LayerPlace[],
  cut: Omit<Cut, 'parting'>,
  made: Made | null = null,
): Promise<Proof | null> {
  const parts = await cutParts(sql, hash, places, cut, made);
  if (!parts) return null;
  const sums = { group: new Summed('group'), class: new Summed('class') };
  let beauty: Layer | null = null;
  const proved: Proof['parts'] = [];
  for (const part of parts) {
    const { own, back, bytes } = await thereAndBack(part);
    const [{ type }] = part.channels;
    const isExactPart = layersInFile([part]).every((l) => isExact(l.name));
    const keptFloat = cut.depth === 'half' && type === 'float' && !isExactPart;
    proved.push({ name: part.name, type, bytes, decibels: decibelsOf(own, back), keptFloat });
    for (const { name, channels } of layersInFile([part])) {
      const rgb = ['R', 'G', 'B'].map((c) => channels.find((i) => part.channels[i].name.split('.').at(-1) === c));
      if (rgb.some((i) => i === undefined)) continue;
      const planes = rgb.map((i) => back[i!] as Float32Array);
      if (name === 'beauty') beauty = { name, channels: ['R', 'G', 'B'], planes, kind: 'color' };
      const rest = restFamily(name);
      const family = rest ?? layerInfo(name).family;
      if (family === 'group' || family === 'class') sums[family].add(planes, rest !== null);
    }
  }
  const { dataWindow } = parts[0];
  const size = { width: boxWidth(dataWindow), height: boxHeight(dataWindow) };
  const limit = TALLY_LIMITS[proved.some((p) => p.type === 'half') ? 'half' : 'float'];
  const countOf = (family: string) => places.filter((p) => layerInfo(p.name).family === family).length;
  const [group, pathClass] = (['group', 'class'] as const).map((f) => sums[f].tallied(beauty, countOf(f), size, limit));
  const fails = [group, pathClass].some((t) => t && !t.addsUp);
  // Nothing but these two takes a bit away.
  const byPacking = isLossy(cut.compression) && limit === TALLY_LIMITS.float;
  return {
    bytes: proved.reduce((n, p) => n + p.bytes, 0),
    parts: proved,
    group,
    class: pathClass,
    cause: fails ? (byPacking ? 'packing' : 'half') : null,
  };
}
