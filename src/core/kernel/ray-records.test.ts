import { testKernel, testRecipe, testScene } from '@/render/testing';
import { Film, makeSpec } from '../film';
import { plane, sphere } from '../scene';
import { Kernel, prepareScene } from '.';
import { scratchBytes } from './bindings';

test('rays that a study has written down are those that the film counts, and writing them changes nothing', () => {
  const scene = testScene({
    meshes: { floor: plane(6, 6), ball: sphere(0.5, 24) },
    lights: [{ kind: 'point', name: 'lamp', power: 20, position: [0.5, 2, 1] }],
    environment: [0.2, 0.3, 0.4],
    camera: { position: [0, 1, 4], target: [0, 0, 0] },
  });
  const recipe = testRecipe(32, 2, { rayDepth: { all: 3 } });
  const prepared = prepareScene(testKernel(), scene, 2000, 2);
  const { memory, end, plan } = prepared;
  const kernel = new Kernel(testKernel(), memory);
  const spec = makeSpec(recipe, scene.document);
  const at = end + scratchBytes(400, plan.posedBytes);
  const render = (rayRecords?: { at: number; most: number }) => {
    kernel.bind(end, recipe, scene.document.cameras[0], spec.groups.length, spec.planes, { rayRecords });
    const film = new Film(spec);
    for (let t = 0; t < film.tileCount; t++) {
      const { x, y, w, h } = film.place(t);
      kernel.renderTile(film.record(t), x, y, w, h, 0, 2);
      film.samples[t] = 2;
    }
    return film;
  };
  const plain = render();
  expect(kernel.rayRecords()).toBe(0);
  const film = render({ at, most: 100000 });
  const count = kernel.rayRecords();
  const { total, shadow } = film.rays();
  expect([count, count > 1000]).toEqual([total, true]);
  const rays = new Float32Array(memory.buffer, at, count * 8).slice();
  const asks = rays.filter((_, i) => i % 8 === 7);
  expect([asks.filter((v) => v === 1).length, asks.filter((v) => v === 0).length]).toEqual([shadow, total - shadow]);
  for (let i = 0; i < count; i++)
    expect(Math.hypot(rays[i * 8 + 3], rays[i * 8 + 4], rays[i * 8 + 5])).toBeCloseTo(1, 4);
  for (let t = 0; t < film.tileCount; t++) expect(film.floats(t)).toEqual(plain.floats(t));
  // What finds no room is left out.
  render({ at, most: 10 });
  expect(kernel.rayRecords()).toBe(10);
});
