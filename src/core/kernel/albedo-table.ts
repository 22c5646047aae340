import * as fmath from '../fmath';
import { ALBEDO_TABLE_SIZE, GLASS_TABLE } from './layout';

// Taken out of the global once: hosts that wrap it make each look-up slow.
const { max, sqrt } = Math;

/** A fixed lattice of points on the unit disc, even in area. */
function discLattice(steps: number): [number, number][] {
  const out: [number, number][] = [];
  for (let i = 0; i < steps; i++) {
    const r = sqrt((i + 0.5) / steps);
    for (let j = 0; j < steps; j++) {
      // Rings are turned against each other, so that no direction is left out by all.
      const phi = ((j + ((i * 0.6180339887) % 1)) / steps) * 2 * Math.PI;
      out.push([r * fmath.cos(phi), r * fmath.sin(phi)]);
    }
  }
  return out;
}

const COARSE = discLattice(24);
const FINE = discLattice(32);

/**
 * Mean over visible normals of GGX [Heitz 2018] seen at cosine `mu`, for α: `of` gets the cosine between view and
 * normal, the normal's z, and the view's x and z.
 */
function meanOverNormals(
  mu: number,
  alpha: number,
  lattice: [number, number][],
  of: (c: number, nz: number, wx: number) => number,
): number {
  const wx = sqrt(1 - mu * mu);
  const len = sqrt(alpha * alpha * wx * wx + mu * mu);
  const hx = (alpha * wx) / len;
  const hz = mu / len;
  const s = (1 + hz) / 2;
  let sum = 0;
  for (const [p1, q] of lattice) {
    const p2 = (1 - s) * sqrt(max(0, 1 - p1 * p1)) + s * q;
    const p3 = sqrt(max(0, 1 - p1 * p1 - p2 * p2));
    // Basis (0, 1, 0), (−hz, 0, hx), (hx, 0, hz).
    const nx = alpha * (-p2 * hz + p3 * hx);
    const ny = alpha * p1;
    const nz = max(p2 * hx + p3 * hz, 1e-7);
    const l = sqrt(nx * nx + ny * ny + nz * nz);
    const c = (wx * nx + mu * nz) / l;
    if (c > 0) sum += of(c, nz / l, wx);
  }
  return sum / lattice.length;
}

const lambda = (c: number, alpha: number) => (sqrt(1 + (alpha * alpha * (1 - c * c)) / (c * c)) - 1) / 2;
const alphaOf = (roughness: number) => max(roughness * roughness, 1e-4);
/** Cosine at step `i` of `n`: squares of even steps, since albedo changes fastest at grazing angles. */
const cosineAt = (i: number, n: number) => max((i / (n - 1)) ** 2, 1e-3);

/**
 * Directional albedo of single-scattering GGX with Schlick's Fresnel term, as E(μ) = F0·A + B, on a
 * square grid: √cosine across, OpenPBR roughness (α = roughness²) down; pairs (A, B). The mean over
 * visible normals of G2/G1·(1 − w) and G2/G1·w, w = (1 − cos)^5.
 * Used to scale the base under a dielectric and to give back multiply scattered light [Turquin 2019].
 */
export function makeAlbedoTable(): Float32Array {
  const n = ALBEDO_TABLE_SIZE;
  const table = new Float32Array(n * n * 2);
  for (let row = 0; row < n; row++) {
    const alpha = alphaOf(row / (n - 1));
    for (let col = 0; col < n; col++) {
      const mu = cosineAt(col, n);
      const own = 1 + lambda(mu, alpha);
      let b = 0;
      const whole = meanOverNormals(mu, alpha, FINE, (c, nz) => {
        const wiz = 2 * c * nz - mu;
        if (wiz <= 0) return 0;
        const g = own / (own + lambda(wiz, alpha));
        const w = (1 - c) ** 2 * (1 - c) ** 2 * (1 - c);
        b += g * w;
        return g;
      });
      b /= FINE.length;
      table[(row * n + col) * 2] = whole - b;
      table[(row * n + col) * 2 + 1] = b;
    }
  }
  return table;
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

/** What single scattering by rough glass keeps of the light, reflection and refraction together. */
export function glassAt(mu: number, roughness: number, eta: number, lattice = FINE): number {
  const alpha = alphaOf(roughness);
  const own = 1 + lambda(mu, alpha);
  return meanOverNormals(mu, alpha, lattice, (c, nz) => {
    const f = fresnel(c, eta);
    let sum = 0;
    const up = 2 * c * nz - mu;
    if (up > 0) sum += (f * own) / (own + lambda(up, alpha));
    const k2 = 1 - (1 - c * c) / (eta * eta);
    if (k2 <= 0) return sum;
    const down = (c / eta - sqrt(k2)) * nz - mu / eta;
    if (down < 0) sum += ((1 - f) * own) / (own + lambda(down, alpha));
    return sum;
  });
}

const slabs = new Map<number, Float32Array>();

/**
 * Directional albedo of rough glass of relative index `eta`, √cosine across, roughness down; what is lost is given
 * back by dividing [Turquin 2019, section 5]. Made once for each index.
 */
export function glassSlab(eta: number): Float32Array {
  const known = slabs.get(eta);
  if (known) return known;
  const { cosines, roughnesses } = GLASS_TABLE;
  const slab = new Float32Array(cosines * roughnesses);
  for (let row = 0; row < roughnesses; row++) {
    for (let col = 0; col < cosines; col++)
      slab[row * cosines + col] = glassAt(cosineAt(col, cosines), row / (roughnesses - 1), eta, COARSE);
  }
  slabs.set(eta, slab);
  return slab;
}

let made: Float32Array | null = null;

/** The table of opaque reflection, made at the first call. */
export function albedoTable(): Float32Array {
  made ??= makeAlbedoTable();
  return made;
}
