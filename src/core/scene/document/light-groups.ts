import { MOST_GROUPS, type SceneDocument } from './document';
import { secondaryMaterials } from './rules';
import { LIGHT_PARTS, type LightPart } from './terms';

/** Group of all light that nobody has put into another. */
export const UNASSIGNED = 'other';

/** An object that glows: its number, the material that gives the light, and the light group it falls to. */
export interface Glow {
  object: number;
  /** Name of the material whose group and controls hold: the camera's where that emits, or what other rays meet. */
  material: string;
  group: string;
}

/** Objects that give light by their material, in order. */
export function glowsOf(document: SceneDocument): Glow[] {
  const emissive = new Map(document.materials.filter((m) => m.emission_luminance > 0).map((m) => [m.name, m]));
  if (emissive.size === 0) return [];
  const met = secondaryMaterials(document);
  return document.objects.flatMap((o, object) => {
    const owner = emissive.get(o.material) ?? emissive.get(met[object]);
    return owner ? [{ object, material: owner.name, group: o.lightGroup ?? owner.light_group }] : [];
  });
}

/**
 * Light groups that sources name, without a limit: lights first as they appear, then the environment's, then emissive
 * materials'; unassigned light last, when there is any.
 */
export function namedGroups(document: SceneDocument): string[] {
  const seen = new Set<string>();
  for (const light of document.lights) seen.add(light.group);
  if (document.environment) seen.add(document.environment.group);
  if (document.environment?.kind === 'sky') seen.add(document.environment.sun.group);
  const glowing = new Map<string, Set<string>>();
  for (const { material, group } of glowsOf(document))
    glowing.set(material, (glowing.get(material) ?? new Set()).add(group));
  for (const m of document.materials) for (const group of glowing.get(m.name) ?? []) seen.add(group);
  const unassigned = seen.delete(UNASSIGNED) || seen.size === 0;
  return unassigned ? [...seen, UNASSIGNED] : [...seen];
}

/** What films keep of a light group: itself, or its parts where they are kept apart. */
export function partsOf({ apart, fogs }: SceneDocument, group: string): string[] {
  if (group === UNASSIGNED || !apart?.includes(group)) return [group];
  return LIGHT_PARTS.filter((p) => p !== 'fog' || fogs.length > 0).map((p) => `${group}.${p}`);
}

/** The light group of lights that a part of a film's light is of, and what it meets where that is kept apart. */
export function partOf(name: string): { group: string; part: LightPart | null } {
  const part = LIGHT_PARTS.find((p) => name.endsWith(`.${p}`));
  return part ? { group: name.slice(0, -part.length - 1), part } : { group: name, part: null };
}

/** A light group and all that it is in, outermost first: `hall.lamp.seen` is in `hall.lamp`, and that in `hall`. */
export function withOuter(name: string): string[] {
  const words = name.split('.');
  return words.map((_, i) => words.slice(0, i + 1).join('.'));
}

/** A light group as one of a tree: with how many it is in, and those of a film whose light is in it. */
export interface GroupNode {
  name: string;
  depth: number;
  /** Itself alone, for one that a film keeps. */
  groups: string[];
}

/** Light groups of a film and all that they are in, each before what is in it. */
export function groupTree(groups: readonly string[]): GroupNode[] {
  const names = [...new Set(groups.flatMap(withOuter))];
  const inside = (name: string, depth: number): GroupNode[] => [
    { name, depth, groups: groups.filter((g) => withOuter(g).includes(name)) },
    ...names.filter((n) => withOuter(n).at(-2) === name).flatMap((n) => inside(n, depth + 1)),
  ];
  return names.filter((n) => withOuter(n).length === 1).flatMap((n) => inside(n, 0));
}

/** Light groups that films of a scene would keep, without a limit: the document's own list, or those that sources name. */
export function neededGroups(document: SceneDocument): string[] {
  const all = [...(document.groups ?? []), ...namedGroups(document)];
  return [...new Set(all.flatMap((g) => partsOf(document, g)))];
}

/** Light groups that films of a scene keep, in the order of their planes. Beyond `MOST_GROUPS` the last ones are kept together as unassigned light. */
export function lightGroups(document: SceneDocument): string[] {
  const all = neededGroups(document);
  if (all.length <= MOST_GROUPS) return all;
  return [...all.filter((g) => g !== UNASSIGNED).slice(0, MOST_GROUPS - 1), UNASSIGNED];
}

/** Number of a light's group among those that a film keeps, of its part on surfaces where they are kept apart: that of unassigned light for one that it does not keep. */
export function groupNumber(groups: readonly string[], group: string): number {
  const number = groups.findIndex((g) => g === group || g === `${group}.surfaces`);
  return number >= 0 ? number : Math.max(0, groups.indexOf(UNASSIGNED));
}
