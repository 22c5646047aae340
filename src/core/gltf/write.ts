import { encodePng } from '../image';
import { IDENTITY_TRANSFORM, type Material, meshAt, pictureAt, type Scene, type SceneDocument } from '../scene';
import { glbOf } from './pack';

/** What `extras.lantern` holds: the document, and where pictures lie that glTF has no format for. */
export interface LanternExtras {
  document: SceneDocument;
  /** Buffer views of float pictures and environments, by name. */
  floats: Record<string, { bufferView: number; width: number; height: number; channels: number; environment: boolean }>;
  /** Images of byte pictures, by name. */
  images: Record<string, number>;
}

/** A buffer that is being filled, with views and accessors of it. */
class Buffer {
  readonly parts: Uint8Array[] = [];
  readonly views: object[] = [];
  readonly accessors: object[] = [];
  private size = 0;

  view(bytes: Uint8Array, target?: number): number {
    this.views.push({ buffer: 0, byteOffset: this.size, byteLength: bytes.byteLength, ...(target ? { target } : {}) });
    this.parts.push(bytes);
    this.size += (bytes.byteLength + 3) & ~3;
    return this.views.length - 1;
  }

  accessor(values: Float32Array | Uint32Array, type: 'SCALAR' | 'VEC2' | 'VEC3', bounds = false): number {
    const bytes = new Uint8Array(values.buffer, values.byteOffset, values.byteLength).slice();
    const isIndex = values instanceof Uint32Array;
    const size = type === 'SCALAR' ? 1 : type === 'VEC2' ? 2 : 3;
    const limits = bounds ? boundsOf(values as Float32Array) : {};
    this.accessors.push({
      bufferView: this.view(bytes, isIndex ? 34963 : 34962),
      componentType: isIndex ? 5125 : 5126,
      count: values.length / size,
      type,
      ...limits,
    });
    return this.accessors.length - 1;
  }

  get bytes(): number {
    return this.size;
  }
}

function boundsOf(positions: Float32Array): { min: number[]; max: number[] } {
  const min = [Infinity, Infinity, Infinity];
  const max = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < positions.length; i++) {
    min[i % 3] = Math.min(min[i % 3], positions[i]);
    max[i % 3] = Math.max(max[i % 3], positions[i]);
  }
  return { min, max };
}

/** Normals as the format wants them: of length 1, also where a mesh has none. */
function unitNormals(normals: Float32Array): Float32Array {
  const out = normals.slice();
  for (let i = 0; i < out.length; i += 3) {
    const l = Math.sqrt(out[i] ** 2 + out[i + 1] ** 2 + out[i + 2] ** 2);
    if (Math.abs(l - 1) < 2e-4) continue;
    if (l > 1e-12) for (let k = 0; k < 3; k++) out[i + k] /= l;
    else out.set([0, 1, 0], i);
  }
  return out;
}

const round = (v: number) => Number(v.toPrecision(7));

/** A material in glTF's own terms, as near as they come; `used` collects extensions. */
function materialJson(m: Material, textureOf: (picture: string) => number | null, used: Set<string>): object {
  const extensions: Record<string, object> = {};
  const add = (name: string, value: object) => {
    extensions[name] = value;
    used.add(name);
  };
  const texture = (input: string, channel?: string) => {
    const t = m.textures.find((x) => x.input === input && (!channel || x.channel === channel));
    const index = t && textureOf(t.picture);
    if (!t || index === null || index === undefined) return undefined;
    const placed = t.offset.some((v) => v !== 0) || t.scale.some((v) => v !== 1) || t.rotationDegrees !== 0;
    if (placed) used.add('KHR_texture_transform');
    const place = { offset: t.offset, scale: t.scale, rotation: (t.rotationDegrees * Math.PI) / 180 };
    return { index, ...(placed ? { extensions: { KHR_texture_transform: place } } : {}) };
  };
  if (m.transmission_weight > 0) add('KHR_materials_transmission', { transmissionFactor: m.transmission_weight });
  if (m.specular_ior !== 1.5) add('KHR_materials_ior', { ior: m.specular_ior });
  if (m.transmission_weight > 0 && !m.geometry_thin_walled) {
    const depth = m.transmission_depth > 0;
    add('KHR_materials_volume', {
      thicknessFactor: 1,
      ...(depth ? { attenuationDistance: m.transmission_depth, attenuationColor: m.transmission_color } : {}),
    });
  }
  if (m.coat_weight > 0)
    add('KHR_materials_clearcoat', { clearcoatFactor: m.coat_weight, clearcoatRoughnessFactor: m.coat_roughness });
  if (m.specular_weight !== 1 || m.specular_color.some((c) => c !== 1))
    add('KHR_materials_specular', { specularFactor: m.specular_weight, specularColorFactor: m.specular_color });
  if (m.specular_roughness_anisotropy > 0)
    add('KHR_materials_anisotropy', {
      anisotropyStrength: m.specular_roughness_anisotropy,
      anisotropyRotation: (m.geometry_tangent_degrees * Math.PI) / 180,
    });
  if (m.transmission_weight > 0 && m.transmission_dispersion_scale > 0 && !m.geometry_thin_walled)
    add('KHR_materials_dispersion', {
      dispersion: round((20 * m.transmission_dispersion_scale) / m.transmission_dispersion_abbe_number),
    });
  const top = Math.max(...m.emission_color, 1e-9);
  const glows = m.emission_luminance > 0;
  if (glows) add('KHR_materials_emissive_strength', { emissiveStrength: m.emission_luminance * top });
  const base = texture('base_color');
  const rough = texture('specular_roughness', 'g') ?? texture('base_metalness', 'b');
  const normal = texture('geometry_normal');
  const emissive = glows ? texture('emission_color') : undefined;
  const clip = (c: readonly number[]) => c.map((v) => round(Math.min(1, v)));
  return {
    name: m.name,
    pbrMetallicRoughness: {
      baseColorFactor: [...clip(m.base_color.map((c) => c * m.base_weight)), m.geometry_opacity],
      metallicFactor: m.base_metalness,
      roughnessFactor: m.specular_roughness,
      ...(base ? { baseColorTexture: base } : {}),
      ...(rough ? { metallicRoughnessTexture: rough } : {}),
    },
    ...(normal ? { normalTexture: normal } : {}),
    ...(glows ? { emissiveFactor: clip(m.emission_color.map((c) => c / top)) } : {}),
    ...(emissive ? { emissiveTexture: emissive } : {}),
    ...(m.geometry_opacity < 1 ? { alphaMode: 'BLEND' } : {}),
    doubleSided: m.emission_double_sided,
    ...(Object.keys(extensions).length > 0 ? { extensions } : {}),
  };
}

/** A matrix that looks along a direction with −z, as cameras and punctual lights do. Column-major. */
function lookingAlong(position: readonly number[], towards: readonly number[], up: readonly number[]): number[] {
  const unit = (v: number[]) => {
    const l = Math.sqrt(v.reduce((s, c) => s + c * c, 0)) || 1;
    return v.map((c) => c / l);
  };
  const cross = (a: readonly number[], b: readonly number[]) => [
    a[1] * b[2] - a[2] * b[1],
    a[2] * b[0] - a[0] * b[2],
    a[0] * b[1] - a[1] * b[0],
  ];
  const z = unit(towards.map((c) => -c));
  let x = cross(up, z);
  if (x.every((c) => Math.abs(c) < 1e-9)) x = cross([1, 0, 0], z);
  x = unit(x);
  return [...x, 0, ...cross(z, x), 0, ...z, 0, ...position, 1];
}

/** Punctual lights of the standard for those of ours that are such. */
function lightJson(l: SceneDocument['lights'][number]): { light: object; matrix: number[] } | null {
  const strength = l.power * 2 ** l.stops;
  const top = Math.max(...l.color, 1e-9);
  const shared = { name: l.name, color: l.color.map((c) => round(c / top)), intensity: round(strength * top) };
  if (l.kind === 'point' && l.unit === 'candela')
    return { light: { type: 'point', ...shared }, matrix: lookingAlong(l.position, [0, 0, -1], [0, 1, 0]) };
  if (l.kind === 'distant' && l.unit === 'lux')
    return { light: { type: 'directional', ...shared }, matrix: lookingAlong([0, 0, 0], l.facing, [0, 1, 0]) };
  if (l.kind !== 'spot' || l.unit !== 'candela') return null;
  const outer = Math.min(Math.PI / 2, (l.coneDegrees * Math.PI) / 360);
  return {
    light: {
      type: 'spot',
      ...shared,
      spot: { outerConeAngle: round(outer), innerConeAngle: round(outer * (1 - l.softness) * 0.9999) },
    },
    matrix: lookingAlong(l.position, l.facing, l.up),
  };
}

/**
 * A scene as a GLB: what the standard has in its own terms (motion at the first frame), all of the document in
 * `extras.lantern`. `document` is the stored one, `scene` the same assembled.
 */
export function writeGlb(document: SceneDocument, scene: Scene): Uint8Array {
  const buffer = new Buffer();
  const used = new Set<string>();
  const images: object[] = [];
  const textures: object[] = [];
  const extras: LanternExtras = { document, floats: {}, images: {} };
  const { geometry } = scene.document;
  for (const entry of geometry.pictures) {
    const { width, height, channels, values } = pictureAt(scene.geometry, entry);
    if (values instanceof Float32Array) {
      const bytes = new Uint8Array(values.buffer, values.byteOffset, values.byteLength).slice();
      extras.floats[entry.name] = { bufferView: buffer.view(bytes), width, height, channels, environment: false };
      continue;
    }
    const bufferView = buffer.view(encodePng(width, height, values, channels as 1 | 2 | 3 | 4));
    images.push({ name: entry.name, mimeType: 'image/png', bufferView });
    textures.push({ source: images.length - 1 });
    extras.images[entry.name] = images.length - 1;
  }
  for (const [name, p] of scene.pictures) {
    const bytes = new Uint8Array(p.pixels.buffer, p.pixels.byteOffset, p.pixels.byteLength).slice();
    extras.floats[name] = {
      bufferView: buffer.view(bytes),
      width: p.width,
      height: p.height,
      channels: 3,
      environment: true,
    };
  }
  const withUvs = new Set(geometry.meshes.filter((m) => m.uvs).map((m) => m.name));
  // A picture on a mesh without texture coordinates is nothing in the standard.
  const bare = new Set(document.objects.filter((o) => !withUvs.has(o.mesh)).map((o) => o.material));
  const materials = document.materials.map((m) =>
    materialJson(m, (p) => (bare.has(m.name) ? null : (extras.images[p] ?? null)), used),
  );
  const accessors = new Map<string, object>();
  const attributesOf = (name: string) => {
    const known = accessors.get(name);
    if (known) return known;
    const mesh = meshAt(scene.geometry, geometry.meshes.find((m) => m.name === name)!);
    const made = {
      attributes: {
        POSITION: buffer.accessor(mesh.positions, 'VEC3', true),
        NORMAL: buffer.accessor(unitNormals(mesh.normals), 'VEC3'),
        ...(mesh.uvs ? { TEXCOORD_0: buffer.accessor(mesh.uvs, 'VEC2') } : {}),
      },
      indices: buffer.accessor(mesh.indices, 'SCALAR'),
    };
    accessors.set(name, made);
    return made;
  };
  const meshes: object[] = [];
  const meshOf = new Map<string, number>();
  const nodes: object[] = document.objects.map((o) => {
    const material = document.materials.findIndex((m) => m.name === o.material);
    const key = JSON.stringify([o.mesh, material]);
    if (!meshOf.has(key)) {
      meshOf.set(key, meshes.length);
      meshes.push({ name: o.mesh, primitives: [{ ...attributesOf(o.mesh), ...(material >= 0 ? { material } : {}) }] });
    }
    const matrix = o.motion?.[0].transform ?? o.transform;
    const moved = matrix && JSON.stringify(matrix) !== JSON.stringify(IDENTITY_TRANSFORM);
    return { name: o.name, mesh: meshOf.get(key), ...(moved ? { matrix } : {}) };
  });
  // Shapes that objects take later stay meshes, so that nothing of the geometry is lost.
  for (const name of new Set(document.objects.flatMap((o) => (o.shapes ?? []).map((s) => s.mesh))))
    if (!document.objects.some((o) => o.mesh === name)) meshes.push({ name, primitives: [attributesOf(name)] });
  const aspect = document.width / document.height;
  const cameras = document.cameras.map((c) => {
    const tanY = c.sensorWidthMm / (2 * c.focalLengthMm * aspect);
    nodes.push({
      name: c.name,
      camera: nodes.length - document.objects.length,
      matrix: lookingAlong(
        c.position,
        c.target.map((t, k) => t - c.position[k]),
        c.up,
      ),
    });
    return {
      name: c.name,
      type: 'perspective',
      perspective: {
        yfov: 2 * Math.atan(tanY),
        aspectRatio: aspect,
        znear: Math.max(1e-3, c.clipNear),
        ...(c.clipFar ? { zfar: c.clipFar } : {}),
      },
    };
  });
  const lights: object[] = [];
  for (const l of document.lights) {
    const made = lightJson(l);
    if (!made) continue;
    nodes.push({ name: l.name, matrix: made.matrix, extensions: { KHR_lights_punctual: { light: lights.length } } });
    lights.push(made.light);
    used.add('KHR_lights_punctual');
  }
  const some = (key: string, list: object[]) => (list.length > 0 ? { [key]: list } : {});
  const json = {
    asset: { version: '2.0', generator: 'Zealous Lantern' },
    scene: 0,
    scenes: [{ name: document.name, nodes: nodes.map((_, i) => i) }],
    nodes,
    ...some('meshes', meshes),
    ...some('materials', materials),
    ...some('cameras', cameras),
    ...some('images', images),
    ...some('textures', textures),
    ...some('accessors', buffer.accessors),
    ...some('bufferViews', buffer.views),
    ...(buffer.bytes > 0 ? { buffers: [{ byteLength: buffer.bytes }] } : {}),
    ...(used.size > 0 ? { extensionsUsed: [...used].sort() } : {}),
    ...(lights.length > 0 ? { extensions: { KHR_lights_punctual: { lights } } } : {}),
    extras: { lantern: extras },
  };
  return glbOf(json, buffer.parts);
}
