import type { Material, Pose, Scene } from '../scene';
import { environmentSize } from '../sky';
import { type EnergySlab, slabFloats } from './energy';
import { fogBounds } from './fog-bounds';
import { type Instancing, instancingOf, type SharedTree } from './instancing';
import {
  BLOCK_BYTES,
  ENERGY_HEAD_BYTES,
  ENV_CUTS,
  ENV_PIXEL_BYTES,
  FOG_BYTES,
  HEADER_FIELDS,
  INSTANCE_BYTES,
  LIGHT_BYTES,
  MATERIAL_BYTES,
  MOST_ENERGY_SLABS,
  NODE_BYTES,
  OBJECT_BYTES,
  POSE_BYTES,
  SCENE_BASE,
  TREE_BYTES,
} from './layout';
import { type LightPlan, planLights } from './light-plan';
import { planTextures, type TexturePlan } from './pack-materials';

/** Where each array of a packed scene lies, and what the whole needs. Absolute byte addresses. */
export interface PackPlan {
  positions: number;
  normals: number;
  indices: number;
  triangleInfo: number;
  trees: number;
  instances: number;
  objects: number;
  /** Placements of moving objects. */
  poses: number;
  /** How many objects move over the shutter, and the room in which a thread keeps what moves as it stands. */
  moving: number;
  posedBytes: number;
  materials: number;
  /** Slabs of energy, one after another. */
  energySlabs: number;
  energy: EnergySlab[];
  envPixels: number;
  envMarginal: number;
  envRows: number;
  envCuts: number;
  uvs: number;
  fogs: number;
  textures: TexturePlan;
  light: LightPlan;
  /** Of each object: its first triangle, and the record of the instance that places it (0 = world). */
  places: { firstTriangle: number; instance: number }[];
  /** Start of the tree. */
  tree: number;
  /** Room for the tree at its largest. */
  treeBytes: number;
  /** Temporary room for the builder, from the tree's largest end. */
  temp: number;
  tempBytes: number;
  vertexCount: number;
  /** Triangles in memory: shared ones once. */
  triangleCount: number;
  instancing: Instancing;
  /** Triangles of each tree, those in world space first. */
  treeTriangles: number[];
  instanceCount: number;
}

/** Whether an object changes over the shutter. */
export const isMoving = (pose: Pose | undefined) =>
  pose !== undefined && (pose.steps.length > 1 || (pose.shapes?.length ?? 0) > 1);

/** Rooms for moments come by fours: how many the shutter holds changes from frame to frame, where arrays lie should not. */
const ROOMS = 4;
const roomFor = (moments: number) => Math.ceil(moments / ROOMS) * ROOMS;

/** Vertices that a shared tree has room for: in every shape it takes, and as it is at the frame and the next. */
export const verticesOf = (t: SharedTree) => t.vertices * (t.shapes ? roomFor(t.shapes) + 2 : 1);

/** Room for an object's placements, and the times of its shapes. */
export const poseBytes = (p: Pose) =>
  (roomFor(p.steps.length) + 2) * POSE_BYTES + align(roomFor(p.shapeTimes?.length ?? 0) * 4);

// No bit arithmetic: plans beyond 2 GiB are made too, to be refused by their size.
const align = (n: number, to = 16) => Math.ceil(n / to) * to;

/** Where each object's triangles and instance lie, in the order in which packing writes them. */
function placesOf(scene: Scene, instancing: Instancing, instances: number): PackPlan['places'] {
  const { objects, geometry } = scene.document;
  const triangles = new Map(geometry.meshes.map((m) => [m.name, m.triangles]));
  const places: PackPlan['places'] = [];
  let triangle = 0;
  let instance = instances;
  for (const i of instancing.ground) {
    places[i] = { firstTriangle: triangle, instance: 0 };
    triangle += triangles.get(objects[i].mesh)!;
  }
  for (const shared of instancing.shared) {
    for (const i of shared.objects) {
      places[i] = { firstTriangle: triangle, instance };
      instance += INSTANCE_BYTES;
    }
    triangle += shared.triangles;
  }
  return places;
}

/** Stretches that a material's facets have; where a picture sets them, steps between which the kernel finds its way. */
function stretchesOf(m: Material): number[] {
  const textured = m.textures.some((t) => t.input === 'specular_roughness_anisotropy');
  return textured ? [0, 0.25, 0.5, 0.75, 1] : [m.specular_roughness_anisotropy];
}

/**
 * Slabs of energy that the kernel needs: of opaque facets for each stretch; of rough glass for each index, beyond over
 * before, that rays can meet, against air first and then against every other solid; of thin walls where what passes has
 * a roughness of its own.
 */
function energyOf(materials: Material[]): EnergySlab[] {
  const solids = materials.filter((m) => m.transmission_weight > 0 && !m.geometry_thin_walled);
  const isRough = (m: Material) =>
    m.specular_roughness > 0 ||
    (m.transmission_roughness ?? 0) > 0 ||
    m.textures.some((t) => t.input === 'specular_roughness');
  const apart = (m: Material) =>
    m.transmission_weight > 0 && m.geometry_thin_walled && m.transmission_roughness !== null;
  const opaque = [0, ...materials.flatMap(stretchesOf)].map((anisotropy) => ({ kind: 'opaque', index: 1, anisotropy }));
  const against = (n: number) => [
    ...solids
      .filter(isRough)
      .flatMap((m) =>
        [m.specular_ior / n, n / m.specular_ior].flatMap((index) =>
          stretchesOf(m).map((anisotropy) => ({ kind: 'solid', index, anisotropy })),
        ),
      ),
    ...materials
      .filter(apart)
      .flatMap((m) => stretchesOf(m).map((anisotropy) => ({ kind: 'pane', index: m.specular_ior / n, anisotropy }))),
  ];
  const all = [...opaque, ...[1, ...solids.map((m) => m.specular_ior)].flatMap(against)] as EnergySlab[];
  return [...new Map(all.map((s) => [`${s.kind} ${s.index} ${s.anisotropy}`, s])).values()].slice(0, MOST_ENERGY_SLABS);
}

/**
 * Plans the memory of a scene from its document alone and the environment's size. What is not `shaded` has no tables of energy:
 * only rays are traced in it.
 */
export function planPack(scene: Scene, shaded = true): PackPlan {
  const { document } = scene;
  const byName = new Map(document.geometry.meshes.map((m) => [m.name, m]));
  const instancing = instancingOf(scene);
  const treeTriangles = [
    instancing.ground.reduce((n, i) => n + byName.get(document.objects[i].mesh)!.triangles, 0),
    ...instancing.shared.map((t) => t.triangles),
  ];
  const vertexCount =
    instancing.ground.reduce((n, i) => n + byName.get(document.objects[i].mesh)!.vertices, 0) +
    instancing.shared.reduce((n, t) => n + verticesOf(t), 0);
  const triangleCount = treeTriangles.reduce((a, b) => a + b, 0);
  const instanceCount = instancing.shared.reduce((n, t) => n + t.objects.length, 0);
  const env = document.environment;
  const { width: envWidth, height: envHeight } = env ? environmentSize(scene) : { width: 0, height: 0 };
  let at = SCENE_BASE + align(HEADER_FIELDS.length * 4);
  const take = (bytes: number) => {
    const here = at;
    at = align(at + bytes);
    return here;
  };
  // Vertex arrays end with spare bytes, since the kernel reads four floats of a three-float vector.
  const positions = take(vertexCount * 12 + 16);
  const normals = take(vertexCount * 12 + 16);
  const hasUvs = document.geometry.meshes.some((m) => m.uvs);
  const uvs = hasUvs ? take(vertexCount * 8) : 0;
  const indices = take(triangleCount * 12);
  const triangleInfo = take(triangleCount * 4);
  const treeRecords = take(treeTriangles.length * TREE_BYTES);
  const instances = take(instanceCount * INSTANCE_BYTES);
  const poses = take([...(scene.poses?.values() ?? [])].reduce((n, p) => n + poseBytes(p), 0));
  const objectRecords = take(document.objects.length * OBJECT_BYTES);
  // More of them, for the boundaries of fogs.
  const materials = take((document.materials.length + fogBounds(document).length) * MATERIAL_BYTES);
  const fogs = take(document.fogs.length * FOG_BYTES);
  const light = planLights(scene, take);
  const places = placesOf(scene, instancing, instances);
  const energy = shaded ? energyOf(document.materials) : [];
  const energySlabs = take(energy.reduce((n, s) => n + ENERGY_HEAD_BYTES + slabFloats(s) * 4, 0));
  const textures = planTextures(scene, take);
  const envPixels = take(envWidth * envHeight * ENV_PIXEL_BYTES);
  const envMarginal = take(envHeight * 4);
  const envRows = take(envHeight * 16);
  const envCuts = take(envHeight > 0 ? (envHeight + 1) * ENV_CUTS * 2 : 0);
  const referencesOf = (triangles: number) => triangles + (triangles >> 1) + 4;
  // Of nodes with all eight children there are at most a seventh of the leaves; a node with fewer has only
  // leaves below it, and at least five references. In the tree of instances leaves hold one reference each.
  const nodesOf = (references: number) => Math.ceil(references / 7) + Math.ceil(references / 5) + 1;
  const treeBytes = align(
    treeTriangles.reduce((n, t) => n + referencesOf(t) * BLOCK_BYTES + nodesOf(referencesOf(t)) * NODE_BYTES, 0) +
      (instanceCount + 2) * NODE_BYTES,
  );
  at = align(at, 64);
  const tree = take(treeBytes);
  const moving = instancing.shared.flatMap((t) => t.objects).filter((i) => isMoving(scene.poses?.get(i))).length;
  return {
    positions,
    normals,
    indices,
    triangleInfo,
    trees: treeRecords,
    instances,
    poses,
    moving,
    posedBytes: moving * INSTANCE_BYTES + (light.moving.length > 0 ? light.count * LIGHT_BYTES : 0),
    objects: objectRecords,
    materials,
    light,
    places,
    energySlabs,
    energy,
    envPixels,
    envMarginal,
    envRows,
    envCuts,
    uvs,
    fogs,
    textures,
    tree,
    treeBytes,
    temp: at,
    tempBytes: 65536 + Math.max(instanceCount + 1, ...treeTriangles.map(referencesOf)) * 32,
    vertexCount,
    triangleCount,
    instancing,
    treeTriangles,
    instanceCount,
  };
}

/** Bytes of memory that a plan needs while the tree is being built. */
export function planBytes(plan: PackPlan): number {
  return plan.temp + plan.tempBytes;
}
