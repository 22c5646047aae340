import { z } from 'zod';
import { cameraSchema, type Fog, fogSchema, type SceneDocument, sceneSchema } from '../document/document';
import { environmentSchema, lightSchema, portalSchema } from '../document/light';
import { lookSchema } from '../document/look';
import { materialSchema } from '../document/material';
import { rulesSchema } from '../document/rules';
import { finite, name } from '../document/terms';
import type { Scene } from '../shape/scene';

/** A scene document on disk that is at fault: the key and what is wrong with it. */
export class OverlayError extends Error {
  constructor(
    readonly path: string,
    readonly fault: string,
  ) {
    super(`${path}: ${fault}`);
  }
}

const unchecked = z.looseObject({ name });

/**
 * A scene document as a file: a base, and what it adds to it or changes in it by name. Materials, lights, cameras,
 * portals and objects of a known name take the fields that are given and keep the others; new names are added.
 */
const overlaySchema = z.strictObject({
  schema: z.literal(1),
  /** GLB file, relative to this one, or the name of a sample shot. */
  base: z.string().min(1),
  name: name.optional(),
  width: z.number().int().optional(),
  height: z.number().int().optional(),
  frames: z.unknown().optional(),
  materials: z.array(unchecked).default([]),
  lights: z.array(unchecked).default([]),
  cameras: z.array(unchecked).default([]),
  portals: z.array(unchecked).default([]),
  objects: z
    .array(
      z.strictObject({
        name,
        material: name.optional(),
        transform: z.array(finite).length(16).optional(),
        rules: rulesSchema.optional(),
        motion: z.unknown().optional(),
        shapes: z.unknown().optional(),
      }),
    )
    .default([]),
  environment: z.unknown().optional(),
  /** The only fog, or null for none; `fogs` are merged by name. */
  fog: z.unknown().optional(),
  fogs: z.array(unchecked).default([]),
  look: lookSchema.optional(),
  sets: z.record(name, z.array(name)).optional(),
  setRules: z.record(name, rulesSchema).optional(),
});
export type Overlay = z.infer<typeof overlaySchema>;

function check<T>(schema: z.ZodType<T>, value: unknown, path: string): T {
  const result = schema.safeParse(value);
  if (result.success) return result.data;
  const issue = result.error.issues[0];
  const key = issue.code === 'unrecognized_keys' ? issue.keys[0] : undefined;
  const at = [path, ...issue.path.map(String), ...(key ? [key] : [])].filter((p) => p !== '').join('.');
  throw new OverlayError(at || 'scene', key ? 'unknown key' : issue.message);
}

/** Checks the shape of a scene document; throws `OverlayError`. */
export function parseOverlay(value: unknown): Overlay {
  return check(overlaySchema, value, '');
}

/** The only fog of a scene, if it has one. */
function alone(fog: unknown): Fog[] {
  const only = check(fogSchema.nullable(), fog, 'fog');
  return only === null ? [] : [only];
}

/** Items of `base` with those of `changes` merged in by name, new ones added; each checked under its name. */
function merged<T extends { name: string }>(
  base: T[],
  changes: { name: string }[],
  schema: z.ZodType<T>,
  path: string,
): T[] {
  const out = [...base];
  for (const change of changes) {
    const at = out.findIndex((o) => o.name === change.name);
    const item = check(schema, at < 0 ? change : { ...out[at], ...change }, `${path}.${change.name}`);
    if (at < 0) out.push(item);
    else out[at] = item;
  }
  return out;
}

/** The scene that a document makes of its base. Throws `OverlayError` with the key at fault. */
export function applyOverlay(base: Scene, overlay: Overlay): Scene {
  const { document } = base;
  const materials = merged(document.materials, overlay.materials, materialSchema, 'materials');
  const objects = document.objects.map((o) => ({ ...o }));
  for (const change of overlay.objects) {
    const object = objects.find((o) => o.name === change.name);
    if (!object) throw new OverlayError(`objects.${change.name}`, 'the base has no object of this name');
    if (change.material !== undefined && !materials.some((m) => m.name === change.material))
      throw new OverlayError(`objects.${change.name}.material`, `no material ${change.material}`);
    Object.assign(object, change);
  }
  const whole: SceneDocument = {
    ...document,
    name: overlay.name ?? document.name,
    width: overlay.width ?? document.width,
    height: overlay.height ?? document.height,
    frames: overlay.frames === undefined ? document.frames : (overlay.frames as SceneDocument['frames']),
    materials,
    objects,
    lights: merged(document.lights, overlay.lights, lightSchema, 'lights'),
    cameras: merged(document.cameras, overlay.cameras, cameraSchema, 'cameras'),
    portals: merged(document.portals, overlay.portals, portalSchema, 'portals'),
    environment:
      overlay.environment === undefined
        ? document.environment
        : check(environmentSchema.nullable(), overlay.environment, 'environment'),
    fogs: merged(overlay.fog === undefined ? document.fogs : alone(overlay.fog), overlay.fogs, fogSchema, 'fogs'),
    look: overlay.look ?? document.look,
    sets: { ...document.sets, ...overlay.sets },
    setRules: { ...document.setRules, ...overlay.setRules },
  };
  return { ...base, document: check(sceneSchema, whole, '') };
}
