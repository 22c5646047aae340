import { z } from 'zod';
import { scopeSchema } from './scope';

/**
 * Every setting of one render. One schema serves interface, server and command line; unknown keys are
 * refused by name, missing ones take the default. `docs/recipe.md` is generated from it.
 */
const whole = (min: number, max: number) => z.number().int().min(min).max(max);

/** Path classes by the names of their planes. */
export const PATH_CLASS_NAMES = [
  'emission',
  'direct_diffuse',
  'direct_reflection',
  'direct_transmission',
  'direct_fog',
  'indirect_diffuse',
  'indirect_reflection',
  'indirect_transmission',
  'indirect_fog',
  'caustic',
] as const;

/** Data planes that a film can hold. */
export const FEATURE_NAMES = [
  'alpha',
  'depth',
  'distance',
  'position',
  'uv',
  'motion',
  'normal',
  'normal_geometric',
  'normal_camera',
  'albedo',
  'roughness',
  'occlusion',
  'coverage',
  'coverage_material',
  'coverage_set',
  'shadow',
  'unshadowed',
  'shadowing',
] as const;
export type FeatureName = (typeof FEATURE_NAMES)[number];

export const recipeSchema = z.strictObject({
  schema: z.literal(1).default(1),
  name: z.string().min(1).max(80).default('Check').describe('Name of the recipe.'),
  size: z
    .strictObject({
      width: whole(16, 16384).default(1280).describe('Picture width at scale 100, in pixels.'),
      height: whole(16, 16384).default(720).describe('Picture height at scale 100, in pixels.'),
      scale: z
        .number()
        .min(1)
        .max(100)
        .default(50)
        .describe('Test scale, percent: the framing stays, the pixels get fewer.'),
    })
    .prefault({}),
  region: z
    .strictObject({
      x: z.number().min(0).max(1),
      y: z.number().min(0).max(1),
      w: z.number().gt(0).max(1),
      h: z.number().gt(0).max(1),
    })
    .refine((r) => r.x + r.w <= 1 + 1e-9 && r.y + r.h <= 1 + 1e-9, 'the region must lie within the frame')
    .nullable()
    .default(null)
    .describe('Part of the frame to render, as fractions from the top left; null renders all.'),
  displacement: z
    .boolean()
    .default(true)
    .describe('Whether displaced objects are divided and displaced; off leaves heavy detail out of a test.'),
  sampling: z
    .strictObject({
      cameraMin: whole(1, 65536).default(16).describe('Camera samples every pixel gets at least.'),
      cameraMax: whole(1, 65536).default(64).describe('Camera samples a pixel gets at most.'),
      adapt: z
        .enum(['even', 'cheapest'])
        .default('even')
        .describe(
          'How samples beyond the minimum are dealt out: `even` stops a cell once its noise is below `stopNoise`; `cheapest` brings the noise of the whole frame there with the fewest rays.',
        ),
      stopNoise: z
        .number()
        .min(0)
        .max(100)
        .default(0)
        .describe('Noise at which a cell stops, percent of display white; 0 gives every cell the maximum.'),
      watch: z
        .enum(['beauty', 'groups'])
        .default('beauty')
        .describe('Whose noise counts: the picture alone, or the worst of it and each light group by itself.'),
      tileOrder: z
        .enum(['centre', 'rows', 'noisiest'])
        .default('centre')
        .describe('Which cells of a sweep come first; it changes no pixel.'),
      splits: z
        .strictObject({
          diffuse: whole(1, 64)
            .default(1)
            .describe('Diffuse paths followed from the first hit, for each camera sample.'),
          reflection: whole(1, 64)
            .default(1)
            .describe('Reflection paths followed from the first hit, for each camera sample.'),
          transmission: whole(1, 64)
            .default(1)
            .describe('Transmission paths followed from the first hit, for each camera sample.'),
          fog: whole(1, 64)
            .default(1)
            .describe('Places along the camera ray where fog is lit, for each camera sample.'),
        })
        .prefault({}),
      lightSamples: whole(1, 64)
        .default(1)
        .describe('Light samples at the first vertex of a path that can gather light; later ones take one.'),
      filter: z
        .strictObject({
          kind: z.enum(['box', 'tent', 'gauss']).default('gauss').describe('Shape of the pixel filter.'),
          widthPx: z.number().min(0.5).max(8).default(2).describe('Whole width of the pixel filter, in pixels.'),
        })
        .prefault({}),
      outlierLimit: z
        .strictObject({
          first: z
            .number()
            .min(-10)
            .max(30)
            .nullable()
            .default(null)
            .describe('Brightest contribution at bounce 0, in stops above display white; null = no limit.'),
          later: z
            .number()
            .min(-10)
            .max(30)
            .nullable()
            .default(1)
            .describe('Brightest contribution beyond bounce 0, in stops above display white; null = no limit.'),
        })
        .prefault({}),
      seedLocked: z
        .boolean()
        .default(false)
        .describe('Whether all frames share their random numbers; noise then stands still from frame to frame.'),
      seed: whole(0, 4294967295).default(1).describe('Seed of all random numbers.'),
    })
    .prefault({}),
  rayDepth: z
    .strictObject({
      all: whole(0, 64).default(24).describe('Continuation rays of all kinds together.'),
      diffuse: whole(0, 64).default(3).describe('Diffuse continuation rays; 0 = direct light only.'),
      reflection: whole(0, 64).default(6).describe('Reflection continuation rays.'),
      transmission: whole(0, 64).default(16).describe('Transmission continuation rays; a pane with two faces needs 2.'),
      fog: whole(0, 64).default(1).describe('Continuation rays from fog; 0 = light that fog scatters once.'),
      holes: whole(0, 64).default(16).describe('Cut-outs a ray may pass; they are no bounces.'),
      rouletteStart: whole(0, 64)
        .default(0)
        .describe(
          'Continuation rays before what brings little may be ended by chance (without bias): dim paths and light samples, at 0 weak lobes of the first hit and paths from thin fog too.',
        ),
      reachMetres: z
        .number()
        .positive()
        .max(1e6)
        .nullable()
        .default(null)
        .describe('Length at which continuation rays are cut, in metres; null = never.'),
      caustics: z
        .boolean()
        .default(true)
        .describe('Whether light that reaches a diffuse surface through sharp reflection or transmission is kept.'),
      softenCaustics: z
        .number()
        .min(0)
        .max(1)
        .default(0)
        .describe(
          'Least roughness of mirrors and glass for light on its way to a diffuse surface: less noise, softer caustics.',
        ),
    })
    .prefault({}),
  camera: z
    .strictObject({
      depthOfField: z.boolean().default(true).describe('Whether the lens blurs what is out of focus.'),
      motionBlur: z.boolean().default(true).describe('Whether what moves while the shutter is open is blurred.'),
    })
    .prefault({}),
  scope: scopeSchema.prefault({}),
  clay: z
    .strictObject({
      on: z.boolean().default(false).describe('Whether surfaces are shown as grey matt clay.'),
      grey: z.number().min(0.01).max(0.99).default(0.5).describe('Albedo of the clay.'),
      except: z
        .array(z.string().min(1))
        .default([])
        .describe('Objects, sets and materials by name that stay as they are.'),
      keepEmission: z.boolean().default(true).describe('Whether glowing surfaces stay as they are.'),
      keepGlass: z
        .boolean()
        .default(true)
        .describe('Whether glass stays as it is; windows of clay would keep light out.'),
      occlusion: z
        .boolean()
        .default(false)
        .describe('Shades by how much of the sky each place would see instead of by the lights.'),
      backs: z
        .boolean()
        .default(true)
        .describe(
          'Whether the camera sees back faces of clay; without them it looks into closed rooms, whose walls still keep light out.',
        ),
    })
    .prefault({}),
  denoise: z
    .strictObject({
      on: z
        .boolean()
        .default(false)
        .describe(
          'Denoise the film when the trial is done, and keep what came out beside it; the film then keeps what denoising is steered by.',
        ),
      strength: z
        .number()
        .min(0)
        .max(100)
        .default(100)
        .describe('Percent of what denoising made that is taken; can be changed afterwards without filtering again.'),
      neighbours: z
        .boolean()
        .default(false)
        .describe(
          'Join a denoised frame with the frames before and after it, where trials of the same picture have them; the film then keeps motion, albedo, normals and alpha.',
        ),
    })
    .prefault({}),
  film: z
    .strictObject({
      groups: z.boolean().default(true).describe('Keep a part, in two halves, for each light group.'),
      classes: z.boolean().default(true).describe('Keep a part for each path class.'),
      pairs: z
        .array(
          z.strictObject({
            group: z.string().regex(/^[a-z0-9_]{1,40}(\.[a-z0-9_]{1,40}){0,2}$/),
            class: z.enum(PATH_CLASS_NAMES),
          }),
        )
        .max(16)
        .default([])
        .describe('Parts of one light group and path class each.'),
      only: z
        .enum(['all', 'fog', 'surfaces'])
        .default('all')
        .describe(
          '`fog` keeps light that fog scatters first, surfaces black to the camera; `surfaces` keeps the rest. The two add up to `all`.',
        ),
      ledger: z
        .enum(['off', 'all', 'diffuse', 'reflection', 'transmission', 'fog', 'reach'])
        .default('off')
        .describe(
          'Keep a part for each bounce: counted over all continuation rays or those of one kind; `reach` parts by the longest of them, in bands that double from 1/16 m.',
        ),
      lostLight: z
        .boolean()
        .default(false)
        .describe(
          'Estimate the light that ray depth and reach keep away; it is kept apart and changes no other plane.',
        ),
      lostChance: z
        .number()
        .min(0.01)
        .max(1)
        .default(0.125)
        .describe('Share of the paths that met a limit which are followed beyond it.'),
      guides: z
        .boolean()
        .default(false)
        .describe(
          'Keep what denoising is steered by, in both halves: albedo, normal and closeness of the first surface that is neither a mirror nor clear glass.',
        ),
      features: z
        .array(z.enum(FEATURE_NAMES))
        .default(['alpha', 'depth', 'normal', 'albedo', 'coverage'])
        .describe('Data planes to keep.'),
      occlusion: z
        .strictObject({
          rays: whole(1, 64).default(4).describe('Rays a sample.'),
          spreadDegrees: z
            .number()
            .min(1)
            .max(180)
            .default(180)
            .describe('Whole angle about the normal that they keep to.'),
          reachMetres: z.number().positive().nullable().default(null).describe('How far they look; null = to the end.'),
        })
        .prefault({}),
    })
    .prefault({}),
});

export type Recipe = z.infer<typeof recipeSchema>;

/** A setting that was refused: key, fault and what is allowed. */
export class RecipeError extends Error {
  constructor(
    readonly path: string,
    readonly fault: string,
  ) {
    super(`${path || 'recipe'}: ${fault}`);
  }
}

/** Fault of the first issue, in words, with the allowed range where there is one. */
function faultOf(issue: z.core.$ZodIssue): [string, string] {
  const path = issue.path.join('.');
  if (issue.code === 'unrecognized_keys') return [[...issue.path, issue.keys[0]].join('.'), 'unknown setting'];
  if (issue.code === 'too_small') return [path, `too small, at least ${issue.minimum} is allowed`];
  if (issue.code === 'too_big') return [path, `too large, at most ${issue.maximum} is allowed`];
  if (issue.code === 'invalid_value') return [path, `must be one of ${issue.values.join(', ')}`];
  if (issue.code === 'invalid_type')
    return [path, `must be ${issue.expected === 'int' ? 'a whole number' : `of type ${issue.expected}`}`];
  return [path, issue.message];
}

/** Checks a recipe; throws `RecipeError` for the first fault. */
export function parseRecipe(value: unknown): Recipe {
  const result = recipeSchema.safeParse(value);
  if (!result.success) throw new RecipeError(...faultOf(result.error.issues[0]));
  const r = result.data;
  if (r.sampling.cameraMax < r.sampling.cameraMin) {
    throw new RecipeError('sampling.cameraMax', `must be at least sampling.cameraMin (${r.sampling.cameraMin})`);
  }
  return r;
}

type Tree = { [key: string]: unknown };

/** A copy of `recipe` with `path` (dotted) set to `value`; not yet checked. */
export function withSetting(recipe: unknown, path: string, value: unknown): Tree {
  const root = structuredClone(recipe) as Tree;
  const keys = path.split('.');
  let node = root;
  for (const key of keys.slice(0, -1)) {
    const next = Object.hasOwn(node, key) ? node[key] : undefined;
    if (next === null || next === undefined) {
      if (['__proto__', 'constructor', 'prototype'].includes(key)) throw new RecipeError(path, 'unknown setting');
      node[key] = {};
    } else if (typeof next !== 'object') throw new RecipeError(path, `${key} has no settings below it`);
    node = node[key] as Tree;
  }
  node[keys[keys.length - 1]] = value;
  return root;
}

/** Value of a dotted setting. */
export function settingAt(recipe: Recipe, path: string): unknown {
  return path.split('.').reduce<unknown>((node, key) => (node as Tree | null)?.[key], recipe);
}

/** All dotted settings of a recipe whose values differ, with both. `name` is left out. */
export function differences(from: Recipe, to: Recipe): { path: string; from: unknown; to: unknown }[] {
  const out: { path: string; from: unknown; to: unknown }[] = [];
  const visit = (a: unknown, b: unknown, path: string) => {
    const plain = (v: unknown) => typeof v === 'object' && v !== null && !Array.isArray(v);
    if (plain(a) && plain(b)) {
      for (const key of Object.keys({ ...(a as Tree), ...(b as Tree) })) {
        visit((a as Tree)[key], (b as Tree)[key], path ? `${path}.${key}` : key);
      }
    } else if (JSON.stringify(a) !== JSON.stringify(b) && path !== 'name') out.push({ path, from: a, to: b });
  };
  visit(from, to, '');
  return out;
}

/** Canonical JSON: keys sorted, for hashing. */
export function canonicalJson(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonicalJson).join(',')}]`;
  if (typeof value === 'object' && value !== null) {
    const entries = Object.entries(value as Tree).filter(([, v]) => v !== undefined);
    entries.sort(([a], [b]) => (a < b ? -1 : 1));
    return `{${entries.map(([k, v]) => `${JSON.stringify(k)}:${canonicalJson(v)}`).join(',')}}`;
  }
  return JSON.stringify(value);
}

/** Pixels of the whole frame at the recipe's scale, and of its region within that frame. */
export function frameOf(recipe: Pick<Recipe, 'size' | 'region'>): {
  width: number;
  height: number;
  region: { x: number; y: number; width: number; height: number };
} {
  const width = Math.max(1, Math.round((recipe.size.width * recipe.size.scale) / 100));
  const height = Math.max(1, Math.round((recipe.size.height * recipe.size.scale) / 100));
  const r = recipe.region;
  if (!r) return { width, height, region: { x: 0, y: 0, width, height } };
  const x = Math.min(width - 1, Math.floor(r.x * width + 1e-6));
  const y = Math.min(height - 1, Math.floor(r.y * height + 1e-6));
  return {
    width,
    height,
    region: {
      x,
      y,
      width: Math.max(1, Math.min(width, Math.ceil((r.x + r.w) * width - 1e-6)) - x),
      height: Math.max(1, Math.min(height, Math.ceil((r.y + r.h) * height - 1e-6)) - y),
    },
  };
}
