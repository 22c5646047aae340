import type { Variant } from '@/core/outputs';
import type { LightSource } from '@/core/scene';

/** Sources that shine in a variant: groups, or single ones; undefined for all. */
export type Shine = { kind: string; name: string }[] | undefined;

/** What a variant says of its lights. */
export const shineOf = (variant: Variant | null): Shine => variant?.['scope.lights'] as Shine;

const has = (shine: NonNullable<Shine>, kind: string, name: string) =>
  shine.some((l) => l.kind === kind && l.name === name);

/** A member of a source, `kind name`, as a variant names it. */
const memberOf = (member: string) => {
  const space = member.indexOf(' ');
  return { kind: member.slice(0, space), name: member.slice(space + 1) };
};

/** Whether a source shines, with all that it is made of. */
export const shines = (shine: Shine, { group, members }: LightSource): boolean =>
  !shine || has(shine, 'group', group) || members.map(memberOf).every(({ kind, name }) => has(shine, kind, name));

/** The same with some sources switched on or off: groups of which all shine by their names, of others what shines. */
export function switched(shine: Shine, all: readonly LightSource[], some: readonly LightSource[], on: boolean): Shine {
  const isOn = (s: LightSource) => (some.includes(s) ? on : shines(shine, s));
  const groups = [...new Set(all.map((s) => s.group))];
  if (all.every(isOn)) return undefined;
  return groups.flatMap((group) => {
    const own = all.filter((s) => s.group === group);
    if (own.every(isOn)) return [{ kind: 'group', name: group }];
    return own.filter(isOn).flatMap((s) => s.members.map(memberOf));
  });
}

/** What a variant names of lights that a scene has not. */
export const goneFrom = (shine: Shine, all: readonly LightSource[]): string[] =>
  (shine ?? [])
    .filter(
      ({ kind, name }) =>
        !all.some((s) => (kind === 'group' ? s.group === name : s.members.includes(`${kind} ${name}`))),
    )
    .map((l) => l.name);
