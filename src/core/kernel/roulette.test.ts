import { measureTest, type TestScene } from '@/render/testing';
import { box, plane, sphere, transformed } from '../scene';

/** What brings little is ended by chance from the first hit on: fewer rays, the same light. */
const early = { rayDepth: { rouletteStart: 0 } };
const never = { rayDepth: { rouletteStart: 64 } };
const totalRays = ({ film }: Awaited<ReturnType<typeof measureTest>>) => film.rays().total;

test('a closed room whose walls glow: e / (1 − ρ)', async () => {
  const [albedo, glow] = [0.8, 0.5];
  const { mean, error } = await measureTest(
    {
      meshes: { walls: sphere(2, 48) },
      materials: {
        walls: {
          base_color: [albedo, albedo, albedo],
          specular_weight: 0,
          emission_luminance: glow,
          emission_color: [1, 1, 1],
          emission_double_sided: true,
        },
      },
      environment: null,
      camera: { position: [0, 0, 0.5], target: [0, 0, 0] },
    },
    128,
    early,
  );
  expect(Math.abs(mean - glow / (1 - albedo))).toBeLessThan(error + 0.002);
  expect(error).toBeLessThan(0.05);
});

/** Weak coats over matt paint, glass, a mirror, fog and two lamps, one of them dim. */
const scene: TestScene = {
  meshes: {
    floor: plane(6, 6),
    wall: transformed(box(6, 3, 0.1), [0, 1.5, -1.5]),
    kettle: transformed(sphere(0.5, 32), [-0.7, 0.5, 0]),
    float: transformed(sphere(0.45, 32), [0.6, 0.45, 0.5]),
  },
  materials: {
    floor: { base_color: [0.6, 0.55, 0.5], specular_roughness: 0.4 },
    wall: { base_color: [0.08, 0.1, 0.12], specular_roughness: 0.3 },
    kettle: { base_color: [0.9, 0.6, 0.3], base_metalness: 1, specular_roughness: 0.35 },
    float: { base_color: [1, 1, 1], specular_roughness: 0.25, transmission_weight: 1 },
  },
  lights: [
    { kind: 'sphere', name: 'bulb', group: 'bulb', power: 25, position: [1.2, 2, 1], radius: 0.25 },
    { kind: 'sphere', name: 'pilot', group: 'pilot', power: 0.2, position: [-1.2, 1, 1], radius: 0.1 },
  ],
  environment: [0.15, 0.2, 0.3],
  fog: { density: 0.05, albedo: [0.9, 0.9, 0.9] },
  camera: { position: [0, 1.3, 4.5], target: [0, 0.6, 0], focalLengthMm: 30 },
};

const shell = { meshes: { ...scene.meshes, shell: sphere(8, 32) } };

/** Under an open sky paths end by themselves, and roulette leaves them more time. */
test.each([
  ['under an open sky', scene, 0, 0.9],
  ['under an open sky, far underexposed, so that every light sample is dim', scene, 9, 0.75],
  ['in a shell', { ...scene, ...shell }, 0, 0.5],
])('light is the same with fewer rays: %s', async (_, t, ev100, most) => {
  const exposed = { ...t, camera: { ...t.camera, exposure: { ev100, stops: 0 } } };
  const [few, all] = [await measureTest(exposed, 256, early), await measureTest(exposed, 256, never)];
  expect(all.mean).toBeGreaterThan(0.05);
  expect(Math.abs(few.mean - all.mean)).toBeLessThan(Math.hypot(few.error, all.error));
  expect(totalRays(few)).toBeLessThan(most * totalRays(all));
});

test('a lamp whose every sample is dim keeps its light', async () => {
  const alone = { ...scene, lights: scene.lights!.slice(1), environment: null };
  const [few, all] = [await measureTest(alone, 512, early), await measureTest(alone, 512, never)];
  expect(few.error / few.mean).toBeLessThan(0.1);
  expect(Math.abs(few.mean - all.mean)).toBeLessThan(Math.hypot(few.error, all.error));
});
