import { renderTest, type TestScene, testRecipe, testScene } from '@/render/testing';
import { type Mesh, sphere } from '../scene';

/** Input that no one means: a clear error, or a picture of finite numbers. */
const sky: TestScene['environment'] = [1, 1, 1];
const render = (t: TestScene) => renderTest(testScene(t), testRecipe(16, 8));
const ball = sphere(1, 24);

async function finite(t: TestScene) {
  const { layers, film } = await render(t);
  for (const layer of layers.layers.values()) {
    if (layer.name === 'depth') continue;
    for (const plane of layer.planes) expect(plane.every(Number.isFinite)).toBe(true);
  }
  expect(film.invalidCount()).toBe(0);
  return layers;
}

test.each([Number.NaN, Infinity])('a vertex at %f is refused by mesh and vertex', async (bad) => {
  const positions = ball.positions.slice();
  positions[3 * 7 + 1] = bad;
  await expect(render({ meshes: { buoy: { ...ball, positions } } })).rejects.toThrow(
    'mesh buoy: vertex 7 has a position that is no finite number',
  );
});

test('triangles without area, one behind another, and normals of length zero are harmless', async () => {
  const flat: Mesh = {
    positions: new Float32Array([0, 0, 1.2, 0, 0, 1.2, 0, 0, 1.2, -1, 0, 1.1, 0, 0, 1.1, 1, 0, 1.1]),
    normals: new Float32Array(18),
    indices: Uint32Array.from([0, 1, 2, 3, 4, 5]),
  };
  const blank: Mesh = { ...ball, normals: new Float32Array(ball.normals.length) };
  const layers = await finite({ meshes: { flat, blank, twin: blank }, environment: sky });
  expect(Math.max(...layers.layers.get('beauty')!.planes[1])).toBeGreaterThan(0.1);
});

test('an emitter without area gives no light', async () => {
  const point: Mesh = { ...ball, positions: new Float32Array(ball.positions.length) };
  await finite({ meshes: { ball, point }, materials: { point: { emission_luminance: 100 } }, environment: sky });
});

test('lights in a surface, on one another and about the camera', async () => {
  const at = (position: number[], radius: number) => ({
    kind: 'sphere',
    name: `l${radius}`,
    power: 10,
    position,
    radius,
  });
  await finite({
    meshes: { ball },
    lights: [
      at([0, 0, 1], 0.5),
      at([0, 0, 1], 0.25),
      at([0, 0, 5], 2),
      { kind: 'point', name: 'p', power: 3, position: [0, 1, 0] },
    ],
    fog: { density: 0.2 },
  });
});

test('a light without size is refused by the schema, one that follows a flat object by its name', async () => {
  expect(() =>
    testScene({ lights: [{ kind: 'sphere', name: 'l', power: 1, position: [0, 0, 0], radius: 0 }] }),
  ).toThrow();
  const nothing: Mesh = { ...ball, positions: new Float32Array(ball.positions.length) };
  const light = { kind: 'sphere', name: 'follower', power: 1, position: [0, 0, 0], radius: 1, follow: 'nothing' };
  await expect(render({ meshes: { nothing }, lights: [light] })).rejects.toThrow('light follower: it has no size');
});

test('a camera inside glass, inside milk glass, and with its eye on a surface', async () => {
  const glass = { transmission_weight: 1, specular_roughness: 0 };
  const milk = { ...glass, transmission_depth: 0.5, transmission_scatter: [0.9, 0.9, 0.9] };
  for (const material of [glass, milk, {}]) {
    for (const position of [
      [0, 0, 0.2],
      [0, 0, 1],
    ])
      await finite({
        meshes: { ball },
        materials: { ball: material },
        environment: sky,
        camera: { position, target: [0, 0, -5] },
      });
  }
});
