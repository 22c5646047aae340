import { type Document, type Material as GltfMaterial, Logger, type Node, WebIO } from '@gltf-transform/core';
import {
  type Camera,
  joinGeometry,
  type Material,
  type Mesh,
  type Scene,
  type SceneDocument,
  sceneSchema,
  smoothNormals,
} from '../scene';
import { GltfAnimation } from './animation';
import { asGltfError, GltfError } from './error';
import { readLantern } from './lantern';
import { convertMaterial, type RawMaterial } from './materials';
import {
  aspectOf,
  cameraKey,
  cameraOf,
  framingCamera,
  lightKey,
  lightOf,
  motionOf,
  plainName,
  type RawLight,
} from './nodes';
import { checkStructure } from './structure';
import { GltfTextures, type TextureJson } from './textures';
import { plainValues, triangleCorners } from './values';

/** Extensions whose data this reader takes; a file may require these and no others. */
const READ_EXTENSIONS = [
  'KHR_materials_transmission',
  'KHR_materials_ior',
  'KHR_materials_volume',
  'KHR_materials_emissive_strength',
  'KHR_materials_clearcoat',
  'KHR_materials_specular',
  'KHR_materials_anisotropy',
  'KHR_materials_dispersion',
  'KHR_texture_transform',
  'KHR_mesh_quantization',
  'KHR_lights_punctual',
  'EXT_mesh_gpu_instancing',
];

interface RawNode {
  name?: string;
  extensions?: {
    KHR_lights_punctual?: { light?: number };
    EXT_mesh_gpu_instancing?: { attributes?: Record<string, number> };
  };
}

interface RawJson extends TextureJson {
  materials?: RawMaterial[];
  nodes?: RawNode[];
  extensions?: { KHR_lights_punctual?: { lights?: RawLight[] } };
  extensionsRequired?: string[];
  extensionsUsed?: string[];
  extras?: { lantern?: unknown };
}

/** The JSON and binary chunks of a GLB. Throws `GltfError` naming the byte where the container breaks. */
function jsonChunk(bytes: Uint8Array): { json: RawJson; binary: Uint8Array } {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.byteLength < 20 || view.getUint32(0, true) !== 0x46546c67)
    throw new GltfError('not a GLB: it must begin with glTF');
  if (view.getUint32(4, true) !== 2)
    throw new GltfError(`glTF version ${view.getUint32(4, true)} is not supported, only 2`);
  const total = view.getUint32(8, true);
  if (total > bytes.byteLength) throw new GltfError(`file is ${bytes.byteLength} bytes but its header says ${total}`);
  const length = view.getUint32(12, true);
  if (view.getUint32(16, true) !== 0x4e4f534a || 20 + length > total)
    throw new GltfError('first chunk must be JSON (byte 12)');
  try {
    const json = JSON.parse(new TextDecoder().decode(bytes.slice(20, 20 + length)));
    const next = 20 + length;
    const has = next + 8 <= total && view.getUint32(next + 4, true) === 0x004e4942;
    const size = has ? Math.min(view.getUint32(next, true), total - next - 8) : 0;
    return { json, binary: bytes.subarray(next + 8, next + 8 + size) };
  } catch (error) {
    throw new GltfError(`JSON chunk: ${(error as Error).message}`);
  }
}

function meshOf(primitive: {
  /** What the mesh is called where it is at fault. */
  name: string;
  mode: number;
  positions: ArrayLike<number>;
  normals: ArrayLike<number> | null;
  uvs: ArrayLike<number> | null;
  indices: ArrayLike<number> | null;
  /** Whether its vertices are to stay as they are, since others tell how they move. */
  keep: boolean;
}): Mesh {
  const positions = Float32Array.from(primitive.positions);
  const vertices = positions.length / 3;
  const listed = primitive.indices ?? Uint32Array.from({ length: vertices }, (_, i) => i);
  const indices = triangleCorners(primitive.mode, listed);
  const stray = indices.findIndex((i) => i >= vertices);
  if (stray >= 0)
    throw new GltfError(
      `mesh ${primitive.name}: triangle ${Math.floor(stray / 3)} names vertex ${indices[stray]} of ${vertices}`,
    );
  const uvs = primitive.uvs ? Float32Array.from(primitive.uvs) : undefined;
  if (primitive.normals) return { positions, normals: Float32Array.from(primitive.normals), uvs, indices };
  if (primitive.keep) return { positions, normals: smoothNormals({ positions, indices }), uvs, indices };
  // Without normals the specification asks for flat shading: corners are taken apart.
  const flat = new Float32Array(indices.length * 3);
  const normals = new Float32Array(indices.length * 3);
  for (let t = 0; t < indices.length; t += 3) {
    const p = [0, 1, 2].map((k) => Array.from(positions.subarray(indices[t + k] * 3, indices[t + k] * 3 + 3)));
    const u = p[1].map((c, k) => c - p[0][k]);
    const v = p[2].map((c, k) => c - p[0][k]);
    const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    const l = Math.sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]) || 1;
    for (let k = 0; k < 3; k++) {
      flat.set(p[k], (t + k) * 3);
      normals.set(
        n.map((c) => c / l),
        (t + k) * 3,
      );
    }
  }
  const flatUvs =
    uvs && Float32Array.from({ length: indices.length * 2 }, (_, i) => uvs[indices[i >> 1] * 2 + (i & 1)]);
  return { positions: flat, normals, uvs: flatUvs, indices: Uint32Array.from(indices, (_, i) => i) };
}

/** World matrices of nodes that place their mesh many times (EXT_mesh_gpu_instancing). */
function placingsOf(gltf: Document, raw: RawJson): Map<Node, number[][]> {
  const out = new Map<Node, number[][]>();
  const [nodes, accessors] = [gltf.getRoot().listNodes(), gltf.getRoot().listAccessors()];
  raw.nodes?.forEach((r, i) => {
    const attributes = r.extensions?.EXT_mesh_gpu_instancing?.attributes;
    if (!attributes) return;
    const of = (key: string) => (attributes[key] === undefined ? null : accessors[attributes[key]]);
    const [move, turn, size] = [of('TRANSLATION'), of('ROTATION'), of('SCALE')];
    const count = (move ?? turn ?? size)?.getCount() ?? 0;
    const world = nodes[i].getWorldMatrix();
    out.set(
      nodes[i],
      Array.from({ length: count }, (_, k) => {
        const t = move?.getElement(k, []) ?? [0, 0, 0];
        const q = turn?.getElement(k, []) ?? [0, 0, 0, 1];
        const s = size?.getElement(k, []) ?? [1, 1, 1];
        return product(world, placing(t, q, s));
      }),
    );
  });
  return out;
}

/** Column-major matrix of a translation, unit quaternion and scale. */
function placing(t: number[], [x, y, z, w]: number[], s: number[]): number[] {
  const rows = [
    [1 - 2 * (y * y + z * z), 2 * (x * y + z * w), 2 * (x * z - y * w)],
    [2 * (x * y - z * w), 1 - 2 * (x * x + z * z), 2 * (y * z + x * w)],
    [2 * (x * z + y * w), 2 * (y * z - x * w), 1 - 2 * (x * x + y * y)],
  ];
  return [...rows.flatMap((r, i) => [...r.map((c) => c * s[i]), 0]), t[0], t[1], t[2], 1];
}

function product(a: readonly number[], b: readonly number[]): number[] {
  return Array.from({ length: 16 }, (_, i) =>
    [0, 1, 2, 3].reduce((sum, k) => sum + a[k * 4 + (i % 4)] * b[Math.floor(i / 4) * 4 + k], 0),
  );
}

/** Attributes that are not taken, and what that means. */
const UNREAD_ATTRIBUTES = [
  ['COLOR_0', 'colours at its vertices are not read'],
  ['JOINTS_1', 'more than four joints a vertex are not read'],
] as const;

/** Pixels of a picture of so much width over height, the longer side as of a 720-line picture. */
function sizeOf(aspect: number): { width: number; height: number } {
  const held = Math.min(16, Math.max(1 / 16, aspect));
  return held >= 1 ? { width: Math.round(720 * held), height: 720 } : { width: 720, height: Math.round(720 / held) };
}

/** Throws `GltfError` where a GLB's container or the structure of its JSON is at fault; reads nothing of it. */
export function checkGlb(bytes: Uint8Array): void {
  const { json, binary } = jsonChunk(bytes);
  checkStructure(json, binary.byteLength);
}

/** What a GLB holds. */
export interface GlbScene {
  scene: Scene;
  /** What could not be taken, in words. */
  warnings: string[];
  /** What is noteworthy about the file's own structure, for findings. */
  notes: GlbNotes;
  /** Bytes of pictures beside the geometry, by name, in files that were written here. */
  contents: Map<string, Uint8Array>;
}

export interface GlbNotes {
  /** Objects whose mesh has no normals, or no material. */
  withoutNormals: string[];
  withoutMaterial: string[];
  /** Names that more than one thing of a kind had, before they were told apart. */
  doubled: string[];
  /** Whether the camera was made here, since the file has none. */
  cameraMade: boolean;
}

/**
 * Reads a GLB: meshes, nodes, perspective cameras, materials with their textures and the extensions of
 * `READ_EXTENSIONS`, punctual lights. What it cannot take is named in `warnings`; a required extension it does not
 * know refuses the file. No light is added to its own: without an environment the background is black.
 */
export async function readGlb(bytes: Uint8Array, name: string): Promise<GlbScene> {
  try {
    return await readParts(bytes, name);
  } catch (error) {
    throw asGltfError(error);
  }
}

async function readParts(bytes: Uint8Array, name: string): Promise<GlbScene> {
  checkGlb(bytes);
  const { json: raw, binary } = jsonChunk(bytes);
  const refused = (raw.extensionsRequired ?? []).filter((e) => !READ_EXTENSIONS.includes(e));
  if (refused.length > 0) throw new GltfError(`required extension ${refused.join(', ')} is not supported`);
  const warnings = (raw.extensionsUsed ?? [])
    .filter((e) => !READ_EXTENSIONS.includes(e))
    .map((e) => `extension ${e} is not read`);
  const io = new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT));
  const chunks = await io.binaryToJSON(bytes);
  // What is required has been checked above; the library would refuse extensions it has no classes for.
  chunks.json.extensionsRequired = [];
  const gltf: Document = await io.readJSON(chunks);
  const root = gltf.getRoot();
  const warn = (message: string) => {
    if (!warnings.includes(message)) warnings.push(message);
  };
  const own = readLantern(gltf, raw, binary);
  if (own) {
    const notes = { withoutNormals: [], withoutMaterial: [], doubled: [], cameraMade: false };
    return { ...own, warnings, notes };
  }
  const notes: GlbNotes = { withoutNormals: [], withoutMaterial: [], doubled: [], cameraMade: false };
  const textures = new GltfTextures(raw, binary, warn);
  const materials: Material[] = [];
  const materialName = new Map<GltfMaterial | null, string>();
  const unique = (wanted: string, taken: Set<string>) => {
    let n = wanted;
    for (let k = 2; taken.has(n); k++) n = `${wanted} ${k}`;
    if (n !== wanted && !notes.doubled.includes(wanted)) notes.doubled.push(wanted);
    taken.add(n);
    return n;
  };
  const names = {
    material: new Set<string>(),
    object: new Set<string>(),
    camera: new Set<string>(),
    light: new Set<string>(),
  };
  const all = root.listMaterials();
  const nameMaterial = (m: GltfMaterial | null) => {
    const known = materialName.get(m);
    if (known) return known;
    const n = unique(plainName(m?.getName() ?? '', 'unnamed'), names.material);
    const source = m ? raw.materials?.[all.indexOf(m)] : undefined;
    try {
      materials.push(convertMaterial(source ?? {}, n, textures));
    } catch (error) {
      throw asGltfError(error, `material ${n}`);
    }
    materialName.set(m, n);
    return n;
  };
  const meshes: Record<string, Mesh> = {};
  const objects: SceneDocument['objects'] = [];
  /** Meshes without normals, and the name of the material that stands for none. */
  const flat = new Set<string>();
  let plain: string | null = null;
  const cameras: Camera[] = [];
  const sceneRoot = root.getDefaultScene() ?? root.listScenes()[0];
  if (!sceneRoot) throw new GltfError('the file holds no scene');
  const nodes = root.listNodes();
  const rawLights = raw.extensions?.KHR_lights_punctual?.lights ?? [];
  const lights: SceneDocument['lights'] = [];
  const placings = placingsOf(gltf, raw);
  const animation = new GltfAnimation(gltf);
  if (animation.cut > 0) warn(`the animation is long: its last ${animation.cut} frames are not read`);
  const aspect = nodes.map(aspectOf).find((a) => a !== null) ?? 16 / 9;
  sceneRoot.traverse((node) => {
    const number = raw.nodes?.[nodes.indexOf(node)]?.extensions?.KHR_lights_punctual?.light;
    const light = number === undefined ? undefined : rawLights[number];
    if (light) {
      const read = lightOf(light, node, unique(plainName(node.getName() || light.name || '', 'light'), names.light));
      const motion =
        read && animation.moves(node) ? animation.keys().map((f) => lightKey(animation, node, read, f)) : undefined;
      if (read) lights.push(motion ? { ...read, motion } : read);
      else warn(`light ${light.name ?? number}: type ${light.type} is not read`);
    }
    const camera = cameraOf(node, aspect);
    if (camera) {
      const motion = animation.moves(node)
        ? animation.keys().map((frame) => cameraKey(animation, node, frame))
        : undefined;
      cameras.push({ ...camera, motion, name: unique(camera.name, names.camera) });
    }
    const mesh = node.getMesh();
    if (!mesh) return;
    mesh.listPrimitives().forEach((primitive, k) => {
      const called = plainName(mesh.getName(), `${root.listMeshes().indexOf(mesh)}`);
      if (primitive.getMode() < 4) {
        warn(`mesh ${called}: points and lines are not read`);
        return;
      }
      for (const [attribute, words] of UNREAD_ATTRIBUTES)
        if (primitive.getAttribute(attribute)) warn(`mesh ${called}: ${words}`);
      const position = plainValues(primitive.getAttribute('POSITION'));
      if (!position) return;
      const meshName = `${root.listMeshes().indexOf(mesh)}.${k}`;
      meshes[meshName] ??= meshOf({
        name: called,
        mode: primitive.getMode(),
        positions: position,
        normals: plainValues(primitive.getAttribute('NORMAL')),
        uvs: plainValues(primitive.getAttribute('TEXCOORD_0')),
        indices: primitive.getIndices()?.getArray() ?? null,
        keep: node.getSkin() !== null || primitive.listTargets().length > 0,
      });
      if (!primitive.getAttribute('NORMAL')) flat.add(meshName);
      const material = nameMaterial(primitive.getMaterial());
      if (!primitive.getMaterial()) plain = material;
      const name = () => unique(plainName(node.getName() || mesh.getName(), 'object'), names.object);
      if (node.getSkin() || primitive.listTargets().length > 0) {
        const skinned = node.getSkin() !== null;
        const own = name();
        const keep = (frame: number) => {
          const key = `${own} at ${frame}`;
          meshes[key] = animation.shapeAt(node, primitive, meshes[meshName], frame);
          return key;
        };
        const vertices = meshes[meshName].positions.length / 3;
        const bends = animation.bends(node);
        const frames = bends ? animation.shapeKeys(vertices) : [animation.frames.first];
        if (bends && frames.length < animation.frames.last)
          warn(`${own}: its shape is kept at ${frames.length} frames of ${animation.frames.last}`);
        const shapes = frames.map((frame) => ({ frame, mesh: keep(frame) }));
        objects.push({
          name: own,
          mesh: shapes[0].mesh,
          material,
          transform: skinned ? undefined : [...node.getWorldMatrix()],
          shapes: shapes.length > 1 ? shapes : undefined,
          motion: skinned ? undefined : motionOf(animation, node),
        });
        return;
      }
      const placed = placings.get(node);
      if (!placed && animation.moves(node)) {
        objects.push({ name: name(), mesh: meshName, material, motion: motionOf(animation, node) });
        return;
      }
      for (const transform of placed ?? [node.getWorldMatrix()])
        objects.push({ name: name(), mesh: meshName, material, transform: [...transform] });
    });
  });
  if (objects.length === 0) throw new GltfError('the file holds no triangles');
  const { bytes: geometry, entries, pictures } = joinGeometry(meshes, textures.pictures);
  const geometryEntry = { hash: '', bytes: geometry.byteLength, meshes: entries, pictures };
  if (cameras.length === 0) {
    notes.cameraMade = true;
    const bare = { objects, geometry: geometryEntry } as unknown as SceneDocument;
    cameras.push(framingCamera({ document: bare, geometry }));
    warnings.push('the file holds no perspective camera: one is put before everything');
  }
  for (const o of objects) {
    const bareName = o.mesh;
    if (flat.has(bareName)) notes.withoutNormals.push(o.name);
    if (o.material === plain) notes.withoutMaterial.push(o.name);
  }
  const document = sceneSchema.parse({
    schema: 1,
    name,
    ...sizeOf(aspect),
    frames: animation.frames,
    cameras,
    materials,
    objects,
    lights,
    geometry: geometryEntry,
  });
  return { scene: { document, geometry, pictures: new Map() }, warnings, notes, contents: new Map() };
}
