import { measureTest, type TestScene } from '@/render/testing';
import { box, plane, sphere, transformed } from '../scene';
import { STUDY } from './layout';

/** Our techniques against each poorer one alone: the same light, less noise. */
const room: TestScene = {
  meshes: { ground: plane(6, 6), ball: transformed(sphere(0.5, 48), [0, 0.5, 0]) },
  materials: {
    ground: { base_color: [0.6, 0.6, 0.6], specular_roughness: 0.15, base_metalness: 0.5 },
    ball: { base_color: [0.9, 0.7, 0.4], base_metalness: 1, specular_roughness: 0.4 },
  },
  lights: [
    { kind: 'rectangle', name: 'panel', power: 4, position: [0, 2.5, -1], facing: [0, -1, 0.4], width: 2, height: 1 },
    { kind: 'sphere', name: 'bulb', power: 200, position: [1.5, 1.5, 1], radius: 0.12 },
    ...[-8, -4, 4, 8].map((x) => ({ kind: 'sphere', name: `far ${x}`, power: 20, position: [x, 6, -8], radius: 0.2 })),
  ],
  camera: { position: [0, 1.2, 3.5], target: [0, 0.4, 0], focalLengthMm: 28 },
  fog: { density: 0.3, radiusMetres: 12 },
};

const measure = (study: number) => measureTest(room, 256, { rayDepth: { all: 2, fog: 0 } }, { size: 32, study });

let ours: Awaited<ReturnType<typeof measure>>;
beforeAll(async () => {
  ours = await measure(0);
});

test.each(Object.entries(STUDY))('%s gives the same light, with more noise', async (_, flag) => {
  const other = await measure(flag);
  expect(Math.abs(other.mean - ours.mean)).toBeLessThan(other.error + ours.error);
  expect(other.error).toBeGreaterThan(ours.error);
});

test.each([0.1, 0.3, 0.6])(
  'rough solid glass of %f is as quiet as a pane, since each facet decides its lobe',
  async (roughness) => {
    const deviation = async (mesh: ReturnType<typeof sphere>, thin: boolean) => {
      const { error, mean } = await measureTest(
        {
          meshes: { m: mesh },
          materials: { m: { transmission_weight: 1, specular_roughness: roughness, geometry_thin_walled: thin } },
          environment: [1, 1, 1],
          camera: { position: [0.3, 1, 4], target: [0, 0, 0], focalLengthMm: 120 },
        },
        256,
        { rayDepth: { all: 40, reflection: 40, transmission: 40 } },
      );
      return error / mean;
    };
    const pane = await deviation(box(2, 2, 0.001), true);
    for (const solid of [sphere(1, 48), box(2, 2, 2)]) expect(await deviation(solid, false)).toBeLessThan(2 * pane);
  },
);
