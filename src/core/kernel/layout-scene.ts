/**
 * The packed scene in linear memory: header, records, trees. `layout.ts` tells where all lies and hands these numbers
 * on; nothing else imports this file.
 */

export const PAGE_BYTES = 65536;
export const SCENE_BASE = 131072;

/** Even steps of a random number at which it is known where the search in cumulative values begins; a power of two, so that steps are exact. */
export const ENV_CUTS = 256;
/** A pixel of the environment: radiance and cumulative probability within its row, all f32. */
export const ENV_PIXEL_FIELDS = ['r', 'g', 'b', 'cumulative'] as const;
export const ENV_PIXEL_BYTES = ENV_PIXEL_FIELDS.length * 4;

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
  'objects',
  /** Whether any object has rules of its own; and for which kinds of ray (bits) what is seen differs from what blocks light. */
  'ruled',
  'twinKinds',
  'trees',
  'instances',
  /** How many instances move over the shutter. */
  'moving',
  'materials',
  'lights',
  /** How many lights move over the shutter, and their records. */
  'movingLights',
  'lightPoses',
  'envWidth',
  'envHeight',
  'envPixels',
  'envMarginal',
  /** Where searches in the cumulative values begin: of the rows together, then of each row. */
  'envCuts',
  'envRows',
  /** A float: columns by which directions are seen further on in the picture, 0 to 1. */
  'envShift',
  /** A float: how open what the camera sees is to the sky, 0 to 1; 0 until it has been told. */
  'envOpen',
  'envLight',
  /** Shapes that rays can meet, lights without a place, lights with samples of their own: lists of light numbers. */
  'shapeCount',
  'shapes',
  /** Root of the tree of their boxes (0 = they are few, and met one after another). */
  'shapeTree',
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
  /** Records of fogs, and how many. */
  'fogs',
  'fogCount',
  /** Slabs of energy that facets keep, one after another, and how many. */
  'energySlabs',
  'energyCount',
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
  /** Shapes that the tree's surface takes over the shutter; 0 = it keeps one. */
  'i:shapes',
  'minX',
  'minY',
  'minZ',
  'minPad',
  'maxX',
  'maxY',
  'maxZ',
  'maxPad',
  'i:stride',
] as const;
export const TREE_BYTES = 64;

/**
 * Instance record, 192 bytes: a shared tree placed in the world. Matrices by rows of 4, affine. `normal`s go by the
 * transpose of `toLocal`. The box is in world space, over the shutter. `poses`: `toWorld` and the time (`POSE_BYTES`) at `steps`
 * moments of the shutter, at the frame and at the next, then the times of its shapes; 0 = it never moves. `slot`: where a thread keeps the record for
 * the time of its path, -1 = it stands still over the shutter. `shapes` and `stride`: steps of its surface, and bytes
 * from the vertices of one to those of the next; after the last come those at the frame and at the next.
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
  'i:poses',
  'i:steps',
  'i:slot',
  'i:shapes',
  'i:stride',
  'i:stamp',
] as const;
export const INSTANCE_BYTES = 192;
/** A placement: three rows of four floats, and the time within the shutter, 0 to 1. */
export const POSE_BYTES = 64;
export const POSE_TIME = 48;
/** Low bits of a child reference that stand for an instance; fewer count the blocks of a leaf. */
export const INSTANCE_LEAF = 15;

/**
 * Object record, 64 bytes. Flags: the lowest bits, one a kind of ray (`RAY_KINDS`; `twin` stands for all that look for
 * lights), hide it from that kind; then `OBJECT_FLAG`. `secondary` = material record for all rays but the camera's,
 * 0 = its own. Depths limit continuation rays that leave it.
 */
export const OBJECT_FIELDS = [
  'i:flags',
  'i:secondary',
  'i:depthAll',
  'i:depthDiffuse',
  'i:depthReflection',
  'i:depthTransmission',
  'i:depthFog',
  'samples',
] as const;
export const OBJECT_BYTES = 64;
export const OBJECT_FLAG = {
  catcher: 64,
  holdout: 128,
  focusesNoLight: 256,
  showsNoCaustics: 512,
  hidesBacks: 1024,
} as const;

/**
 * Material record, 256 bytes, OpenPBR Surface terms. Colours linear Rec.709. `tint*` colours each crossing of the
 * surface. `absorb*` and `scatter*` are coefficients in 1/m made from transmission colour, scatter and depth.
 * `transmissionRoughness` below 0 follows `roughness`. `passed`: shadow rays may pass;
 * `boundary`: no surface, but where fogs begin and end (a bit of each). `dispersion` is B of Cauchy's n = A + B/λ², in µm².
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
  /** Beyond the edges along u and v (`WRAPS`). */
  'i:wrapU',
  'i:wrapV',
  'strength',
  'm0',
  'm1',
  'm2',
  'm3',
  'm4',
  'm5',
] as const;
export const WRAPS = ['repeat', 'clamp', 'mirror'] as const;
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
  /** What the power of a light without a place counts for where one is chosen for surfaces: less the less of it they are open to. */
  'choice',
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
/**
 * Of a light that moves: its number, the moments of the shutter it is known at, and where those lie. Each moment: the floats of a
 * light's record from `x` to `apex`, then the time from 0 to 1.
 */
export const LIGHT_POSE_FIELDS = ['i:light', 'i:steps', 'i:moments', 'i:spare'] as const;
export const LIGHT_POSE_BYTES = 16;
export const LIGHT_MOMENT_BYTES = 96;
export const LIGHT_MOMENT_TIME = 92;
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
