import { z } from 'zod';
import { sharedControls } from './light';
import { color, finite, groupName, name, unit } from './terms';

/** Inputs that a texture can drive. Colour ones are decoded from sRGB when their picture has 8 bits, data ones never. */
export const TEXTURE_INPUTS = [
  'base_color',
  'base_diffuse_roughness',
  'base_metalness',
  'specular_weight',
  'specular_color',
  'specular_roughness',
  'specular_roughness_anisotropy',
  'transmission_weight',
  'coat_weight',
  'coat_color',
  'coat_roughness',
  'emission_color',
  'geometry_opacity',
  'geometry_normal',
  'geometry_bump',
] as const;
export type TextureInput = (typeof TEXTURE_INPUTS)[number];

/** Refractive indices for light of 589 nm, with where each is from. */
export const IOR_PRESETS = [
  { name: 'air', ior: 1.000293, source: 'E. Hecht, Optics, 5th ed., table 4.1' },
  { name: 'ice', ior: 1.309, source: 'S. G. Warren & R. E. Brandt, J. Geophys. Res. 113 (2008) D14220' },
  { name: 'water', ior: 1.333, source: 'IAPWS R9-97, 20 °C' },
  { name: 'acrylic', ior: 1.491, source: 'S. N. Kasarova et al., Opt. Mater. 29 (2007) 1481' },
  { name: 'window glass', ior: 1.523, source: 'M. Rubin, Solar Energy Mater. 12 (1985) 275 (clear soda-lime)' },
  { name: 'flint glass', ior: 1.62, source: 'E. Hecht, Optics, 5th ed., table 4.1 (light flint)' },
  { name: 'sapphire', ior: 1.768, source: 'I. H. Malitson, J. Opt. Soc. Am. 52 (1962) 1377 (ordinary ray)' },
  { name: 'diamond', ior: 2.417, source: 'H. R. Phillip & E. A. Taft, Phys. Rev. 136 (1964) A1445' },
] as const;

/** A refractive index, or the name of one of the presets. */
const ior = z.union([
  finite.min(1).max(4),
  z.enum(IOR_PRESETS.map((p) => p.name)).transform((n) => IOR_PRESETS.find((p) => p.name === n)!.ior),
]);

/** What lies beyond a picture's edges: the picture again, its edge, or its mirror image. */
const wrap = z.enum(['repeat', 'clamp', 'mirror']);

export const textureSchema = z.strictObject({
  input: z.enum(TEXTURE_INPUTS),
  /** A picture of the geometry, by name. */
  picture: name,
  /** Channel that drives a single value. */
  channel: z.enum(['r', 'g', 'b', 'a']).default('r'),
  /** Placement: uv is scaled, turned counter-clockwise, then moved (KHR_texture_transform). */
  offset: z.tuple([finite, finite]).default([0, 0]),
  scale: z.tuple([finite, finite]).default([1, 1]),
  rotationDegrees: finite.default(0),
  wrap: wrap.default('repeat'),
  /** Wrapping along v, where it differs. */
  wrapV: wrap.optional(),
  /** Scale of a normal map's slope; height of white in metres for a bump map. */
  strength: finite.default(1),
});
export type Texture = z.infer<typeof textureSchema>;

/** A surface in OpenPBR Surface 1.1 terms; what is not of that standard says so. */
export const materialSchema = z.strictObject({
  name,
  base_weight: unit.default(1),
  base_color: color.default([0.8, 0.8, 0.8]),
  base_diffuse_roughness: unit.default(0),
  base_metalness: unit.default(0),
  specular_weight: unit.default(1),
  specular_color: color.default([1, 1, 1]),
  specular_roughness: unit.default(0.3),
  specular_roughness_anisotropy: unit.default(0),
  specular_ior: ior.default(1.5),
  transmission_weight: unit.default(0),
  transmission_color: color.default([1, 1, 1]),
  /** Metres after which light has taken on the transmission colour; 0 tints at the surface instead. */
  transmission_depth: finite.min(0).default(0),
  /** Share of the extinction over `transmission_depth` that scatters: μs = scatter / depth. */
  transmission_scatter: color.default([0, 0, 0]),
  transmission_scatter_anisotropy: finite.min(-0.95).max(0.95).default(0),
  /** Abbe number divided by this scale; a scale of 0 is no dispersion. */
  transmission_dispersion_scale: unit.default(0),
  transmission_dispersion_abbe_number: finite.min(9).max(91).default(20),
  /** Ours: roughness of what is seen through, where it is not that of the reflection. */
  transmission_roughness: unit.nullable().default(null),
  /** Ours: a smooth solid lets shadow rays through straight, as thin walls do. */
  transmission_straight_shadows: z.boolean().default(false),
  /** Ours: where two solids overlap, the higher number displaces the lower [Schmidt & Budge 2002]. */
  transmission_priority: z.number().int().min(0).max(100).default(0),
  coat_weight: unit.default(0),
  coat_color: color.default([1, 1, 1]),
  coat_roughness: unit.default(0),
  coat_ior: ior.default(1.6),
  /** Nits. */
  emission_luminance: finite.min(0).default(0),
  emission_color: color.default([1, 1, 1]),
  /** Ours: emission from the back too. */
  emission_double_sided: z.boolean().default(false),
  /** Ours: light group of the emission. */
  light_group: groupName.default('other'),
  /** Ours: how the emission serves as a light. */
  light: z.strictObject(sharedControls).prefault({}),
  geometry_opacity: unit.default(1),
  geometry_thin_walled: z.boolean().default(false),
  /** Ours: degrees by which the direction of stretched highlights is turned from the texture's u, counter-clockwise. */
  geometry_tangent_degrees: finite.default(0),
  textures: z.array(textureSchema).max(32).default([]),
});
export type Material = z.infer<typeof materialSchema>;
