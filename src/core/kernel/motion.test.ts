import { filmHash } from '@/render/node/film-digest';
import { RenderPool } from '@/render/pool/pool';
import { spawnInline } from '@/render/pool/spawn-inline';
import { type TestScene, testKernel, testRecipe, testScene } from '@/render/testing';
import { makeLayers } from '../film';
import type { Recipe } from '../recipe';
import { box, plane, type Scene, sceneSchema, sphere, transformed } from '../scene';
import { sceneAt } from '../scene/shape/animate';

/** What moves while the shutter is open, against pictures of the moments between. */
const SIZE = 32;
/** Pixels across where lights move: none of their edges is in the picture. */
const SMALLER = 20;
type Key = { frame: number; transform: number[] };
const move = (x: number, y: number, z: number) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, z, 1];
const turn = (degrees: number, x = 0) => {
  const a = (degrees * Math.PI) / 180;
  return [Math.cos(a), Math.sin(a), 0, 0, -Math.sin(a), Math.cos(a), 0, 0, 0, 0, 1, 0, x, 0, 0, 1];
};

function animated(
  t: TestScene,
  motion: Record<string, { motion?: Key[]; shapes?: { frame: number; mesh: string }[]; rules?: object }>,
): Scene {
  const scene = testScene(t);
  const objects = scene.document.objects
    .filter((o) => !o.name.startsWith('shape '))
    .map((o) => ({ ...o, ...motion[o.name] }));
  return { ...scene, document: sceneSchema.parse({ ...scene.document, objects }) };
}

async function renderIn(pool: RenderPool, scene: Scene, recipe: Recipe, frame: number) {
  const camera = scene.document.cameras[0];
  await pool.load(scene, recipe, camera, frame);
  const { film } = await pool.render(scene, recipe, camera, { frame });
  return { film, layers: makeLayers(film) };
}
async function render(scene: Scene, recipe: Recipe, frame = 1, threads = 1) {
  const pool = new RenderPool(testKernel(), spawnInline, threads);
  const made = await renderIn(pool, scene, recipe, frame);
  pool.close();
  return made;
}

const still = { camera: { motionBlur: false } };
/** Mean of a layer over pictures of `count` moments of the shutter, each still. */
async function meanOfMoments(
  scene: Scene,
  layer: string,
  count: number,
  samples: number,
  size: number,
): Promise<Float32Array> {
  const sum = new Float32Array(size * size);
  const pool = new RenderPool(testKernel(), spawnInline, 1);
  for (let i = 0; i < count; i++) {
    const { layers } = await renderIn(
      pool,
      scene,
      testRecipe(size, samples, { ...still, sampling: { seed: i } }),
      1 - 0.25 + (0.5 * (i + 0.5)) / count,
    );
    layers.layers.get(layer)!.planes[0].forEach((v, k) => {
      sum[k] += v / count;
    });
  }
  pool.close();
  return sum;
}
async function expectMoments(scene: Scene, layer: string, tolerance: number, samples = 4, moments = 36, size = SIZE) {
  const { layers } = await render(scene, testRecipe(size, 64 * samples));
  const blurred = layers.layers.get(layer)!.planes[0];
  const truth = await meanOfMoments(scene, layer, moments, samples, size);
  const one = (await render(scene, testRecipe(size, 16, still))).layers.layers.get(layer)!.planes[0];
  const off = (plane: Float32Array) => Math.sqrt(plane.reduce((sum, v, i) => sum + (v - truth[i]) ** 2, 0));
  expect(off(one)).toBeGreaterThan(0);
  expect(off(blurred) / off(one)).toBeLessThan(tolerance);
}

const card = box(1, 1, 0.01);
const camera = { position: [0, 0, 5], target: [0, 0, 0], focalLengthMm: 50 };
const sky: TestScene['environment'] = [1, 1, 1];

test('an edge that moves evenly across pixels covers each by the time it is over it', async () => {
  const scene = animated(
    { meshes: { card: box(4, 8, 0.001) }, environment: sky, camera },
    {
      card: {
        motion: [
          { frame: 0.5, transform: move(-2.5, 0, 0) },
          { frame: 1.5, transform: move(-1.5, 0, 0) },
        ],
      },
    },
  );
  const { layers } = await render(scene, testRecipe(SIZE, 512));
  const alpha = layers.layers.get('alpha')!.planes[0];
  // Over half a frame the edge goes from −0.25 m to 0.25 m; the picture is 3.6 m wide there.
  for (let x = 0; x < SIZE; x++) {
    const at = (((x + 0.5) / SIZE) * 2 - 1) * 1.8;
    const mean = Array.from({ length: SIZE }, (_, y) => alpha[y * SIZE + x]).reduce((a, b) => a + b, 0) / SIZE;
    const inside = Math.abs(at) < 0.25 - 0.06;
    const truth = Math.min(1, Math.max(0, (0.25 - at) / 0.5));
    if (inside || Math.abs(at) > 0.25 + 0.06) expect(Math.abs(mean - truth)).toBeLessThan(0.01);
  }
});

/** Stands until three tenths of the shutter, then goes half a metre: keys that even steps over the shutter would miss. */
const standingStart = (place: (x: number) => number[]) => [
  { frame: 0, transform: place(0) },
  { frame: 0.9, transform: place(0) },
  { frame: 1.25, transform: place(0.5) },
];
const coverage = (layers: Awaited<ReturnType<typeof render>>['layers']) => {
  const alpha = layers.layers.get('alpha')!.planes[0];
  return Array.from({ length: SIZE }, (_, x) => ({
    at: (((x + 0.5) / SIZE) * 2 - 1) * 1.8,
    mean: Array.from({ length: SIZE }, (_, y) => alpha[y * SIZE + x]).reduce((a, b) => a + b, 0) / SIZE,
  })).filter(({ at }) => Math.abs(Math.abs(at) - 0.25) > 0.06);
};
const passed = (at: number) => 0.7 * Math.min(1, Math.max(0, (0.25 - at) / 0.5)) + (at < -0.25 ? 0.3 : 0);

test('a key within the shutter is kept to: a standing start covers each pixel by the time it is over it', async () => {
  const scene = animated(
    { meshes: { card: box(4, 8, 0.001) }, environment: sky, camera },
    { card: { motion: standingStart((x) => move(-2.25 + x, 0, 0)) } },
  );
  for (const { at, mean } of coverage((await render(scene, testRecipe(SIZE, 512))).layers))
    expect(Math.abs(mean - passed(at))).toBeLessThan(0.01);
});

test('so do surfaces and cameras', async () => {
  const bent = animated(
    {
      meshes: {
        card: box(4, 8, 0.001),
        'shape 0': transformed(box(4, 8, 0.001), [-2.25, 0, 0]),
        'shape 1': transformed(box(4, 8, 0.001), [-1.75, 0, 0]),
      },
      environment: sky,
      camera,
    },
    {
      card: {
        shapes: [
          { frame: 0, mesh: 'shape 0' },
          { frame: 0.9, mesh: 'shape 0' },
          { frame: 1.25, mesh: 'shape 1' },
        ],
      },
    },
  );
  const motion = standingStart((x) => [x]).map(({ frame, transform: [x] }) => ({
    frame,
    position: [-x, 0, 5],
    target: [-x, 0, 0],
  }));
  const still = transformed(box(4, 8, 0.001), [-2.25, 0, 0]);
  const filmed = testScene({ meshes: { still }, environment: sky, camera: { ...camera, motion } });
  for (const scene of [bent, filmed])
    for (const { at, mean } of coverage((await render(scene, testRecipe(SIZE, 512))).layers))
      expect(Math.abs(mean - passed(at))).toBeLessThan(0.01);
});

test.each<[string, TestScene, Parameters<typeof animated>[1], string, number]>([
  [
    'a turning card',
    { meshes: { card: transformed(card, [0.7, 0, 0]) }, environment: sky, camera },
    {
      card: {
        motion: [
          { frame: 0, transform: turn(-90) },
          { frame: 2, transform: turn(90) },
        ],
      },
    },
    'alpha',
    0.12,
  ],
  [
    'the shadow of what moves',
    {
      meshes: { floor: plane(6, 6), ball: sphere(0.3, 24) },
      lights: [{ kind: 'point', name: 'p', power: 20, position: [0, 3, 0] }],
      camera: { position: [0, 4, 0.001], target: [0, 0, 0], up: [0, 0, -1] },
    },
    {
      ball: {
        motion: [
          { frame: 0, transform: move(-2, 1, 0) },
          { frame: 2, transform: move(2, 1, 0) },
        ],
      },
    },
    'beauty',
    0.12,
  ],
  [
    'a glowing thing that moves, and the light it sends',
    {
      meshes: { floor: plane(6, 6), ball: sphere(0.3, 24) },
      materials: { ball: { emission_luminance: 3 } },
      camera: { position: [0, 4, 0.001], target: [0, 0, 0], up: [0, 0, -1] },
    },
    {
      ball: {
        motion: [
          { frame: 0, transform: move(-2, 0.6, 0) },
          { frame: 2, transform: move(2, 0.6, 0) },
        ],
      },
    },
    'beauty',
    0.12,
  ],
  [
    'a surface that changes shape, by three keys',
    {
      meshes: { card, 'shape b': transformed(box(2, 0.4, 0.01), [0.6, 0, 0]), 'shape c': box(0.4, 2, 0.01) },
      environment: sky,
      camera,
    },
    {
      card: {
        shapes: [
          { frame: 0.6, mesh: 'card' },
          { frame: 1.05, mesh: 'shape b' },
          { frame: 1.4, mesh: 'shape c' },
        ],
      },
    },
    'alpha',
    0.12,
  ],
  [
    'glass that changes shape and turns, seen through',
    {
      meshes: { card: sphere(0.8, 24), 'shape b': transformed(sphere(0.8, 24), [0.5, 0.2, 0]) },
      materials: { card: { transmission_weight: 1, specular_roughness: 0 } },
      environment: { kind: 'gradient', zenith: [2, 2, 2], horizon: [1, 1, 1], ground: [0, 0, 0] },
      camera,
    },
    {
      card: {
        motion: [
          { frame: 0, transform: turn(-60) },
          { frame: 2, transform: turn(60) },
        ],
        shapes: [
          { frame: 0.5, mesh: 'card' },
          { frame: 1.5, mesh: 'shape b' },
        ],
      },
    },
    'beauty',
    0.2,
  ],
])('%s is the mean of its moments', async (_, t, motion, layer, tolerance) => {
  await expectMoments(animated(t, motion), layer, tolerance);
});

describe('lights that move', () => {
  const floor = { meshes: { card: box(0.2, 0.2, 0.2), floor: transformed(box(8, 8, 0.01), [0, 0, -1]) }, camera };
  const swing = {
    card: {
      motion: [
        { frame: 0.6, transform: turn(-50, -1) },
        { frame: 1.1, transform: turn(20, 0.5) },
        { frame: 1.4, transform: turn(80, 1) },
      ],
    },
  };
  const lamp = { name: 'lamp', power: 30, visible: false };
  const spot = { kind: 'spot', ...lamp, position: [0.4, 0.2, 0.6], facing: [0.3, 0, -1], coneDegrees: 50 };
  const panel = {
    kind: 'rectangle',
    ...lamp,
    position: [0.5, 0, 0.4],
    facing: [0.4, 0.2, -1],
    width: 0.5,
    height: 0.2,
  };
  const ball = { kind: 'sphere', ...lamp, position: [0.6, 0.1, 0.1], radius: 0.2, visible: true };
  const keys = [
    { frame: 0.5, position: [-1.5, 0, 0.8], facing: [-0.5, 0, -1] },
    { frame: 1.05, position: [1, 0.5, 0.8], facing: [0.5, 0, -1] },
    { frame: 1.5, position: [1.4, -0.4, 1.2], facing: [0, 0.5, -1] },
  ];

  test.each([
    ['a spot on a turning thing', [{ ...spot, parent: 'card' }], swing],
    ['a panel on a turning thing', [{ ...panel, parent: 'card' }], swing],
    ['a ball that is seen, on a turning thing', [{ ...ball, parent: 'card' }], swing],
    // What is followed must not stand in its light's way.
    [
      'a panel that follows a thing',
      [{ ...panel, follow: 'card', spreadDegrees: 90 }],
      { card: { ...swing.card, rules: { seenBy: { shadow: false } } } },
      32,
      0.5,
    ],
    ['a spot with keys of its own', [{ ...spot, motion: keys }], {}],
    [
      'a sun with keys of its own',
      [
        {
          kind: 'distant',
          ...lamp,
          facing: [0, 0, -1],
          angleDegrees: 2,
          motion: keys.map(({ frame, facing }) => ({ frame, facing })),
        },
      ],
      {},
    ],
    [
      'one of several, on a thing and with keys of its own',
      [
        { ...spot, parent: 'card', motion: keys.map((k) => ({ ...k, position: k.position.map((c) => c / 2) })) },
        { ...ball, name: 'other', position: [-2, 2, 0], power: 0.5 },
      ],
      swing,
      16,
      0.3,
    ],
  ] as [string, object[], Parameters<typeof animated>[1], number?, number?][])(
    '%s: the picture is the mean of its moments',
    async (_, lights, motion, samples = 8, tolerance = 0.15) => {
      await expectMoments(
        animated({ ...floor, lights: lights as TestScene['lights'] }, motion),
        'beauty',
        tolerance,
        samples,
        32,
        SMALLER,
      );
    },
  );

  test('stay as they are without motion blur, and in what the tree thinks of them', async () => {
    const scene = animated({ ...floor, lights: [{ ...spot, parent: 'card' }] }, swing);
    const moment = await render(scene, testRecipe(SIZE, 4, still), 1.1);
    const posed = sceneAt(scene, 1.1, null);
    expect(filmHash((await render(posed, testRecipe(SIZE, 4, still))).film)).toBe(filmHash(moment.film));
  });
});

test('a moving camera is the mean of its moments', async () => {
  const scene = testScene({
    meshes: { card },
    environment: sky,
    camera: {
      ...camera,
      motion: [
        { frame: 0, position: [-2, 0, 5], target: [-2.4, 0, 0] },
        { frame: 2, position: [2, 0, 5], target: [2.4, 0, 0], up: [0.3, 1, 0] },
      ],
    },
  });
  await expectMoments(scene, 'alpha', 0.1);
});

describe('motion vectors', () => {
  const features = { film: { features: ['motion', 'alpha', 'depth'] } };
  const middle = (SIZE / 2) * SIZE + SIZE / 2;
  const vectors = async (scene: Scene, change = features) => {
    const { layers } = await render(scene, testRecipe(SIZE, 4, change));
    return layers.layers.get('motion')!.planes;
  };
  /** Pixels a metre at 5 m from the camera. */
  const scale = SIZE / 3.6;

  test.each([true, false])(
    'of what moves across the picture and towards the camera, motion blur %s',
    async (motionBlur) => {
      const across = animated(
        { meshes: { card: box(3, 3, 0.002) }, camera },
        {
          card: {
            motion: [
              { frame: 1, transform: move(0, 0, 0) },
              { frame: 2, transform: move(0.4, 0.2, 0) },
            ],
          },
        },
      );
      const [x, y] = await vectors(across, { ...features, camera: { motionBlur } } as typeof features);
      expect(x[middle]).toBeCloseTo(0.4 * scale, 1);
      expect(y[middle]).toBeCloseTo(-0.2 * scale, 1);
      const nearer = animated(
        { meshes: { card: box(6, 6, 0.002) }, camera },
        {
          card: {
            motion: [
              { frame: 1, transform: move(0, 0, 0) },
              { frame: 2, transform: move(0, 0, 1) },
            ],
          },
        },
      );
      const [out] = await vectors(nearer, { ...features, camera: { motionBlur: false } } as typeof features);
      const at = middle + 8;
      // 8.5 pixels from the middle at 5 m are 8.5 · 5/4 at 4 m.
      expect(Math.abs(out[at] - 8.5 / 4)).toBeLessThan(0.2);
    },
  );

  test('of a turning card, of one that changes shape, and of the camera', async () => {
    const turning = animated(
      { meshes: { card: box(3, 3, 0.002) }, camera },
      {
        card: {
          motion: [
            { frame: 0, transform: turn(-10) },
            { frame: 2, transform: turn(10) },
          ],
        },
      },
    );
    const [, y] = await vectors(turning, { ...features, camera: { motionBlur: false } } as typeof features);
    const at = middle + 10;
    expect(Math.abs(y[at] + 10.5 * Math.sin((10 * Math.PI) / 180))).toBeLessThan(0.15);
    const wide = box(3, 3, 0.002);
    const changing = animated(
      {
        meshes: {
          card: wide,
          'shape b': { ...wide, positions: wide.positions.map((v, i) => (i % 3 === 0 ? v * 1.2 : v)) },
        },
        camera,
      },
      {
        card: {
          shapes: [
            { frame: 1, mesh: 'card' },
            { frame: 2, mesh: 'shape b' },
          ],
        },
      },
    );
    const [x] = await vectors(changing, { ...features, camera: { motionBlur: false } } as typeof features);
    expect(Math.abs(x[at] - 10.5 * 0.2)).toBeLessThan(0.1);
    const panned = testScene({
      meshes: { card: box(8, 8, 0.002) },
      camera: {
        ...camera,
        motion: [
          { frame: 1, position: [0, 0, 5], target: [0, 0, 0] },
          { frame: 2, position: [0.5, 0, 5], target: [0.5, 0, 0] },
        ],
      },
    });
    const [left] = await vectors(panned);
    expect(left[middle]).toBeCloseTo(-0.5 * scale, 1);
  });
});

test('threads, frames one after another, and a switch back give the bits of a scene loaded for them', async () => {
  const scene = animated(
    { meshes: { card, floor: plane(4, 4) }, environment: sky, camera },
    {
      card: {
        motion: [
          { frame: 1, transform: turn(0, -0.5) },
          { frame: 3, transform: turn(80, 0.5) },
        ],
      },
    },
  );
  const recipe = testRecipe(SIZE, 4);
  const cam = scene.document.cameras[0];
  const alone = async (frame: number, threads: number, change = {}) =>
    filmHash((await render(scene, testRecipe(SIZE, 4, change), frame, threads)).film);
  const pool = new RenderPool(testKernel(), spawnInline, 2);
  await pool.load(scene);
  const hashes: string[] = [];
  for (const frame of [1, 2, 3, 1]) hashes.push(filmHash((await pool.render(scene, recipe, cam, { frame })).film));
  const off = testRecipe(SIZE, 4, still);
  hashes.push(filmHash((await pool.render(scene, off, cam, { frame: 2 })).film));
  pool.close();
  const one = await alone(1, 1);
  expect(hashes).toEqual([one, await alone(2, 2), await alone(3, 1), one, await alone(2, 1, still)]);
});

test('each frame has random numbers of its own unless the seed is locked', async () => {
  const scene = testScene({ meshes: { floor: plane(4, 4) }, environment: sky, camera });
  const hash = async (frame: number, seedLocked: boolean) =>
    filmHash((await render(scene, testRecipe(16, 2, { sampling: { seedLocked } }), frame)).film);
  expect(await hash(1, false)).not.toBe(await hash(2, false));
  expect(await hash(1, true)).toBe(await hash(2, true));
});

test('an animated scene has known placements: even turns, straight ways, ends kept', () => {
  const scene = animated(
    { meshes: { card } },
    {
      card: {
        motion: [
          { frame: 1, transform: turn(0) },
          { frame: 2, transform: turn(90, 2) },
        ],
      },
    },
  );
  const at = (frame: number) => sceneAt(scene, frame, null).document.objects[0].transform!;
  const close = (a: readonly number[], b: readonly number[]) =>
    a.forEach((v, i) => {
      expect(v).toBeCloseTo(b[i], 6);
    });
  close(at(1.5), turn(45, 1));
  close(at(0), turn(0));
  close(at(7), turn(90, 2));
  const poses = sceneAt(scene, 1.5, { open: -0.5, close: 0.5 }).poses!.get(0)!;
  expect(poses.steps.length).toBeGreaterThanOrEqual(10);
  close(poses.next, turn(90, 2));
});
