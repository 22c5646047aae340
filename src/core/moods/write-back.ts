import { kelvinToRgb } from '../image';
import { glowsOf, groupNumber, type Light, lightGroups, type SceneDocument } from '../scene';
import { colorFactors, isNeutral, mixOf } from './mix';
import type { Mix } from './schema';

type Rgb = [number, number, number];

/** What became of a mix that was written to the lights. */
export interface WrittenBack {
  document: SceneDocument;
  /** Groups whose lights have it now. */
  written: string[];
  /** Groups that keep it in the mix, and why. */
  left: { group: string; why: string }[];
}

/** What a group's light is multiplied by, and whether it is on. */
interface Change {
  on: boolean;
  stops: number;
  factor: Rgb;
  /** The temperature that it then has, where it was set. */
  kelvin: number | null;
}

const scaled = (rgb: readonly number[], k: readonly number[]): Rgb => [rgb[0] * k[0], rgb[1] * k[1], rgb[2] * k[2]];

/** A colour whose strongest channel is one, and the stops that it took. */
function brought(rgb: Rgb): { rgb: Rgb; stops: number } {
  const most = Math.max(...rgb);
  return most > 0 ? { rgb: scaled(rgb, [1 / most, 1 / most, 1 / most]), stops: Math.log2(most) } : { rgb, stops: 0 };
}

function changedLight(light: Light, { on, stops, factor, kelvin }: Change): Light {
  if (!on) return { ...light, on: false };
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
function changedTint<T extends { on: boolean; stops: number; tint: Rgb }>(own: T, { on, stops, factor }: Change): T {
  if (!on) return { ...own, on: false };
  return { ...own, stops: own.stops + stops, tint: scaled(own.tint, factor) };
}

type Material = SceneDocument['materials'][number];
function changedGlow(m: Material, { on, stops, factor }: Change): Material {
  if (!on) return { ...m, light: { ...m.light, on: false } };
  const { rgb, stops: more } = brought(scaled(m.emission_color, factor));
  return { ...m, emission_color: rgb, emission_luminance: m.emission_luminance * 2 ** (stops + more) };
}

/**
 * Gives a mix to the lights: their strengths, colours and switches become what it makes of them, as of surroundings, suns and what glows. `own`: the
 * colour that each group emits in this scene, linear Rec.709 of luminance 1. A surface whose material glows in several groups
 * cannot follow one of them.
 */
export function writtenBack(
  document: SceneDocument,
  mix: Mix,
  own: Readonly<Record<string, readonly number[]>>,
): WrittenBack {
  const groups = lightGroups(document);
  const wanted = groups.filter((g) => !isNeutral(mix, [g]));
  const kept = (group: string) => groups[groupNumber(groups, group)];
  const glows = glowsOf(document);
  const glowsIn = (material: string) => [
    ...new Set(glows.filter((g) => g.material === material).map((g) => kept(g.group))),
  ];
  const left = wanted.flatMap((group) => {
    const split = document.materials.find((m) => glowsIn(m.name).length > 1 && glowsIn(m.name).includes(group));
    return split ? [{ group, why: `${split.name} glows in ${glowsIn(split.name).join(' and ')}` }] : [];
  });
  const written = wanted.filter((g) => left.every((l) => l.group !== g));
  const changes = new Map(
    written.map((g): [string, Change] => {
      const { on, stops, color } = mixOf(mix, g);
      const kelvin = color.kind === 'kelvin' ? color.kelvin : null;
      return [g, { on, stops, factor: colorFactors(color, own[g]), kelvin }];
    }),
  );
  const changeOf = (group: string) => changes.get(kept(group));
  const lights = document.lights.map((l) => {
    const change = changeOf(l.group);
    return change ? changedLight(l, change) : l;
  });
  let { environment } = document;
  if (environment) {
    const [all, sun] = [
      changeOf(environment.group),
      environment.kind === 'sky' ? changeOf(environment.sun.group) : undefined,
    ];
    if (sun && environment.kind === 'sky') environment = { ...environment, sun: changedTint(environment.sun, sun) };
    if (all) environment = changedTint(environment, all);
  }
  const materials = document.materials.map((m) => {
    const [group] = m.emission_luminance > 0 ? glowsIn(m.name) : [];
    const change = group === undefined ? undefined : changes.get(group);
    return change ? changedGlow(m, change) : m;
  });
  return { document: { ...document, lights, environment, materials }, written, left };
}
