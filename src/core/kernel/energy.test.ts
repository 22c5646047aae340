import { measureTest, testKernel } from '@/render/testing';
import { box, plane, transformed } from '../scene';
import { type Facets, keptEnergy as keptIn, slabValues } from './energy';
import { ENERGY_TABLE } from './layout';

type V = [number, number, number];
const lambda = ([x, y, z]: V, ax: number, ay: number) =>
  (Math.sqrt(1 + ((ax * x) ** 2 + (ay * y) ** 2) / (z * z)) - 1) / 2;

/**
 * Directional albedo of GGX facets with a Fresnel term of 1, by summing the BRDF times cosine over directions of the half vector
 * [Walter et al. 2007, eq. 20 and 33; Heitz 2014, eq. 99]: another variable and another formula than the tables'.
 */
function summed(wo: V, ax: number, ay: number): number {
  const steps = 400;
  let sum = 0;
  for (let i = 0; i < steps; i++) {
    // Normals by the tangent of their angle, tan θ = a·s/(1 − s), so that tails of any length are met.
    const s = (i + 0.5) / steps;
    const tan = (Math.max(ax, ay) * s) / (1 - s);
    const cos = 1 / Math.sqrt(1 + tan * tan);
    const sin = tan * cos;
    const dTheta = ((Math.max(ax, ay) / (1 - s) ** 2) * cos * cos) / steps;
    for (let j = 0; j < steps; j++) {
      const phi = ((j + 0.5) / steps) * 2 * Math.PI;
      const h: V = [sin * Math.cos(phi), sin * Math.sin(phi), cos];
      const c = wo[0] * h[0] + wo[1] * h[1] + wo[2] * h[2];
      if (c <= 0) continue;
      const wi: V = [2 * c * h[0] - wo[0], 2 * c * h[1] - wo[1], 2 * c * h[2] - wo[2]];
      if (wi[2] <= 0) continue;
      const d = 1 / (Math.PI * ax * ay * ((h[0] / ax) ** 2 + (h[1] / ay) ** 2 + h[2] ** 2) ** 2);
      const g = 1 / (1 + lambda(wo, ax, ay) + lambda(wi, ax, ay));
      // dωi = 4 c dωh
      sum += ((d * g) / (4 * wo[2])) * 4 * c * sin * dTheta * ((2 * Math.PI) / steps);
    }
  }
  return sum;
}

const opaque = (roughness: number, anisotropy = 0): Facets => ({ kind: 'opaque', index: 1, roughness, anisotropy });
const keptEnergy = (facets: Facets, mu: number, across = 0) => keptIn(testKernel(), facets, mu, across);
const both = ([a, b]: [number, number]) => a + b;

test.each([
  [0.2, 1],
  [0.34, 1],
  [0.34, 0.5],
  [0.6, 0.5],
  [1, 0.2],
  [1, 1],
])('what opaque facets of roughness %d keep at cosine %d is the integral of their BRDF', (roughness, mu) => {
  const alpha = roughness * roughness;
  const truth = summed([Math.sqrt(1 - mu * mu), 0, mu], alpha, alpha);
  expect(Math.abs(both(keptEnergy(opaque(roughness), mu)) - truth)).toBeLessThan(4e-4);
});

test.each([
  [0.5, 0.7, 0],
  [0.5, 0.7, 1],
  [0.8, 0.5, 0.4],
  [0.3, 0.9, 0.7],
])('facets of roughness %d stretched by %d, sin² of the azimuth %d', (roughness, anisotropy, across) => {
  const k = 1 - anisotropy;
  const ax = roughness * roughness * Math.sqrt(2 / (1 + k * k));
  const mu = 0.6;
  const wo: V = [0.8 * Math.sqrt(1 - across), 0.8 * Math.sqrt(across), mu];
  const truth = summed(wo, ax, ax * k);
  expect(Math.abs(both(keptEnergy(opaque(roughness, anisotropy), mu, across)) - truth)).toBeLessThan(2e-3);
});

test('glass of index 1 bends nothing, and panes share out what opaque facets keep', () => {
  const facets = { roughness: 0.5, anisotropy: 0 };
  const [back, on] = keptEnergy({ ...facets, kind: 'solid', index: 1 }, 0.7);
  expect(back).toBeCloseTo(0, 9);
  // Straight through, each facet keeps G2/G1 = (1 + Λ)/(1 + 2Λ).
  const l = lambda([Math.sqrt(1 - 0.49), 0, 0.7], 0.25, 0.25);
  expect(on).toBeCloseTo((1 + l) / (1 + 2 * l), 4);
  expect(both(keptEnergy({ ...facets, kind: 'pane', index: 1.5 }, 0.7))).toBeCloseTo(
    both(keptEnergy(opaque(0.5), 0.7)),
    5,
  );
  // Beyond the critical angle smooth facets let nothing out.
  expect(keptEnergy({ kind: 'solid', index: 1 / 1.5, roughness: 0.02, anisotropy: 0 }, 0.5)[1]).toBeLessThan(1e-3);
});

test('a slab holds its kind’s values at even steps', () => {
  const { cosines, roughnesses } = ENERGY_TABLE;
  const slab = slabValues(testKernel(), { kind: 'opaque', index: 1, anisotropy: 0 });
  expect(slab).toHaveLength(cosines * roughnesses * 2);
  const [row, col] = [20, 25];
  const kept = keptEnergy(opaque(row / (roughnesses - 1)), (col / (cosines - 1)) ** 2);
  expect(slab[(row * cosines + col) * 2]).toBeCloseTo(kept[0], 6);
  expect(slab[(row * cosines + col) * 2 + 1]).toBeCloseTo(kept[1], 6);
});

const white: V = [1, 1, 1];
const sheet = transformed(plane(40, 40), [0, 0, 0]);
const block = transformed(box(40, 1, 40), [0, -1, 0]);
const glass = { transmission_weight: 1 };
const LOBES: Record<string, [Record<string, unknown>, typeof sheet]> = {
  metal: [{ base_metalness: 1 }, sheet],
  'stretched metal': [{ base_metalness: 1, specular_roughness_anisotropy: 0.7 }, sheet],
  'metal stretched by half, turned': [
    { base_metalness: 1, specular_roughness_anisotropy: 0.5, geometry_tangent_degrees: 30 },
    sheet,
  ],
  'highlight over matt': [{}, sheet],
  'coat over matt': [{ coat_weight: 1 }, sheet],
  pane: [{ ...glass, geometry_thin_walled: true }, sheet],
  'solid glass': [glass, block],
  'solid glass behind a mirror': [glass, block],
  'pane behind a mirror': [{ ...glass, geometry_thin_walled: true }, sheet],
};
/** Roughness in its place: of the coat, of what passes behind a sharp reflection, or of reflection. */
const withRoughness = (name: string, roughness: number) => {
  if (name.startsWith('coat')) return { coat_roughness: roughness, specular_weight: 0 };
  if (name.endsWith('mirror')) return { specular_roughness: 0, transmission_roughness: roughness };
  return { specular_roughness: roughness };
};

/** Behind a mirror, glass that is nearly clear holds some light between its faces for longer than any depth follows it. */
const STEPS = [0.1, 0.2, 0.26, 0.3, 0.34, 0.4, 0.5, 0.66, 0.8, 1];
const stepsOf = (name: string) => (name === 'solid glass behind a mirror' ? STEPS.filter((r) => r >= 0.3) : STEPS);
describe.each([0, 60])('furnace at %d°: in a white world a lossless lobe cannot be seen', (degrees) => {
  const a = (degrees * Math.PI) / 180;
  const camera = {
    position: [0, 8 * Math.cos(a), 8 * Math.sin(a)],
    target: [0, 0, 0],
    focalLengthMm: 2000,
    up: [0, Math.sin(a), -Math.cos(a)],
  };
  test.each(Object.keys(LOBES).flatMap((name) => stepsOf(name).map((r) => [name, r] as const)))(
    '%s of roughness %d',
    async (name, roughness) => {
      const [own, mesh] = LOBES[name];
      const { mean, error } = await measureTest(
        {
          meshes: { mesh },
          materials: { mesh: { base_color: white, ...own, ...withRoughness(name, roughness) } },
          environment: white,
          camera,
        },
        64,
        {},
      );
      expect(Math.abs(mean - 1)).toBeLessThan(0.002 + error);
    },
  );
});
