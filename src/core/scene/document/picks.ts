import { coverageNames, type SceneDocument } from './document';

/** What picks things: an object, material or set by name, or objects whose names are like a pattern. */
export interface ThingPick {
  kind: 'object' | 'material' | 'set' | 'like';
  name: string;
}

/** What can be picked: objects by their numbers in coverage planes, their materials, and sets. */
export interface Pickable {
  /** Names of what covers pixels, in the order of its numbers. */
  objects: readonly string[];
  /** Name of the material by object. */
  materials: Readonly<Record<string, string>>;
  sets: Readonly<Record<string, readonly string[]>>;
}

/** What of a scene can be picked. */
export const pickableOf = (document: SceneDocument): Pickable => ({
  objects: coverageNames(document),
  materials: Object.fromEntries(document.objects.map((o) => [o.name, o.material])),
  sets: document.sets,
});

/** A pattern of names: `*` stands for any letters, `?` for one; capitals and small letters are the same. */
export function likeName(pattern: string): (name: string) => boolean {
  const parts = [...pattern].map((c) => (c === '*' ? '.*' : c === '?' ? '.' : c.replace(/[\\^$.|+()[\]{}]/g, '\\$&')));
  const like = new RegExp(`^${parts.join('')}$`, 'iu');
  return (name) => like.test(name);
}

function test({ kind, name }: ThingPick, { materials, sets }: Pickable): (object: string) => boolean {
  if (kind === 'object') return (o) => o === name;
  if (kind === 'material') return (o) => Object.hasOwn(materials, o) && materials[o] === name;
  if (kind === 'like') return likeName(name);
  const members = new Set(Object.hasOwn(sets, name) ? sets[name] : []);
  return (o) => members.has(o);
}

/** Numbers and names of what is picked, each once. */
export function pickedBy(picks: readonly ThingPick[], from: Pickable): { numbers: number[]; names: string[] } {
  const tests = picks.map((p) => test(p, from));
  const numbers = from.objects.flatMap((o, i) => (tests.some((t) => t(o)) ? [i + 1] : []));
  return { numbers, names: numbers.map((n) => from.objects[n - 1]) };
}

/** Picks that pick nothing here. */
export const emptyPicks = <P extends ThingPick>(picks: readonly P[], from: Pickable): P[] =>
  picks.filter((p) => !from.objects.some(test(p, from)));
