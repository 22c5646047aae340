import { type Material, materialSchema, type Texture } from '../scene';
import { directionOf, lieAlike, stretched, stretchedPicture } from './stretch';
import type { GltfTextures, TextureInfo } from './textures';

type Extension = Record<string, unknown>;

/** A material as the JSON of a glTF file has it. */
export interface RawMaterial {
  name?: string;
  doubleSided?: boolean;
  alphaMode?: string;
  alphaCutoff?: number;
  emissiveFactor?: number[];
  emissiveTexture?: TextureInfo;
  normalTexture?: TextureInfo;
  pbrMetallicRoughness?: {
    baseColorFactor?: number[];
    metallicFactor?: number;
    roughnessFactor?: number;
    baseColorTexture?: TextureInfo;
    metallicRoughnessTexture?: TextureInfo;
  };
  extensions?: Record<string, Extension>;
}

function number(value: unknown, otherwise: number): number {
  return typeof value === 'number' && Number.isFinite(value) ? value : otherwise;
}
const color = (value: unknown): [number, number, number] =>
  Array.isArray(value) && value.length >= 3 ? [value[0], value[1], value[2]] : [1, 1, 1];
const infoOf = (extension: Extension | undefined, key: string) => extension?.[key] as TextureInfo | undefined;

/** Opacity and the texture that drives it: MASK cuts at its cutoff, BLEND is a stochastic cut-out. */
function opacityOf(raw: RawMaterial, textures: GltfTextures) {
  const mode = raw.alphaMode ?? 'OPAQUE';
  const factor = number(raw.pbrMetallicRoughness?.baseColorFactor?.[3], 1);
  if (mode === 'OPAQUE') return { opacity: 1, uses: [] };
  const uses = textures.use(raw.pbrMetallicRoughness?.baseColorTexture, 'geometry_opacity', 'a');
  if (mode !== 'MASK') return { opacity: factor, uses };
  const cutoff = number(raw.alphaCutoff, 0.5);
  if (uses.length === 0) return { opacity: factor >= cutoff ? 1 : 0, uses: [] };
  return { opacity: 1, uses: uses.map((u) => textures.cut(u, factor > 0 ? cutoff / factor : 2)) };
}

const MOST_IOR = 4;

/**
 * Reflectance of the dielectric part. An index of 0 says that what is seen head on is the specular colour alone
 * (KHR_materials_ior); the index that reflects as much stands for it, as far as there is one.
 */
function dielectricOf(raw: RawMaterial, name: string, textures: GltfTextures) {
  const specular = raw.extensions?.KHR_materials_specular;
  const ior = number(raw.extensions?.KHR_materials_ior?.ior, 1.5);
  const weight = number(specular?.specularFactor, 1);
  const tint = color(specular?.specularColorFactor);
  if (ior !== 0) return { specular_ior: ior, specular_weight: weight, specular_color: tint };
  const peak = Math.min(1, Math.max(...tint) * weight);
  const root = Math.sqrt(peak);
  const wanted = root < 1 ? (1 + root) / (1 - root) : Number.POSITIVE_INFINITY;
  if (wanted > MOST_IOR)
    textures.warn(`material ${name}: it reflects more head on than any index up to ${MOST_IOR} does`);
  return {
    specular_ior: Math.min(MOST_IOR, wanted),
    specular_weight: 1,
    specular_color: peak > 0 ? tint.map((c) => c / Math.max(...tint)) : [0, 0, 0],
  };
}

/** Roughness and stretch, with the textures that drive them; where both are driven, by pictures made of theirs. */
function roughnessOf(raw: RawMaterial, name: string, textures: GltfTextures) {
  const pbr = raw.pbrMetallicRoughness ?? {};
  const anisotropy = raw.extensions?.KHR_materials_anisotropy;
  const roughness = number(pbr.roughnessFactor, 1);
  const strength = number(anisotropy?.anisotropyStrength, 0);
  const rough = textures.use(pbr.metallicRoughnessTexture, 'specular_roughness', 'g');
  let degrees = (number(anisotropy?.anisotropyRotation, 0) * 180) / Math.PI;
  if (strength === 0) return { specular_roughness: roughness, uses: rough };
  const plain = stretched(roughness, strength);
  const even = (why: string) => {
    textures.warn(`material ${name}: ${why}; its stretch is read as even`);
    const { roughness, anisotropy } = plain;
    return {
      specular_roughness: roughness,
      specular_roughness_anisotropy: anisotropy,
      geometry_tangent_degrees: degrees,
    };
  };
  const [strong] = textures.use(infoOf(anisotropy, 'anisotropyTexture'), 'specular_roughness_anisotropy', 'b');
  if (strong) {
    const direction = directionOf(textures.pictures[strong.picture]);
    if (direction === null)
      textures.warn(`material ${name}: its highlights are stretched in several directions; one is read`);
    degrees += direction ?? 0;
  }
  const driven = [rough[0], strong].filter((t): t is Texture => t !== undefined);
  if (driven.length === 0)
    return {
      specular_roughness: plain.roughness,
      specular_roughness_anisotropy: plain.anisotropy,
      geometry_tangent_degrees: degrees,
      uses: [],
    };
  if (driven.some((t) => !lieAlike(t, driven[0])))
    return { ...even('its roughness and its stretch lie differently'), uses: [] };
  const pictureOf = (t: Texture | undefined) => (t ? textures.pictures[t.picture] : null);
  const made = stretchedPicture(
    { factor: roughness, picture: pictureOf(rough[0]), channel: 1 },
    { factor: strength, picture: pictureOf(strong), channel: 2 },
  );
  if (!made) return { ...even('the pictures of its roughness and its stretch differ in size'), uses: [] };
  const picture = `stretch of ${name}`.slice(0, 120);
  textures.pictures[picture] = made;
  const use = (input: Texture['input'], channel: Texture['channel']): Texture => ({
    ...driven[0],
    input,
    channel,
    picture,
  });
  return {
    specular_roughness: 1,
    specular_roughness_anisotropy: 1,
    geometry_tangent_degrees: degrees,
    uses: [use('specular_roughness', 'r'), use('specular_roughness_anisotropy', 'g')],
  };
}

/** The extension states 20 over Abbe's number; glass of less spread than any Abbe number here has part of the highest. */
function dispersionOf(raw: RawMaterial, name: string, textures: GltfTextures) {
  const dispersion = number(raw.extensions?.KHR_materials_dispersion?.dispersion, 0);
  if (dispersion <= 0) return {};
  const abbe = 20 / dispersion;
  if (abbe < 9) textures.warn(`material ${name}: its colours are spread more than an Abbe number of 9 does`);
  return {
    transmission_dispersion_scale: Math.min(1, 91 / abbe),
    transmission_dispersion_abbe_number: Math.min(91, Math.max(9, abbe)),
  };
}

/**
 * OpenPBR terms of a glTF material: α = roughness², transmission without volume is thin-walled, with one its
 * attenuation is the colour at a depth and the base colour tints each crossing. Throws for values out of range.
 */
export function convertMaterial(raw: RawMaterial, name: string, textures: GltfTextures): Material {
  const ext = raw.extensions ?? {};
  const pbr = raw.pbrMetallicRoughness ?? {};
  const transmission = ext.KHR_materials_transmission;
  const volume = ext.KHR_materials_volume;
  const coat = ext.KHR_materials_clearcoat;
  const specular = ext.KHR_materials_specular;
  const metalness = number(pbr.metallicFactor, 1);
  const distance = number(volume?.attenuationDistance, 0);
  const emissive = raw.emissiveFactor ?? [0, 0, 0];
  const peak = Math.max(...emissive);
  const weight = number(transmission?.transmissionFactor, 0);
  const { uses: roughUses, ...roughness } = roughnessOf(raw, name, textures);
  const metal = textures.use(pbr.metallicRoughnessTexture, 'base_metalness', 'b');
  const dielectric = dielectricOf(raw, name, textures);
  // The extension colours dielectrics alone; here the same colour tints the edges of metal.
  const tinted = [...dielectric.specular_color, ...color(specular?.specularColorFactor)].some((c) => c !== 1);
  const whole = metalness === 1 && metal.length === 0;
  if (tinted && metalness > 0 && !whole)
    textures.warn(`material ${name}: where it is metal its specular colour tints the edges`);
  if (infoOf(coat, 'clearcoatNormalTexture'))
    textures.warn(`material ${name}: the coat has the surface's normals, not those of its own picture`);
  const opacity = opacityOf(raw, textures);
  return materialSchema.parse({
    name,
    base_color: color(pbr.baseColorFactor),
    base_metalness: metalness,
    ...dielectric,
    ...(whole ? { specular_color: [1, 1, 1] } : {}),
    ...roughness,
    transmission_weight: weight,
    transmission_color: distance > 0 ? color(volume?.attenuationColor) : [1, 1, 1],
    transmission_depth: distance,
    ...dispersionOf(raw, name, textures),
    coat_weight: number(coat?.clearcoatFactor, 0),
    coat_roughness: number(coat?.clearcoatRoughnessFactor, 0),
    coat_ior: 1.5,
    geometry_thin_walled: weight > 0 && number(volume?.thicknessFactor, 0) === 0,
    geometry_opacity: opacity.opacity,
    emission_luminance: peak * number(ext.KHR_materials_emissive_strength?.emissiveStrength, 1),
    emission_color: peak > 0 ? emissive.map((c) => c / peak) : [1, 1, 1],
    emission_double_sided: raw.doubleSided ?? false,
    textures: [
      ...textures.use(pbr.baseColorTexture, 'base_color'),
      ...roughUses,
      ...metal,
      ...textures.use(raw.normalTexture, 'geometry_normal'),
      ...(peak > 0 ? textures.use(raw.emissiveTexture, 'emission_color') : []),
      ...textures.use(infoOf(transmission, 'transmissionTexture'), 'transmission_weight'),
      ...textures.use(infoOf(coat, 'clearcoatTexture'), 'coat_weight'),
      ...textures.use(infoOf(coat, 'clearcoatRoughnessTexture'), 'coat_roughness', 'g'),
      ...textures.use(infoOf(specular, 'specularTexture'), 'specular_weight', 'a'),
      ...(whole ? [] : textures.use(infoOf(specular, 'specularColorTexture'), 'specular_color')),
      ...opacity.uses,
    ],
  });
}
