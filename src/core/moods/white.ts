import { kelvinToRgb, luminance } from '../image';
import { glowsOf, groupNumber, lightGroups, partOf, type SceneDocument } from '../scene';
import { emittedColor, mixOf } from './mix';
import type { Mix } from './schema';

type Rgb = [number, number, number];
type Color = readonly number[];

/** Lights that were made white, and the mix that gives them their colours back. */
export interface Whitened {
  document: SceneDocument;
  mix: Mix;
  /** Groups whose lights are white now. */
  white: string[];
  /** Groups that keep their colours, and why. */
  left: { group: string; why: string }[];
}

/** Colours of luminance 1 are alike to this. */
const ALIKE = 1e-3;
const evened = ([r, g, b]: Color): Color => {
  const y = luminance(r, g, b);
  return y > 0 ? [r / y, g / y, b / y] : [1, 1, 1];
};
const isLike = (a: Color, b: Color) => evened(a).every((v, c) => Math.abs(v - evened(b)[c]) <= ALIKE);
/** White as bright as a colour. */
const grey = ([r, g, b]: Color): Rgb => {
  const y = luminance(r, g, b);
  return [y, y, y];
};

/** What light sources of a group emit, each; null of surroundings, which have no one colour. */
function colorsIn(document: SceneDocument, isOf: (group: string) => boolean, own: Color): (Color | null)[] {
  const { environment } = document;
  const glowing = new Set(glowsOf(document).flatMap((g) => (isOf(g.group) ? [g.material] : [])));
  return [
    ...document.lights
      .filter((l) => isOf(l.group))
      .map((l) => (l.kelvin ? kelvinToRgb(l.kelvin).map((k, c) => k * l.color[c]) : l.color)),
    ...(environment && isOf(environment.group) ? [null] : []),
    // A sun's own colour is what the sky makes of it: the group's, where it is alone in it.
    ...(environment?.kind === 'sky' && isOf(environment.sun.group) ? [own] : []),
    ...document.materials.filter((m) => glowing.has(m.name)).map((m) => m.emission_color),
  ];
}

/** The light group that keeps the light of sources that name one. */
function keptGroup(document: SceneDocument): (name: string) => string {
  const groups = lightGroups(document);
  return (name) => partOf(groups[groupNumber(groups, name)]).group;
}

function whyNot(document: SceneDocument, group: string, own: Color): string | null {
  const kept = keptGroup(document);
  const colors = colorsIn(document, (name) => kept(name) === group, own);
  if (colors.includes(null)) return 'surroundings have no one colour';
  if (!colors.every((c) => isLike(c!, own))) return 'its lights emit different colours';
  if (own.some((c) => c <= 0)) return 'it lacks a channel altogether, so that no factor makes it white';
  const glows = glowsOf(document);
  const shared = document.materials.find((m) => {
    const of = new Set(glows.filter((g) => g.material === m.name).map((g) => kept(g.group)));
    return of.has(group) && of.size > 1;
  });
  return shared ? `${shared.name} glows in other groups too` : null;
}

/**
 * Makes the lights of groups white, each as bright as it is, and puts their colours into the mix: the picture stays, and colour is
 * free, since every channel is recorded. `own`: the colour that each group emits in this scene, linear Rec.709 of luminance 1.
 */
export function whitened(
  document: SceneDocument,
  chosen: readonly string[],
  mix: Mix,
  own: Readonly<Record<string, Color>>,
): Whitened {
  const kept = keptGroup(document);
  const groups = new Set(lightGroups(document).map((g) => partOf(g).group));
  const colored = chosen.filter((g) => groups.has(g) && own[g] && !isLike(own[g], [1, 1, 1]));
  const whys = colored.map((group) => ({ group, why: whyNot(document, group, own[group]) }));
  const left = whys.flatMap(({ group, why }) => (why === null ? [] : [{ group, why }]));
  const white = whys.filter(({ why }) => why === null).map(({ group }) => group);
  const isWhite = (name: string) => white.includes(kept(name));
  const lights = document.lights.map((l) => {
    if (!isWhite(l.group)) return l;
    const { kelvin, ...rest } = l;
    return { ...rest, color: grey(kelvin ? kelvinToRgb(kelvin).map((k, c) => k * l.color[c]) : l.color) } as typeof l;
  });
  let { environment } = document;
  if (environment?.kind === 'sky' && isWhite(environment.sun.group)) {
    const { sun } = environment;
    const color = own[kept(sun.group)];
    environment = { ...environment, sun: { ...sun, tint: sun.tint.map((t, c) => t / color[c]) as Rgb } };
  }
  const glowing = new Set(glowsOf(document).flatMap((g) => (isWhite(g.group) ? [g.material] : [])));
  const materials = document.materials.map((m) =>
    glowing.has(m.name) ? { ...m, emission_color: grey(m.emission_color) } : m,
  );
  const colors = Object.fromEntries(
    white.map((g) => {
      const now = mixOf(mix, g);
      if (now.color.kind === 'kelvin' || now.color.kind === 'emitted') return [g, now];
      const [r, gr, b] = emittedColor(now.color, own[g]);
      const y = luminance(r, gr, b);
      return [
        g,
        { ...now, stops: now.stops + Math.log2(y), color: { kind: 'emitted' as const, rgb: [r, gr, b] as Rgb } },
      ];
    }),
  );
  return { document: { ...document, lights, environment, materials }, mix: { ...mix, ...colors }, white, left };
}
