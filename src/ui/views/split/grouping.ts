import { regrouped } from '@/core/outputs';
import { type Grouping, lightSources, namedGroups, type SceneDocument, withGroups } from '@/core/scene';
import { together } from '../../state/history';
import { useOutputs } from '../../state/outputs-store';
import { useScene } from '../../state/scene-store';

/**
 * What light groups became when sources moved: themselves, and the new groups that sources of theirs are in; where a group is
 * gone, all that its sources are in.
 */
function became(before: SceneDocument, after: SceneDocument): Map<string, string[]> {
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

/**
 * Puts members of sources into other light groups, as one step; outputs go on writing the light that they wrote, in
 * pictures of their own too. Returns the
 * fault in words when it is refused.
 */
export function regroup(words: string, of: (d: SceneDocument) => Grouping): string | null {
  return together(words, () => {
    const before = useScene.getState().document;
    const fault = useScene.getState().edit(words, (d) => withGroups(d, of(d)));
    const after = useScene.getState().document;
    const { outputs, replace } = useOutputs.getState();
    if (fault || !before || !after || !outputs) return fault;
    const moved = became(before, after);
    const list = outputs.list.map((o) => regrouped(o, moved));
    return replace(words, { ...outputs, list });
  });
}

/** Gives a light group another name; two of one name become one. */
export function renameGroup(from: string, to: string): string | null {
  if (from === to) return null;
  return regroup(
    `light group ${from} is ${to}`,
    (d) => new Map(lightSources(d).flatMap((s) => (s.group === from ? s.members.map((m) => [m, to]) : []))),
  );
}
