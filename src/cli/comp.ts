import { readFile } from 'node:fs/promises';
import { dirname, extname, resolve } from 'node:path';
import {
  checkStack,
  evaluate,
  type LookTable,
  type Picture,
  plateOf,
  type Read,
  readCube,
  type Stack,
  StackError,
  sourcesOf,
  stackAt,
  TableError,
} from '@/core/comp';
import { type Attribute, type Part, type PartHeader, writeExr } from '@/core/exr';
import { type FilmLayers, layerInfo } from '@/core/film';
import { encodePng, encodeSrgb, shoulder } from '@/core/image';
import { type Noise, noiseOf } from '@/core/stats';
import { nodeDeflate, nodeInflate } from '@/node/zlib';
import { readPicture } from '@/render/import/read-picture';
import { one, parseArguments, print, UsageError } from './args';
import { readLayers, withExr, writeWhole } from './exr-files';

/** A path at a frame: a run of # stands for its digits. */
const atFrame = (path: string, frame: number): string =>
  path.replace(/#+/, (signs) => String(frame).padStart(signs.length, '0'));

/** Frames of `5` or `1-48`. */
function framesOf(text: string): number[] {
  const [, from, to] = /^(\d+)(?:-(\d+))?$/.exec(text) ?? [];
  if (from === undefined) throw new UsageError(`--frames ${text}: a frame as 5, or first and last as 1-48`);
  const [first, last] = [Number(from), Number(to ?? from)];
  if (last < first) throw new UsageError(`--frames ${text}: the last comes before the first`);
  return Array.from({ length: last - first + 1 }, (_, i) => first + i);
}

async function bytesOf(path: string): Promise<Buffer> {
  return readFile(path).catch((error: NodeJS.ErrnoException) => {
    throw new UsageError(`${path}: ${error.code === 'ENOENT' ? 'no such file' : error.message}`);
  });
}

/** A film's layers, its light such that 1 is display white at the film's exposure; and the header of its beauty. */
async function filmAt(path: string): Promise<{ film: FilmLayers; header: PartHeader }> {
  return withExr(path, async (source, file) => {
    const film = await readLayers(source, file);
    const [header] = file.parts;
    const exposure = header.attributes['lantern:exposure'];
    const scale = exposure?.type === 'double' ? exposure.value : 1;
    const layers = new Map(
      [...film.layers].map(([name, layer]) => {
        if (layerInfo(name).data) return [name, layer] as const;
        return [name, { ...layer, planes: layer.planes.map((p) => p.map((v) => v * scale)) }] as const;
      }),
    );
    return { film: { ...film, layers }, header };
  });
}

async function tableAt(path: string): Promise<LookTable> {
  const text = (await bytesOf(path)).toString('utf8');
  try {
    return readCube(text);
  } catch (error) {
    throw error instanceof TableError ? new UsageError(`${path}: ${error.message}`) : error;
  }
}

async function plateAt(path: string, plate: Stack['pictures'][string]): Promise<Picture> {
  const bytes = await bytesOf(path);
  return plateOf(
    await readPicture(path, bytes, nodeInflate).catch((error: Error) => {
      throw new UsageError(error.message);
    }),
    plate,
  );
}

/** All that a stack names, at a frame. Paths are relative to the stack's file. */
async function readAll(stack: Stack, base: string, frame: number): Promise<Read & { header: PartHeader | null }> {
  const at = (path: string) => resolve(base, atFrame(path, frame));
  const films = new Map<string, FilmLayers>();
  let header: PartHeader | null = null;
  for (const [name, path] of Object.entries(stack.films)) {
    const read = await filmAt(at(path));
    films.set(name, read.film);
    header ??= read.header;
  }
  const pictures = new Map<string, Picture>();
  for (const [name, plate] of Object.entries(stack.pictures)) pictures.set(name, await plateAt(at(plate.file), plate));
  const tables = new Map<string, LookTable>();
  for (const [name, path] of Object.entries(stack.tables)) tables.set(name, await tableAt(at(path)));
  return { films, pictures, tables, header };
}

/** Noise of the result: the stack over every other sample, twice; null where a layer is kept without halves. */
function noiseOfResult(stack: Stack, read: Read): Noise | null {
  try {
    const [a, b] = (['a', 'b'] as const).map((half) => evaluate(stack, sourcesOf(read, half)));
    const rgb = ({ planes: [r, g, bl] }: Picture) => [r, g, bl] as [Float32Array, Float32Array, Float32Array];
    return noiseOf(rgb(a), rgb(b), a.width, a.height, 1);
  } catch (error) {
    if (error instanceof StackError) return null;
    throw error;
  }
}

/** The picture as a file's bytes: OpenEXR as it is, PNG of 16 bits as displayed. */
async function fileOf(picture: Picture, path: string, header: PartHeader | null, stack: Stack): Promise<Uint8Array> {
  const { width, height, planes } = picture;
  if (extname(path) === '.png') {
    // As displayed: over black, where light without alpha (a sky, a glow) shows too.
    const out = new Uint16Array(width * height * 3);
    for (let i = 0; i < width * height; i++)
      for (let c = 0; c < 3; c++)
        out[i * 3 + c] = Math.round(encodeSrgb(Math.min(1, shoulder(Math.max(0, planes[c][i])))) * 65535);
    return encodePng(width, height, out, 3);
  }
  const box = { xMin: 0, yMin: 0, xMax: width - 1, yMax: height - 1 };
  const said: Record<string, Attribute> = {
    ...header?.attributes,
    'lantern:exposure': { type: 'double', value: 1 },
    ...(stack.name ? { 'lantern:stack': { type: 'string', value: stack.name } } : {}),
  };
  const attributes = Object.fromEntries(Object.entries(said).filter(([key]) => !key.startsWith('cryptomatte/')));
  const part: Part = {
    name: 'beauty',
    channels: ['A', 'B', 'G', 'R'].map((name) => ({ name, type: 'float' as const })),
    compression: 'zip',
    dataWindow: header?.dataWindow ?? box,
    displayWindow: header?.displayWindow ?? box,
    attributes,
    planes: [planes[3], planes[2], planes[1], planes[0]],
  };
  return (await writeExr([part], nodeDeflate)).bytes;
}

/** `lantern comp`: a stack over the films and pictures that it names, as pictures. Returns the exit code. */
export async function comp(argv: string[]): Promise<number> {
  const args = parseArguments(argv, { out: 'value', frames: 'value', json: 'value' });
  if (args.positional.length !== 1) throw new UsageError('comp needs one stack, a .json file');
  const [path] = args.positional;
  const out = one(args, 'out');
  if (out === undefined || !['.exr', '.png'].includes(extname(out)))
    throw new UsageError('comp needs --out file.exr or file.png');
  const frames = framesOf(one(args, 'frames') ?? '1');
  if (frames.length > 1 && !out.includes('#'))
    throw new UsageError(`--out ${out}: #### is wanted where the frame goes`);
  const text = (await bytesOf(path)).toString('utf8');
  const written: { file: string; frame: number; noise: number | null }[] = [];
  try {
    let document: unknown;
    try {
      document = JSON.parse(text);
    } catch {
      throw new UsageError(`${path}: it is no JSON`);
    }
    checkStack(document);
    for (const frame of frames) {
      const stack = stackAt(document, frame);
      const read = await readAll(stack, dirname(path), frame);
      const picture = evaluate(stack, sourcesOf(read));
      const file = atFrame(out, frame);
      await writeWhole(file, await fileOf(picture, file, read.header, stack));
      written.push({ file, frame, noise: noiseOfResult(stack, read)?.rms ?? null });
    }
  } catch (error) {
    throw error instanceof StackError ? new UsageError(`${path}: ${error.message}`) : error;
  }
  const words = written.map(
    ({ file, noise }) => `${file}${noise === null ? '' : `: noise ${noise.toFixed(2)} % of display white`}\n`,
  );
  print(one(args, 'json') === '-', { stack: path, written }, words.join(''));
  return 0;
}
