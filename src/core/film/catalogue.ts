import { LEDGER_PLANES, OCCLUSION_PLANES, PATH_CLASSES } from '../kernel';
import type { FeatureName, Recipe } from '../recipe';

/**
 * Every layer a film can hold, in one table. Families hold layers that are told apart by a light group, path class or bounce
 * after a dot; the rest stand by themselves. Nothing outside this file reads a layer's name.
 */

/** How pixels of a data plane get their values: mean of the samples, the sample nearest to the pixel's centre, or its own way. */
type How = 'mean' | 'nearest' | 'own';

/** A layer that stands by itself. */
interface Row {
  family: FamilyName;
  channels: readonly string[];
  words: string;
  /** Data is never exposed, never colour-converted. */
  data: boolean;
  /** Kept as 32-bit floats wherever it is stored. */
  exact: boolean;
  how: How;
  /** Heading and unit of its scale. */
  title: string;
  unit: string;
  /** Ends of its scale or of its channels: told by the data, 0 to 1, or −1 to 1. */
  span: 'own' | 'unit' | 'signed';
  /** The feature of a recipe that keeps it. */
  feature: FeatureName | null;
}

const FAMILY_TABLE = {
  beauty: { title: 'Beauty', tip: 'The whole picture.', sums: false },
  group: {
    title: 'Light groups',
    tip: 'One part for each group of lights. They sum to the beauty, so each can be brightened or coloured apart.',
    sums: true,
  },
  class: {
    title: 'Path classes',
    tip: 'Parts by the way the light took: by the lobe of the first surface, direct or over other surfaces, caustics apart. They sum to the beauty too.',
    sums: true,
  },
  pair: {
    title: 'Pairs',
    tip: 'Parts of one light group in one path class, such as a beam in fog.',
    sums: false,
  },
  bounce: { title: 'Bounces', tip: 'Parts by how many continuation rays the light took.', sums: true },
  lost: {
    title: 'Beyond the limits',
    tip: 'Light that ray depth and reach keep away, estimated from a few paths that go on. It is no part of the beauty.',
    sums: false,
  },
  rest: {
    title: 'Remainders',
    tip: 'The picture less what is written of a family, in one layer: what is written and this add up to the beauty.',
    sums: false,
  },
  mask: {
    title: 'Masks',
    tip: 'The share of each pixel that chosen objects cover, made of the mask by object after the render. Never colour-converted.',
    sums: false,
  },
  feature: {
    title: 'Features',
    tip: 'Data: never exposed, never colour-converted, and kept as float where rounding would do harm.',
    sums: false,
  },
  half: {
    title: 'Halves',
    tip: 'The picture from every other sample: what noise is measured from, also downstream.',
    sums: false,
  },
  group_half: {
    title: 'Halves of light groups',
    tip: 'A light group from every other sample: what its noise is measured from.',
    sums: false,
  },
} as const;

export type FamilyName = keyof typeof FAMILY_TABLE;
/** Families in the order in which they are listed, with their headings. `sums`: its layers sum to the beauty. */
export const FAMILIES: Record<FamilyName, { title: string; tip: string; sums: boolean }> = FAMILY_TABLE;

const RGB = ['R', 'G', 'B'] as const;
const XYZ = ['X', 'Y', 'Z'] as const;
/** Albedo, normal and closeness of the first surface that is neither a mirror nor clear glass. */
const GUIDES = ['R', 'G', 'B', 'X', 'Y', 'Z', 'near'] as const;

const light = (family: FamilyName, words: string): Row => ({
  family,
  channels: RGB,
  words,
  data: false,
  exact: false,
  how: 'own',
  title: words,
  unit: '',
  span: 'own',
  feature: null,
});
const plane = (
  feature: FeatureName | null,
  channels: readonly string[],
  words: string,
  rest: Partial<Omit<Row, 'feature' | 'channels' | 'words'>>,
): Row => ({
  family: 'feature',
  channels,
  words,
  data: true,
  exact: false,
  how: 'mean',
  title: words,
  unit: '',
  span: 'own',
  ...rest,
  feature,
});

/** Shares of rays blocked up to each reach, beyond all of them, and of those that are open. */
const OPEN_BANDS = Array.from({ length: OCCLUSION_PLANES }, (_, b) =>
  b === OCCLUSION_PLANES - 1 ? 'open' : `b${String(b).padStart(2, '0')}`,
);

/** Layers that stand by themselves, by name. */
const ROWS = {
  beauty: light('beauty', 'beauty'),
  half_a: light('half', 'half a'),
  half_b: light('half', 'half b'),
  lost: light('lost', 'lost light'),
  alpha: plane('alpha', ['A'], 'alpha', { title: 'Alpha', span: 'unit' }),
  depth: plane('depth', ['Z'], 'depth', { how: 'nearest', exact: true, title: 'Depth', unit: 'm' }),
  distance: plane('distance', ['Z'], 'distance', { how: 'nearest', exact: true, title: 'Distance', unit: 'm' }),
  P: plane('position', XYZ, 'position', { how: 'nearest', exact: true }),
  uv: plane('uv', ['U', 'V'], 'texture coordinates', { how: 'nearest', exact: true, span: 'unit' }),
  motion: plane('motion', ['X', 'Y'], 'motion to the next frame', {
    how: 'nearest',
    exact: true,
    title: 'Motion',
    unit: 'px a frame',
  }),
  N: plane('normal', XYZ, 'normal', { span: 'signed' }),
  Ng: plane('normal_geometric', XYZ, 'normal of the triangles', { span: 'signed' }),
  Nc: plane('normal_camera', XYZ, 'normal as the camera sees it', { span: 'signed' }),
  albedo: plane('albedo', RGB, 'albedo', { data: false, span: 'unit' }),
  roughness: plane('roughness', ['Y'], 'roughness', { title: 'Roughness', span: 'unit' }),
  occlusion: plane(null, ['Y'], 'openness to the surroundings', { title: 'Open', span: 'unit' }),
  occlusion_bands: plane('occlusion', OPEN_BANDS, 'openness by reach', { title: 'Blocked nearby', span: 'unit' }),
  coverage: plane('coverage', [], 'mask by object', { how: 'own', exact: true }),
  coverage_material: plane('coverage_material', [], 'mask by material', { how: 'own', exact: true }),
  coverage_set: plane('coverage_set', [], 'mask by set', { how: 'own', exact: true }),
  shadow: plane('shadow', RGB, 'shadow on catchers', { how: 'own', span: 'unit' }),
  unshadowed: plane('unshadowed', RGB, 'direct light without shadow', { data: false }),
  shadowing: plane('shadowing', RGB, 'share of direct light in shadow', { how: 'own', span: 'unit' }),
  guides_a: plane(null, GUIDES, 'guides of denoising, half a', {}),
  guides_b: plane(null, GUIDES, 'guides of denoising, half b', {}),
  samples: plane(null, ['Y'], 'samples', { exact: true, title: 'Samples', unit: 'a pixel' }),
  cost: plane(null, ['Y'], 'cost', { exact: true, title: 'Cost', unit: 'µs a pixel' }),
  rays: plane(null, ['Y'], 'rays', { exact: true, title: 'Rays', unit: 'a pixel' }),
} satisfies Record<string, Row>;

/** Layers of measurements a film always has. */
export const MEASURED_LAYERS: readonly string[] = ['samples', 'cost', 'rays'];

/** Layers from which masks are made, and what each tells apart. */
export const MASK_LAYERS = { coverage: 'object', coverage_material: 'material', coverage_set: 'set' } as const;
export type MaskLayer = keyof typeof MASK_LAYERS;
/** Objects, materials or sets that a mask tells apart in a pixel. */
export const COVERAGE_RANKS = 6;

export type Half = 'a' | 'b';

/** Names of layers. */
export const LAYER = {
  half: (half: Half, group?: string) => (group === undefined ? `half_${half}` : `half_${half}.${group}`),
  group: (group: string) => `group.${group}`,
  class: (pathClass: string) => `class.${pathClass}`,
  pair: (group: string, pathClass: string) => `pair.${group}.${pathClass}`,
  guides: (half: Half) => `guides_${half}`,
  mask: (mask: string) => `mask.${mask}`,
  /** The picture less what is written of a family that sums to it. */
  rest: (family: string) => `rest.${family}`,
  bounce: (bounce: number) => `bounce.${String(bounce).padStart(2, '0')}`,
} as const;

/** Layers of the bounce ledger, in order. */
export const LEDGER_LAYERS = Array.from({ length: LEDGER_PLANES }, (_, b) => LAYER.bounce(b));

/** What there is to know of a layer by its name. */
export interface LayerInfo extends Row {
  name: string;
  /** The light group it is of, or null. */
  group: string | null;
  /** The path class of a pair, or null. */
  pathClass: string | null;
  /** Planes it takes in a file. */
  planes: number;
  isMask: boolean;
}

const FAMILY_OF: Record<string, FamilyName> = {
  mask: 'mask',
  rest: 'rest',
  group: 'group',
  class: 'class',
  pair: 'pair',
  bounce: 'bounce',
  half_a: 'group_half',
  half_b: 'group_half',
};
const REST_WORDS: Record<string, string> = {
  group: 'rest of the light groups',
  class: 'rest of the path classes',
  bounce: 'rest of the bounces',
};
const NO_GROUP = { group: null, pathClass: null };
const plainly = (text: string) => text.replaceAll('_', ' ');

/** A layer by its name; one that no film of ours holds is a feature of its own channels. */
export function layerInfo(name: string): LayerInfo {
  const row: Row | undefined = Object.hasOwn(ROWS, name) ? ROWS[name as keyof typeof ROWS] : undefined;
  if (row)
    return {
      ...row,
      name,
      group: null,
      pathClass: null,
      planes: isMask(name) ? COVERAGE_RANKS * 2 : row.channels.length,
      isMask: isMask(name),
    };
  const [stem, ...rest] = name.split('.');
  const family = FAMILY_OF[stem];
  if (!family || rest.length === 0)
    return { ...light('feature', plainly(name)), name, ...NO_GROUP, planes: RGB.length, isMask: false };
  if (family === 'rest' && Object.hasOwn(REST_WORDS, rest[0]))
    return { ...light(family, REST_WORDS[rest[0]]), name, ...NO_GROUP, planes: RGB.length, isMask: false };
  const words = family === 'group_half' ? plainly(name.replace('.', ' · ')) : rest.map(plainly).join(' · ');
  if (family === 'mask')
    return {
      ...plane(null, ['Y'], words, { exact: true, span: 'unit', title: 'Coverage' }),
      family,
      name,
      ...NO_GROUP,
      planes: 1,
      isMask: false,
    };
  // Names of light groups may have dots of their own.
  const pathClass = family === 'pair' ? rest.at(-1)! : null;
  const isOfGroup = family === 'group' || family === 'pair' || family === 'group_half';
  const group = isOfGroup ? (pathClass === null ? rest : rest.slice(0, -1)).join('.') : null;
  return { ...light(family, words), name, group, pathClass, planes: RGB.length, isMask: false };
}

export function isMask(layer: string): layer is MaskLayer {
  return Object.hasOwn(MASK_LAYERS, layer);
}

/** Whether a layer is data that must keep all its digits. */
export const isExact = (layer: string): boolean => layerInfo(layer).exact;

/** Whether a layer is data, never to be colour-managed. */
export const isData = (layer: string): boolean => layerInfo(layer).data;

/** What a picture of bytes or words can hold of a layer: data from 0 to 1 as it is, light as it is seen; null of all else. */
export function stillKind(layer: string): 'data' | 'light' | null {
  const { data, span, channels } = layerInfo(layer);
  if (!data) return 'light';
  return span === 'unit' && (channels.length === 1 || channels.length === 3) ? 'data' : null;
}

/** A data plane that a recipe asks for, with the name of its layer. */
export interface Feature extends Row {
  layer: string;
}

/** The features of a film by their names in a recipe. */
export const FEATURES = Object.fromEntries(
  Object.entries<Row>(ROWS).flatMap(([layer, row]) => (row.feature ? [[row.feature, { ...row, layer }]] : [])),
) as Record<FeatureName, Feature>;

/** Planes by which frames are joined: how things move, and what was hit first. */
const JOINED_BY: FeatureName[] = ['motion', 'albedo', 'normal', 'alpha'];

/** What a recipe's film keeps: also what denoising and joining frames are steered by, where it is to be denoised. */
export const filmKept = ({ film, denoise }: Pick<Recipe, 'film' | 'denoise'>): Recipe['film'] => ({
  ...film,
  guides: film.guides || denoise.on,
  features: denoise.on && denoise.neighbours ? [...new Set([...film.features, ...JOINED_BY])] : film.features,
});

/** Names of the layers that a film keeps by these settings, over a scene's light groups. */
export function layersKept(film: Recipe['film'], groups: readonly string[]): string[] {
  const names = ['beauty', LAYER.half('a'), LAYER.half('b')];
  if (film.groups)
    names.push(...groups.map(LAYER.group), ...groups.flatMap((g) => [LAYER.half('a', g), LAYER.half('b', g)]));
  if (film.classes) names.push(...PATH_CLASSES.map(LAYER.class));
  names.push(...film.pairs.filter((p) => groups.includes(p.group)).map((p) => LAYER.pair(p.group, p.class)));
  if (film.ledger !== 'off') names.push(...LEDGER_LAYERS);
  if (film.lostLight) names.push('lost');
  if (film.guides) names.push(LAYER.guides('a'), LAYER.guides('b'));
  names.push(...film.features.map((f) => FEATURES[f].layer), ...MEASURED_LAYERS);
  return names;
}
