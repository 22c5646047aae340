import { renderTest, testRecipe, testScene } from '@/render/testing';
import { plane, sphere, transformed } from '../scene';
import { evaluate, sourcesOf, stackAt } from '.';

/** A black ball, so that no light of it falls on the floor, over a floor in the light of one lamp and a sky. */
const shared = {
  meshes: { floor: plane(8, 8), ball: transformed(sphere(0.6, 24), [0, 0.7, 0]) },
  materials: { ball: { base_color: [0, 0, 0], specular_weight: 0 } },
  camera: { position: [0, 2, 4], target: [0, 0.4, 0] },
  lights: [{ kind: 'sphere', name: 'lamp', position: [2, 3, 1], radius: 0.3, power: 200 }],
  // Not seen: a plate brings its own sky.
  environment: {
    kind: 'gradient',
    group: 'sky',
    zenith: [0.3, 0.3, 0.3],
    horizon: [0.3, 0.3, 0.3],
    ground: [0.3, 0.3, 0.3],
    gains: { seen: 0 },
  },
};
const features = ['alpha', 'shadow'];
const recipe = testRecipe(32, 128, { rayDepth: { all: 0 }, film: { features } });

test('a ball with the shadow that a catcher took, over a plate, is the picture of both within four standard errors', async () => {
  const full = (await renderTest(testScene(shared as never), recipe)).layers;
  const { ball: _ball, ...alone } = shared.meshes;
  const bare = { ...shared, meshes: alone, materials: {} };
  const plate = (await renderTest(testScene(bare as never), recipe)).layers;
  const caught = testScene({ ...shared, rules: { floor: { role: 'catcher' } } } as never);
  const ball = (await renderTest(caught, recipe)).layers;
  const film = (name: string, layer: string) => ({ kind: 'layer', source: { from: 'film', film: name, layer } });
  const stack = stackAt({ entries: [film('plate', 'beauty'), film('ball', 'shadow'), film('ball', 'beauty')] }, 1);
  const read = {
    films: new Map([
      ['plate', plate],
      ['ball', ball],
    ]),
    pictures: new Map(),
    tables: new Map(),
    space: 'Rec.709' as const,
  };
  const out = evaluate(stack, sourcesOf(read));
  const [a, b] = ['half_a', 'half_b'].map((h) => full.layers.get(h)!.planes[1]);
  const whole = full.layers.get('beauty')!.planes[1];
  // Both pictures and the shadow have such noise: of the difference of means about twice that of one.
  const error = (2 * Math.sqrt(a.reduce((s, v, i) => s + (v - b[i]) ** 2 / 4, 0))) / a.length;
  const mean = (p: Float32Array) => p.reduce((s, v) => s + v, 0) / p.length;
  expect(mean(plate.layers.get('beauty')!.planes[1]) - mean(whole)).toBeGreaterThan(20 * error);
  expect(Math.abs(mean(out.planes[1]) - mean(whole))).toBeLessThan(4 * error + 1e-6);
});
