import { renderTest, testRecipe, testScene } from '@/render/testing';
import { OBJECT_COLUMNS, TABLE } from '../kernel';
import { plane, sphere, transformed } from '../scene';
import { noiseSquares } from '../stats';
import { halvesOf, measureFilm } from '.';
import { seenWeight2 } from './cell-error';

test('an object’s share of the noise is its share of what is printed, dark things before bright ones too', async () => {
  const scene = testScene({
    meshes: { wall: transformed(plane(12, 12), [0, 0, 0]), ball: transformed(sphere(0.9, 48), [0, 1.2, 0]) },
    materials: {
      wall: { base_color: [0.9, 0.9, 0.9], specular_weight: 0 },
      ball: { base_color: [0.06, 0.06, 0.06], base_metalness: 1, specular_roughness: 0.5 },
    },
    lights: [
      { kind: 'rectangle', name: 'r', power: 20, width: 3, height: 3, position: [3, 5, 2], facing: [-0.5, -1, -0.3] },
    ],
    camera: { position: [0, 6, 0.01], target: [0, 0, 0], up: [0, 0, -1], focalLengthMm: 50 },
  });
  const recipe = testRecipe(48, 32, { film: { features: ['coverage'] } });
  const { film, layers } = await renderTest(scene, recipe);
  const { a, b } = halvesOf(film);
  const squares = noiseSquares(a, b, 1);
  const [id, covered] = layers.layers.get('coverage')!.planes;
  const [ball, whole] = [0, 0].map((_, k) =>
    squares.reduce((sum, v, i) => sum + (k === 1 || (id[i] === 2 && covered[i] === 1) ? v : 0), 0),
  );
  const said = measureFilm(film, 1).objects!.find((o) => o.object === 'ball')!;
  const truth = ball / whole;
  const plain = [0, 0];
  for (let t = 0; t < film.tileCount; t++)
    for (let r = 0; r < 256; r++) {
      const k = film.tables(t)[TABLE.objects + r * OBJECT_COLUMNS.length] * seenWeight2(film, t, 1);
      plain[0] += r === 1 ? k : 0;
      plain[1] += k;
    }
  // By the cell's weight alone it is told far too little.
  expect(plain[0] / plain[1]).toBeLessThan(0.65 * truth);
  expect(truth).toBeGreaterThan(0.05);
  expect(Math.abs(said.noise - truth)).toBeLessThan(0.35 * truth);
});
