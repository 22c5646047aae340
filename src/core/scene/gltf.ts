import { type Document, type Material as GltfMaterial, Logger, type Node, WebIO } from '@gltf-transform/core';
import * as fmath from '../fmath';
import type { Camera, Scene, SceneDocument } from './document';
import { type Material, materialSchema } from './material';
import { joinGeometry, type Mesh } from './mesh';

/** A GLB that cannot be read: what is wrong and where. */
export class GltfError extends Error {}

/** Extensions whose data this reader takes; a file may require these and no others. */
const READ_EXTENSIONS = [
  'KHR_materials_transmission',
  'KHR_materials_ior',
  'KHR_materials_volume',
  'KHR_materials_emissive_strength',
];

interface RawMaterial {
  doubleSided?: boolean;
  extensions?: Record<string, Record<string, unknown>>;
}

interface RawJson {
  materials?: RawMaterial[];
  extensionsRequired?: string[];
  extensionsUsed?: string[];
}

/** The JSON chunk of a GLB. Throws `GltfError` naming the byte where the container breaks. */
function jsonChunk(bytes: Uint8Array): RawJson {
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
    return JSON.parse(new TextDecoder().decode(bytes.slice(20, 20 + length)));
  } catch (error) {
    throw new GltfError(`JSON chunk: ${(error as Error).message}`);
  }
}

function number(value: unknown, otherwise: number): number {
  return typeof value === 'number' && Number.isFinite(value) ? value : otherwise;
}

/** OpenPBR terms of a glTF material: α = roughness², transmission without volume is thin-walled. */
function convertMaterial(m: GltfMaterial | null, raw: RawMaterial | undefined, name: string): Material {
  const ext = raw?.extensions ?? {};
  const transmission = number(ext.KHR_materials_transmission?.transmissionFactor, 0);
  const volume = ext.KHR_materials_volume;
  const thickness = number(volume?.thicknessFactor, 0);
  const attenuation = (volume?.attenuationColor as [number, number, number]) ?? [1, 1, 1];
  const distance = number(volume?.attenuationDistance, 0);
  const base = m?.getBaseColorFactor() ?? [1, 1, 1, 1];
  const emissive = m?.getEmissiveFactor() ?? [0, 0, 0];
  const strength = number(ext.KHR_materials_emissive_strength?.emissiveStrength, 1);
  const peak = Math.max(...emissive);
  return materialSchema.parse({
    name,
    base_color: [base[0], base[1], base[2]],
    base_metalness: m?.getMetallicFactor() ?? 1,
    specular_roughness: m?.getRoughnessFactor() ?? 1,
    specular_ior: number(ext.KHR_materials_ior?.ior, 1.5),
    transmission_weight: transmission,
    transmission_color: distance > 0 ? attenuation : [1, 1, 1],
    transmission_depth: distance,
    geometry_thin_walled: transmission > 0 && thickness === 0,
    emission_luminance: peak * strength,
    emission_color: peak > 0 ? emissive.map((c) => c / peak) : [1, 1, 1],
    emission_double_sided: raw?.doubleSided ?? false,
  });
}

function meshOf(primitive: {
  positions: ArrayLike<number>;
  normals: ArrayLike<number> | null;
  indices: ArrayLike<number> | null;
}): Mesh {
  const positions = Float32Array.from(primitive.positions);
  const indices = primitive.indices
    ? Uint32Array.from(primitive.indices)
    : Uint32Array.from({ length: positions.length / 3 }, (_, i) => i);
  if (primitive.normals) return { positions, normals: Float32Array.from(primitive.normals), indices };
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
  return { positions: flat, normals, indices: Uint32Array.from(indices, (_, i) => i) };
}

function cameraOf(node: Node): Camera | null {
  const camera = node.getCamera();
  if (camera?.getType() !== 'perspective') return null;
  const m = node.getWorldMatrix();
  const yfov = camera.getYFov();
  const aspect = camera.getAspectRatio() ?? 16 / 9;
  const sensor = 36;
  return {
    name: node.getName() || camera.getName() || 'camera',
    position: [m[12], m[13], m[14]],
    target: [m[12] - m[8], m[13] - m[9], m[14] - m[10]],
    up: [m[4], m[5], m[6]],
    sensorWidthMm: sensor,
    focalLengthMm: sensor / (2 * fmath.tan(yfov / 2) * aspect),
    fStop: 0,
    exposure: { ev100: null, stops: 0 },
  };
}

/**
 * Reads a GLB: meshes, nodes, perspective cameras, core PBR materials, transmission, ior, volume and
 * emissive strength. What it cannot take is named in `warnings`; a required extension it does not
 * know refuses the file. No light is added: without an environment the background is black.
 */
export async function readGlb(bytes: Uint8Array, name: string): Promise<{ scene: Scene; warnings: string[] }> {
  const raw = jsonChunk(bytes);
  const refused = (raw.extensionsRequired ?? []).filter((e) => !READ_EXTENSIONS.includes(e));
  if (refused.length > 0) throw new GltfError(`required extension ${refused.join(', ')} is not supported`);
  const warnings = (raw.extensionsUsed ?? [])
    .filter((e) => !READ_EXTENSIONS.includes(e))
    .map((e) => `extension ${e} is not read`);
  let gltf: Document;
  try {
    const io = new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT));
    const parts = await io.binaryToJSON(bytes);
    // What is required has been checked above; the library would refuse extensions it has no classes for.
    parts.json.extensionsRequired = [];
    gltf = await io.readJSON(parts);
  } catch (error) {
    throw new GltfError((error as Error).message);
  }
  const root = gltf.getRoot();
  if (root.listTextures().length > 0) warnings.push('textures are not read: factors alone are used');
  const materials: Material[] = [];
  const materialName = new Map<GltfMaterial | null, string>();
  const unique = (wanted: string, taken: Set<string>) => {
    let n = wanted;
    for (let k = 2; taken.has(n); k++) n = `${wanted} ${k}`;
    taken.add(n);
    return n;
  };
  const names = { material: new Set<string>(), object: new Set<string>(), camera: new Set<string>() };
  const all = root.listMaterials();
  const nameMaterial = (m: GltfMaterial | null) => {
    const known = materialName.get(m);
    if (known) return known;
    const n = unique(m?.getName() || 'unnamed', names.material);
    const source = m ? raw.materials?.[all.indexOf(m)] : undefined;
    if (m && m.getAlphaMode() !== 'OPAQUE')
      warnings.push(`material ${n}: alpha mode ${m.getAlphaMode()} is read as opaque`);
    try {
      materials.push(convertMaterial(m, source, n));
    } catch (error) {
      throw new GltfError(`material ${n}: ${(error as Error).message}`);
    }
    materialName.set(m, n);
    return n;
  };
  const meshes: Record<string, Mesh> = {};
  const objects: SceneDocument['objects'] = [];
  const cameras: Camera[] = [];
  const sceneRoot = root.getDefaultScene() ?? root.listScenes()[0];
  if (!sceneRoot) throw new GltfError('the file holds no scene');
  sceneRoot.traverse((node) => {
    const camera = cameraOf(node);
    if (camera) cameras.push({ ...camera, name: unique(camera.name, names.camera) });
    const mesh = node.getMesh();
    if (!mesh) return;
    mesh.listPrimitives().forEach((primitive, k) => {
      if (primitive.getMode() !== 4) {
        warnings.push(`mesh ${mesh.getName()}: points and lines are not read`);
        return;
      }
      const position = primitive.getAttribute('POSITION')?.getArray();
      if (!position) return;
      const meshName = `${root.listMeshes().indexOf(mesh)}.${k}`;
      meshes[meshName] ??= meshOf({
        positions: position,
        normals: primitive.getAttribute('NORMAL')?.getArray() ?? null,
        indices: primitive.getIndices()?.getArray() ?? null,
      });
      objects.push({
        name: unique(node.getName() || mesh.getName() || 'object', names.object),
        mesh: meshName,
        material: nameMaterial(primitive.getMaterial()),
        transform: [...node.getWorldMatrix()],
      });
    });
  });
  if (objects.length === 0) throw new GltfError('the file holds no triangles');
  if (cameras.length === 0) throw new GltfError('the file holds no perspective camera');
  const { bytes: geometry, entries } = joinGeometry(meshes);
  const document: SceneDocument = {
    schema: 1,
    name,
    width: 1280,
    height: 720,
    cameras,
    materials,
    objects,
    lights: [],
    environment: null,
    portals: [],
    fog: null,
    sets: {},
    geometry: { hash: '', bytes: geometry.byteLength, meshes: entries, pictures: [] },
  };
  return { scene: { document, geometry, pictures: new Map() }, warnings };
}
