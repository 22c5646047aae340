import { readFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import {
  type ByteSource,
  boxHeight,
  boxWidth,
  cutPart,
  type ExrFile,
  inOnePart,
  type LatePart,
  layersInFile,
  layersOf,
  type Masking,
  maskNeeds,
  maskPart,
  masksInFile,
  membersIn,
  opennessPart,
  partOf,
  prefixed,
  type ReadPart,
  readPart,
  restPart,
  streamExr,
} from '@/core/exr';
import { type FilmLayers, LAYER, layerInfo, OPENNESS, restFamily } from '@/core/film';
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
  writes,
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

/** Layers of a file by their names, and what shares their parts. */
async function layersNamed(source: ByteSource, file: ExrFile, names: readonly string[]): Promise<FilmLayers> {
  const there = layersInFile(file.parts).filter((l) => names.includes(l.name));
  const parts: ReadPart[] = [];
  for (const index of new Set(there.map((l) => l.part))) {
    const { name, channels, dataWindow } = file.parts[index];
    const planes = await readPart(source, file, index, nodeInflate);
    parts.push({ name, channels, planes, width: boxWidth(dataWindow), height: boxHeight(dataWindow) });
  }
  return layersOf(parts);
}

/** What masks pick of a film by what its file says of objects, materials and sets. Throws for a pick that picks nothing. */
function masksOf(path: string, { parts }: ExrFile, masks: readonly Mask[]): Map<string, Masking> {
  const manifest = masksInFile(parts).find((m) => m.name === partOf(MASKED_BY))?.manifest ?? new Map<string, number>();
  const from = { objects: [...manifest.keys()], ...membersIn(parts) };
  for (const m of masks) {
    // A film without coverage has no masks by picks at all, which is told by what is absent.
    const [empty] = manifest.size > 0 ? emptyPicks(m.of, from) : [];
    if (empty) throw new UsageError(`${path}: mask ${m.name}: the film has no ${empty.kind} ${empty.name}`);
  }
  return new Map(masks.map((m) => [LAYER.mask(m.name), maskingOf(m, pickedBy(m.of, from))]));
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
    const there = layersInFile(file.parts);
    const has = withMade(
      there.map((l) => l.name),
      masks,
    );
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
        const chosen = there.filter((l) => layers.includes(l.name));
        const parts: LatePart[] = [];
        // Beauty and alpha share a part; every other layer has one, and with it a depth of its own.
        for (const name of new Set(chosen.map((l) => partOf(l.name)))) {
          const own = chosen.filter((l) => partOf(l.name) === name);
          const [{ part: index }] = own;
          const kept = new Set(own.flatMap((l) => l.channels));
          const keep = file.parts[index].channels.map((_, i) => kept.has(i));
          const read = () => readPart(source, file, index, nodeInflate);
          parts.push({ ...(await cutPart(file.parts[index], read, keep, own[0].name, output)), name });
        }
        for (const layer of layers.filter((n) => picked.has(n))) {
          const masking = picked.get(layer)!;
          const needs = there.filter((l) => maskNeeds(masking).includes(l.name));
          const read = async () => {
            const of = new Map<string, { channels: string[]; planes: Float32Array[] }>();
            for (const { name, part, channels } of needs) {
              const planes = await readPart(source, file, part, nodeInflate);
              of.set(name, {
                channels: channels.map((c) => file.parts[part].channels[c].name),
                planes: channels.map((c) => planes[c] as Float32Array),
              });
            }
            return of;
          };
          parts.push(await maskPart(file.parts[needs[0].part], read, layer, masking, output));
        }
        const bands = there.find((l) => l.name === OPENNESS.bands);
        if (bands && layers.includes(OPENNESS.layer) && !there.some((l) => l.name === OPENNESS.layer)) {
          const read = () => readPart(source, file, bands.part, nodeInflate);
          parts.push(await opennessPart(file.parts[bands.part], read, output.reachMetres, output));
        }
        for (const layer of layers.filter((n) => restFamily(n) !== null)) {
          const less = there.filter((l) => layerInfo(l.name).family === restFamily(layer) && writes(output, l.name));
          const header = file.parts[there.find((l) => l.name === 'beauty')!.part];
          const names = less.map((l) => l.name);
          parts.push(await restPart(header, layer, names, (n) => layersNamed(source, file, n), output));
        }
        const named = parts.map((p) => prefixed(p, output.prefix));
        const { bytes, size } = await streamExr(output.parts === 'one' ? [inOnePart(named)] : named, nodeDeflate);
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
