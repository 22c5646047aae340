import { regrouped } from '@/core/outputs';
import {
  type Grouping,
  lightSources,
  namedGroups,
  partOf,
  partsOf,
  type SceneDocument,
  withGroups,
  withoutStaleParts,
  withParts,
} from '@/core/scene';
import { together } from './history';
import { useOutputs } from './outputs-store';
import { useScene } from './scene-store';

/**
 * What light groups became when sources moved: themselves, and the new groups that sources of theirs are in; where a group is
 * gone, all that its sources are in.
 */
function groupsBecame(before: SceneDocument, after: SceneDocument): Map<string, string[]> {
  const [old, now] = [namedGroups(before), namedGroups(after)];
  const groupOf = new Map(lightSources(after).flatMap((s) => s.members.map((m) => [m, s.group] as const)));
  return new Map(
    old.map((group) => {
      const members = lightSources(before).flatMap((s) => (s.group === group ? s.members : []));
      const to = members.map((m) => groupOf.get(m)!).filter((g) => g !== group);
      return [group, now.includes(group) ? [group, ...to.filter((g) => !old.includes(g))] : to];
    }),
  );
}

/** The same of what films keep of them: parts of a group's light stay those parts where there are such. */
function became(before: SceneDocument, after: SceneDocument): Map<string, string[]> {
  const groups = groupsBecame(before, after);
  return new Map(
    [...groups].flatMap(([group, to]) => [
      [group, to] as const,
      ...partsOf(before, group).map((name) => {
        const { part } = partOf(name);
        const kept = to.flatMap((t) => {
          const all = partsOf(after, t);
          const same = all.filter((n) => part !== null && partOf(n).part === part);
          return same.length > 0 ? same : all;
        });
        return [name, kept] as const;
      }),
    ]),
  );
}

/** Edits what light groups there are, as one step; outputs go on writing the light that they wrote, in pictures of their own too. */
function edited(words: string, edit: (d: SceneDocument) => SceneDocument): string | null {
  return together(words, () => {
    const before = useScene.getState().document;
    const fault = useScene.getState().edit(words, edit);
    const after = useScene.getState().document;
    const { outputs, replace } = useOutputs.getState();
    if (fault || !before || !after || !outputs) return fault;
    const moved = became(before, after);
    const list = outputs.list.map((o) => regrouped(o, moved));
    return replace(words, { ...outputs, list });
  });
}

/** Puts members of sources into other light groups, as one step. Returns the fault in words when it is refused. */
export const regroup = (words: string, of: (d: SceneDocument) => Grouping): string | null =>
  edited(words, (d) => withoutStaleParts(withGroups(d, of(d))));

/** Keeps a light group's light apart by how it is seen, or together, as one step. Returns the fault in words when it is refused. */
export const keepApart = (words: string, group: string, isApart: boolean): string | null =>
  edited(words, (d) => withParts(d, group, isApart));

/** Gives a light group another name; two of one name become one. */
export function renameGroup(from: string, to: string): string | null {
  if (from === to) return null;
  return regroup(
    `light group ${from} is ${to}`,
    (d) => new Map(lightSources(d).flatMap((s) => (s.group === from ? s.members.map((m) => [m, to]) : []))),
  );
}
