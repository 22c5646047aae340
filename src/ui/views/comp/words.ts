import {
  type Entry,
  entriesOf,
  type Need,
  OF_VARIANT,
  type Operation,
  type Path,
  type Source,
  type Stack,
  type Way,
  wayOf,
} from '@/core/comp';
import { layerInfo } from '@/core/film';
import { words } from '@/core/words';

/** How a layer joins, as a sentence says it. */
export const WAY_SAYS: Record<Way, string> = {
  over: 'lies over',
  add: 'is added',
  subtract: 'is taken away',
  multiply: 'multiplies',
  divide: 'divides',
  screen: 'is screened',
  shadow: 'keeps light away',
  occlude: 'darkens corners',
};

/** What a layer is, by where its light comes from. */
export function sourceWords(source: Source): string {
  if (source.from === 'solid') return 'a colour';
  if (source.from === 'picture') return source.picture;
  return layerInfo(source.layer).words;
}

/** An entry's own name, or what it is. */
export function entryName(entry: Entry): string {
  if (entry.name) return entry.name;
  if (entry.kind === 'nest') return 'a nest';
  return entry.kind === 'layer' ? sourceWords(entry.source) : OPERATION_NAMES[entry.operation.does];
}

export const OPERATION_NAMES: Record<Operation['does'], string> = {
  exposure: 'exposure',
  white: 'white point',
  contrast: 'contrast',
  saturation: 'saturation',
  ranges: 'shadows, middle, lights',
  shoulder: 'shoulder',
  vignette: 'vignette',
  soften: 'soften',
  sharpen: 'sharpen',
  glow: 'glow',
  focus: 'focus',
  table: 'look table',
  curves: 'curves',
  haze: 'haze',
};

/** What an entry is made of that is not there, in words. */
export function lackWords(lacks: readonly Need[], { stack, isLive }: { stack: Stack; isLive: boolean }): string {
  const [variant] = lacks.flatMap(({ film }) => {
    const where = stack.films[film] ?? '';
    return where.startsWith(OF_VARIANT) ? [where.slice(OF_VARIANT.length)] : [];
  });
  if (variant !== undefined) return `nothing of ${variant} here yet: log its picture in Split`;
  return `not in ${isLive ? 'the live picture yet' : 'this film'}: ${lacks.map((n) => words(n.layer)).join(', ')}`;
}

/** How an entry joins what is below it when nobody says how; null for data, which never shows by itself. */
export const ownWay = (entry: Exclude<Entry, { kind: 'operation' }>): Way | null =>
  entry.kind === 'nest' ? 'over' : wayOf(entry.source);

/** What stands at a path of a stack, or what it is in, in words. */
export function pathWords(stack: Stack, path: Path): string {
  const own = entriesOf(stack.entries)
    .reverse()
    .find((e) => `${path.join('.')}.`.startsWith(`${e.path}.`));
  return own ? entryName(own.entry) : path.join(' ');
}
