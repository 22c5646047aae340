import { kelvinToRgb } from '../image';
import {
  glowsOf,
  groupNumber,
  type Light,
  type LightControls,
  lightGroups,
  partOf,
  type SceneDocument,
  withOuter,
} from '../scene';
import { isNeutral, type Mixing, missingGroups, mixingOf } from './mix';
import type { Mix } from './schema';

type Rgb = [number, number, number];

/** What became of a mix that was written to the lights. */
export interface WrittenBack {
  document: SceneDocument;
  /** Groups whose lights have it now. */
  written: string[];
  /** Groups that keep it in the mix, and why. */
  left: { group: string; why: string }[];
  /** What is left of the mix. */
  mix: Mix;
}

type Gains = LightControls['gains'];

/** What a group's light becomes: what it is multiplied by, and in which role by how much beside. */
interface Change extends Mixing {
  gains: Partial<Gains>;
}

const scaled = (rgb: readonly number[], k: readonly number[]): Rgb => [rgb[0] * k[0], rgb[1] * k[1], rgb[2] * k[2]];

/** A colour whose strongest channel is one, and the stops that it took. */
function brought(rgb: Rgb): { rgb: Rgb; stops: number } {
  const most = Math.max(...rgb);
  return most > 0 ? { rgb: scaled(rgb, [1 / most, 1 / most, 1 / most]), stops: Math.log2(most) } : { rgb, stops: 0 };
}

const withGains = (gains: Gains, change: Partial<Gains>): Gains =>
  Object.fromEntries(Object.entries(gains).map(([role, g]) => [role, g * (change[role as keyof Gains] ?? 1)])) as Gains;

function changedLight(own: Light, { on, stops, color: factor, kelvin, gains }: Change): Light {
  if (!on) return { ...own, on: false };
  const light = { ...own, gains: withGains(own.gains, gains) };
  const isSame = factor.every((k) => k === 1);
  if (isSame) return { ...light, stops: light.stops + stops };
  const { kelvin: before, ...rest } = light;
  const emitted = scaled(scaled(light.color, before ? kelvinToRgb(before) : [1, 1, 1]), factor);
  // What is left over the temperature that was set; blue of a very warm one is next to nothing.
  const over =
    kelvin === null
      ? emitted
      : scaled(
          emitted,
          kelvinToRgb(kelvin).map((c) => 1 / Math.max(c, 1e-3)),
        );
  const { rgb, stops: more } = brought(over);
  return { ...rest, ...(kelvin === null ? {} : { kelvin }), color: rgb, stops: light.stops + stops + more } as Light;
}

/** Surroundings, or a sun. */
function changedTint<T extends { on: boolean; stops: number; tint: Rgb; gains: Gains }>(own: T, change: Change): T {
  if (!change.on) return { ...own, on: false };
  const { stops, color, gains } = change;
  return {
    ...own,
    stops: own.stops + stops,
    tint: scaled(own.tint, color),
    gains: withGains(own.gains, gains),
  };
}

type Material = SceneDocument['materials'][number];
function changedGlow(m: Material, { on, stops, color, gains }: Change): Material {
  if (!on) return { ...m, light: { ...m.light, on: false } };
  const { rgb, stops: more } = brought(scaled(m.emission_color, color));
  const light = { ...m.light, gains: withGains(m.light.gains, gains) };
  return { ...m, light, emission_color: rgb, emission_luminance: m.emission_luminance * 2 ** (stops + more) };
}

const ALIKE = 1e-6;

const isLike = (a: Mixing, b: Mixing) =>
  a.on === b.on &&
  (!a.on || [0, 1, 2].every((c) => Math.abs(a.color[c] * 2 ** (a.stops - b.stops) - b.color[c]) <= ALIKE * b.color[c]));

/** What the parts of a group's light come to as one change of its lights; in words why they come to none. */
function changeOf(parts: readonly (Mixing & { name: string })[]): Change | string {
  const seen = parts.find((p) => partOf(p.name).part === 'seen');
  const [light, ...others] = parts.filter((p) => p !== seen);
  if (!others.every((p) => isLike(p, light)))
    return 'lights have no gains of their own in mirrors, on surfaces and in fog as these are';
  if (!seen || isLike(seen, light)) return { ...light, gains: {} };
  if (!seen.on && light.on) return { ...light, gains: { seen: 0 } };
  const ratios = seen.color.map((c, k) => (c === light.color[k] ? 1 : c / light.color[k]));
  if (!light.on || ratios.some((r) => !(Math.abs(r - ratios[0]) <= ALIKE * ratios[0])))
    return 'what is seen of it has a colour of its own, which lights have not';
  return { ...light, gains: { seen: ratios[0] * 2 ** (seen.stops - light.stops) } };
}

/**
 * Gives a mix to the lights: their strengths, colours, switches and how they are seen themselves become what it makes of them, as of surroundings, suns and
 * what glows. `own`: the colour that each group emits in this scene, linear Rec.709 of luminance 1. A surface whose material glows in
 * several groups cannot follow one of them.
 */
export function writtenBack(
  document: SceneDocument,
  mix: Mix,
  own: Readonly<Record<string, readonly number[]>>,
): WrittenBack {
  const kept = lightGroups(document);
  const groupOf = (name: string) => partOf(kept[groupNumber(kept, name)]).group;
  const groups = [...new Set(kept.map((k) => partOf(k).group))];
  const namesOf = (group: string) => kept.filter((k) => partOf(k).group === group);
  const wanted = groups.filter((g) => !isNeutral(mix, namesOf(g)));
  const glows = glowsOf(document);
  const glowsIn = (material: string) => [
    ...new Set(glows.filter((g) => g.material === material).map((g) => groupOf(g.group))),
  ];
  const left: WrittenBack['left'] = [];
  const changes = new Map<string, Change>();
  for (const group of wanted) {
    const split = document.materials.find((m) => glowsIn(m.name).length > 1 && glowsIn(m.name).includes(group));
    const change = split
      ? `${split.name} glows in ${glowsIn(split.name).join(' and ')}`
      : changeOf(namesOf(group).map((name) => ({ name, ...mixingOf(mix, name, own[name]) })));
    if (typeof change === 'string') left.push({ group, why: change });
    else changes.set(group, change);
  }
  const changeFor = (group: string) => changes.get(groupOf(group));
  const lights = document.lights.map((l) => {
    const change = changeFor(l.group);
    return change ? changedLight(l, change) : l;
  });
  let { environment } = document;
  if (environment) {
    const [all, sun] = [
      changeFor(environment.group),
      environment.kind === 'sky' ? changeFor(environment.sun.group) : undefined,
    ];
    if (sun && environment.kind === 'sky') environment = { ...environment, sun: changedTint(environment.sun, sun) };
    if (all) environment = changedTint(environment, all);
  }
  const materials = document.materials.map((m) => {
    const [group] = m.emission_luminance > 0 ? glowsIn(m.name) : [];
    const change = group === undefined ? undefined : changes.get(group);
    return change ? changedGlow(m, change) : m;
  });
  const leftNames = left.flatMap(({ group }) => namesOf(group));
  return {
    document: { ...document, lights, environment, materials },
    written: [...changes.keys()],
    left,
    mix: { ...restOf(mix, leftNames, own), ...only(mix, missingGroups(mix, kept)) },
  };
}

const only = (mix: Mix, names: readonly string[]): Mix =>
  Object.fromEntries(Object.entries(mix).filter(([name]) => names.includes(name)));

/** What a mix says of some groups: as it says it, or of each by itself where it is said of groups that others are in too. */
function restOf(mix: Mix, names: readonly string[], own: Readonly<Record<string, readonly number[]>>): Mix {
  const isShared = names.some((n) => withOuter(n).some((o) => o !== n && o in mix));
  if (!isShared) return only(mix, names);
  return Object.fromEntries(
    names.map((name) => {
      const { on, stops, color } = mixingOf(mix, name, own[name]);
      return [name, { on, stops, color: { kind: 'tint' as const, rgb: color } }];
    }),
  );
}
