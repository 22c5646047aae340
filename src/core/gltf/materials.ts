import { type Material, materialSchema } from '../scene';
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
  const anisotropy = ext.KHR_materials_anisotropy;
  const distance = number(volume?.attenuationDistance, 0);
  const emissive = raw.emissiveFactor ?? [0, 0, 0];
  const peak = Math.max(...emissive);
  const weight = number(transmission?.transmissionFactor, 0);
  const dispersion = number(ext.KHR_materials_dispersion?.dispersion, 0);
  const opacity = opacityOf(raw, textures);
  return materialSchema.parse({
    name,
    base_color: color(pbr.baseColorFactor),
    base_metalness: number(pbr.metallicFactor, 1),
    specular_weight: number(specular?.specularFactor, 1),
    specular_color: color(specular?.specularColorFactor),
    specular_roughness: number(pbr.roughnessFactor, 1),
    specular_roughness_anisotropy: number(anisotropy?.anisotropyStrength, 0),
    geometry_tangent_degrees: (number(anisotropy?.anisotropyRotation, 0) * 180) / Math.PI,
    specular_ior: number(ext.KHR_materials_ior?.ior, 1.5),
    transmission_weight: weight,
    transmission_color: distance > 0 ? color(volume?.attenuationColor) : [1, 1, 1],
    transmission_depth: distance,
    // The extension states 20 over Abbe's number.
    ...(dispersion > 0
      ? {
          transmission_dispersion_scale: 1,
          transmission_dispersion_abbe_number: Math.min(91, Math.max(9, 20 / dispersion)),
        }
      : {}),
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
      ...textures.use(pbr.metallicRoughnessTexture, 'specular_roughness', 'g'),
      ...textures.use(pbr.metallicRoughnessTexture, 'base_metalness', 'b'),
      ...textures.use(raw.normalTexture, 'geometry_normal'),
      ...(peak > 0 ? textures.use(raw.emissiveTexture, 'emission_color') : []),
      ...textures.use(infoOf(transmission, 'transmissionTexture'), 'transmission_weight'),
      ...textures.use(infoOf(coat, 'clearcoatTexture'), 'coat_weight'),
      ...textures.use(infoOf(coat, 'clearcoatRoughnessTexture'), 'coat_roughness', 'g'),
      ...textures.use(infoOf(specular, 'specularTexture'), 'specular_weight', 'a'),
      ...textures.use(infoOf(specular, 'specularColorTexture'), 'specular_color'),
      ...textures.use(infoOf(anisotropy, 'anisotropyTexture'), 'specular_roughness_anisotropy', 'b'),
      ...opacity.uses,
    ],
  });
}
