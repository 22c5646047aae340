import { readFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import {
  type ByteSource,
  boxHeight,
  boxWidth,
  coverageOf,
  type ExrFile,
  type FileMask,
  masksInFile,
  type Part,
  readManifest,
  readPart,
  writeExr,
} from '@/core/exr';
import { encodePng } from '@/core/image';
import { likeName } from '@/core/scene';
import { nodeDeflate, nodeInflate } from '@/node/zlib';
import { one, parseArguments, print, UsageError } from './args';
import { withExr, writePieces } from './exr-files';

type Manifest = Map<string, number>;

/** The names of a mask: its own manifest, or the one beside the file that it names. */
async function manifestOf(path: string, mask: FileMask): Promise<Manifest> {
  if (mask.manifest) return mask.manifest;
  if (mask.manifestFile === null) throw new UsageError(`${path}: mask ${mask.name} has no manifest`);
  const beside = join(dirname(path), mask.manifestFile);
  const text = await readFile(beside, 'utf8').catch(() => {
    throw new UsageError(`${path}: mask ${mask.name} has its names in ${mask.manifestFile}, which is not there`);
  });
  return readManifest(text, beside);
}

async function coverageIn(source: ByteSource, file: ExrFile, mask: FileMask, ids: ReadonlySet<number>) {
  const planes = new Map<number, Float32Array[]>();
  for (const part of new Set(mask.channels.map((c) => c.part)))
    planes.set(part, (await readPart(source, file, part, nodeInflate)) as Float32Array[]);
  const channels = mask.channels.map((c) => c.name);
  return coverageOf({ channels, planes: mask.channels.map((c) => planes.get(c.part)![c.channel]) }, { ids });
}

/** Coverage of 0 to 1 as 0 to 65535. */
const sixteenBits = (plane: Float32Array) =>
  Uint16Array.from(plane, (v) => Math.round(Math.min(1, Math.max(0, v)) * 65535));

/** `lantern mask`: the coverage of what is picked by name from any Cryptomatte of a file, as a plane. Returns the exit code. */
export async function mask(argv: string[]): Promise<number> {
  const args = parseArguments(argv, { pick: 'values', out: 'value', json: 'value' });
  if (args.positional.length !== 1) throw new UsageError('mask needs one .exr file');
  const [path] = args.positional;
  const [picks, out] = [args.options.get('pick') ?? [], one(args, 'out')];
  if (out !== undefined && !/\.(exr|png)$/i.test(out))
    throw new UsageError(`${out}: a mask is written as .exr or .png`);
  if ((out === undefined) !== (picks.length === 0)) throw new UsageError('--pick NAME and --out FILE go together');
  return withExr(path, async (source, file) => {
    const masks = masksInFile(file.parts);
    if (masks.length === 0) throw new UsageError(`${path}: it has no mask`);
    const manifests = new Map<FileMask, Manifest>();
    for (const m of masks) manifests.set(m, await manifestOf(path, m));
    if (out === undefined) {
      const names = Object.fromEntries(masks.map((m) => [m.name, [...manifests.get(m)!.keys()]]));
      const words = masks.map((m) => `${m.name}: ${names[m.name].join(', ')}\n`).join('');
      print(one(args, 'json') === '-', { file: path, masks: names }, words);
      return 0;
    }
    const matches = picks.map((p) => likeName(p));
    // The first mask that has all names: the others tell the same pixels apart in another way.
    const has = (m: FileMask, like: (name: string) => boolean) => [...manifests.get(m)!.keys()].some(like);
    const from = masks.find((m) => matches.every((like) => has(m, like)));
    if (!from) {
      const missing = picks.find((_, i) => !masks.some((m) => has(m, matches[i])));
      throw new UsageError(
        `${path}: ${missing === undefined ? 'no one mask has all that is picked' : `no mask has ${missing}`}`,
      );
    }
    const found = [...manifests.get(from)!].filter(([name]) => matches.some((like) => like(name)));
    const plane = await coverageIn(source, file, from, new Set(found.map(([, id]) => id)));
    const { dataWindow, displayWindow } = file.parts[from.channels[0].part];
    const [width, height] = [boxWidth(dataWindow), boxHeight(dataWindow)];
    const names = found.map(([name]) => name);
    const part: Part = {
      name: 'mask',
      compression: 'zip',
      dataWindow,
      displayWindow,
      channels: [{ name: 'Y', type: 'float' }],
      planes: [plane],
      attributes: { 'lantern:picks': { type: 'string', value: names.join('\n') } },
    };
    const bytes = /png$/i.test(out)
      ? encodePng(width, height, sixteenBits(plane), 1)
      : (await writeExr([part], nodeDeflate)).bytes;
    await writePieces(out, [bytes]);
    const covered = plane.reduce((s, v) => s + v, 0) / plane.length;
    print(
      one(args, 'json') === '-',
      { file: path, mask: from.name, picked: names, covered, out },
      `${out}: ${names.length} of ${from.name}, ${(covered * 100).toFixed(1)} % of the picture\n`,
    );
    return 0;
  });
}
