import { lightGroups } from '../document/light-groups';
import type { Material } from '../document/material';
import { pickableOf, pickedBy, type ThingPick } from '../document/picks';
import { RULE_RAYS } from '../document/rules';
import type { Scene } from './scene';

/** Which part of a scene is rendered. */
export interface Scope {
  /** What the camera sees, null = all; what is there for light without being seen, null = all else; what keeps shadows. */
  receivers: readonly ThingPick[] | null;
  casters: readonly ThingPick[] | null;
  catchers: readonly ThingPick[];
  /** What the camera meets where an object is no receiver. */
  others: 'unseen' | 'holdout';
  /** Whether the camera sees the environment. */
  sky: boolean;
  /** Sources that shine, null = all. */
  lights: readonly { kind: 'group' | 'light' | 'glow' | 'sun' | 'environment'; name: string }[] | null;
}

/** Whether a scope is the whole scene. */
export const isWholeScope = ({ receivers, casters, catchers, sky, lights }: Scope): boolean =>
  receivers === null && casters === null && catchers.length === 0 && sky && lights === null;

const NO_RAYS = Object.fromEntries(RULE_RAYS.map((r) => [r, false]));

/**
 * The part of a scene that a scope has rendered. Objects, lights and groups keep their numbers, so that films of all
 * scopes of a scene name the same things. What a scope names and the scene has not is nothing.
 */
export function scopedScene(scene: Scene, scope: Scope): Scene {
  if (isWholeScope(scope)) return scene;
  const { document } = scene;
  const from = pickableOf(document);
  const named = (picks: readonly ThingPick[]) => new Set(pickedBy(picks, from).names);
  const caught = named(scope.catchers);
  const seen = scope.receivers && named(scope.receivers);
  const cast = scope.casters && named(scope.casters);
  const sees = (o: string) => seen === null || seen.has(o);
  /** Whether anything but the camera meets it. */
  const isThere = (o: string) => sees(o) || caught.has(o) || cast === null || cast.has(o);
  const shines = (kind: string, name: string, group: string) =>
    scope.lights === null ||
    scope.lights.some((l) => (l.kind === 'group' ? l.name === group : l.kind === kind && l.name === name));
  const materials = new Map(document.materials.map((m) => [m.name, m]));
  const dark = new Map<string, Material>();
  const darkened = (m: Material): string => {
    let name = `${m.name}, dark`;
    while (materials.has(name)) name += ' ';
    dark.set(name, { ...m, name, light: { ...m.light, on: false } });
    return name;
  };
  const objects = document.objects.map((o) => {
    if (document.fogs.some((f) => f.within === o.name)) return o;
    const rules = { ...o.rules };
    if (caught.has(o.name)) rules.role = 'catcher';
    else if (!sees(o.name) && scope.others === 'holdout') rules.role = 'holdout';
    else if (!sees(o.name)) rules.seenBy = { ...rules.seenBy, camera: false };
    if (!isThere(o.name)) rules.seenBy = { ...NO_RAYS, camera: rules.role === 'holdout' };
    const m = materials.get(o.material);
    const glows = m && m.emission_luminance > 0;
    const isLit = isThere(o.name) && shines('glow', o.name, o.lightGroup ?? m?.light_group ?? '');
    return { ...o, rules, material: glows && !isLit ? darkened(m) : o.material };
  });
  const lights = document.lights.map((l) => {
    const own = shines('light', l.name, l.group) ? l : { ...l, on: false };
    return sees(l.name) ? own : { ...own, gains: { ...own.gains, seen: 0 } };
  });
  const { environment } = document;
  const unseen = <E extends { gains: { seen: number } }>(e: E): E =>
    scope.sky ? e : { ...e, gains: { ...e.gains, seen: 0 } };
  const around = environment && {
    ...unseen(environment),
    on: environment.on && shines('environment', 'environment', environment.group),
  };
  const sky =
    around?.kind === 'sky'
      ? { ...around, sun: { ...unseen(around.sun), on: around.sun.on && shines('sun', 'sun', around.sun.group) } }
      : around;
  return {
    ...scene,
    document: {
      ...document,
      objects,
      lights,
      environment: sky,
      materials: [...document.materials, ...dark.values()],
      groups: lightGroups(document),
    },
  };
}
