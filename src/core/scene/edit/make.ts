import { type Camera, type SceneDocument, sceneSchema } from '../document/document';
import { type Form, formSchema } from '../document/form';
import { type Environment, environmentSchema, type Light, lightSchema } from '../document/light';
import { type Material, materialSchema } from '../document/material';
import { freeMesh, freeName, type ItemRef } from './items';

type Vec = [number, number, number];

const sub = (a: readonly number[], b: readonly number[]): Vec => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const length = (a: readonly number[]) => Math.sqrt(a[0] * a[0] + a[1] * a[1] + a[2] * a[2]);

/** Where new things go: what the camera looks at, how far away that is, and the camera's right and up. */
export function placeBefore(camera: Camera): { at: Vec; metres: number; towards: Vec; right: Vec } {
  const way = sub(camera.target, camera.position);
  const metres = length(way) || 1;
  const towards = way.map((c) => c / metres) as Vec;
  const side: Vec = [-towards[2], 0, towards[0]];
  const l = length(side) || 1;
  return { at: [...camera.target], metres, towards, right: side.map((c) => c / l) as Vec };
}

/**
 * Radiance in nits that reads as middle grey under a camera's exposure: lights made for a shot are scaled by it, so
 * that they show whatever it is exposed for.
 */
function greyNits(exposure: Camera['exposure']): number {
  return (0.18 * (exposure.ev100 === null ? 1 : 1.2 * 2 ** exposure.ev100)) / 2 ** exposure.stops;
}

/** Stops between a clear day's sky, of some thousands of nits, and what shows as white without an exposure. */
const DAY_STOPS = -14.5;

/** A sky with its sun, brought down to what a camera that is not set for daylight can show. */
export function makeSky(exposure: Camera['exposure']): Environment {
  const stops = Math.round(((exposure.ev100 ?? 0) + DAY_STOPS - exposure.stops) * 2) / 2;
  return environmentSchema.parse({ kind: 'sky', group: 'sky', stops, sun: { stops } });
}

/** An even light from all around, brighter at the horizon. */
export function makeGradient(): Environment {
  return environmentSchema.parse({
    kind: 'gradient',
    group: 'sky',
    zenith: [0.3, 0.35, 0.45],
    horizon: [0.5, 0.5, 0.5],
    ground: [0.1, 0.1, 0.1],
  });
}

export const LIGHT_KINDS = ['rectangle', 'disk', 'sphere', 'spot', 'point', 'distant'] as const;
export type LightKind = (typeof LIGHT_KINDS)[number];

/** A new light that lights what the camera looks at: beside the camera, above, facing its target. */
export function makeLight(document: SceneDocument, camera: Camera, kind: LightKind): SceneDocument {
  const { at, metres, towards, right } = placeBefore(camera);
  const reach = metres * 0.6;
  const position = at.map(
    (c, k) => c - towards[k] * reach * 0.55 + right[k] * reach * 0.6 + (k === 1 ? reach * 0.7 : 0),
  );
  const facing = sub(at, position);
  const d2 = facing.reduce((s, c) => s + c * c, 0);
  // Lux at the target that make a white surface there three times middle grey.
  const lux = greyNits(camera.exposure) * Math.PI * 3;
  const size = metres * 0.16;
  const name = freeName(document, 'light', `${kind} light`);
  const shared = { name, group: 'key' };
  const place = { position, facing };
  const made: Record<LightKind, () => unknown> = {
    rectangle: () => ({ kind, ...shared, ...place, width: size, height: size, power: (lux * d2) / (size * size) }),
    disk: () => ({ kind, ...shared, ...place, radius: size / 2, power: (lux * d2) / (Math.PI * (size / 2) ** 2) }),
    sphere: () => ({ kind, ...shared, position, radius: size / 3, power: (lux * d2) / (Math.PI * (size / 3) ** 2) }),
    spot: () => ({ kind, ...shared, ...place, power: lux * d2 }),
    point: () => ({ kind, ...shared, position, power: lux * d2 }),
    distant: () => ({ kind, ...shared, facing, power: lux, angleDegrees: 1 }),
  };
  const light = lightSchema.parse(made[kind]());
  const rounded = { ...light, power: Number(light.power.toPrecision(3)) } as Light;
  return { ...document, lights: [...document.lights, rounded] };
}

/** What can be put into a shot besides lights. */
export const SOLID_KINDS = [
  'box',
  'ball',
  'cylinder',
  'plane',
  'backdrop',
  'blocker',
  'grey probe',
  'chrome probe',
] as const;
export type SolidKind = (typeof SOLID_KINDS)[number];

/** Surfaces to start from. Names are free to change. */
export const STARTER_SURFACES: readonly Material[] = [
  { name: 'matt grey', base_color: [0.18, 0.18, 0.18], specular_weight: 0 },
  { name: 'white plaster', base_color: [0.78, 0.77, 0.74], base_diffuse_roughness: 0.5, specular_roughness: 0.7 },
  {
    name: 'painted wood',
    base_color: [0.32, 0.12, 0.06],
    specular_roughness: 0.4,
    coat_weight: 0.3,
    coat_roughness: 0.15,
  },
  { name: 'black rubber', base_color: [0.02, 0.02, 0.02], specular_roughness: 0.6 },
  { name: 'polished brass', base_metalness: 1, base_color: [0.91, 0.78, 0.42], specular_roughness: 0.12 },
  {
    name: 'brushed steel',
    base_metalness: 1,
    base_color: [0.56, 0.57, 0.58],
    specular_roughness: 0.35,
    specular_roughness_anisotropy: 0.7,
  },
  { name: 'mirror', base_metalness: 1, base_color: [0.95, 0.95, 0.95], specular_roughness: 0 },
  { name: 'clear glass', transmission_weight: 1, specular_roughness: 0, specular_ior: 1.523, base_color: [1, 1, 1] },
  {
    name: 'window pane',
    transmission_weight: 1,
    specular_roughness: 0,
    specular_ior: 1.523,
    geometry_thin_walled: true,
    base_color: [1, 1, 1],
  },
  { name: 'water', transmission_weight: 1, specular_roughness: 0, specular_ior: 1.333, base_color: [1, 1, 1] },
  {
    name: 'milk glass',
    transmission_weight: 1,
    specular_roughness: 0.2,
    specular_ior: 1.5,
    transmission_depth: 0.004,
    transmission_scatter: [0.96, 0.94, 0.9],
  },
  { name: 'glow', base_color: [0, 0, 0], specular_weight: 0, emission_luminance: 10 },
].map((m) => materialSchema.parse(m));

/** Adds a starter surface under a free name. */
export function addSurface(document: SceneDocument, surface: Material): { document: SceneDocument; name: string } {
  const known = document.materials.find((m) => m.name === surface.name);
  if (known && JSON.stringify(known) === JSON.stringify(surface)) return { document, name: surface.name };
  const name = freeName(document, 'material', surface.name);
  return { document: { ...document, materials: [...document.materials, { ...surface, name }] }, name };
}

const starter = (name: string) => STARTER_SURFACES.find((m) => m.name === name)!;

/** A new solid where the camera looks; planes and backdrops lie on the ground there. */
export function makeSolid(
  document: SceneDocument,
  camera: Camera,
  kind: SolidKind,
): { document: SceneDocument; made: ItemRef } {
  const { at, metres, towards } = placeBefore(camera);
  const s = Number((metres * 0.2).toPrecision(2));
  const name = freeName(document, 'object', kind);
  const mesh = freeMesh(document, name);
  const forms: Record<SolidKind, object> = {
    box: { kind: 'box', width: s, height: s, depth: s },
    ball: { kind: 'ball', radius: s / 2 },
    cylinder: { kind: 'cylinder', radius: s / 2, height: s },
    plane: { kind: 'plane', width: s * 10, depth: s * 10 },
    backdrop: { kind: 'backdrop', width: s * 12, depth: s * 8, height: s * 8, radius: s * 2 },
    blocker: { kind: 'box', width: s * 2, height: s * 2, depth: s * 0.02 },
    'grey probe': { kind: 'ball', radius: s / 3, segments: 96 },
    'chrome probe': { kind: 'ball', radius: s / 3, segments: 96 },
  };
  const surfaces: Partial<Record<SolidKind, Material>> = {
    blocker: starter('black rubber'),
    'grey probe': starter('matt grey'),
    'chrome probe': starter('mirror'),
  };
  const surfaced = addSurface(document, surfaces[kind] ?? starter('matt grey'));
  const form: Form = formSchema.parse({ ...forms[kind], name: mesh });
  const place: Vec = [...at];
  if (kind === 'chrome probe') place[0] += s;
  if (kind === 'blocker') for (let k = 0; k < 3; k++) place[k] -= towards[k] * metres * 0.3;
  if (kind === 'backdrop') for (let k = 0; k < 3; k++) place[k] += k === 1 ? -s : towards[k] * s * 5;
  if (kind === 'plane') place[1] -= s / 2;
  const object: SceneDocument['objects'][number] = {
    name,
    mesh,
    material: surfaced.name,
    transform: facingCamera(kind === 'backdrop' || kind === 'blocker' ? towards : [0, 0, -1], place),
    rules: kind === 'blocker' ? { seenBy: { camera: false, reflection: false, transmission: false } } : undefined,
  };
  return {
    document: {
      ...surfaced.document,
      forms: [...document.forms, form],
      objects: [...document.objects, object],
    },
    made: { kind: 'object', name },
  };
}

/** Upright placement whose +z looks back along `towards`. Column-major. */
function facingCamera(towards: readonly number[], at: Vec): number[] {
  const l = Math.sqrt(towards[0] * towards[0] + towards[2] * towards[2]);
  const [x, z] = l > 1e-9 ? [-towards[0] / l, -towards[2] / l] : [0, 1];
  return [z, 0, -x, 0, 0, 1, 0, 0, x, 0, z, 0, at[0], at[1], at[2], 1];
}

/** A shot with a camera, a floor and a ball, lit by one light: something to begin with. */
export function emptyShot(name: string): SceneDocument {
  const bare = sceneSchema.parse({
    schema: 1,
    name,
    cameras: [{ name: 'camera', position: [0, 1.2, 4], target: [0, 0.5, 0] }],
    materials: [starter('matt grey')],
    objects: [],
    environment: {
      kind: 'gradient',
      group: 'sky',
      zenith: [0.16, 0.18, 0.22],
      horizon: [0.3, 0.3, 0.3],
      ground: [0.08, 0.08, 0.08],
    },
    geometry: { hash: '', bytes: 0, meshes: [] },
  });
  const [camera] = bare.cameras;
  const ball = makeSolid(bare, camera, 'ball').document;
  return makeLight(makeSolid(ball, camera, 'plane').document, camera, 'rectangle');
}
