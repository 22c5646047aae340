import { dirname, extname } from 'node:path';
import { checkStack, gradeCube, type Picture, pictureExr, StackError, shownFile, stackAt } from '@/core/comp';
import { between, planesThrough } from '@/core/image';
import { type Noise, noiseOf, type Rgb } from '@/core/stats';
import { nodeDeflate } from '@/node/zlib';
import { one, parseArguments, print, UsageError, wholeNumber } from './args';
import { writeWhole } from './exr-files';
import { framesOf } from './frames';
import { atFrame, bytesOf, StackFiles } from './stack-files';

/** Entries along each axis of a table that is made of a grade. */
const GRADE_SIZE = 33;

/** Noise of the result: the stack over every other sample, twice; null where a layer is kept without halves. */
async function noiseOfResult(files: StackFiles): Promise<Noise | null> {
  const { stack } = files;
  try {
    const a = await files.picture('a');
    const b = await files.picture('b');
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
async function fileOf(picture: Picture, path: string, { header, tables, stack }: StackFiles): Promise<Uint8Array> {
  const as = SHOWN_AS[extname(path)];
  if (as) return shownFile(picture, as, stack, 1, (name) => tables.get(name));
  return pictureExr(picture, { stack: stack.name, header, space: stack.space }, nodeDeflate);
}

/** The grade above a stack's last layer as a .cube, up to so many times display white; what is not in it is told. */
function gradeOf({ stack, tables }: StackFiles, most: number): Uint8Array {
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
      const files = await StackFiles.open(stackAt(document, frame), dirname(path), frame);
      const file = atFrame(out, frame);
      if (extname(file) === '.cube') {
        await writeWhole(file, gradeOf(files, wholeNumber(args, 'most', 1, 1000) ?? 1));
        written.push({ file, frame, noise: null });
        continue;
      }
      await writeWhole(file, await fileOf(await files.picture(null), file, files));
      written.push({ file, frame, noise: (await noiseOfResult(files))?.rms ?? null });
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
