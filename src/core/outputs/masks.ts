import type { Picked } from '../exr';
import { coverageNames, type SceneDocument } from '../scene';
import type { Mask, MaskPick } from './schema';

type Choice = Pick<Mask, 'of'>;

/** What masks choose from: objects by their numbers in coverage planes, their materials, and sets. */
export interface Maskable {
  /** Names of what covers pixels, in the order of its numbers. */
  objects: readonly string[];
  /** Name of the material by object. */
  materials: Readonly<Record<string, string>>;
  sets: Readonly<Record<string, readonly string[]>>;
}

/** What of a scene masks choose from. */
export const maskableOf = (document: SceneDocument): Maskable => ({
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

function picks({ kind, name }: MaskPick, { materials, sets }: Maskable): (object: string) => boolean {
  if (kind === 'object') return (o) => o === name;
  if (kind === 'material') return (o) => Object.hasOwn(materials, o) && materials[o] === name;
  if (kind === 'like') return likeName(name);
  const members = new Set(Object.hasOwn(sets, name) ? sets[name] : []);
  return (o) => members.has(o);
}

/** The objects of a mask, by name and by number, each once. */
export function pickedBy({ of }: Choice, from: Maskable): Picked {
  const tests = of.map((p) => picks(p, from));
  const numbers = from.objects.flatMap((o, i) => (tests.some((t) => t(o)) ? [i + 1] : []));
  return { numbers, names: numbers.map((n) => from.objects[n - 1]) };
}

/** Picks of a mask that pick nothing here. */
export const emptyPicks = ({ of }: Choice, from: Maskable): MaskPick[] =>
  of.filter((p) => !from.objects.some(picks(p, from)));
