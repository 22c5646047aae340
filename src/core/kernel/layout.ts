import { PATH_CLASS_NAMES } from '../recipe';

/**
 * Every offset, stride and enumeration that the host and the kernel share. This is the only place
 * with such numbers: the kernel's own constants are generated from `KERNEL_CONSTANTS` before it is
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

export const PAGE_BYTES = 65536;
export const SCENE_BASE = 131072;

/** Scene header: u32 fields in order, at `SCENE_BASE`. */
export const HEADER_FIELDS = [
  'bytes',
  'vertexCount',
  'triangleCount',
  'instanceCount',
  'objectCount',
  'materialCount',
  'lightCount',
  'positions',
  'normals',
  'uvs',
  'indices',
  'triangleInfo',
  'trees',
  'instances',
  'materials',
  'lights',
  'envWidth',
  'envHeight',
  'envPixels',
  'envMarginal',
  'envConditional',
  'envRows',
  'envLight',
  /** Shapes that rays can meet, lights without a place, lights with samples of their own: lists of light numbers. */
  'shapeCount',
  'shapes',
  'farCount',
  'farLights',
  'ownCount',
  'ownLights',
  /** Root of the light tree (0 = no light in it) and its leaves' light numbers. */
  'lightTree',
  'treeLights',
  /** Light number of each object that emits, -1 of others. */
  'meshLights',
  'portalCount',
  'portals',
  /** Fog record; 0 = none. */
  'fog',
  'albedoTable',
  'glassTable',
  'glassCount',
  'textures',
  'decodeTable',
  'bvhRoot',
  'bvhEnd',
  'nodeCount',
  'blockCount',
] as const;

/**
 * Tree record, 64 bytes. The first tree holds, in world space, all triangles of objects that share their mesh with
 * no other; each further one a shared mesh in its own space. Triangles of a tree follow one another.
 */
export const TREE_FIELDS = [
  'i:firstTriangle',
  'i:triangleCount',
  'i:root',
  'i:pad',
  'minX',
  'minY',
  'minZ',
  'minPad',
  'maxX',
  'maxY',
  'maxZ',
  'maxPad',
] as const;
export const TREE_BYTES = 64;

/**
 * Instance record, 160 bytes: a shared tree placed in the world. Matrices by rows of 4, affine. `normal`s go by the
 * transpose of `toLocal`. The box is in world space.
 */
export const INSTANCE_FIELDS = [
  ...Array.from({ length: 12 }, (_, i) => `toLocal${i}` as const),
  ...Array.from({ length: 12 }, (_, i) => `toWorld${i}` as const),
  'minX',
  'minY',
  'minZ',
  'i:tree',
  'maxX',
  'maxY',
  'maxZ',
  'i:object',
] as const;
export const INSTANCE_BYTES = 160;
/** Low bits of a child reference that stand for an instance; fewer count the blocks of a leaf. */
export const INSTANCE_LEAF = 15;

/**
 * Material record, 256 bytes, OpenPBR Surface terms. Colours linear Rec.709. `tint*` colours each crossing of the
 * surface. `absorb*` and `scatter*` are coefficients in 1/m made from transmission colour, scatter and depth.
 * `transmissionRoughness` below 0 follows `roughness`. `passed`: shadow rays may pass;
 * `boundary`: no surface, but where fog begins and ends. `dispersion` is B of Cauchy's n = A + B/λ², in µm².
 */
export const MATERIAL_FIELDS = [
  'baseR',
  'baseG',
  'baseB',
  'diffuseRoughness',
  'metalness',
  'specularWeight',
  'specularR',
  'specularG',
  'specularB',
  'roughness',
  'anisotropy',
  'ior',
  'transmission',
  'transmissionRoughness',
  'thinWalled',
  'tintR',
  'tintG',
  'tintB',
  'absorbR',
  'absorbG',
  'absorbB',
  'scatterR',
  'scatterG',
  'scatterB',
  'scatterAnisotropy',
  'dispersion',
  'straightShadows',
  'priority',
  'coatWeight',
  'coatR',
  'coatG',
  'coatB',
  'coatRoughness',
  'coatIor',
  'emitR',
  'emitG',
  'emitB',
  'emitDoubleSided',
  'emitGroup',
  'opacity',
  'passed',
  'boundary',
  'turnCosine',
  'turnSine',
  'i:uses',
  'i:useCount',
] as const;
export const MATERIAL_BYTES = 256;

/** Texture record, 32 bytes: a picture in memory, 4 channels a pixel (0 where it has fewer, alpha 1). */
export const TEXTURE_FIELDS = ['i:pixels', 'i:width', 'i:height', 'i:isFloat'] as const;
export const TEXTURE_BYTES = 32;

/**
 * Use of a texture by a material, 64 bytes. `target` is the byte offset of the field it multiplies, or one of
 * `USE_NORMAL`, `USE_BUMP`; `channel` −1 drives three fields from r, g and b. Rows of the 2×3 matrix that places it.
 */
export const USE_FIELDS = [
  'i:texture',
  'i:target',
  'i:channel',
  'i:encoded',
  'i:clamp',
  'strength',
  'm0',
  'm1',
  'm2',
  'm3',
  'm4',
  'm5',
] as const;
export const USE_BYTES = 64;
export const USE_NORMAL = -1;
export const USE_BUMP = -2;

/**
 * Light record, 256 bytes. `radiance*` linear Rec.709: nits of shapes, environment and meshes; candela of spots and
 * points; lux of a distant light without size. `power` weighs lights against each other: what falls on a surface facing
 * the light at 1 m, in lux; at any distance for lights without a place; times the largest gain it has on surfaces, and
 * `fogPower` times that in fog. `bound` is half the size about the place.
 */
export const LIGHT_FIELDS = [
  'kind',
  'group',
  'visible',
  'power',
  'x',
  'y',
  'z',
  'radius',
  'ux',
  'uy',
  'uz',
  'area',
  'vx',
  'vy',
  'vz',
  'halfU',
  'nx',
  'ny',
  'nz',
  'halfV',
  'radianceR',
  'radianceG',
  'radianceB',
  'bound',
  /** Cosines between which light fades towards the edge of a spread or cone; both −1 where it does not. */
  'outerCosine',
  'innerCosine',
  /** How far behind the light the cone begins that holds all its light. */
  'apex',
  'fogPower',
  'gainSeen',
  'gainMirrors',
  'gainDiffuse',
  'gainReflection',
  'gainTransmission',
  'gainFog',
  'i:samples',
  'i:bounces',
  /** Bits of the objects it lights, 0 = all. */
  'i:links',
  /** Left (0) or right (1) on the way down the light tree, lowest bit first; how many steps; −1 = not in it. */
  'i:trail',
  'i:trailDepth',
  /** Triangles of an emissive mesh, their cumulative weights, and the instance that places it. */
  'i:firstTriangle',
  'i:triangles',
  'i:cumulative',
  'i:instance',
  'i:twoSided',
] as const;
export const LIGHT_BYTES = 256;
export const LIGHT_KIND = {
  rectangle: 0,
  disk: 1,
  sphere: 2,
  spot: 3,
  point: 4,
  distant: 5,
  environment: 6,
  mesh: 7,
} as const;
/** Gains of a light record in this order, from `gainSeen`. */
export const LIGHT_ROLES = ['seen', 'mirrors', 'diffuse', 'reflection', 'transmission', 'fog'] as const;

/**
 * Node of the light tree, 64 bytes: box, power, the cone of directions its lights face (axis, cosine of its half
 * angle), and two children (byte addresses) or the lights of a leaf.
 */
export const LIGHT_NODE_FIELDS = [
  'minX',
  'minY',
  'minZ',
  'power',
  'maxX',
  'maxY',
  'maxZ',
  'cosine',
  'axisX',
  'axisY',
  'axisZ',
  'sine',
  'i:left',
  'i:right',
  'i:first',
  'i:count',
] as const;
export const LIGHT_NODE_BYTES = 64;
/** Lights of a leaf are weighed one by one. */
export const MOST_LEAF_LIGHTS = 4;

/** Portal record, 64 bytes: centre, half sizes, axes. */
export const PORTAL_FIELDS = [
  'x',
  'y',
  'z',
  'halfU',
  'ux',
  'uy',
  'uz',
  'halfV',
  'vx',
  'vy',
  'vz',
  'pad',
  'nx',
  'ny',
  'nz',
] as const;
export const PORTAL_BYTES = 64;

/** Fog record, 64 bytes: extinction in 1/m, albedo, anisotropy, and the ball it fills; radius 0 = within a mesh. */
export const FOG_FIELDS = [
  'extinction',
  'albedoR',
  'albedoG',
  'albedoB',
  'anisotropy',
  'x',
  'y',
  'z',
  'radius',
] as const;
export const FOG_BYTES = 64;
/** Poorer techniques that a study compares ours with. */
export const STUDY = { plainRandom: 1, lightsAlone: 2, lobesAlone: 4, uniformChoice: 8, distanceFog: 16 } as const;
/** What of a picture is rendered: all, light that fog scatters first, or the rest. */
export const ONLY = { all: 0, fog: 1, surfaces: 2 } as const;

/** BVH node: six planes of eight child bounds, then eight child references; 32-byte aligned. */
export const NODE = { minX: 0, minY: 32, minZ: 64, maxX: 96, maxY: 128, maxZ: 160, child: 192 } as const;
export const NODE_BYTES = 224;
export const NODE_CHILDREN = 8;
/**
 * Triangle block: first corner, edge to the second, edge from the third, their cross product, of four
 * triangles, then their ids (-1 = none).
 */
export const BLOCK = { v0: 0, e1: 48, e2: 96, normal: 144, id: 192 } as const;
export const BLOCK_BYTES = 224;
/** Set in a block's triangle id when shadow rays may pass it: clear panes, cut-outs, straight-shadow solids. */
export const PASSED_BIT = 0x40000000;

/** Bits of a triangle's info word: object index in the low half, material index in the high half. */
export const TRIANGLE_MATERIAL_SHIFT = 16;

/** Path classes, in the order of their planes. Definitions: docs/architecture.md, "Parts". */
export const PATH_CLASSES = PATH_CLASS_NAMES;
export type PathClass = (typeof PATH_CLASSES)[number];

export const MAX_GROUPS = 16;
/** Ledger planes: bounces 0 to 15, then "16 and more". */
export const LEDGER_PLANES = 17;
/** Coverage slots a pixel while rendering. */
export const COVERAGE_SLOTS = 16;

export const TILE_SIZE = 16;
export const TILE_PIXELS = TILE_SIZE * TILE_SIZE;
export const PLANE_BYTES = TILE_PIXELS * 4;

/** Ray counters of a cell; shadow rays follow, one counter a light group. */
export const RAY_KINDS = ['camera', 'diffuse', 'reflection', 'transmission', 'fog', 'twin'] as const;
export const RAY_COUNTERS = RAY_KINDS.length + MAX_GROUPS;

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
} as const;
export const TABLE_DOUBLES = TABLE.invalid + 1;
export const TABLE_BYTES = TABLE_DOUBLES * 8;

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
  'i:caustics',
  'reach',
  'outlierFirst',
  'outlierLater',
  'camX',
  'camY',
  'camZ',
  'rightX',
  'rightY',
  'rightZ',
  'upX',
  'upY',
  'upZ',
  'backX',
  'backY',
  'backZ',
  'tanHalfX',
  'tanHalfY',
  'lensRadius',
  'focus',
  'filterWidth',
  'i:planeGroups',
  'i:planeClasses',
  'i:planeLedger',
  'i:planeAlpha',
  'i:planeDepth',
  'i:planeNormal',
  'i:planeAlbedo',
  'i:planeCoverage',
  'i:planeCount',
  'i:tableOn',
  'i:only',
  'i:study',
] as const;

/** Samples of the pixel filter's inverse distribution function, over (0, 1). */
export const FILTER_TABLE_SIZE = 256;

/**
 * Scratch area of a thread:
 * params | filter table | media lists | textured materials | planes of pairs | traversal stack | sweep sums of one pixel | tile (planes, then tables).
 */
export const SCRATCH = {
  params: 0,
  filter: 512,
  media: 1536,
  material: 1792,
  pairs: 2304,
  stack: 2944,
  sums: 15232,
  tile: 23424,
} as const;
/** Room for the traversal of one level of trees; the world's comes first, then that of the instance entered. */
export const LEVEL_STACK_BYTES = 6144;
export const SUM_SLOTS = MAX_GROUPS * PATH_CLASSES.length + PATH_CLASSES.length * LEDGER_PLANES + 1;

/** Side of the square directional-albedo table (root of the cosine across, roughness down). */
export const ALBEDO_TABLE_SIZE = 32;
/**
 * Directional albedo of rough glass, a slab for each relative index that the scene's solids can make: the index, then
 * root of the cosine across, roughness down.
 */
export const GLASS_TABLE = { cosines: 24, roughnesses: 16 } as const;
export const GLASS_SLAB_BYTES = (1 + GLASS_TABLE.cosines * GLASS_TABLE.roughnesses) * 4;
export const MOST_GLASS_SLABS = 32;
/** Media a path may be inside of at once. */
export const MOST_MEDIA = 8;
/** Events of a walk inside a scattering interior before it is given up. */
export const MOST_WALK_EVENTS = 256;

/** Roughness (GGX alpha) below which a lobe is a delta. */
export const MIRROR_ALPHA = 1e-3;
/** OpenPBR roughness up to which a reflection or transmission vertex makes a caustic. */
export const CAUSTIC_ROUGHNESS = 0.15;

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
export const KERNEL_CONSTANTS: Record<string, number> = {
  SCENE_BASE,
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
  INSTANCE_LEAF,
  ...offsets('L', LIGHT_FIELDS),
  LIGHT_BYTES,
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
  LEDGER_PLANES,
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
  ALBEDO_TABLE_SIZE,
  GLASS_COSINES: GLASS_TABLE.cosines,
  GLASS_ROUGHNESSES: GLASS_TABLE.roughnesses,
  GLASS_SLAB_BYTES,
  MOST_MEDIA,
  MOST_WALK_EVENTS,
};
/** Real constants handed to the kernel's compiler. */
export const KERNEL_REALS: Record<string, number> = { MIRROR_ALPHA, CAUSTIC_ROUGHNESS };
