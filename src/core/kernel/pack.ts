import * as fmath from '../fmath';
import { kelvinToRgb, luminance } from '../image';
import { lightGroups, type Material, meshAt, type Scene } from '../scene';
import { albedoTable } from './albedo-table';
import { environmentDistribution, environmentPicture } from './environment';
import {
  determinant,
  IDENTITY,
  type Instancing,
  instanceMatrices,
  instancingOf,
  normalMatrix,
  point,
  worldBox,
} from './instancing';
import {
  ALBEDO_TABLE_SIZE,
  BLOCK_BYTES,
  fieldOffset,
  HEADER_FIELDS,
  INSTANCE_BYTES,
  INSTANCE_FIELDS,
  LIGHT_BYTES,
  LIGHT_FIELDS,
  LIGHT_KIND,
  MATERIAL_BYTES,
  MATERIAL_FIELDS,
  MAX_GROUPS,
  NODE_BYTES,
  SCENE_BASE,
  TREE_BYTES,
  TREE_FIELDS,
  TRIANGLE_MATERIAL_SHIFT,
} from './layout';

/** Where each array of a packed scene lies, and what the whole needs. Absolute byte addresses. */
export interface PackPlan {
  positions: number;
  normals: number;
  indices: number;
  triangleInfo: number;
  trees: number;
  instances: number;
  materials: number;
  lights: number;
  albedoTable: number;
  envPixels: number;
  envMarginal: number;
  envConditional: number;
  envRows: number;
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
  lightCount: number;
}

const align = (n: number) => (n + 15) & ~15;

/** Plans the memory of a scene from its document alone and the environment's size. */
export function planPack(scene: Scene): PackPlan {
  const { document } = scene;
  const groups = lightGroups(document);
  if (groups.length > MAX_GROUPS) throw new Error(`${groups.length} light groups: at most ${MAX_GROUPS} are possible`);
  const byName = new Map(document.geometry.meshes.map((m) => [m.name, m]));
  const instancing = instancingOf(scene);
  const treeTriangles = [
    instancing.ground.reduce((n, i) => n + byName.get(document.objects[i].mesh)!.triangles, 0),
    ...instancing.shared.map((t) => t.triangles),
  ];
  const vertexCount =
    instancing.ground.reduce((n, i) => n + byName.get(document.objects[i].mesh)!.vertices, 0) +
    instancing.shared.reduce((n, t) => n + t.vertices, 0);
  const triangleCount = treeTriangles.reduce((a, b) => a + b, 0);
  const instanceCount = instancing.shared.reduce((n, t) => n + t.objects.length, 0);
  const env = document.environment;
  const picture = env?.kind === 'picture' ? scene.pictures.get(env.picture) : undefined;
  const envWidth = env ? (picture?.width ?? 512) : 0;
  const envHeight = env ? (picture?.height ?? 256) : 0;
  const lightCount = document.lights.length + (env ? 1 : 0);
  let at = SCENE_BASE + align(HEADER_FIELDS.length * 4);
  const take = (bytes: number) => {
    const here = at;
    at = align(at + bytes);
    return here;
  };
  // Vertex arrays end with spare bytes, since the kernel reads four floats of a three-float vector.
  const positions = take(vertexCount * 12 + 16);
  const normals = take(vertexCount * 12 + 16);
  const indices = take(triangleCount * 12);
  const triangleInfo = take(triangleCount * 4);
  const treeRecords = take(treeTriangles.length * TREE_BYTES);
  const instances = take(instanceCount * INSTANCE_BYTES);
  const materials = take(document.materials.length * MATERIAL_BYTES);
  const lights = take(lightCount * LIGHT_BYTES);
  const albedoTable = take(ALBEDO_TABLE_SIZE * ALBEDO_TABLE_SIZE * 8);
  const envPixels = take(envWidth * envHeight * 12);
  const envMarginal = take(envHeight * 4);
  const envConditional = take(envWidth * envHeight * 4);
  const envRows = take(envHeight * 16);
  const referencesOf = (triangles: number) => triangles + (triangles >> 1) + 4;
  // Of nodes with all eight children there are at most a seventh of the leaves; a node with fewer has only
  // leaves below it, and at least five references. In the tree of instances leaves hold one reference each.
  const nodesOf = (references: number) => Math.ceil(references / 7) + Math.ceil(references / 5) + 1;
  const treeBytes = align(
    treeTriangles.reduce((n, t) => n + referencesOf(t) * BLOCK_BYTES + nodesOf(referencesOf(t)) * NODE_BYTES, 0) +
      (instanceCount + 2) * NODE_BYTES,
  );
  at = (at + 63) & ~63;
  const tree = take(treeBytes);
  return {
    positions,
    normals,
    indices,
    triangleInfo,
    trees: treeRecords,
    instances,
    materials,
    lights,
    albedoTable,
    envPixels,
    envMarginal,
    envConditional,
    envRows,
    tree,
    treeBytes,
    temp: at,
    tempBytes: 65536 + Math.max(instanceCount + 1, ...treeTriangles.map(referencesOf)) * 32,
    vertexCount,
    triangleCount,
    instancing,
    treeTriangles,
    instanceCount,
    lightCount,
  };
}

/** Bytes of memory that a plan needs while the tree is being built. */
export function planBytes(plan: PackPlan): number {
  return plan.temp + plan.tempBytes;
}

function packMaterial(view: DataView, at: number, m: Material, group: number): void {
  const put = (field: (typeof MATERIAL_FIELDS)[number], value: number) =>
    view.setFloat32(at + fieldOffset(MATERIAL_FIELDS, field), value, true);
  const depth = m.transmission_depth;
  // Without a depth the transmission colour tints each crossing, with one it absorbs along the way.
  const tint = m.transmission_weight > 0 && depth === 0 ? m.transmission_color : [1, 1, 1];
  ['R', 'G', 'B'].forEach((c, i) => {
    put(`base${c}` as 'baseR', m.base_color[i] * m.base_weight * tint[i]);
    put(`specular${c}` as 'specularR', m.specular_color[i]);
    put(`absorb${c}` as 'absorbR', depth > 0 ? -fmath.log(Math.max(m.transmission_color[i], 1e-6)) / depth : 0);
    put(`emit${c}` as 'emitR', m.emission_luminance * m.emission_color[i]);
  });
  put('metalness', m.base_metalness);
  put('specularWeight', m.specular_weight);
  put('roughness', m.specular_roughness);
  put('ior', m.specular_ior);
  put('transmission', m.transmission_weight);
  put('thinWalled', m.geometry_thin_walled ? 1 : 0);
  put('emitDoubleSided', m.emission_double_sided ? 1 : 0);
  put('emitGroup', group);
}

function normalize(v: readonly number[]): [number, number, number] {
  const l = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
  if (!(l > 0)) throw new Error('a direction of length zero');
  return [v[0] / l, v[1] / l, v[2] / l];
}

function cross(a: readonly number[], b: readonly number[]): [number, number, number] {
  return [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
}

/**
 * Writes the scene into linear memory at the plan's addresses; the tree is left to the kernel's
 * builder. Deterministic: the same scene gives the same bytes in every engine.
 */
export function packScene(memory: ArrayBufferLike, scene: Scene, plan: PackPlan): void {
  const { document } = scene;
  const view = new DataView(memory);
  const groups = lightGroups(document);
  const header = (field: (typeof HEADER_FIELDS)[number], value: number) =>
    view.setUint32(SCENE_BASE + fieldOffset(HEADER_FIELDS, field), value, true);
  packObjects(memory, scene, plan);
  document.materials.forEach((m, i) => {
    packMaterial(view, plan.materials + i * MATERIAL_BYTES, m, Math.max(0, groups.indexOf(m.light_group)));
  });
  packLights(view, scene, plan, groups);
  new Float32Array(memory, plan.albedoTable, ALBEDO_TABLE_SIZE * ALBEDO_TABLE_SIZE * 2).set(albedoTable());
  let envLight = -1;
  const picture = environmentPicture(scene);
  if (picture && document.environment) {
    const { marginal, conditional, rows, total } = environmentDistribution(picture);
    new Float32Array(memory, plan.envPixels, picture.pixels.length).set(picture.pixels);
    new Float32Array(memory, plan.envMarginal, marginal.length).set(marginal);
    new Float32Array(memory, plan.envConditional, conditional.length).set(conditional);
    new Float32Array(memory, plan.envRows, rows.length).set(rows);
    envLight = document.lights.length;
    const at = plan.lights + envLight * LIGHT_BYTES;
    const put = (field: (typeof LIGHT_FIELDS)[number], value: number) =>
      view.setFloat32(at + fieldOffset(LIGHT_FIELDS, field), value, true);
    put('kind', LIGHT_KIND.environment);
    put('group', groups.indexOf(document.environment.group));
    put('visible', 0);
    // Irradiance scale of the sky beside other lights' power over distance squared.
    put('power', total);
    header('envWidth', picture.width);
    header('envHeight', picture.height);
  }
  header('vertexCount', plan.vertexCount);
  header('triangleCount', plan.triangleCount);
  header('instanceCount', plan.instanceCount);
  header('objectCount', document.objects.length);
  header('materialCount', document.materials.length);
  header('lightCount', plan.lightCount);
  header('positions', plan.positions);
  header('normals', plan.normals);
  header('indices', plan.indices);
  header('triangleInfo', plan.triangleInfo);
  header('trees', plan.trees);
  header('instances', plan.instances);
  header('materials', plan.materials);
  header('lights', plan.lights);
  header('albedoTable', plan.albedoTable);
  header('envPixels', plan.envPixels);
  header('envMarginal', plan.envMarginal);
  header('envConditional', plan.envConditional);
  header('envRows', plan.envRows);
  view.setInt32(SCENE_BASE + fieldOffset(HEADER_FIELDS, 'envLight'), envLight, true);
}

/** Writes all triangles, tree after tree, and the records of trees and instances; instances' boxes are left to `placeInstances`. */
function packObjects(memory: ArrayBufferLike, scene: Scene, plan: PackPlan): void {
  const { document, geometry } = scene;
  const view = new DataView(memory);
  const positions = new Float32Array(memory, plan.positions, plan.vertexCount * 3);
  const normals = new Float32Array(memory, plan.normals, plan.vertexCount * 3);
  const indices = new Uint32Array(memory, plan.indices, plan.triangleCount * 3);
  const info = new Uint32Array(memory, plan.triangleInfo, plan.triangleCount);
  const entries = new Map(document.geometry.meshes.map((m) => [m.name, m]));
  const materialIndex = new Map(document.materials.map((m, i) => [m.name, i]));
  let vertex = 0;
  let triangle = 0;
  const add = (objectIndex: number, transform: readonly number[] | undefined) => {
    const object = document.objects[objectIndex];
    const mesh = meshAt(geometry, entries.get(object.mesh)!);
    const material = materialIndex.get(object.material);
    if (material === undefined) throw new Error(`object ${object.name}: no material ${object.material}`);
    const count = mesh.positions.length / 3;
    const mirrored = transform !== undefined && determinant(transform) < 0;
    if (transform) {
      const m = transform;
      const n = normalMatrix(m).map((c) => (mirrored ? -c : c));
      for (let i = 0; i < count; i++) {
        positions.set(
          point(m, mesh.positions[i * 3], mesh.positions[i * 3 + 1], mesh.positions[i * 3 + 2]),
          (vertex + i) * 3,
        );
        const [x, y, z] = [mesh.normals[i * 3], mesh.normals[i * 3 + 1], mesh.normals[i * 3 + 2]];
        const t = [n[0] * x + n[3] * y + n[6] * z, n[1] * x + n[4] * y + n[7] * z, n[2] * x + n[5] * y + n[8] * z];
        const l = Math.sqrt(t[0] * t[0] + t[1] * t[1] + t[2] * t[2]) || 1;
        normals.set([t[0] / l, t[1] / l, t[2] / l], (vertex + i) * 3);
      }
    } else {
      positions.set(mesh.positions, vertex * 3);
      normals.set(mesh.normals, vertex * 3);
    }
    // A mirroring transform turns triangles inside out; swapping two corners turns them back.
    const faces = mesh.indices.length / 3;
    for (let t = 0; t < faces; t++) {
      const [a, b, c] = [mesh.indices[t * 3], mesh.indices[t * 3 + 1], mesh.indices[t * 3 + 2]];
      if (a >= count || b >= count || c >= count)
        throw new Error(`mesh ${object.mesh}: triangle ${t} names a vertex beyond ${count}`);
      indices[(triangle + t) * 3] = vertex + a;
      indices[(triangle + t) * 3 + 1] = vertex + (mirrored ? c : b);
      indices[(triangle + t) * 3 + 2] = vertex + (mirrored ? b : c);
      info[triangle + t] = objectIndex | (material << TRIANGLE_MATERIAL_SHIFT);
    }
    vertex += count;
    triangle += faces;
  };
  const tree = (index: number, from: number) => {
    const at = plan.trees + index * TREE_BYTES;
    view.setInt32(at + fieldOffset(TREE_FIELDS, 'firstTriangle'), from, true);
    view.setInt32(at + fieldOffset(TREE_FIELDS, 'triangleCount'), triangle - from, true);
  };
  for (const i of plan.instancing.ground) add(i, document.objects[i].transform);
  tree(0, 0);
  let record = plan.instances;
  plan.instancing.shared.forEach((shared, k) => {
    const from = triangle;
    add(shared.objects[0], undefined);
    tree(k + 1, from);
    for (const i of shared.objects) {
      const { toLocal, toWorld } = instanceMatrices(
        document.objects[i].transform ?? IDENTITY,
        document.objects[i].name,
      );
      const floats = new Float32Array(memory, record, 24);
      floats.set(toLocal);
      floats.set(toWorld, 12);
      view.setInt32(record + fieldOffset(INSTANCE_FIELDS, 'tree'), k + 1, true);
      view.setInt32(record + fieldOffset(INSTANCE_FIELDS, 'object'), i, true);
      record += INSTANCE_BYTES;
    }
  });
}

/** Writes the world boxes of all instances, once their trees are built. */
export function placeInstances(memory: ArrayBufferLike, scene: Scene, plan: PackPlan): void {
  let record = plan.instances;
  plan.instancing.shared.forEach((shared, k) => {
    const tree = plan.trees + (k + 1) * TREE_BYTES;
    const low = new Float32Array(memory, tree + fieldOffset(TREE_FIELDS, 'minX'), 3);
    const high = new Float32Array(memory, tree + fieldOffset(TREE_FIELDS, 'maxX'), 3);
    for (const i of shared.objects) {
      const box = worldBox(scene.document.objects[i].transform ?? IDENTITY, [...low], [...high]);
      new Float32Array(memory, record + fieldOffset(INSTANCE_FIELDS, 'minX'), 3).set(box.low);
      new Float32Array(memory, record + fieldOffset(INSTANCE_FIELDS, 'maxX'), 3).set(box.high);
      record += INSTANCE_BYTES;
    }
  });
}

function packLights(view: DataView, scene: Scene, plan: PackPlan, groups: string[]): void {
  scene.document.lights.forEach((light, i) => {
    const at = plan.lights + i * LIGHT_BYTES;
    const put = (field: (typeof LIGHT_FIELDS)[number], value: number) =>
      view.setFloat32(at + fieldOffset(LIGHT_FIELDS, field), value, true);
    const tint = light.kelvin ? kelvinToRgb(light.kelvin) : [1, 1, 1];
    const radiance = light.color.map((c, k) => c * tint[k] * light.luminance);
    const y = luminance(radiance[0], radiance[1], radiance[2]);
    put('group', groups.indexOf(light.group));
    put('visible', light.visible ? 1 : 0);
    put('x', light.position[0]);
    put('y', light.position[1]);
    put('z', light.position[2]);
    put('radianceR', radiance[0]);
    put('radianceG', radiance[1]);
    put('radianceB', radiance[2]);
    if (light.kind === 'sphere') {
      put('kind', LIGHT_KIND.sphere);
      put('radius', light.radius);
      put('power', y * Math.PI * light.radius * light.radius);
      return;
    }
    const n = normalize(light.facing);
    const side = cross(light.up, n);
    const u = normalize(side[0] ** 2 + side[1] ** 2 + side[2] ** 2 > 1e-12 ? side : cross([1, 0, 0], n));
    const v = cross(n, u);
    put('kind', LIGHT_KIND.rectangle);
    (['x', 'y', 'z'] as const).forEach((axis, k) => {
      put(`u${axis}`, u[k]);
      put(`v${axis}`, v[k]);
      put(`n${axis}`, n[k]);
    });
    put('halfU', light.width / 2);
    put('halfV', light.height / 2);
    put('area', light.width * light.height);
    put('power', y * light.width * light.height);
  });
}
