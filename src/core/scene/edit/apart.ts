import { MOST_GROUPS, type SceneDocument } from '../document/document';
import { namedGroups } from '../document/light-groups';
import { LIGHT_PARTS } from '../document/terms';
import { type Grouping, groupNameOf, lightSources } from './sources';

/** Members of sources in a light group, by what is told apart in it: every light, and what glows with one shape and material. */
function singles(document: SceneDocument, group: string): { name: string; members: string[] }[] {
  const own = lightSources(document).filter((s) => s.group === group);
  return own.flatMap(({ kind, name, members }) =>
    kind === 'light'
      ? members.map((m) => ({ name: m.slice('light '.length), members: [m] }))
      : [{ name: kind === 'environment' ? 'sky' : name, members }],
  );
}

/** How many lights of a group can be told apart. */
export const singlesIn = (document: SceneDocument, group: string): number => singles(document, group).length;

/** Every light of a group in a light group of its own that stands in it: `hall` becomes `hall.sconce`, `hall.torch`. */
export function opened(document: SceneDocument, group: string): Grouping {
  const taken = new Set<string>(LIGHT_PARTS);
  return new Map(
    singles(document, group).flatMap(({ name, members }) => {
      const wanted = groupNameOf(name);
      let own = wanted;
      for (let n = 2; taken.has(own); n++) own = `${wanted}_${n}`;
      taken.add(own);
      return members.map((m): [string, string] => [m, `${group}.${own}`]);
    }),
  );
}

/** All lights that stand in a group in that group itself. */
export const closed = (document: SceneDocument, group: string): Grouping =>
  new Map(
    lightSources(document).flatMap((s) =>
      s.group.startsWith(`${group}.`) ? s.members.map((m): [string, string] => [m, group]) : [],
    ),
  );

/** The document with a group's light kept apart by how the camera sees it, or together. */
export function withParts(document: SceneDocument, group: string, isApart: boolean): SceneDocument {
  const others = (document.apart ?? []).filter((g) => g !== group);
  const apart = isApart ? [...others, group] : others;
  const { apart: _before, ...rest } = document;
  return apart.length > 0 ? { ...rest, apart: apart.slice(0, MOST_GROUPS) } : rest;
}

/** The document without what it says of light groups that it has no more. */
export function withoutStaleParts(document: SceneDocument): SceneDocument {
  const named = namedGroups(document);
  const stale = (document.apart ?? []).filter((g) => !named.includes(g));
  return stale.reduce((d, g) => withParts(d, g, false), document);
}
