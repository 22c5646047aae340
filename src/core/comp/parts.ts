import { FAMILIES, type FamilyName, layerInfo } from '../film';
import { wayOf } from './own-way';
import type { Entry, Stack } from './stack';

/** Whether the parts of a film's light are all in a stack, each once. */
export interface PartsIn {
  film: string;
  /** The family that sums to the picture of which there are most. */
  family: FamilyName;
  missing: string[];
  twice: string[];
  /** Parts that are not in as they are: masked, in part, or changed. */
  changed: string[];
}

interface Part {
  film: string;
  layer: string;
  isWhole: boolean;
}

function partsOf(entries: readonly Entry[], isWhole: boolean): Part[] {
  return entries.flatMap((entry) => {
    if (!entry.on || entry.opacity === 0 || entry.kind === 'operation') return [];
    const whole = isWhole && entry.opacity === 1 && entry.mask === null && entry.operations.length === 0;
    if (entry.kind === 'nest') return partsOf(entry.entries, whole);
    const { source } = entry;
    if (source.from !== 'film') return [];
    const adds = entry.way === 'add' || (entry.way === 'by itself' && wayOf(source) === 'add');
    return adds ? [{ film: source.film, layer: source.layer, isWhole: whole }] : [];
  });
}

/**
 * What is in a stack of the family of parts that it has most of, against all that the film keeps of it. Null where it has no two parts of one. `kept`:
 * layers of a film.
 */
export function partsIn(stack: Stack, kept: (film: string) => readonly string[]): PartsIn | null {
  const parts = partsOf(stack.entries, true);
  const sums = (layer: string) => FAMILIES[layerInfo(layer).family].sums;
  const counts = new Map<string, Part[]>();
  for (const part of parts) {
    if (!sums(part.layer)) continue;
    const key = JSON.stringify([part.film, layerInfo(part.layer).family]);
    counts.set(key, [...(counts.get(key) ?? []), part]);
  }
  const [most] = [...counts].sort((a, b) => b[1].length - a[1].length);
  if (!most || most[1].length < 2) return null;
  const [film, family] = JSON.parse(most[0]) as [string, FamilyName];
  const names = most[1].map((p) => p.layer);
  const all = kept(film).filter((name) => layerInfo(name).family === family);
  // Single lights of a group stand for it, and it for them.
  const stands = (name: string, by: string) => name === by || name.startsWith(`${by}.`);
  return {
    film,
    family,
    missing: all.filter((n) => !names.some((by) => stands(n, by))),
    twice: [...new Set(names.filter((n, i) => names.some((by, j) => j !== i && stands(n, by))))],
    changed: most[1].filter((p) => !p.isWhole).map((p) => p.layer),
  };
}
