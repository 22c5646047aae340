import { MOST_GROUPS, type SceneDocument } from './document';
import { secondaryMaterials } from './rules';

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

/**
 * Light groups that films of a scene keep, in the order of their planes: the document's own list, or those that sources
 * name. Beyond `MOST_GROUPS` the last ones are kept together as unassigned light.
 */
export function lightGroups(document: SceneDocument): string[] {
  const named = namedGroups(document);
  const own = document.groups;
  const all = own ? [...own, ...named.filter((g) => !own.includes(g))] : named;
  if (all.length <= MOST_GROUPS) return all;
  return [...all.filter((g) => g !== UNASSIGNED).slice(0, MOST_GROUPS - 1), UNASSIGNED];
}

/** Number of a group among those that a film keeps: that of unassigned light for one that it does not keep. */
export function groupNumber(groups: readonly string[], group: string): number {
  const number = groups.indexOf(group);
  return number >= 0 ? number : Math.max(0, groups.indexOf(UNASSIGNED));
}
