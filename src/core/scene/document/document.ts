import { z } from 'zod';
import { contentSchema, plateSchema } from './content';
import { formSchema } from './form';
import { geometrySchema } from './geometry';
import { environmentSchema, lightSchema, portalSchema } from './light';
import { lookSchema } from './look';
import { materialSchema } from './material';
import { rulesSchema } from './rules';
import { finite, groupName, MOST_FOGS, name, unit, vec3 } from './terms';

/** Light groups that a film keeps. */
export const MOST_GROUPS = 16;

/**
 * The scene document: what a scene revision is and what the command line reads. Right-handed, Y up,
 * metres; a camera looks along −Z of its frame; colours linear Rec.709; materials in OpenPBR Surface terms.
 */
export const objectSchema = z.strictObject({
  name,
  mesh: name,
  material: name,
  /** Column-major 4×4. */
  transform: z.array(finite).length(16).optional(),
  /** Moves the surface along its normals by a picture's values, its triangles divided in four `levels` times. */
  displacement: z
    .strictObject({
      picture: name,
      channel: z.enum(['r', 'g', 'b', 'a']).default('r'),
      /** Height of the value 1 above that of 0. */
      heightMetres: finite,
      /** Value that stays where it is. */
      zero: finite.default(0),
      levels: z.number().int().min(0).max(7).default(4),
    })
    .optional(),
  /** Which rays see it, and how it is rendered. */
  rules: rulesSchema.optional(),
  /** Light group of what it emits, in place of its material's. */
  lightGroup: groupName.optional(),
  /** Placements at frames, instead of `transform`; in between it moves, turns and scales evenly. */
  motion: z
    .array(z.strictObject({ frame: finite, transform: z.array(finite).length(16) }))
    .min(2)
    .optional(),
  /** Meshes of like triangles that it takes the shape of at frames; in between, vertices go straight. */
  shapes: z
    .array(z.strictObject({ frame: finite, mesh: name }))
    .min(2)
    .optional(),
});

export const cameraSchema = z.strictObject({
  name,
  position: vec3,
  target: vec3,
  up: vec3.default([0, 1, 0]),
  focalLengthMm: finite.positive().max(2000).default(35),
  sensorWidthMm: finite.positive().max(200).default(36),
  /** 0 = everything in focus. */
  fStop: finite.min(0).max(128).default(0),
  /** Distance along the axis that is sharp; without it, that of `focusPoint` or of the target. */
  focusMetres: finite.positive().optional(),
  focusPoint: vec3.optional(),
  /** Straight edges of the aperture; 0 = round. */
  blades: z.number().int().min(0).max(16).default(0),
  bladesDegrees: finite.default(0),
  /** How far the aperture narrows across towards the corners of the picture: 0 not at all, 1 to nothing. */
  catsEye: unit.default(0),
  /** Shift of the lens against the sensor, in widths of the sensor, right and up. */
  shift: z.tuple([finite, finite]).default([0, 0]),
  /** Distances along the axis between which anything is seen. */
  clipNear: finite.min(0).default(0),
  clipFar: finite.positive().nullable().default(null),
  /** When the shutter opens and closes, in frames from the frame. */
  shutter: z
    .strictObject({ open: finite.min(-2).max(2).default(-0.25), close: finite.min(-2).max(2).default(0.25) })
    .refine((s) => s.close > s.open, 'the shutter must close after it opens')
    .prefault({}),
  /** Places at frames, instead of its own. */
  motion: z
    .array(z.strictObject({ frame: finite, position: vec3, target: vec3, up: vec3.optional() }))
    .min(2)
    .optional(),
  /** Picture size at scale 100, where it differs from the scene's. */
  size: z
    .strictObject({ width: z.number().int().min(16).max(16384), height: z.number().int().min(16).max(16384) })
    .optional(),
  exposure: z.strictObject({ ev100: finite.nullable().default(null), stops: finite.default(0) }).default({
    ev100: null,
    stops: 0,
  }),
});
export type Camera = z.infer<typeof cameraSchema>;

/** Homogeneous fog; where several are, they add up. */
export const fogSchema = z.strictObject({
  name: name.default('fog'),
  /** Extinction in 1/m: after 1/density metres 37 % of the light is left. */
  density: finite.positive().max(1000),
  /** Share of what is taken away that is scattered on. */
  albedo: z.tuple([unit, unit, unit]).default([0.95, 0.95, 0.95]),
  /** Mean cosine of scattering: above 0 forwards, below 0 backwards. */
  anisotropy: finite.min(-0.95).max(0.95).default(0),
  /** Object whose closed mesh holds the fog, itself unseen; null fills a ball about the scene. */
  within: name.nullable().default(null),
  /** Radius of that ball in metres; null = three times the scene's own. */
  radiusMetres: finite.positive().nullable().default(null),
});
export type Fog = z.infer<typeof fogSchema>;

/** Documents of before there could be several fogs. */
function withFogs(value: unknown): unknown {
  if (typeof value !== 'object' || value === null || !('fog' in value)) return value;
  const { fog, ...rest } = value;
  return { fogs: fog ? [fog] : [], ...rest };
}

const documentSchema = z.strictObject({
  schema: z.literal(1),
  name,
  /** Picture size at scale 100. */
  width: z.number().int().min(16).max(16384).default(1280),
  height: z.number().int().min(16).max(16384).default(720),
  /** Frames of the shot. */
  frames: z
    .strictObject({
      first: z.number().int().default(1),
      last: z.number().int().default(1),
      perSecond: finite.positive().default(24),
    })
    .refine((f) => f.last >= f.first, 'the last frame comes before the first')
    .prefault({}),
  cameras: z.array(cameraSchema).min(1),
  materials: z.array(materialSchema).min(1).max(65535),
  objects: z.array(objectSchema).max(65535),
  lights: z.array(lightSchema).max(16384).default([]),
  environment: environmentSchema.nullable().default(null),
  portals: z.array(portalSchema).max(64).default([]),
  fogs: z
    .array(fogSchema)
    .max(MOST_FOGS)
    .refine((list) => new Set(list.map((f) => f.name)).size === list.length, 'two fogs have the same name')
    .default([]),
  /** Light groups that films keep, in order; without it, those that any light or material names. */
  groups: z.array(groupName).max(MOST_GROUPS).optional(),
  /** Light groups whose light films keep apart by how the camera sees it: itself, in mirrors and glass, on surfaces, in fog. */
  apart: z.array(groupName).max(MOST_GROUPS).optional(),
  /** Objects by name of the set. */
  sets: z.record(name, z.array(name)).default({}),
  /** Rules of sets; an object's own come first, then those of later sets. */
  setRules: z.record(name, rulesSchema).default({}),
  /** Sets of lights that can take each other's place. */
  rigs: z
    .array(
      z.strictObject({
        name,
        lights: z.array(lightSchema).max(16384),
        environment: environmentSchema.nullable(),
      }),
    )
    .max(64)
    .default([]),
  /** Shapes made from measures, which objects name as meshes. */
  forms: z.array(formSchema).max(4096).default([]),
  /** Pictures beside the geometry. */
  contents: z.array(contentSchema).max(4096).default([]),
  plates: z.array(plateSchema).max(16).default([]),
  /** How the picture is brought to the screen: what noise figures weigh by, and what everybody sees. */
  look: lookSchema.prefault({}),
  geometry: geometrySchema,
});
export const sceneSchema = z.preprocess(withFogs, documentSchema);
export type SceneDocument = z.infer<typeof documentSchema>;

/** Objects as the coverage plane numbers them: objects first, then light shapes. */
export function coverageNames(document: SceneDocument): string[] {
  return [...document.objects.map((o) => o.name), ...document.lights.map((l) => l.name)];
}
