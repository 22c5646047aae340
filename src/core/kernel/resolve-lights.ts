import * as fmath from '../fmath';
import { kelvinToRgb, luminance } from '../image';
import {
  carrierOf,
  type Light,
  type LightControls,
  meshAt,
  type Scene,
  secondaryMaterials,
  sunDirection,
} from '../scene';
import { sunRadiance } from '../sky';
import { IDENTITY, point } from './instancing';

type Vec = [number, number, number];

/** A light as the kernel takes it, whatever it was written as. Directions are unit; radiance as in the record. */
export interface ResolvedLight {
  name: string;
  kind: 'rectangle' | 'disk' | 'sphere' | 'spot' | 'point' | 'distant' | 'environment';
  group: string;
  controls: LightControls;
  visible: boolean;
  position: Vec;
  u: Vec;
  v: Vec;
  n: Vec;
  halfU: number;
  halfV: number;
  radius: number;
  area: number;
  radiance: Vec;
  outerCosine: number;
  innerCosine: number;
  /** Lux on a surface facing it at 1 m, or at any distance of a distant light. */
  power: number;
}

const cross = (a: Vec, b: Vec): Vec => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];

function unit(v: readonly number[], what: string): Vec {
  const l = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
  if (!(l > 0)) throw new Error(`${what}: a direction of length zero`);
  return [v[0] / l, v[1] / l, v[2] / l];
}

/** Axes of a thing that faces `facing`, its v axis next to `up`. */
export function axesFacing(facing: readonly number[], up: readonly number[], what: string): { u: Vec; v: Vec; n: Vec } {
  const n = unit(facing, what);
  const side = cross([up[0], up[1], up[2]], n);
  const u = unit(side[0] ** 2 + side[1] ** 2 + side[2] ** 2 > 1e-12 ? side : cross([1, 0, 0], n), what);
  return { u, v: cross(n, u), n };
}

const smooth = (t: number) => t * t * (3 - 2 * t);

/** How much of its light a direction at this cosine to the axis gets: 1 inside, fading to 0 at the outer cosine. */
function fadeAt(cosine: number, outer: number, inner: number): number {
  if (outer <= -1) return 1;
  if (inner <= outer) return cosine > outer ? 1 : 0;
  return smooth(Math.min(1, Math.max(0, (cosine - outer) / (inner - outer))));
}

/** ∫ fade · cosine^k over the hemisphere or sphere, in sr, by the midpoint rule in the cosine. */
function solidAngle(outer: number, inner: number, k: 0 | 1): number {
  const steps = 4096;
  const from = Math.max(outer, k === 1 ? 0 : -1);
  let sum = 0;
  for (let i = 0; i < steps; i++) {
    const c = from + ((1 - from) * (i + 0.5)) / steps;
    sum += fadeAt(c, outer, inner) * (k === 1 ? c : 1);
  }
  return (2 * Math.PI * (1 - from) * sum) / steps;
}

const radians = (degrees: number) => (degrees * Math.PI) / 180;

/** Box in the world of an object: centre and half size. */
function boundsOf(scene: Scene, name: string, light: string): { centre: Vec; half: Vec; axis: Vec } {
  const object = scene.document.objects.find((o) => o.name === name);
  const entry = object && scene.document.geometry.meshes.find((m) => m.name === object.mesh);
  if (!object || !entry) throw new Error(`light ${light}: no object ${name} to follow`);
  const { positions } = meshAt(scene.geometry, entry);
  const m = object.transform ?? IDENTITY;
  const low: Vec = [Infinity, Infinity, Infinity];
  const high: Vec = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < positions.length; i += 3) {
    point(m, positions[i], positions[i + 1], positions[i + 2]).forEach((c, a) => {
      low[a] = Math.min(low[a], c);
      high[a] = Math.max(high[a], c);
    });
  }
  return {
    centre: low.map((c, a) => (c + high[a]) / 2) as Vec,
    half: low.map((c, a) => (high[a] - c) / 2) as Vec,
    axis: [-m[8], -m[9], -m[10]],
  };
}

function parentOf(scene: Scene, light: Light): readonly number[] {
  if (light.parent === null) return IDENTITY;
  const object = scene.document.objects.find((o) => o.name === light.parent);
  if (!object) throw new Error(`light ${light.name}: no object ${light.parent} to move with`);
  return object.transform ?? IDENTITY;
}

/** Strength of an emitter before colour, in the record's unit. */
function strengthOf(light: Light, area: number, outer: number, inner: number): number {
  const value = light.power * 2 ** light.stops;
  switch (light.kind) {
    case 'rectangle':
    case 'disk':
      if (light.unit === 'candela') return value / area;
      return light.unit === 'lumens' ? value / (area * solidAngle(outer, inner, 1)) : value;
    case 'sphere':
      if (light.unit === 'candela') return value / (Math.PI * light.radius ** 2);
      return light.unit === 'lumens' ? value / (4 * Math.PI * Math.PI * light.radius ** 2) : value;
    case 'spot':
      return light.unit === 'lumens' ? value / solidAngle(outer, inner, 0) : value;
    case 'point':
      return light.unit === 'lumens' ? value / (4 * Math.PI) : value;
    case 'distant': {
      if (light.angleDegrees === 0) {
        if (light.unit === 'nits') throw new Error(`light ${light.name}: nits need an angle; give lux`);
        return value;
      }
      const sine = fmath.sin(radians(light.angleDegrees / 2));
      return light.unit === 'lux' ? value / (Math.PI * sine * sine) : value;
    }
  }
}

/** A light of the document. Throws with its name where it cannot be. */
export function resolveLight(scene: Scene, light: Light): ResolvedLight {
  const m = parentOf(scene, light);
  const turn = (d: readonly number[]): Vec => [
    m[0] * d[0] + m[4] * d[1] + m[8] * d[2],
    m[1] * d[0] + m[5] * d[1] + m[9] * d[2],
    m[2] * d[0] + m[6] * d[1] + m[10] * d[2],
  ];
  const follow = 'follow' in light && light.follow !== null ? boundsOf(scene, light.follow, light.name) : null;
  const position: Vec = follow
    ? follow.centre
    : 'position' in light
      ? point(m, light.position[0], light.position[1], light.position[2])
      : [0, 0, 0];
  const what = `light ${light.name}`;
  const { u, v, n } =
    'facing' in light
      ? axesFacing(follow ? follow.axis : turn(light.facing), turn('up' in light ? light.up : [0, 1, 0]), what)
      : { u: [1, 0, 0] as Vec, v: [0, 1, 0] as Vec, n: [0, 0, 1] as Vec };
  let [halfU, halfV, radius, area] = [0, 0, 0, 0];
  let [outer, inner] = [-1, -1];
  /** Half size of the followed object along an axis. */
  const extent = (axis: Vec) => follow!.half.reduce((s, h, a) => s + h * Math.abs(axis[a]), 0);
  if (light.kind === 'rectangle') {
    [halfU, halfV] = follow ? [extent(u), extent(v)] : [light.width / 2, light.height / 2];
    area = 4 * halfU * halfV;
  } else if (light.kind === 'disk') {
    radius = follow ? Math.max(extent(u), extent(v)) : light.radius;
    area = Math.PI * radius * radius;
  } else if (light.kind === 'sphere') {
    radius = follow ? Math.max(...follow.half) : light.radius;
    area = Math.PI * radius * radius;
  }
  if (light.kind !== 'spot' && light.kind !== 'point' && light.kind !== 'distant' && !(area > 0))
    throw new Error(`${what}: it has no size`);
  if ((light.kind === 'rectangle' || light.kind === 'disk') && light.spreadDegrees < 180) {
    outer = fmath.cos(radians(light.spreadDegrees / 2));
    inner = outer + (1 - outer) * 0.5;
  } else if (light.kind === 'spot') {
    outer = fmath.cos(radians(light.coneDegrees / 2));
    inner = fmath.cos(radians((light.coneDegrees / 2) * (1 - light.softness)));
  } else if (light.kind === 'distant') {
    radius = fmath.sin(radians(light.angleDegrees / 2));
  }
  const sized = light.kind === 'sphere' && follow ? { ...light, radius } : light;
  const strength = strengthOf(sized, area, outer, inner);
  const tint = light.kelvin ? kelvinToRgb(light.kelvin) : [1, 1, 1];
  const radiance = light.color.map((c, k) => c * tint[k] * strength) as Vec;
  const y = luminance(radiance[0], radiance[1], radiance[2]);
  const sized2 = light.kind === 'distant' && radius > 0 ? Math.PI * radius * radius : area;
  const power = sized2 > 0 ? y * sized2 : y;
  const { on, gains, samples, bounces, include, exclude } = light;
  return {
    name: light.name,
    kind: light.kind,
    group: light.group,
    controls: { on, gains, samples, bounces, include, exclude },
    visible:
      light.visible && light.kind !== 'spot' && light.kind !== 'point' && !(light.kind === 'distant' && radius === 0),
    position,
    u,
    v,
    n,
    halfU,
    halfV,
    radius,
    area,
    radiance,
    outerCosine: outer,
    innerCosine: inner,
    power,
  };
}

const PLACELESS = {
  position: [0, 0, 0] as Vec,
  u: [1, 0, 0] as Vec,
  v: [0, 1, 0] as Vec,
  n: [0, 0, 1] as Vec,
  halfU: 0,
  halfV: 0,
  radius: 0,
  area: 0,
  outerCosine: -1,
  innerCosine: -1,
};

/** A light that moves over the shutter: its number, and how it stands at moments from 0 to 1. */
export interface MovingLight {
  number: number;
  times: number[];
  moments: ResolvedLight[];
}

/** The lights of a scene that move over the shutter. */
export function movingLights(scene: Scene): MovingLight[] {
  const { document } = scene;
  return [...(scene.lightPoses ?? [])].map(([number, { times, steps }]) => ({
    number,
    times,
    moments: steps.map(({ light, carrier }) => {
      const carried = carrierOf(light);
      const objects = document.objects.map((o) => (o.name === carried ? { ...o, transform: [...carrier!] } : o));
      return resolveLight({ ...scene, document: { ...document, objects } }, light);
    }),
  }));
}

/** The sun of a sky as a distant light; null when the environment has none, or it is below the horizon. */
export function resolveSun(scene: Scene): ResolvedLight | null {
  const env = scene.document.environment;
  if (env?.kind !== 'sky' || env.sun.heightDegrees + env.sun.angleDegrees / 2 <= 0) return null;
  const { sun } = env;
  const direction = sunDirection(sun, fmath);
  const radiance = sunRadiance(env).map((c, k) => c * sun.tint[k] * 2 ** sun.stops) as Vec;
  const sine = fmath.sin(radians(sun.angleDegrees / 2));
  const { on, gains, samples, bounces, include, exclude } = sun;
  return {
    ...PLACELESS,
    name: 'sun',
    kind: 'distant',
    group: sun.group,
    controls: { on, gains, samples, bounces, include, exclude },
    visible: true,
    ...axesFacing(
      direction.map((c) => -c),
      [0, 1, 0],
      'sun',
    ),
    radiance,
    radius: sine,
    power: luminance(radiance[0], radiance[1], radiance[2]) * Math.PI * sine * sine,
  };
}

/** All lights of a scene but its emissive meshes, in the order of their numbers; the environment is the last. */
export function resolveLights(scene: Scene): ResolvedLight[] {
  const lights = scene.document.lights.map((l) => resolveLight(scene, l));
  const sun = resolveSun(scene);
  if (sun) lights.push(sun);
  const env = scene.document.environment;
  if (env) {
    const { on, gains, samples, bounces, include, exclude } = env;
    lights.push({
      ...PLACELESS,
      name: 'environment',
      kind: 'environment',
      group: env.group,
      controls: { on, gains, samples, bounces, include, exclude },
      visible: true,
      radiance: [1, 1, 1],
      power: 0,
    });
  }
  return lights;
}

/** Numbers of the objects that emit, to the camera or to other rays, in order: each is a mesh light. */
export function emissiveObjects(scene: Scene): number[] {
  const { objects, materials } = scene.document;
  const second = secondaryMaterials(scene.document);
  const emits = new Map(materials.map((m) => [m.name, m.emission_luminance > 0 && Math.max(...m.emission_color) > 0]));
  return objects.flatMap((o, i) => (emits.get(o.material) || emits.get(second[i]) ? [i] : []));
}
