import { type Masking, maskNeeds } from '../exr';
import { LAYER, layerInfo, layersKept, OPENNESS, PARTINGS } from '../film';
import { PATH_CLASSES } from '../kernel';
import { FEATURE_NAMES, type Recipe, scopeSchema } from '../recipe';
import { partOf } from '../scene';
import { allOf, type Mask, type Output, WHOLE_FAMILIES, type WholeFamily } from './schema';
import { isOfVariant, type Variant, type Varied, variedRecipe } from './variant';

type Film = Recipe['film'];
/** The data that tells objects apart for masks. */
export const MASKED_BY = 'coverage';

/** What a mask is made of, by what its picks come to. */
export const maskingOf = (mask: Mask, picked: NonNullable<Masking['picked']>): Masking => ({
  picked: mask.of.length > 0 || !mask.ramp ? picked : null,
  ramp: mask.ramp,
});

/** Layers that a mask is made of. */
export const maskLayers = (mask: Mask): string[] => maskNeeds(maskingOf(mask, { names: [], numbers: [] }));

/** A light group in a path class. */
export type Pair = Film['pairs'][number];

const wholeFamily = (layer: string): WholeFamily | null => {
  const { family } = layerInfo(layer);
  return WHOLE_FAMILIES.find((f) => f === family) ?? null;
};

/** Whether an output writes a layer, by its name or with its family. */
export function writes({ layers }: { layers: readonly string[] }, layer: string): boolean {
  const family = wholeFamily(layer);
  return layers.includes(layer) || (family !== null && layers.includes(allOf(family)));
}

/** The pair that a layer is; null for any other. */
function pairOf(layer: string): Pair | null {
  const { family, group, pathClass } = layerInfo(layer);
  const known = PATH_CLASSES.find((c) => c === pathClass);
  return family === 'pair' && group && known ? { group, class: known } : null;
}

const isSame = (a: Pair, b: Pair) => a.group === b.group && a.class === b.class;

/** Layers of a film with those that are made of them as they are written: remainders of families, openness, and masks. */
export const withMade = (has: readonly string[], masks: readonly Mask[]): string[] => [
  ...has,
  ...PARTINGS.filter((f) => has.some((n) => layerInfo(n).family === f)).map(LAYER.rest),
  ...(has.includes(OPENNESS.bands) && !has.includes(OPENNESS.layer) ? [OPENNESS.layer] : []),
  ...masks.filter((m) => maskLayers(m).every((n) => has.includes(n))).map((m) => LAYER.mask(m.name)),
];

/**
 * All layers that a film of a scene with these light groups can keep, and those of masks; of pairs those that are asked for
 * somewhere.
 */
export function possibleLayers(
  film: Film,
  groups: readonly string[],
  asked: readonly string[] = [],
  masks: readonly Mask[] = [],
): string[] {
  const pairs = [...film.pairs];
  for (const layer of asked) {
    const pair = pairOf(layer);
    if (pair && !pairs.some((p) => isSame(p, pair))) pairs.push(pair);
  }
  const kept = layersKept(
    {
      ...film,
      groups: true,
      classes: true,
      pairs,
      ledger: film.ledger === 'off' ? 'all' : film.ledger,
      lostLight: true,
      guides: true,
      features: [...FEATURE_NAMES],
    },
    groups,
  );
  return withMade(kept, masks);
}

/** Layers that an output writes of those there are, in their order, and those it names that are not there. */
export function chosenOf(
  output: Pick<Output, 'layers'>,
  has: readonly string[],
): { chosen: string[]; absent: string[] } {
  return {
    chosen: has.filter((n) => writes(output, n)),
    absent: output.layers.filter((n) =>
      n.endsWith('.*') ? !has.some((h) => writes({ layers: [n] }, h)) : !has.includes(n),
    ),
  };
}

/** An output as a shot whose films can keep these layers can write it, and the layers that it cannot. */
export function fittedTo(output: Output, possible: readonly string[]): { output: Output; misfits: string[] } {
  const misfits = chosenOf(output, possible).absent;
  return { output: { ...output, layers: output.layers.filter((n) => !misfits.includes(n)) }, misfits };
}

/** The layers of an output with `layer` taken in or left out. A family that loses one is named layer by layer from then on. */
export function toggled(output: Pick<Output, 'layers'>, layer: string, all: readonly string[]): string[] {
  if (!writes(output, layer)) return [...output.layers, layer];
  const family = wholeFamily(layer);
  const named = output.layers.filter((n) => n !== layer);
  if (!family || !named.includes(allOf(family))) return named;
  const rest = all.filter((n) => n !== layer && wholeFamily(n) === family && !named.includes(n));
  return named.flatMap((n) => (n === allOf(family) ? rest : [n]));
}

/** What a film must keep beside what it does already, so that these layers are in it. The same film where nothing is missing. */
export function filmFor(
  film: Film,
  layers: readonly string[],
  groups: readonly string[],
  masks: readonly Mask[] = [],
): Film {
  const has = layersKept(film, groups);
  const missing = layers.filter((n) => chosenOf({ layers: [n] }, has).absent.length > 0);
  if (missing.length === 0) return film;
  const infos = missing.map((n) => ({ ...layerInfo(n.replace(/\.\*$/, '.x')), asked: n }));
  const any = (...families: string[]) => infos.some((i) => families.includes(i.family));
  const pairs = missing.flatMap((n) => pairOf(n) ?? []).filter((p) => groups.includes(p.group));
  const features = missing.flatMap((n) => layerInfo(n).feature ?? []);
  if (missing.includes(OPENNESS.layer) && !film.features.includes('occlusion')) features.push('occlusion');
  const masked = masks.filter((m) => writes({ layers: missing }, LAYER.mask(m.name)));
  const needed = masked.length > 0 ? masked.flatMap(maskLayers) : any('mask') ? [MASKED_BY] : [];
  for (const feature of needed.flatMap((n) => layerInfo(n).feature ?? []))
    if (![...film.features, ...features].includes(feature)) features.push(feature);
  const next: Film = {
    ...film,
    groups: film.groups || any('group', 'group_half') || missing.includes(LAYER.rest('group')),
    classes: film.classes || any('class') || missing.includes(LAYER.rest('class')),
    pairs: [...film.pairs, ...pairs],
    ledger: film.ledger === 'off' && (any('bounce') || missing.includes(LAYER.rest('bounce'))) ? 'all' : film.ledger,
    lostLight: film.lostLight || any('lost'),
    guides: film.guides || missing.some((n) => n.startsWith('guides_')),
    features: [...film.features, ...features],
  };
  return JSON.stringify(next) === JSON.stringify(film) ? film : next;
}

/** A recipe whose film keeps what all outputs write. */
function recipeFor(
  recipe: Recipe,
  outputs: readonly Pick<Output, 'layers'>[],
  masks: readonly Mask[],
  groups: readonly string[],
  more: readonly string[] = [],
): Recipe {
  const film = filmFor(recipe.film, [...new Set([...outputs.flatMap((o) => o.layers), ...more])], groups, masks);
  return film === recipe.film ? recipe : { ...recipe, film };
}

/** The recipe that a variant's picture is rendered by: its film keeps what the outputs of that picture write, and `more`. */
export function pictureRecipe(
  recipe: Recipe,
  { list, masks }: { list: readonly (Varied & { layers: string[] })[]; masks: readonly Mask[] },
  variant: Variant | null,
  groups: readonly string[],
  more: readonly string[] = [],
): Recipe {
  const own = list.filter((o) => isOfVariant(o, variant));
  return recipeFor(variedRecipe(recipe, variant), own, masks, groups, more);
}

/**
 * An output after light groups have become others: each that it names, by a layer or among the lights of its own picture, is
 * named for all that it became.
 */
export function regrouped<O extends Pick<Output, 'layers' | 'variant'>>(
  output: O,
  became: ReadonlyMap<string, readonly string[]>,
): O {
  const named = (layer: string) => {
    const { group, pathClass } = layerInfo(layer);
    const others = group === null ? undefined : became.get(group);
    const stem = layer.slice(0, layer.indexOf('.'));
    const tail = pathClass === null ? [] : [pathClass];
    return others ? others.map((to) => [stem, to, ...tail].join('.')) : [layer];
  };
  const layers = [...new Set(output.layers.flatMap(named))];
  const shine = output.variant && scopeSchema.shape.lights.safeParse(output.variant['scope.lights']).data;
  if (!shine) return { ...output, layers };
  const now = shine.flatMap((l) =>
    l.kind === 'group' ? (became.get(l.name) ?? [l.name]).map((name) => ({ ...l, name: partOf(name).group })) : [l],
  );
  const lights = now.filter((l, i) => now.findIndex((o) => o.kind === l.kind && o.name === l.name) === i);
  return { ...output, layers, variant: { ...output.variant, 'scope.lights': lights } };
}
