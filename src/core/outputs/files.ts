import { layerInfo } from '../film';
import { type Chip, FAMILY_WORDS, type Output } from './schema';

/** What names of files are made of. */
export interface NamedBy {
  shot: string;
  recipe: string;
  camera: string;
  /** Frames of the shot, and the one that is written. */
  frames: { first: number; last: number };
  frame: number;
  /** Number of the trial. */
  trial: number;
  date: Date;
}

/** A file of an output, and the layers in it. */
export interface OutputFile {
  name: string;
  layers: string[];
}

/** Files of an output, and why they cannot be written so; nothing where they can. */
export interface PlannedFiles {
  files: OutputFile[];
  faults: string[];
}

/** Text as it may stand in the name of a file anywhere. */
const asName = (text: string) =>
  text
    .normalize('NFKD')
    .replace(/[^A-Za-z0-9._-]+/g, '-')
    .replace(/^[-.]+|-+$/g, '') || 'unnamed';

const two = (n: number) => String(n).padStart(2, '0');

function chipText(chip: Chip, output: string, group: string | null, by: NamedBy): string {
  switch (chip.kind) {
    case 'text':
      return chip.text;
    case 'frame':
      return String(by.frame).padStart(chip.digits, '0');
    case 'output':
      return output;
    case 'layer':
      return group ?? 'all';
    case 'trial':
      return two(by.trial);
    case 'date':
      return `${by.date.getFullYear()}${two(by.date.getMonth() + 1)}${two(by.date.getDate())}`;
    default:
      return asName(by[chip.kind]);
  }
}

/** Names that tell the files of several layers apart: with the part “layer”, behind the output's where there is one. */
export function apartByLayer(names: readonly Chip[]): Chip[] {
  if (names.some((c) => c.kind === 'layer')) return [...names];
  const at = names.findIndex((c) => c.kind === 'output') + 1 || names.length;
  return [...names.slice(0, at), { kind: 'text', text: '_' }, { kind: 'layer' }, ...names.slice(at)];
}

/** Layers by the file they go to, under what tells the file from others; null where there is one for all. */
function grouped(output: Output, layers: readonly string[]): Map<string | null, string[]> {
  const out = new Map<string | null, string[]>();
  for (const layer of layers) {
    // Alpha belongs to the picture it is the alpha of.
    const own = layer === 'alpha' && layers.includes('beauty') ? 'beauty' : layer;
    const key =
      output.grouping === 'one'
        ? null
        : output.grouping === 'layer'
          ? own.replaceAll('.', '_')
          : FAMILY_WORDS[layerInfo(own).family];
    out.set(key, [...(out.get(key) ?? []), layer]);
  }
  return out;
}

/** The files that an output comes to for these layers. Names that clash are faults, and what would make them clash later. */
export function filesOf(output: Output, layers: readonly string[], by: NamedBy): PlannedFiles {
  const files = [...grouped(output, layers)].map(([group, own]) => ({
    name: `${output.names.map((c) => chipText(c, output.name, group, by)).join('')}.exr`,
    layers: own,
  }));
  const faults: string[] = [];
  if (layers.length === 0) faults.push(`${output.name} writes no layer`);
  const clash = files.find((f, i) => files.some((g, j) => j < i && g.name === f.name));
  if (clash) faults.push(`${files.length} files would be called ${clash.name}: add the part “layer”`);
  const { first, last } = by.frames;
  const frame = output.names.find((c) => c.kind === 'frame');
  if (last > first && !frame) faults.push(`frames ${first} to ${last} would have one name: add the part “frame”`);
  if (frame?.kind === 'frame' && String(last).length > frame.digits)
    faults.push(`frame ${last} has more than ${frame.digits} digits: names would not sort`);
  return { files, faults };
}

/** The files of all outputs. Outputs whose files would have the same names are at fault, the later ones. */
export function allFiles(
  outputs: readonly Output[],
  layersOf: (output: Output) => readonly string[],
  by: NamedBy,
): Map<string, PlannedFiles> {
  const taken = new Map<string, string>();
  const plans = new Map<string, PlannedFiles>();
  for (const output of outputs) {
    const plan = filesOf(output, layersOf(output), by);
    const twice = plan.files.find((f) => taken.has(f.name));
    if (twice) plan.faults.push(`${twice.name} is written by ${taken.get(twice.name)} too: add the part “output”`);
    for (const f of plan.files) taken.set(f.name, output.name);
    plans.set(output.id, plan);
  }
  return plans;
}

/** Bytes of layers of so many pixels as an output stores them, before packing: by automatic depth from all as half to all as float. */
export function bytesStored(
  layers: readonly string[],
  pixels: number,
  { depth }: Pick<Output, 'depth'>,
): { least: number; most: number } {
  const bytes = (light: number) =>
    layers.map(layerInfo).reduce((n, l) => n + l.planes * pixels * (l.exact ? 4 : light), 0);
  return { least: bytes(depth === 'float' ? 4 : 2), most: bytes(depth === 'half' ? 2 : 4) };
}
