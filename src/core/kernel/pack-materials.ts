import * as fmath from '../fmath';
import { decodeSrgb, type Samples, whiteOf } from '../image';
import { type Material, type PictureEntry, pictureAt, type Scene, type Texture, type TextureInput } from '../scene';
import {
  fieldOffset,
  MATERIAL_BYTES,
  MATERIAL_FIELDS,
  MIRROR_ALPHA,
  TEXTURE_BYTES,
  TEXTURE_FIELDS,
  USE_BUMP,
  USE_BYTES,
  USE_FIELDS,
  USE_NORMAL,
  WRAPS,
} from './layout';

type MaterialField = (typeof MATERIAL_FIELDS)[number];

/** Fields that a texture's input drives: three names ending in R, G, B, or single ones. */
const COLOR_INPUTS: Partial<Record<TextureInput, string[]>> = {
  base_color: ['base', 'tint'],
  specular_color: ['specular'],
  coat_color: ['coat'],
  emission_color: ['emit'],
};
const DATA_INPUTS: Partial<Record<TextureInput, MaterialField>> = {
  base_diffuse_roughness: 'diffuseRoughness',
  base_metalness: 'metalness',
  specular_weight: 'specularWeight',
  specular_roughness: 'roughness',
  specular_roughness_anisotropy: 'anisotropy',
  transmission_weight: 'transmission',
  coat_weight: 'coatWeight',
  coat_roughness: 'coatRoughness',
  geometry_opacity: 'opacity',
};

/** One use record: what of a texture goes to which field. */
interface Use {
  texture: Texture;
  target: number;
  channel: number;
  encoded: boolean;
}

function usesOf(material: Material): Use[] {
  const color = (t: Texture, base: string): Use => ({
    texture: t,
    target: fieldOffset(MATERIAL_FIELDS, `${base}R`),
    channel: -1,
    encoded: true,
  });
  return material.textures.flatMap((t): Use[] => {
    const colors = COLOR_INPUTS[t.input];
    if (colors) return colors.map((base) => color(t, base));
    const field = DATA_INPUTS[t.input];
    const channel = ['r', 'g', 'b', 'a'].indexOf(t.channel);
    if (field) return [{ texture: t, target: fieldOffset(MATERIAL_FIELDS, field), channel, encoded: false }];
    const target = t.input === 'geometry_normal' ? USE_NORMAL : USE_BUMP;
    return [{ texture: t, target, channel, encoded: false }];
  });
}

/** A picture as it lies in memory. Words lie as floats: as they are for data, decoded from sRGB for colours. */
interface PackedPicture {
  entry: PictureEntry;
  decoded: boolean;
  /** Address of its pixels. */
  pixels: number;
}

/** Room that a scene's pictures and texture uses take, and where each begins. */
export interface TexturePlan {
  records: number;
  uses: number;
  pictures: PackedPicture[];
  decode: number;
}

/** Plans pictures and texture uses; `take` hands out memory. */
export function planTextures(scene: Scene, take: (bytes: number) => number): TexturePlan {
  const entries = new Map(scene.document.geometry.pictures.map((p) => [p.name, p]));
  const uses = scene.document.materials.flatMap((m) => usesOf(m).map((use) => ({ use, material: m.name })));
  const wanted = new Map<string, Omit<PackedPicture, 'pixels'>>();
  for (const { use, material } of uses) {
    const entry = entries.get(use.texture.picture);
    if (!entry) throw new Error(`material ${material}: no picture ${use.texture.picture}`);
    const decoded = entry.format === 'word' && use.encoded;
    wanted.set(`${entry.name}\n${decoded}`, { entry, decoded });
  }
  return {
    records: take(wanted.size * TEXTURE_BYTES),
    uses: take(uses.length * USE_BYTES),
    pictures: [...wanted.values()].map((p) => ({
      ...p,
      pixels: take(p.entry.width * p.entry.height * (p.entry.format === 'byte' ? 4 : 16)),
    })),
    decode: take(wanted.size > 0 ? 1024 : 0),
  };
}

/** Writes samples as four channels a pixel; one channel is grey, two are grey and alpha. */
function spread(values: Samples, channels: number, out: Uint8Array | Float32Array, scale: number): void {
  const grey = channels < 3;
  const [g, b] = grey ? [0, 0] : [1, 2];
  const a = channels === 2 || channels === 4 ? channels - 1 : -1;
  const one = out instanceof Uint8Array ? 255 : 1;
  for (let o = 0, from = 0; o < out.length; o += 4, from += channels) {
    out[o] = values[from] * scale;
    out[o + 1] = values[from + g] * scale;
    out[o + 2] = values[from + b] * scale;
    out[o + 3] = a < 0 ? one : values[from + a] * scale;
  }
}

/** Writes pictures as four channels a pixel, and the table that decodes sRGB bytes. */
export function packTextures(memory: ArrayBufferLike, scene: Scene, plan: TexturePlan): void {
  const view = new DataView(memory);
  plan.pictures.forEach(({ entry, decoded, pixels }, i) => {
    const { width, height, channels, values } = pictureAt(scene.geometry, entry);
    const isFloat = entry.format !== 'byte';
    const put = (field: (typeof TEXTURE_FIELDS)[number], value: number) =>
      view.setInt32(plan.records + i * TEXTURE_BYTES + fieldOffset(TEXTURE_FIELDS, field), value, true);
    put('i:pixels', pixels);
    put('i:width', width);
    put('i:height', height);
    put('i:isFloat', isFloat ? 1 : 0);
    const count = width * height * 4;
    const out = isFloat ? new Float32Array(memory, pixels, count) : new Uint8Array(memory, pixels, count);
    spread(values, channels, out, isFloat ? 1 / whiteOf(values) : 1);
    if (decoded) for (let o = 0; o < count; o++) if (o % 4 !== 3) out[o] = decodeSrgb(out[o]);
  });
  if (plan.pictures.length > 0)
    new Float32Array(memory, plan.decode, 256).set(Array.from({ length: 256 }, (_, i) => decodeSrgb(i / 255)));
}

function packUse(view: DataView, at: number, use: Use, plan: TexturePlan): void {
  const { texture: t } = use;
  const integer = (field: (typeof USE_FIELDS)[number], value: number) =>
    view.setInt32(at + fieldOffset(USE_FIELDS, field), value, true);
  const index = plan.pictures.findIndex(
    (p) => p.entry.name === t.picture && p.decoded === (p.entry.format === 'word' && use.encoded),
  );
  integer('i:texture', plan.records + index * TEXTURE_BYTES);
  integer('i:target', use.target);
  integer('i:channel', use.channel);
  integer('i:encoded', use.encoded ? 1 : 0);
  integer('i:wrapU', WRAPS.indexOf(t.wrap));
  integer('i:wrapV', WRAPS.indexOf(t.wrapV ?? t.wrap));
  view.setFloat32(at + fieldOffset(USE_FIELDS, 'strength'), t.strength, true);
  const a = (t.rotationDegrees * Math.PI) / 180;
  const [c, s] = [fmath.cos(a), fmath.sin(a)];
  // KHR_texture_transform: translation × rotation × scale, v downwards.
  const rows = [c * t.scale[0], s * t.scale[1], t.offset[0], -s * t.scale[0], c * t.scale[1], t.offset[1]];
  rows.forEach((v, i) => {
    view.setFloat32(at + fieldOffset(USE_FIELDS, `m${i}`), v, true);
  });
}

/** Fraunhofer F and C lines in µm, between which Abbe's number is defined. */
const F_LINE = 0.4861;
const C_LINE = 0.6563;

function packMaterial(view: DataView, at: number, m: Material): void {
  const put = (field: MaterialField, value: number) =>
    view.setFloat32(at + fieldOffset(MATERIAL_FIELDS, field), value, true);
  const rgb = (base: string, of: (i: number) => number) => {
    ['R', 'G', 'B'].forEach((c, i) => {
      put(`${base}${c}` as MaterialField, of(i));
    });
  };
  const depth = m.transmission_depth;
  const solid = m.transmission_weight > 0 && !m.geometry_thin_walled;
  const tint = depth === 0 ? m.transmission_color : [1, 1, 1];
  // Extinction from colour and depth; what does not scatter of it absorbs. Where more is to scatter than is
  // taken away, extinction is raised so that nothing is gained (OpenPBR 1.1, "Translucent base").
  const scatter = [0, 1, 2].map((i) => (solid && depth > 0 ? m.transmission_scatter[i] / depth : 0));
  const extinction = [0, 1, 2].map((i) =>
    depth > 0 ? -fmath.log(Math.max(m.transmission_color[i], 1e-6)) / depth : 0,
  );
  const raise = Math.max(0, ...[0, 1, 2].map((i) => scatter[i] - extinction[i]));
  rgb('base', (i) => m.base_color[i] * m.base_weight);
  rgb('tint', (i) => m.base_color[i] * m.base_weight * tint[i]);
  rgb('specular', (i) => m.specular_color[i]);
  rgb('absorb', (i) => extinction[i] - scatter[i] + raise);
  rgb('scatter', (i) => scatter[i]);
  rgb('coat', (i) => m.coat_color[i]);
  rgb('emit', (i) => m.emission_luminance * m.emission_color[i]);
  put('diffuseRoughness', m.base_diffuse_roughness);
  put('metalness', m.base_metalness);
  put('specularWeight', m.specular_weight);
  put('roughness', m.specular_roughness);
  put('anisotropy', m.specular_roughness_anisotropy);
  put('ior', m.specular_ior);
  put('transmission', m.transmission_weight);
  put('transmissionRoughness', m.transmission_roughness ?? -1);
  put('thinWalled', m.geometry_thin_walled ? 1 : 0);
  put('scatterAnisotropy', m.transmission_scatter_anisotropy);
  const spread =
    m.transmission_dispersion_scale > 0
      ? ((m.specular_ior - 1) * m.transmission_dispersion_scale) / m.transmission_dispersion_abbe_number
      : 0;
  put('dispersion', spread / (1 / F_LINE ** 2 - 1 / C_LINE ** 2));
  put('straightShadows', m.transmission_straight_shadows ? 1 : 0);
  put('priority', m.transmission_priority);
  put('coatWeight', m.coat_weight);
  put('coatRoughness', m.coat_roughness);
  put('coatIor', m.coat_ior);
  put('emitDoubleSided', m.emission_double_sided ? 1 : 0);
  put('opacity', m.geometry_opacity);
  const through = (m.transmission_roughness ?? m.specular_roughness) ** 2;
  const clear = m.transmission_weight > 0 && (m.geometry_thin_walled || m.transmission_straight_shadows);
  const cut = m.geometry_opacity < 1 || m.textures.some((t) => t.input === 'geometry_opacity');
  put('passed', cut || (clear && through < MIRROR_ALPHA) ? 1 : 0);
  const turn = (m.geometry_tangent_degrees * Math.PI) / 180;
  put('turnCosine', fmath.cos(turn));
  put('turnSine', fmath.sin(turn));
}

/** Writes all material records and their texture uses. */
export function packMaterials(memory: ArrayBufferLike, at: number, scene: Scene, plan: TexturePlan): void {
  const view = new DataView(memory);
  let use = plan.uses;
  scene.document.materials.forEach((m, i) => {
    const record = at + i * MATERIAL_BYTES;
    packMaterial(view, record, m);
    const uses = usesOf(m);
    view.setInt32(record + fieldOffset(MATERIAL_FIELDS, 'uses'), use, true);
    view.setInt32(record + fieldOffset(MATERIAL_FIELDS, 'useCount'), uses.length, true);
    for (const u of uses) {
      packUse(view, use, u, plan);
      use += USE_BYTES;
    }
  });
}
