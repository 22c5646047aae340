import { readFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { cutFor, fileParts, layersIn } from '@/core/cut';
import { type ExrFile, type Masking, masksInFile, membersIn, partOf, readPart, streamExr } from '@/core/exr';
import { LAYER } from '@/core/film';
import {
  allFiles,
  chosenOf,
  isOfVariant,
  MASKED_BY,
  type Mask,
  maskingOf,
  type NamedBy,
  type Outputs,
  OutputsError,
  type PlannedFiles,
  parseOutputs,
  type Variant,
  variantSchema,
  withMade,
} from '@/core/outputs';
import { emptyPicks, pickedBy } from '@/core/scene';
import { nodeDeflate, nodeInflate } from '@/node/zlib';
import { type Arguments, one, parseArguments, print, UsageError, wholeNumber } from './args';
import { withExr, writePieces } from './exr-files';

/** Outputs from a JSON file. */
export async function loadOutputs(path: string): Promise<Outputs> {
  try {
    return parseOutputs(JSON.parse(await readFile(path, 'utf8')));
  } catch (error) {
    if (error instanceof OutputsError) throw new UsageError(`${path}: ${error.message}`);
    const words = (error as NodeJS.ErrnoException).code === 'ENOENT' ? 'no such file' : (error as Error).message;
    throw new UsageError(`${path}: ${words}`);
  }
}

/** What names are made of: what the film says of itself, and the arguments. */
function namedBy(path: string, { parts: [{ attributes }] }: ExrFile, args: Arguments): NamedBy {
  const text = (key: string) => {
    const a = attributes[key];
    return a?.type === 'string' ? a.value : null;
  };
  const written = attributes['lantern:frame'];
  const frame = written?.type === 'double' ? written.value : 1;
  const [year, month, day] = (text('capDate') ?? '').split(/[: ]/).map(Number);
  return {
    shot: one(args, 'shot') ?? basename(path, '.exr'),
    recipe: text('lantern:recipe')?.slice(0, 8) ?? 'recipe',
    camera: text('lantern:camera') ?? 'camera',
    frames: { first: frame, last: frame },
    frame,
    trial: wholeNumber(args, 'trial', 0, 99999) ?? 0,
    date: year ? new Date(year, month - 1, day) : new Date(),
  };
}

/** What the picture of a film differs in from its shot's; null for that. */
function variantIn(path: string, { parts: [{ attributes }] }: ExrFile): Variant | null {
  const a = attributes['lantern:variant'];
  if (a?.type !== 'string') return null;
  try {
    return variantSchema.parse(JSON.parse(a.value));
  } catch {
    throw new UsageError(`${path}: lantern:variant cannot be read`);
  }
}

/** What masks pick of a film by what its file says of objects, materials and sets. Throws for a pick that picks nothing. */
function masksOf(path: string, { parts }: ExrFile, masks: readonly Mask[]): Record<string, Masking> {
  const manifest = masksInFile(parts).find((m) => m.name === partOf(MASKED_BY))?.manifest ?? new Map<string, number>();
  const from = { objects: [...manifest.keys()], ...membersIn(parts) };
  for (const m of masks) {
    // A film without coverage has no masks by picks at all, which is told by what is absent.
    const [empty] = manifest.size > 0 ? emptyPicks(m.of, from) : [];
    if (empty) throw new UsageError(`${path}: mask ${m.name}: the film has no ${empty.kind} ${empty.name}`);
  }
  return Object.fromEntries(masks.map((m) => [LAYER.mask(m.name), maskingOf(m, pickedBy(m.of, from))]));
}

/** `lantern split`: writes the files of outputs from a film, part by part. Returns the exit code. */
export async function split(argv: string[]): Promise<number> {
  const args = parseArguments(argv, {
    outputs: 'value',
    dir: 'value',
    shot: 'value',
    trial: 'value',
    json: 'value',
  });
  if (args.positional.length !== 1) throw new UsageError('split needs one .exr file');
  const [path] = args.positional;
  const [named, dir] = [one(args, 'outputs'), one(args, 'dir')];
  if (named === undefined || dir === undefined)
    throw new UsageError('split needs --outputs file.json and --dir folder');
  const outputs = await loadOutputs(named);
  const { masks } = outputs;
  return withExr(path, async (source, file) => {
    const variant = variantIn(path, file);
    const list = outputs.list.filter((o) => isOfVariant(o, variant));
    if (list.length === 0)
      throw new UsageError(
        `${path}: it is ${variant ? 'a variant' : 'the picture of the shot'}; no output of ${named} is`,
      );
    const film = { parts: file.parts, read: (part: number) => readPart(source, file, part, nodeInflate) };
    const has = withMade(layersIn(film), masks);
    const picked = masksOf(path, file, masks);
    for (const o of list) {
      const { absent } = chosenOf(o, has);
      if (absent.length > 0)
        throw new UsageError(`${path}: output ${o.name} writes ${absent.join(', ')}, the film has ${has.join(', ')}`);
    }
    const plans = allFiles(list, (o) => chosenOf(o, has).chosen, namedBy(path, file, args));
    const faults = [...plans.values()].flatMap((p: PlannedFiles) => p.faults);
    if (faults.length > 0) throw new UsageError(`${named}: ${faults[0]}`);
    const written: { output: string; file: string; layers: string[]; bytes: number }[] = [];
    for (const output of list)
      for (const { name, layers } of plans.get(output.id)!.files) {
        const cut = cutFor(output, layers, picked);
        const { bytes, size } = await streamExr(await fileParts(film, cut), nodeDeflate);
        await writePieces(join(dir, name), bytes);
        written.push({ output: output.name, file: join(dir, name), layers, bytes: size });
      }
    const words = written
      .map((w) => `${w.file}: ${w.layers.length} layers, ${(w.bytes / 1e6).toFixed(1)} MB\n`)
      .join('');
    print(one(args, 'json') === '-', { film: path, written }, words);
    return 0;
  });
}
