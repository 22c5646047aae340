import type { FilmFigures } from '@/core/film';
import type { PathClass } from '@/core/kernel';
import { freeName, glowsOf, lightGroups, MOST_GROUPS, materialSchema, type SceneDocument } from '@/core/scene';
import type { Survey } from '../diagnosis/survey';

/** Light group that a cure's own light is told apart in while its strength is matched. */
export const MATCHED_GROUP = 'cure_matched';

/** A change of the scene against noise, with all its steps. */
export interface SceneIdea {
  code: string;
  words: string;
  steps: string[];
  /** The scene with the steps made; the light that keeps the brightness gives its strength times this, by channel. */
  make: (strength: readonly [number, number, number]) => SceneDocument;
  /** Whether its colour follows too, or its strength alone. */
  matches: 'color' | 'strength';
}

interface Source {
  kind: 'light' | 'material';
  name: string;
  /** Its largest class of noise, and the share of that. */
  pathClass: PathClass;
  share: number;
}

const MOST_SOURCES = 3;
const LEAST_SHARE = 0.08;
/** An object is a light's shade when it stands before it at this share of the places that it faces. */
const SHADES_FROM = 0.3;

/** Sources of light whose groups cause the most noise, each with the class that it does so by. */
function noisySources(document: SceneDocument, { shares }: Pick<FilmFigures, 'shares'>): Source[] {
  const best = new Map<string, { pathClass: PathClass; share: number }>();
  for (const s of shares?.groupClass ?? []) {
    const known = best.get(s.group);
    if (!known || s.share > known.share) best.set(s.group, { pathClass: s.pathClass as PathClass, share: s.share });
  }
  const glows = glowsOf(document);
  const of = (...groups: string[]) =>
    groups.reduce((most, g) => ((best.get(g)?.share ?? 0) > most.share ? best.get(g)! : most), {
      pathClass: 'emission' as PathClass,
      share: 0,
    });
  const groupsOf = (material: string) => glows.filter((g) => g.material === material).map((g) => g.group);
  const all: Source[] = [
    ...document.lights
      .filter((l) => l.on && l.power > 0)
      .map((l) => ({ kind: 'light' as const, name: l.name, ...of(l.group) })),
    ...document.materials
      .filter((m) => m.light.on && groupsOf(m.name).length > 0)
      .map((m) => ({ kind: 'material' as const, name: m.name, ...of(...groupsOf(m.name)) })),
  ];
  return all
    .filter((s) => s.share > LEAST_SHARE)
    .sort((a, b) => b.share - a.share)
    .slice(0, MOST_SOURCES);
}

type Material = SceneDocument['materials'][number];
type ObjectOf = SceneDocument['objects'][number];

const mapMaterial = (d: SceneDocument, name: string, change: (m: Material) => Material): SceneDocument => ({
  ...d,
  materials: d.materials.map((m) => (m.name === name ? change(m) : m)),
});
const mapObject = (d: SceneDocument, name: string, change: (o: ObjectOf) => ObjectOf): SceneDocument => ({
  ...d,
  objects: d.objects.map((o) => (o.name === name ? change(o) : o)),
});
const mapLight = (
  d: SceneDocument,
  name: string,
  change: (l: SceneDocument['lights'][number]) => SceneDocument['lights'][number],
): SceneDocument => ({ ...d, lights: d.lights.map((l) => (l.name === name ? change(l) : l)) });

const groupOf = (d: SceneDocument, s: Source) =>
  s.kind === 'light'
    ? d.lights.find((l) => l.name === s.name)!.group
    : d.materials.find((m) => m.name === s.name)!.light_group;

/** The scene with a source's strength multiplied. */
function stronger(d: SceneDocument, s: Source, by: number): SceneDocument {
  return s.kind === 'light'
    ? mapLight(d, s.name, (l) => ({ ...l, power: l.power * by }))
    : mapMaterial(d, s.name, (m) => ({ ...m, emission_luminance: m.emission_luminance * by }));
}

/** The scene with the controls of a source changed: gains, and whom it lights. */
function controlled(
  d: SceneDocument,
  s: Source,
  change: (c: Material['light']) => Partial<Material['light']>,
): SceneDocument {
  return s.kind === 'light'
    ? mapLight(d, s.name, (l) => ({ ...l, ...change(l) }))
    : mapMaterial(d, s.name, (m) => ({ ...m, light: { ...m.light, ...change(m.light) } }));
}

/** The role that a class of light plays, whose gain takes it away. */
const ROLES: Partial<Record<PathClass, 'reflection' | 'transmission' | 'fog' | 'mirrors'>> = {
  direct_reflection: 'reflection',
  direct_transmission: 'transmission',
  direct_fog: 'fog',
  indirect_fog: 'fog',
};
const ROLE_WORDS = { reflection: 'reflection', transmission: 'transmission', fog: 'fog', mirrors: 'mirrors' };

const sum = ([r, g, b]: readonly [number, number, number]) => (r + g + b) / 3;

/** The objects that stand before a light, the first in the way first. */
function shadesOf(document: SceneDocument, survey: Survey, s: Source): string[] {
  if (s.kind !== 'light') return [];
  const blockers = survey.lights.get(s.name)?.blockers ?? new Map<string, number>();
  return [...blockers]
    .filter(([name, share]) => share > SHADES_FROM && document.objects.some((o) => o.name === name))
    .sort((a, b) => b[1] - a[1])
    .map(([name]) => name)
    .slice(0, 1);
}

/** What a shade may be made to do about a light within it. */
function shadeIdeas(document: SceneDocument, s: Source, shade: string): SceneIdea[] {
  const object = document.objects.find((o) => o.name === shade)!;
  const material = document.materials.find((m) => m.name === object.material);
  if (!material) return [];
  const out: SceneIdea[] = [];
  const glows = freeName(document, 'material', `${shade}, lit`);
  if (material.transmission_weight > 0.1 && object.rules?.secondaryMaterial === undefined) {
    out.push({
      code: `glow:${shade}`,
      words: `${shade} glows by itself`,
      steps: [
        `a surface ${glows} is added: matt, of light group ${groupOf(document, s)}, as bright as ${s.name} makes ${shade}`,
        `all rays but the camera's meet ${shade} with it`,
      ],
      matches: 'color',
      make: (strength) => {
        const most = Math.max(...strength, 1e-9);
        const surface = {
          name: glows,
          base_color: [0.8, 0.8, 0.8],
          specular_weight: 0,
          emission_luminance: most,
          emission_color: strength.map((v) => v / most),
          light_group: groupOf(document, s),
        };
        const added = materialSchema.parse(surface);
        return mapObject({ ...document, materials: [...document.materials, added] }, shade, (o) => ({
          ...o,
          rules: { ...o.rules, secondaryMaterial: glows },
        }));
      },
    });
  }
  if (material.transmission_weight > 0.1 && object.rules?.seenBy?.shadow !== false)
    out.push({
      code: `pass:${shade}`,
      words: `${s.name} shines through ${shade}`,
      steps: [`rays that look for lights pass ${shade}`, `${s.name} is matched in strength`],
      matches: 'strength',
      make: (strength) =>
        stronger(
          mapObject(document, shade, (o) => ({
            ...o,
            rules: { ...o.rules, seenBy: { ...o.rules?.seenBy, shadow: false } },
          })),
          s,
          sum(strength),
        ),
    });
  if (object.rules?.castsCaustics !== false && material.transmission_weight > 0.1)
    out.push({
      code: `caustics:${shade}`,
      words: `${shade} casts no caustics`,
      steps: [`${shade} focuses no light`, `${s.name} is matched in strength`],
      matches: 'strength',
      make: (strength) =>
        stronger(
          mapObject(document, shade, (o) => ({ ...o, rules: { ...o.rules, castsCaustics: false } })),
          s,
          sum(strength),
        ),
    });
  return out;
}

/**
 * Changes of the scene that may cure what its noise is made of: a light and the shade about it, the gain of the role that is
 * noisy. Each makes all of its steps at once, and leaves one strength open that keeps the brightness.
 */
export function sceneIdeas(document: SceneDocument, survey: Survey, figures: FilmFigures): SceneIdea[] {
  const out: SceneIdea[] = [];
  for (const s of noisySources(document, figures)) {
    const shades = shadesOf(document, survey, s);
    for (const shade of shades) out.push(...shadeIdeas(document, s, shade));
    const excluded =
      s.kind === 'light' ? document.lights.find((l) => l.name === s.name)!.exclude : ([] as readonly string[]);
    const own = shades.find((name) => !excluded.includes(name));
    if (own !== undefined)
      out.push({
        code: `exclude:${s.name}:${own}`,
        words: `${s.name} does not light ${own}`,
        steps: [`${own} is left out of what ${s.name} lights`, `${s.name} is matched in strength`],
        matches: 'strength',
        make: (strength) =>
          stronger(
            controlled(document, s, (c) => ({ exclude: [...c.exclude, own] })),
            s,
            sum(strength),
          ),
      });
    const role = ROLES[s.pathClass];
    if (role)
      out.push({
        code: `gain:${s.name}:${role}`,
        words: `${s.name} gives half in ${ROLE_WORDS[role]}`,
        steps: [`the gain of ${s.name} in ${ROLE_WORDS[role]} is halved`, `${s.name} is matched in strength`],
        matches: 'strength',
        make: (strength) =>
          stronger(
            controlled(document, s, (c) => ({ gains: { ...c.gains, [role]: c.gains[role] / 2 } })),
            s,
            sum(strength),
          ),
      });
  }
  return out;
}

/**
 * The scene of an idea with the light whose strength is to be found in a light group of its own, and that strength as it was
 * taken; null where a film cannot keep one more group.
 */
export function apart(idea: SceneIdea): { document: SceneDocument; strength: [number, number, number] } | null {
  const unit: [number, number, number] = idea.matches === 'color' ? [100, 100, 100] : [1, 1, 1];
  const made = idea.make(unit);
  const doubled = idea.make(unit.map((v) => v * 2) as [number, number, number]);
  const groups = lightGroups(made);
  if (groups.length >= MOST_GROUPS) return null;
  const changed = <T extends { name: string }>(a: T[], b: T[]) =>
    new Set(a.filter((x, i) => JSON.stringify(x) !== JSON.stringify(b[i])).map((x) => x.name));
  const lights = changed(made.lights, doubled.lights);
  const materials = changed(made.materials, doubled.materials);
  return {
    document: {
      ...made,
      groups: [...groups, MATCHED_GROUP],
      lights: made.lights.map((l) => (lights.has(l.name) ? { ...l, group: MATCHED_GROUP } : l)),
      materials: made.materials.map((m) => (materials.has(m.name) ? { ...m, light_group: MATCHED_GROUP } : m)),
      objects: made.objects.map((o) =>
        materials.has(o.material) || materials.has(o.rules?.secondaryMaterial ?? '')
          ? { ...o, lightGroup: undefined }
          : o,
      ),
    },
    strength: unit,
  };
}
