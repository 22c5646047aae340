import { FEATURE_NAMES, type FeatureName, PATH_CLASS_NAMES } from '../recipe';
import { MOST_FOGS } from '../scene/document/terms';
import {
  BLOCK,
  BLOCK_BYTES,
  ENV_CUTS,
  ENV_PIXEL_BYTES,
  ENV_PIXEL_FIELDS,
  FOG_BYTES,
  FOG_FIELDS,
  HEADER_FIELDS,
  INSTANCE_BYTES,
  INSTANCE_FIELDS,
  INSTANCE_LEAF,
  LIGHT_BYTES,
  LIGHT_FIELDS,
  LIGHT_KIND,
  LIGHT_MOMENT_BYTES,
  LIGHT_MOMENT_TIME,
  LIGHT_NODE_BYTES,
  LIGHT_NODE_FIELDS,
  LIGHT_POSE_BYTES,
  LIGHT_POSE_FIELDS,
  MATERIAL_BYTES,
  MATERIAL_FIELDS,
  NODE,
  NODE_BYTES,
  NODE_CHILDREN,
  OBJECT_BYTES,
  OBJECT_FIELDS,
  OBJECT_FLAG,
  PASSED_BIT,
  PORTAL_BYTES,
  PORTAL_FIELDS,
  POSE_BYTES,
  POSE_TIME,
  SCENE_BASE,
  TEXTURE_BYTES,
  TEXTURE_FIELDS,
  TREE_BYTES,
  TREE_FIELDS,
  TRIANGLE_MATERIAL_SHIFT,
  USE_BUMP,
  USE_BYTES,
  USE_FIELDS,
  USE_NORMAL,
  WRAPS,
} from './layout-scene';

export * from './layout-scene';

/**
 * Every offset, stride and enumeration that the host and the kernel share. This is the only place
 * with such numbers: the kernel's own constants are generated from `WASM_CONSTANTS` before it is
 * compiled, so the two cannot drift apart.
 *
 * Linear memory, low to high:
 *
 * | from             | what                                              | written by     |
 * |------------------|---------------------------------------------------|----------------|
 * | 0                | the kernel's static data                          | compiler       |
 * | `SCENE_BASE`     | scene header, then the arrays it points to        | scene packing  |
 * | header `bvhRoot` | trees: nodes and triangle blocks                  | kernel builder |
 * | after the scene  | one scratch area a thread: parameters, stack, tile| each thread    |
 *
 * All pointers are absolute byte addresses. Numbers are little-endian, floats are 32-bit.
 */

/** Poorer techniques that a study compares ours with. */
export const STUDY = { plainRandom: 1, lightsAlone: 2, lobesAlone: 4, uniformChoice: 8, distanceFog: 16 } as const;
/** What of a picture is rendered: all, light that fog scatters first, or the rest. */
export const ONLY = { all: 0, fog: 1, surfaces: 2 } as const;

/** Path classes, in the order of their planes. Definitions: docs/architecture.md, "Parts". */
export const PATH_CLASSES = PATH_CLASS_NAMES;
export type PathClass = (typeof PATH_CLASSES)[number];

export const MAX_GROUPS = 16;

/**
 * How the camera sees a light: itself, in mirrors and glass, by what else it meets first of surfaces, or by fog. Mirrors and glass are
 * sharp lobes, of roughness ≤ `CAUSTIC_ROUGHNESS`.
 */
export const LIGHT_SIGHTS = ['seen', 'mirrors', 'surfaces', 'fog'] as const;
/** Ledger planes: bounces 0 to 15, then "16 and more". */
export const LEDGER_PLANES = 17;
/** Planes of a half of the guides of denoising: albedo, normal, and closeness f / (f + way), f the focus distance. */
export const GUIDE_PLANES = 7;
/** Coverage slots a pixel while rendering. */
export const COVERAGE_SLOTS = 16;

export const TILE_SIZE = 16;
export const TILE_PIXELS = TILE_SIZE * TILE_SIZE;
export const PLANE_BYTES = TILE_PIXELS * 4;

/** Ray counters of a cell; shadow rays follow, one counter a light group. */
export const RAY_KINDS = [
  'camera',
  'diffuse',
  'reflection',
  'transmission',
  'fog',
  'twin',
  'lost',
  'occlusion',
] as const;
export const RAY_COUNTERS = RAY_KINDS.length + MAX_GROUPS;

/** Limits that end a path: on all continuation rays, on those of a kind, of an object, on their length. */
export const LIMIT_KINDS = ['all', 'diffuse', 'reflection', 'transmission', 'fog', 'object', 'reach'] as const;
/** What the bounce ledger counts: all continuation rays, those of one kind, or the band of the longest. */
export const LEDGER_AXES = ['all', 'diffuse', 'reflection', 'transmission', 'fog', 'reach'] as const;
/** The band of the longest ray is b up to 2^(b + REACH_EXPONENT) metres. */
export const REACH_EXPONENT = -4;
/**
 * Reaches by which rays of occlusion are kept apart: the first in metres, each further one by the ratio. A plane a reach has
 * the share of rays that are blocked between the one before and it, one more those blocked beyond, the last those that are not.
 */
export const OCCLUSION_REACHES = 16;
export const OCCLUSION_FIRST_METRES = 2 ** -5;
export const OCCLUSION_RATIO = Math.fround(2 ** (2 / 3));
export const OCCLUSION_PLANES = OCCLUSION_REACHES + 2;
/** Rays a path may have beyond its limits when it is followed for lost light. */
export const MOST_LOST_RAYS = 64;

const SOURCES = MAX_GROUPS * PATH_CLASSES.length + PATH_CLASSES.length * LEDGER_PLANES;
/** Tables of a cell, float64, in order. `invalid` counts contributions that were no finite numbers. */
export const TABLE = {
  groupClass: 0,
  classBounce: MAX_GROUPS * PATH_CLASSES.length,
  rays: SOURCES,
  total: SOURCES + RAY_COUNTERS,
  clamped: SOURCES + RAY_COUNTERS + 1,
  pairs: SOURCES + RAY_COUNTERS + 2,
  timeMs: SOURCES + RAY_COUNTERS + 3,
  invalid: SOURCES + RAY_COUNTERS + 4,
  /** Samples whose object found no room in its pixel's mask. */
  unmasked: SOURCES + RAY_COUNTERS + 5,
  /** Lost light by the kind of limit that a path met first. */
  lost: SOURCES + RAY_COUNTERS + 6,
  /** By object of the first hit: its covariance with the pixel's noise, light, rays, lost light, samples. */
  objects: SOURCES + RAY_COUNTERS + 6 + LIMIT_KINDS.length,
} as const;
export const OBJECT_COLUMNS = ['noise', 'light', 'rays', 'lost', 'samples'] as const;
/** Objects told apart in tables; all others, and what hits none, share one more row. */
export const TABLED_OBJECTS = 255;
export const TABLE_DOUBLES = TABLE.objects + (TABLED_OBJECTS + 1) * OBJECT_COLUMNS.length;
export const TABLE_BYTES = TABLE_DOUBLES * 8;

type Pascal<T extends string> = T extends `${infer A}_${infer B}` ? `${Capitalize<A>}${Capitalize<B>}` : Capitalize<T>;

/** Name of a feature as part of a field's: `normal_camera` → `NormalCamera`. */
export function pascal<T extends FeatureName>(name: T): Pascal<T> {
  return name.replace(/(^|_)([a-z])/g, (_, __, c: string) => c.toUpperCase()) as Pascal<T>;
}

/**
 * Parameters of a render, in the thread's scratch area. `i` fields are i32, the others f32.
 * Plane fields hold the index of the first plane in the tile, -1 when the plane is not kept.
 */
export const PARAM_FIELDS = [
  'i:seed',
  'i:width',
  'i:height',
  'i:groupCount',
  'i:splitsDiffuse',
  'i:splitsReflection',
  'i:splitsTransmission',
  'i:splitsFog',
  'i:lightSamples',
  'i:depthAll',
  'i:depthDiffuse',
  'i:depthReflection',
  'i:depthTransmission',
  'i:depthFog',
  'i:holes',
  'i:rouletteStart',
  /** Luminance of display white, in nits. */
  'white',
  'i:caustics',
  'reach',
  'outlierFirst',
  'outlierLater',
  'camX',
  'camY',
  'camZ',
  'tanHalfX',
  'tanHalfY',
  'lensRadius',
  'focus',
  'filterWidth',
  'i:planeGroups',
  'i:planeClasses',
  'i:planeLedger',
  'i:ledgerAxis',
  'i:planeLost',
  'lostChance',
  'i:planeNear',
  'i:planeGuides',
  ...FEATURE_NAMES.map((name) => `i:plane${pascal(name)}` as const),
  'i:planeCount',
  'i:only',
  'i:study',
  'softenCaustics',
  /** Where the thread keeps the records of moving instances. */
  'i:poses',
  'i:cameraSteps',
  'shiftX',
  'shiftY',
  'clipNear',
  'clipFar',
  'i:blades',
  /** In turns. */
  'bladesTurn',
  'catsEye',
  'i:occlusionRays',
  'occlusionCosine',
  'occlusionReach',
  /** Where a study has rays written (0 = nowhere), and how many at most. */
  'i:rayRecords',
  'i:mostRayRecords',
] as const;

/** Samples of the pixel filter's inverse distribution function, over (0, 1). */
export const FILTER_TABLE_SIZE = 256;

/**
 * Scratch area of a thread:
 * params | filter table | media lists and spans in fog | textured materials | planes of pairs | groups by sight | cameras | posed triangles | traversal stack | sweep sums of one pixel | tile (planes, then tables).
 */
export const SCRATCH = {
  params: 0,
  filter: 512,
  media: 1536,
  material: 3072,
  pairs: 3584,
  sights: 4224,
  camera: 4480,
  pose: 6784,
  stack: 7104,
  sums: 19392,
  tile: 27584,
} as const;
/** Bytes of a list of media, and of spans of a ray in fog, of which there is room for 32. */
export const MEDIA_LIST_BYTES = 64;
export const FOG_SPANS_BYTES = 512;
/** What lies at `SCRATCH.media`: four lists, eight words, spans twice, and a word for each fog. */
export const MEDIA_BYTES = 4 * MEDIA_LIST_BYTES + 32 + 2 * FOG_SPANS_BYTES + MOST_FOGS * 4;
/**
 * Most cameras over the shutter, 12 floats and the time of each. In `SCRATCH.camera` follow that of the path's time, the
 * frame's and the next.
 */
export const MOST_CAMERA_STEPS = 33;
export const CAMERA_BYTES = 64;
export const CAMERA_TIME = 48;
/** Room for the traversal of one level of trees; the world's comes first, then that of the instance entered. */
export const LEVEL_STACK_BYTES = 6144;
export const SUM_SLOTS = MAX_GROUPS * PATH_CLASSES.length + PATH_CLASSES.length * LEDGER_PLANES + 1;

/** Objects whose light is told apart within a pixel; it follows the sources' sums: number + 1, light of either half. */
export const OBJECT_SUM_SLOTS = 16;

/** What energy of facets is tabled of: opaque reflection, glass that refracts, thin walls. */
export const ENERGY_KINDS = ['opaque', 'solid', 'pane'] as const;
export type EnergyKind = (typeof ENERGY_KINDS)[number];
/**
 * Steps of a slab of energy: by the root of the cosine, by roughness, and where facets are stretched by sin² of the azimuth.
 * Before its pairs of floats a slab has its kind, relative index, stretch and bytes. The first is that of opaque facets
 * without a stretch.
 */
export const ENERGY_TABLE = { cosines: 32, roughnesses: 32, azimuths: 6 } as const;
export const ENERGY_HEAD_BYTES = 16;
export const MOST_ENERGY_SLABS = 48;
/** Media a path may be inside of at once. */
export const MOST_MEDIA = 8;
/** Events of a walk inside a scattering interior before it is given up. */
export const MOST_WALK_EVENTS = 256;

/** Roughness (GGX alpha) below which a lobe is a delta. */
export const MIRROR_ALPHA = 1e-3;
/** OpenPBR roughness up to which a reflection or transmission vertex makes a caustic. */
export const CAUSTIC_ROUGHNESS = 0.15;

/** Record of a path's trail, 64 bytes: what happened where, with what throughput or light. */
export const TRAIL_FIELDS = [
  'i:event',
  'i:object',
  'i:lobe',
  'i:light',
  'i:reason',
  'x',
  'y',
  'z',
  'r',
  'g',
  'b',
  'distance',
] as const;
export const TRAIL_BYTES = 64;
export const TRAIL_EVENTS = ['vertex', 'left', 'light', 'blocked', 'passed', 'fog', 'end'] as const;
/** Why a path ends. The first seven are limits, numbered as `LIMIT_KINDS`. */
export const TRAIL_ENDS = [
  ...LIMIT_KINDS.map((k) => `limit ${k}` as const),
  'sky',
  'light',
  'roulette',
  'absorbed',
  'holes',
  'walk',
  'clip',
] as const;

/** Byte offset of a field in a record of 4-byte fields. */
export function fieldOffset(fields: readonly string[], name: string): number {
  const index = fields.findIndex((f) => f === name || f === `i:${name}`);
  if (index < 0) throw new Error(`no field ${name}`);
  return index * 4;
}

const upper = (name: string) => name.replace(/([a-z0-9])([A-Z])/g, '$1_$2').toUpperCase();

function offsets(prefix: string, fields: readonly string[]): Record<string, number> {
  return Object.fromEntries(fields.map((f, i) => [`${prefix}_${upper(f.replace('i:', ''))}`, i * 4]));
}

/** Integer constants handed to the kernel's compiler. */
export const WASM_CONSTANTS: Record<string, number> = {
  SCENE_BASE,
  ENV_CUTS,
  ...offsets('E', ENV_PIXEL_FIELDS),
  ENV_PIXEL_BYTES,
  ...offsets('H', HEADER_FIELDS),
  ...offsets('M', MATERIAL_FIELDS),
  MATERIAL_BYTES,
  ...offsets('X', TEXTURE_FIELDS),
  TEXTURE_BYTES,
  ...offsets('U', USE_FIELDS),
  USE_BYTES,
  USE_NORMAL,
  USE_BUMP,
  ...offsets('T', TREE_FIELDS),
  TREE_BYTES,
  ...offsets('I', INSTANCE_FIELDS),
  INSTANCE_BYTES,
  POSE_BYTES,
  POSE_TIME,
  INSTANCE_LEAF,
  ...offsets('O', OBJECT_FIELDS),
  OBJECT_BYTES,
  ...Object.fromEntries(Object.entries(OBJECT_FLAG).map(([name, bit]) => [`OBJECT_${upper(name)}`, bit])),
  ...offsets('L', LIGHT_FIELDS),
  LIGHT_BYTES,
  ...offsets('LP', LIGHT_POSE_FIELDS),
  LIGHT_POSE_BYTES,
  LIGHT_MOMENT_BYTES,
  LIGHT_MOMENT_TIME,
  ...Object.fromEntries(Object.entries(LIGHT_KIND).map(([name, kind]) => [`KIND_${upper(name)}`, kind])),
  ...offsets('Q', LIGHT_NODE_FIELDS),
  LIGHT_NODE_BYTES,
  ...offsets('W', PORTAL_FIELDS),
  PORTAL_BYTES,
  ...offsets('F', FOG_FIELDS),
  ...Object.fromEntries(Object.entries(STUDY).map(([name, bit]) => [`STUDY_${upper(name)}`, bit])),
  ONLY_FOG: ONLY.fog,
  ONLY_SURFACES: ONLY.surfaces,
  NODE_BYTES,
  NODE_CHILD: NODE.child,
  NODE_CHILDREN,
  BLOCK_BYTES,
  BLOCK_E1: BLOCK.e1,
  BLOCK_E2: BLOCK.e2,
  BLOCK_NORMAL: BLOCK.normal,
  BLOCK_ID: BLOCK.id,
  PASSED_BIT,
  TRIANGLE_MATERIAL_SHIFT,
  CLASS_COUNT: PATH_CLASSES.length,
  ...Object.fromEntries(PATH_CLASSES.map((name, i) => [`CLASS_${upper(name)}`, i])),
  MAX_GROUPS,
  ...Object.fromEntries(LIGHT_SIGHTS.map((name, i) => [`SIGHT_${upper(name)}`, i])),
  SIGHT_COUNT: LIGHT_SIGHTS.length,
  LEDGER_PLANES,
  GUIDE_PLANES,
  COVERAGE_SLOTS,
  TILE_SIZE,
  PLANE_BYTES,
  ...Object.fromEntries(RAY_KINDS.map((name, i) => [`RAY_${upper(name)}`, i])),
  RAY_SHADOW: RAY_KINDS.length,
  RAY_COUNTERS,
  ...Object.fromEntries(Object.entries(TABLE).map(([k, v]) => [`TABLE_${upper(k)}`, v])),
  TABLE_BYTES,
  ...offsets('P', PARAM_FIELDS),
  FILTER_TABLE_SIZE,
  ...Object.fromEntries(Object.entries(SCRATCH).map(([k, v]) => [`SCRATCH_${upper(k)}`, v])),
  SUM_SLOTS,
  LEVEL_STACK_BYTES,
  MOST_CAMERA_STEPS,
  ...Object.fromEntries(LIMIT_KINDS.map((name, i) => [`LIMIT_${upper(name)}`, i])),
  ...Object.fromEntries(LEDGER_AXES.map((name, i) => [`AXIS_${upper(name)}`, i])),
  REACH_EXPONENT,
  OCCLUSION_REACHES,
  MOST_LOST_RAYS,
  TABLED_OBJECTS,
  OBJECT_COLUMNS: OBJECT_COLUMNS.length,
  OBJECT_SUM_SLOTS,
  SUM_OBJECTS: (SUM_SLOTS * 8 + 15) & ~15,
  CAMERA_BYTES,
  CAMERA_TIME,
  ...Object.fromEntries(ENERGY_KINDS.map((name, i) => [`ENERGY_${upper(name)}`, i])),
  ENERGY_COSINES: ENERGY_TABLE.cosines,
  ENERGY_ROUGHNESSES: ENERGY_TABLE.roughnesses,
  ENERGY_AZIMUTHS: ENERGY_TABLE.azimuths,
  ENERGY_HEAD_BYTES,
  ...Object.fromEntries(WRAPS.map((name, i) => [`WRAP_${upper(name)}`, i])),
  MOST_MEDIA,
  MOST_FOGS,
  FOG_BYTES,
  MEDIA_LIST_BYTES,
  FOG_SPANS_BYTES,
  MOST_WALK_EVENTS,
  ...offsets('V', TRAIL_FIELDS),
  TRAIL_BYTES,
  ...Object.fromEntries(TRAIL_EVENTS.map((name, i) => [`TRAIL_EVENT_${upper(name)}`, i])),
  ...Object.fromEntries(TRAIL_ENDS.map((name, i) => [`END_${upper(name).replaceAll(' ', '_')}`, i])),
};
/** Real constants handed to the kernel's compiler. */
export const WASM_REALS: Record<string, number> = {
  OCCLUSION_FIRST_METRES,
  OCCLUSION_RATIO,
  MIRROR_ALPHA,
  CAUSTIC_ROUGHNESS,
};
