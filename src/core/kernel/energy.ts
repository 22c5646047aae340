import * as fmath from '../fmath';
import { ENERGY_KINDS, ENERGY_TABLE, type EnergyKind, SCENE_BASE } from './layout';
import { makeMemory } from './memory';

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

/** The kernel's sum over a disc's points, in memory of its own: the points of either disc, then the result. */
class Integrator {
  private readonly memory = makeMemory(0);
  private readonly exports: { keepEnergy(...numbers: number[]): void };
  private readonly discs = new Map<boolean, { at: number; count: number }>();
  private end = SCENE_BASE;

  constructor(module: WebAssembly.Module) {
    const { exports } = new WebAssembly.Instance(module, { env: { memory: this.memory } });
    this.exports = exports as unknown as Integrator['exports'];
  }

  private disc(round: boolean): { at: number; count: number } {
    const known = this.discs.get(round);
    if (known) return known;
    const { x, y, weight } = round ? discPoints(48, 16, true) : discPoints(32, 32, false);
    const disc = { at: this.end, count: x.length };
    for (const list of [x, y, weight]) {
      new Float32Array(this.memory.buffer, this.end, list.length).set(list);
      this.end += list.length * 4;
    }
    this.discs.set(round, disc);
    return disc;
  }

  kept({ kind, index, roughness, anisotropy }: Facets, mu: number, across: number): [number, number] {
    const { at, count } = this.disc(anisotropy === 0);
    const [ax, ay] = alphasOf(roughness, anisotropy);
    const flat = sqrt(max(0, 1 - mu * mu));
    const [wx, wy] = [flat * sqrt(1 - across), flat * sqrt(across)];
    this.exports.keepEnergy(ENERGY_KINDS.indexOf(kind), index, ax, ay, wx, wy, mu, at, count, this.end);
    const [first, second] = new Float32Array(this.memory.buffer, this.end, 2);
    return [first, second];
  }
}

const integrators = new WeakMap<WebAssembly.Module, Integrator>();

/**
 * What a single scattering among GGX facets keeps of the light, in two parts, seen at cosine `mu` with sin² `across` of the
 * azimuth from the direction of stretch: means over visible normals [Heitz 2018] of G2/G1 times, for
 * - opaque: 1 − w and w, w = (1 − cos)^5, so that Schlick's albedo is F0 · first + second;
 * - solid: Fresnel's reflectance, and with the refracted direction's G2 what is let through;
 * - pane: the two faces' reflectance, and the rest.
 * Summed by the kernel in lanes of 32 bits: off by 10⁻⁷ on average and 3·10⁻⁵ at most, at grazing angles.
 */
export function keptEnergy(module: WebAssembly.Module, facets: Facets, mu: number, across = 0): [number, number] {
  const integrator = integrators.get(module) ?? new Integrator(module);
  integrators.set(module, integrator);
  return integrator.kept(facets, mu, across);
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
export function slabValues(module: WebAssembly.Module, slab: EnergySlab): Float32Array {
  const key = `${slab.kind} ${slab.index} ${slab.anisotropy}`;
  const known = made.get(key);
  if (known) return known;
  const values = new Float32Array(slabFloats(slab));
  let at = 0;
  for (let a = 0; a < azimuthsOf(slab); a++)
    for (let r = 0; r < roughnesses; r++)
      for (let c = 0; c < cosines; c++) {
        const kept = keptEnergy(module, { ...slab, roughness: r / (roughnesses - 1) }, cosineAt(c), a / (azimuths - 1));
        values.set(kept, at);
        at += 2;
      }
  made.set(key, values);
  return values;
}
