import { type Pickable, pickedBy, type ThingPick } from '@/core/scene';

const isSame = (a: ThingPick, b: ThingPick) => a.kind === b.kind && a.name === b.name;

/** What is picked, with more, each once. */
export const withPicks = (of: readonly ThingPick[], more: readonly ThingPick[]): ThingPick[] => [
  ...of,
  ...more.filter((p) => !of.some((o) => isSame(o, p))),
];

/** What is picked, without one pick. */
export const withoutPick = (of: readonly ThingPick[], pick: ThingPick): ThingPick[] =>
  of.filter((o) => !isSame(o, pick));

/**
 * What is picked, without objects: picks of them go; a pick by material, set or pattern that holds one becomes the objects
 * that are left of it.
 */
export function withoutObjects(of: readonly ThingPick[], objects: readonly string[], from: Pickable): ThingPick[] {
  const left = of.flatMap((pick): ThingPick[] => {
    const has = pickedBy([pick], from).names;
    if (!has.some((o) => objects.includes(o))) return [pick];
    return has.filter((o) => !objects.includes(o)).map((o) => ({ kind: 'object', name: o }));
  });
  return left.filter((p, i) => left.findIndex((q) => isSame(p, q)) === i);
}

/** Objects by name as picks. */
export const objectPicks = (names: readonly string[]): ThingPick[] => names.map((name) => ({ kind: 'object', name }));
