import { type Mesh, meshAt, type Scene } from '../scene';
import { fogBounds } from './fog-bounds';
import { determinant, IDENTITY, instanceMatrices, normalMatrix, worldBox } from './instancing';
import {
  fieldOffset,
  INSTANCE_BYTES,
  INSTANCE_FIELDS,
  POSE_BYTES,
  POSE_TIME,
  TREE_BYTES,
  TREE_FIELDS,
  TRIANGLE_MATERIAL_SHIFT,
} from './layout';
import { isMoving, type PackPlan, poseBytes, verticesOf } from './pack-plan';

function checkPositions({ positions }: Mesh, name: string): void {
  for (let i = 0; i < positions.length; i++)
    if (!Number.isFinite(positions[i]))
      throw new Error(`mesh ${name}: vertex ${Math.floor(i / 3)} has a position that is no finite number`);
}

/** Writes the vertices of a mesh where they stand in world space, `first` of them already written; number by number, since scenes have millions. */
function placeVertices(
  mesh: Mesh,
  m: readonly number[],
  mirrored: boolean,
  positions: Float32Array,
  normals: Float32Array,
  first: number,
): void {
  const { positions: from, normals: facing } = mesh;
  const n = normalMatrix(m).map((c) => (mirrored ? -c : c));
  for (let i = 0, o = first * 3; i < from.length; i += 3, o += 3) {
    const px = from[i];
    const py = from[i + 1];
    const pz = from[i + 2];
    positions[o] = m[0] * px + m[4] * py + m[8] * pz + m[12];
    positions[o + 1] = m[1] * px + m[5] * py + m[9] * pz + m[13];
    positions[o + 2] = m[2] * px + m[6] * py + m[10] * pz + m[14];
    const x = facing[i];
    const y = facing[i + 1];
    const z = facing[i + 2];
    const tx = n[0] * x + n[3] * y + n[6] * z;
    const ty = n[1] * x + n[4] * y + n[7] * z;
    const tz = n[2] * x + n[5] * y + n[8] * z;
    const l = Math.sqrt(tx * tx + ty * ty + tz * tz) || 1;
    normals[o] = tx / l;
    normals[o + 1] = ty / l;
    normals[o + 2] = tz / l;
  }
}

/** Writes all triangles, tree after tree, and the records of trees and instances; instances' boxes are left to `placeInstances`. */
export function packObjects(memory: ArrayBufferLike, scene: Scene, plan: PackPlan): void {
  const { document, geometry } = scene;
  const view = new DataView(memory);
  const positions = new Float32Array(memory, plan.positions, plan.vertexCount * 3);
  const normals = new Float32Array(memory, plan.normals, plan.vertexCount * 3);
  const indices = new Uint32Array(memory, plan.indices, plan.triangleCount * 3);
  const uvs = plan.uvs ? new Float32Array(memory, plan.uvs, plan.vertexCount * 2) : null;
  const info = new Uint32Array(memory, plan.triangleInfo, plan.triangleCount);
  const entries = new Map(document.geometry.meshes.map((m) => [m.name, m]));
  const bounds = fogBounds(document);
  const materialIndex = new Map(document.materials.map((m, i) => [m.name, i]));
  let vertex = 0;
  let triangle = 0;
  const add = (objectIndex: number, transform: readonly number[] | undefined, shape?: Mesh) => {
    const object = document.objects[objectIndex];
    const mesh = shape ?? meshAt(geometry, entries.get(object.mesh)!);
    const bound = bounds.findIndex((b) => b.object === object.name);
    const material = bound < 0 ? materialIndex.get(object.material) : document.materials.length + bound;
    if (material === undefined) throw new Error(`object ${object.name}: no material ${object.material}`);
    const count = mesh.positions.length / 3;
    checkPositions(mesh, object.mesh);
    const mirrored = transform !== undefined && determinant(transform) < 0;
    if (transform) placeVertices(mesh, transform, mirrored, positions, normals, vertex);
    else {
      positions.set(mesh.positions, vertex * 3);
      normals.set(mesh.normals, vertex * 3);
    }
    if (mesh.uvs) uvs?.set(mesh.uvs, vertex * 2);
    // A mirroring transform turns triangles inside out; swapping two corners turns them back.
    const faces = mesh.indices.length / 3;
    for (let t = 0; t < faces; t++) {
      const a = mesh.indices[t * 3];
      const b = mesh.indices[t * 3 + 1];
      const c = mesh.indices[t * 3 + 2];
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
  let poseAt = plan.poses;
  let slot = 0;
  plan.instancing.shared.forEach((shared, k) => {
    const from = triangle;
    const shapes = scene.poses?.get(shared.objects[0])?.shapes;
    add(shared.objects[0], undefined, shapes?.[0]);
    tree(k + 1, from);
    if (shapes) {
      const { shapeNow, shapeNext } = scene.poses!.get(shared.objects[0])!;
      [...shapes.slice(1), shapeNow!, shapeNext!].forEach((shape, i) => {
        const at = (vertex + i * shared.vertices) * 3;
        positions.set(shape.positions, at);
        normals.set(shape.normals, at);
      });
      vertex += verticesOf(shared) - shared.vertices;
      const moves = shapes.length > 1 ? shapes.length : 0;
      view.setInt32(plan.trees + (k + 1) * TREE_BYTES + fieldOffset(TREE_FIELDS, 'shapes'), moves, true);
      view.setInt32(plan.trees + (k + 1) * TREE_BYTES + fieldOffset(TREE_FIELDS, 'stride'), shared.vertices * 12, true);
    }
    for (const i of shared.objects) {
      const { toLocal, toWorld } = instanceMatrices(
        document.objects[i].transform ?? IDENTITY,
        document.objects[i].name,
      );
      const floats = new Float32Array(memory, record, 24);
      floats.set(toLocal);
      floats.set(toWorld, 12);
      view.setInt32(record + fieldOffset(INSTANCE_FIELDS, 'tree'), k + 1, true);
      const whole = (field: string, value: number) =>
        view.setInt32(record + fieldOffset(INSTANCE_FIELDS, field), value, true);
      whole('object', i);
      const pose = scene.poses?.get(i);
      whole('poses', pose ? poseAt : 0);
      whole('steps', pose?.steps.length ?? 0);
      whole('slot', isMoving(pose) ? slot++ : -1);
      whole('shapes', pose?.shapes?.length ?? 0);
      whole('stride', pose?.shapes ? shared.vertices * 12 : 0);
      if (pose) {
        const places = [...pose.steps, pose.now, pose.next];
        places.forEach((m, k) => {
          const place = new Float32Array(memory, poseAt + k * POSE_BYTES, POSE_BYTES / 4);
          place.set(instanceMatrices(m, document.objects[i].name).toWorld);
          place[POSE_TIME / 4] = pose.times[k] ?? 0;
        });
        const times = pose.shapeTimes ?? [];
        new Float32Array(memory, poseAt + places.length * POSE_BYTES, times.length).set(times);
        poseAt += poseBytes(pose);
      }
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
      const places = scene.poses?.get(i)?.steps ?? [scene.document.objects[i].transform ?? IDENTITY];
      const boxes = places.map((m) => worldBox(m, [...low], [...high]));
      const box = {
        low: [0, 1, 2].map((a) => Math.min(...boxes.map((b) => b.low[a]))),
        high: [0, 1, 2].map((a) => Math.max(...boxes.map((b) => b.high[a]))),
      };
      new Float32Array(memory, record + fieldOffset(INSTANCE_FIELDS, 'minX'), 3).set(box.low);
      new Float32Array(memory, record + fieldOffset(INSTANCE_FIELDS, 'maxX'), 3).set(box.high);
      record += INSTANCE_BYTES;
    }
  });
}
