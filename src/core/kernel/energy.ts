import * as fmath from '../fmath';
import { ENERGY_TABLE, type EnergyKind } from './layout';

// Taken out of the global once: hosts that wrap it make each look-up slow.
const { max, sqrt } = Math;

/** Nodes and weights of Gauss and Legendre on 0…1. Plain arithmetic: the same bits in every engine. */
function gaussLegendre(n: number): { at: Float64Array; weight: Float64Array } {
  const at = new Float64Array(n);
  const weight = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    let x = fmath.cos((Math.PI * (i + 0.75)) / (n + 0.5));
    let slope = 1;
    for (let step = 0; step < 12; step++) {
      let [before, here] = [1, x];
      for (let k = 2; k <= n; k++) [before, here] = [here, ((2 * k - 1) * x * here - (k - 1) * before) / k];
      slope = (n * (x * here - before)) / (x * x - 1);
      x -= here / slope;
    }
    at[i] = (1 - x) / 2;
    weight[i] = 1 / ((1 - x * x) * slope * slope);
  }
  return { at, weight };
}

interface DiscPoints {
  x: Float64Array;
  y: Float64Array;
  weight: Float64Array;
}

/**
 * Points of the unit disc with weights that sum to 1. Radii r = √(1 − t²) by even steps of Gauss in t: normals seen near
 * the disc's rim are those that lie flat, and they change as √(1 − r²) does. `half` leaves out what is mirrored in x.
 */
function discPoints(radii: number, angles: number, half: boolean): DiscPoints {
  const { at, weight } = gaussLegendre(radii);
  const span = half ? Math.PI : 2 * Math.PI;
  const points: DiscPoints = {
    x: new Float64Array(radii * angles),
    y: new Float64Array(radii * angles),
    weight: new Float64Array(radii * angles),
  };
  for (let i = 0; i < radii; i++) {
    const r = sqrt(1 - at[i] * at[i]);
    for (let j = 0; j < angles; j++) {
      const phi = ((j + 0.5) / angles) * span - Math.PI / 2;
      points.x[i * angles + j] = r * fmath.cos(phi);
      points.y[i * angles + j] = r * fmath.sin(phi);
      points.weight[i * angles + j] = (2 * at[i] * weight[i]) / angles;
    }
  }
  return points;
}

// Made when first asked for: what only loads this file need not wait.
let round: DiscPoints | undefined;
let stretched: DiscPoints | undefined;
function pointsFor(anisotropy: number): DiscPoints {
  if (anisotropy === 0) {
    round ??= discPoints(48, 16, true);
    return round;
  }
  stretched ??= discPoints(32, 32, false);
  return stretched;
}

/** Unpolarised Fresnel reflectance; `eta` = index beyond over index before. */
function fresnel(c: number, eta: number): number {
  const g2 = eta * eta - 1 + c * c;
  if (g2 <= 0) return 1;
  const g = sqrt(g2);
  const a = (g - c) / (g + c);
  const b = ((g + c) * c - 1) / ((g - c) * c + 1);
  return (a * a * (1 + b * b)) / 2;
}

/** Reflectance of two parallel faces, all reflections between them counted. */
function paneReflectance(c: number, ior: number): number {
  const r = fresnel(c, ior);
  return (2 * r) / (1 + r);
}

/** GGX roughness along and across (OpenPBR 1.1, "Microfacet model"), as the kernel takes it. */
function alphasOf(roughness: number, anisotropy: number): [number, number] {
  const k = 1 - anisotropy;
  const a = max(roughness * roughness, 1e-4) * (anisotropy === 0 ? 1 : sqrt(2 / (1 + k * k)));
  return [a, max(a * k, 1e-4)];
}

/** What energy is asked of. `index` = index beyond over index before; of opaque surfaces it is not asked. */
export interface Facets {
  kind: EnergyKind;
  index: number;
  roughness: number;
  anisotropy: number;
}

/**
 * What a single scattering among GGX facets keeps of the light, in two parts, seen at cosine `mu` with sin² `across` of the
 * azimuth from the direction of stretch: means over visible normals [Heitz 2018] of G2/G1 times, for
 * - opaque: 1 − w and w, w = (1 − cos)^5, so that Schlick's albedo is F0 · first + second;
 * - solid: Fresnel's reflectance, and with the refracted direction's G2 what is let through;
 * - pane: the two faces' reflectance, and the rest.
 */
export function keptEnergy({ kind, index, roughness, anisotropy }: Facets, mu: number, across = 0): [number, number] {
  const [ax, ay] = alphasOf(roughness, anisotropy);
  const { x, y, weight } = pointsFor(anisotropy);
  const flat = sqrt(max(0, 1 - mu * mu));
  const wx = flat * sqrt(1 - across);
  const wy = flat * sqrt(across);
  const own = sqrt(1 + (ax * ax * wx * wx + ay * ay * wy * wy) / (mu * mu)) / 2 + 0.5;
  // The view where the surface is stretched to α = 1, and two directions across it.
  const len = sqrt(ax * ax * wx * wx + ay * ay * wy * wy + mu * mu);
  const [hx, hy, hz] = [(ax * wx) / len, (ay * wy) / len, mu / len];
  const l = sqrt(hx * hx + hy * hy);
  const [sx, sy] = l > 1e-12 ? [-hy / l, hx / l] : [0, 1];
  const [tx, ty, tz] = l > 1e-12 ? [-hz * sy, hz * sx, hx * sy - hy * sx] : [-1, 0, 0];
  const s = (1 + hz) / 2;
  let first = 0;
  let second = 0;
  for (let i = 0; i < x.length; i++) {
    const p = x[i];
    const rim = sqrt(max(0, 1 - p * p));
    const q = (1 - s) * rim + s * y[i];
    const r = sqrt(max(0, 1 - p * p - q * q));
    const mx = ax * (p * sx + q * tx + r * hx);
    const my = ay * (p * sy + q * ty + r * hy);
    const mz = max(q * tz + r * hz, 1e-7);
    const k = 1 / sqrt(mx * mx + my * my + mz * mz);
    const c = (wx * mx + wy * my + mu * mz) * k;
    if (c <= 0) continue;
    const up = 2 * c * k;
    const g = keptBetween(own, up * mx - wx, up * my - wy, up * mz - mu, ax, ay) * weight[i];
    if (kind === 'opaque') {
      const w = (1 - c) ** 2 * (1 - c) ** 2 * (1 - c);
      first += (1 - w) * g;
      second += w * g;
    } else if (kind === 'pane') {
      const f = paneReflectance(c, index);
      first += f * g;
      second += (1 - f) * g;
    } else {
      const f = fresnel(c, index);
      first += f * g;
      const k2 = 1 - (1 - c * c) / (index * index);
      if (k2 <= 0) continue;
      const d = (c / index - sqrt(k2)) * k;
      const inv = 1 / index;
      second += (1 - f) * keptBetween(own, d * mx - wx * inv, d * my - wy * inv, mu * inv - d * mz, ax, ay) * weight[i];
    }
  }
  return [first, second];
}

/** G2/G1 of a direction that ends `z` high on its side and a view with 1 + Λ of `own` [Heitz 2014, eq. 99]. */
function keptBetween(own: number, x: number, y: number, z: number, ax: number, ay: number): number {
  if (z <= 0) return 0;
  return own / (own + (sqrt(1 + (ax * ax * x * x + ay * ay * y * y) / (z * z)) - 1) / 2);
}

/** One of the tables that the kernel looks energy up in: all roughnesses and views of one kind, index and stretch. */
export type EnergySlab = Omit<Facets, 'roughness'>;

const { cosines, roughnesses, azimuths } = ENERGY_TABLE;
/** Azimuths a slab has: without a stretch all are the same. */
const azimuthsOf = ({ anisotropy }: EnergySlab) => (anisotropy === 0 ? 1 : azimuths);

/** Floats of a slab's values; a head of four goes before. */
export const slabFloats = (slab: EnergySlab) => azimuthsOf(slab) * roughnesses * cosines * 2;

/** Cosine at step `i`: squares of even steps, since albedo changes fastest at grazing angles. */
const cosineAt = (i: number) => max((i / (cosines - 1)) ** 2, 1e-3);

const made = new Map<string, Float32Array>();

/**
 * A slab's values: pairs, by the root of the cosine, roughness, and sin² of the azimuth, each in even steps. Lost light is given
 * back by dividing [Turquin 2019]. Made once for each slab.
 */
export function slabValues(slab: EnergySlab): Float32Array {
  const key = `${slab.kind} ${slab.index} ${slab.anisotropy}`;
  const known = made.get(key);
  if (known) return known;
  const values = new Float32Array(slabFloats(slab));
  let at = 0;
  for (let a = 0; a < azimuthsOf(slab); a++)
    for (let r = 0; r < roughnesses; r++)
      for (let c = 0; c < cosines; c++) {
        const kept = keptEnergy({ ...slab, roughness: r / (roughnesses - 1) }, cosineAt(c), a / (azimuths - 1));
        values.set(kept, at);
        at += 2;
      }
  made.set(key, values);
  return values;
}
