import { readFile } from 'node:fs/promises';
import { dirname, extname, resolve } from 'node:path';
import {
  checkStack,
  evaluate,
  exposed,
  gradeCube,
  type LookTable,
  type MoodFactors,
  type Picture,
  pictureExr,
  placed,
  plateOf,
  type Read,
  readCube,
  type Stack,
  StackError,
  shownFile,
  sourcesOf,
  stackAt,
  TableError,
} from '@/core/comp';
import { layeredIn, type PartHeader, readLayered } from '@/core/exr';
import { type FilmLayers, layerInfo } from '@/core/film';
import { between, type Chromaticities, planesThrough, type Space, type WorkingSpace } from '@/core/image';
import { type Noise, noiseOf, type Rgb } from '@/core/stats';
import { nodeDeflate, nodeInflate } from '@/node/zlib';
import { readPicture } from '@/render/import/read-picture';
import { one, parseArguments, print, UsageError, wholeNumber } from './args';
import { withExr, writeWhole } from './exr-files';
import { framesOf } from './frames';
import { factorsIn, moodOf } from './moods';

/** Entries along each axis of a table that is made of a grade. */
const GRADE_SIZE = 33;

/** A path at a frame: a run of # stands for its digits. */
const atFrame = (path: string, frame: number): string =>
  path.replace(/#+/, (signs) => String(frame).padStart(signs.length, '0'));

async function bytesOf(path: string): Promise<Buffer> {
  return readFile(path).catch((error: NodeJS.ErrnoException) => {
    throw new UsageError(`${path}: ${error.code === 'ENOENT' ? 'no such file' : error.message}`);
  });
}

/** A film's layers, its light such that 1 is display white at the film's exposure; and the header of its beauty. */
async function filmAt(path: string): Promise<{ film: FilmLayers; header: PartHeader }> {
  return withExr(path, async (source, file) => {
    const names = layeredIn(file).layers.map((l) => l.name);
    const film = await readLayered(source, file, names, nodeInflate);
    const [first] = file.parts;
    const header = { ...first, dataWindow: first.displayWindow };
    const exposure = header.attributes['lantern:exposure'];
    const scale = exposure?.type === 'double' ? exposure.value : 1;
    return { film: exposed(film, scale), header };
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

async function plateAt(path: string, plate: Stack['pictures'][string], space: WorkingSpace): Promise<Picture> {
  const bytes = await bytesOf(path);
  return plateOf(
    await readPicture(path, bytes, nodeInflate).catch((error: Error) => {
      throw new UsageError(error.message);
    }),
    plate,
    space,
  );
}

/** The light group that a layer is; none for any other. */
function ofGroup(layer: string): string[] {
  const { family, group } = layerInfo(layer);
  return family === 'group' && group !== null ? [group] : [];
}

/** What was read for a stack, and the header of its first film. */
type Known = Read & { header: PartHeader | null };

/** All that a stack names, at a frame. Paths are relative to the stack's file. */
async function readAll(stack: Stack, base: string, frame: number): Promise<Known> {
  const at = (path: string) => resolve(base, atFrame(path, frame));
  const films = new Map<string, FilmLayers>();
  const primaries = new Map<string, Space | Chromaticities>();
  let header: PartHeader | null = null;
  for (const [name, path] of Object.entries(stack.films)) {
    const read = await filmAt(at(path));
    films.set(name, read.film);
    const told = read.header.attributes.chromaticities;
    const space = stack.spaces[name] ?? (told?.type === 'chromaticities' ? told.value : null);
    if (space) primaries.set(name, space);
    header ??= read.header;
  }
  const [film] = films.values();
  const pictures = new Map<string, Picture>();
  for (const [name, plate] of Object.entries(stack.pictures)) {
    const picture = await plateAt(at(plate.file), plate, stack.space);
    // Without a film the first picture says how large the frame is.
    const frame = film ?? [...pictures.values()][0];
    pictures.set(name, frame ? placed(picture, plate.place, frame) : picture);
  }
  const tables = new Map<string, LookTable>();
  for (const [name, path] of Object.entries(stack.tables)) tables.set(name, await tableAt(at(path)));
  const moods = new Map<string, MoodFactors>();
  for (const [name, path] of Object.entries(stack.moods)) {
    const groups = film ? [...film.layers.keys()].flatMap((n) => ofGroup(n)) : [];
    const { factors } = factorsIn(await moodOf(at(path)), groups, [{ attributes: header?.attributes ?? {} }]);
    moods.set(name, { groups, factors });
  }
  return { films, pictures, tables, moods, header, space: stack.space, primaries };
}

/** Noise of the result: the stack over every other sample, twice; null where a layer is kept without halves. */
function noiseOfResult(stack: Stack, read: Read): Noise | null {
  try {
    const [a, b] = (['a', 'b'] as const).map((half) => evaluate(stack, sourcesOf(read, half)));
    const rgb = ({ planes }: Picture) => [...planesThrough(planes, between(stack.space, 'Rec.709'))] as Rgb;
    return noiseOf(rgb(a), rgb(b), a.width, a.height, 1);
  } catch (error) {
    if (error instanceof StackError) return null;
    throw error;
  }
}

/** Endings of files that hold a picture as it is shown. */
const SHOWN_AS: Record<string, 'png' | 'tiff'> = { '.png': 'png', '.tif': 'tiff', '.tiff': 'tiff' };
const ENDINGS = ['.exr', ...Object.keys(SHOWN_AS), '.cube'];

/** The picture as a file's bytes: OpenEXR as it is, PNG and TIFF of 16 bits as shown. */
async function fileOf(picture: Picture, path: string, { header, tables }: Known, stack: Stack): Promise<Uint8Array> {
  const as = SHOWN_AS[extname(path)];
  if (as) return shownFile(picture, as, stack, 1, (name) => tables.get(name));
  return pictureExr(picture, { stack: stack.name, header, space: stack.space }, nodeDeflate);
}

/** The grade above a stack's last layer as a .cube, up to so many times display white; what is not in it is told. */
function gradeOf(stack: Stack, { tables }: Read, most: number): Uint8Array {
  const made = gradeCube(stack, (name) => tables.get(name)!, { size: GRADE_SIZE, most });
  if (!made) throw new UsageError('nothing grades the picture: a grade stands above the last layer, without a mask');
  if (made.left.length > 0) process.stderr.write(`warning: not in the table: ${made.left.join(', ')}\n`);
  return Buffer.from(made.text);
}

/** `lantern comp`: a stack over the films and pictures that it names, as pictures. Returns the exit code. */
export async function comp(argv: string[]): Promise<number> {
  const args = parseArguments(argv, { out: 'value', frames: 'value', most: 'value', json: 'value' });
  if (args.positional.length !== 1) throw new UsageError('comp needs one stack, a .json file');
  const [path] = args.positional;
  const out = one(args, 'out');
  if (out === undefined || !ENDINGS.includes(extname(out)))
    throw new UsageError('comp needs --out file.exr, file.png, file.tif or file.cube');
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
      const file = atFrame(out, frame);
      if (extname(file) === '.cube') {
        await writeWhole(file, gradeOf(stack, read, wholeNumber(args, 'most', 1, 1000) ?? 1));
        written.push({ file, frame, noise: null });
        continue;
      }
      const picture = evaluate(stack, sourcesOf(read));
      await writeWhole(file, await fileOf(picture, file, read, stack));
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
