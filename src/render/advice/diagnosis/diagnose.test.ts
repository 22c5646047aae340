import { makeWorld } from '@/core/kernel';
import type { Recipe } from '@/core/recipe';
import { box, plane, type SceneDocument, sphere, transformed } from '@/core/scene';
import { RenderPool } from '../../pool/pool';
import { spawnInline } from '../../pool/spawn-inline';
import { type TestScene, testKernel, testRecipe, testScene } from '../../testing';
import { type Diagnosis, diagnose } from './diagnose';
import { fixRecipe, fixScene } from './fix';
import { lightEffects } from './light-effects';

const pool = new RenderPool(testKernel(), spawnInline, 1);
afterAll(() => pool.close());

/** A ball on a floor under a lamp, rightly exposed. */
const stage = (change: Partial<TestScene> = {}): TestScene => ({
  meshes: { floor: plane(8, 8), ball: transformed(sphere(0.7, 24), [0, 0.7, 0]) },
  lights: [lamp()],
  camera: { position: [0, 1.6, 5], target: [0, 0.5, 0], exposure: { ev100: null, stops: 0 } },
  ...change,
});
const lamp = (change: object = {}): Record<string, unknown> => ({
  kind: 'rectangle' as const,
  name: 'lamp',
  group: 'lamp',
  position: [1.5, 4, 2],
  facing: [-1.5, -4, -2],
  width: 1,
  height: 1,
  power: 25,
  ...change,
});

interface Case {
  t: TestScene;
  edit?: (d: SceneDocument) => SceneDocument;
  recipe?: Record<string, unknown>;
  /** The pool holds another scene, as when this one cannot be loaded. */
  unloaded?: boolean;
}

async function diagnosed({
  t,
  edit = (d) => d,
  recipe = {},
  unloaded = false,
}: Case): Promise<{ d: Diagnosis; document: SceneDocument; r: Recipe }> {
  const scene = testScene(t);
  const document = edit(scene.document);
  const r = testRecipe(64, 8, recipe);
  const sceneOf = async (changed: SceneDocument) => ({ ...scene, document: changed });
  if (!unloaded) await pool.load({ ...scene, document });
  const d = await diagnose(pool, sceneOf, { document, recipe: r, camera: document.cameras[0].name, frame: 1 });
  return { d, document, r };
}

const camera = (change: object) => (d: SceneDocument) => ({ ...d, cameras: [{ ...d.cameras[0], ...change }] });

const cases: Record<string, Case & { code: string; words?: RegExp; brighter?: number; darker?: number }> = {
  'no light at all': { t: stage({ lights: [] }), code: 'no-light', brighter: 3 },
  'a lamp that is off': { t: stage({ lights: [lamp({ on: false })] }), code: 'light-off', brighter: 3 },
  'a lamp without power': { t: stage({ lights: [lamp({ power: 0 })] }), code: 'light-weak', brighter: 3 },
  'a lamp that lights only the ball’s neighbour': {
    t: stage({ lights: [lamp({ exclude: ['floor', 'ball'] })] }),
    code: 'light-excluded',
    words: /does not light floor, ball/,
    brighter: 3,
  },
  'a lamp behind a lid': {
    t: stage({
      meshes: { ...stage().meshes, lid: transformed(box(3, 0.02, 3), [1.4, 3.6, 1.8]) },
    }),
    code: 'light-blocked',
    words: /^lid stands between lamp/,
    brighter: 2,
  },
  'a lamp facing away': { t: stage({ lights: [lamp({ facing: [1, 4, 2] })] }), code: 'light-faces-away', brighter: 3 },
  'glass that ends the path': {
    t: stage({
      meshes: { ...stage().meshes, pane: transformed(box(6, 6, 0.05), [0, 0.6, 3]) },
      materials: { pane: { transmission_weight: 1, specular_roughness: 0 } },
    }),
    recipe: { rayDepth: { all: 1, diffuse: 1, reflection: 1, transmission: 1 } },
    code: 'ray-depth',
    brighter: 1,
  },
  'ray depth 0 under a bright sky through a hole': {
    t: stage({
      meshes: { room: box(4, 4, 4), ball: sphere(0.7, 24) },
      camera: { position: [0, 0.5, 1.8], target: [0, 0, 0] },
      lights: [lamp({ position: [0.5, 1.9, 0], facing: [0, 1, 0.01], power: 60 })],
    }),
    recipe: { rayDepth: { all: 0 } },
    code: 'ray-depth',
    brighter: 1,
  },
  'a camera inside a crate': {
    t: stage({ meshes: { ...stage().meshes, crate: transformed(box(0.5, 0.5, 0.5), [0, 1.6, 5]) } }),
    code: 'camera-inside',
    words: /inside crate/,
    brighter: 2,
  },
  'a far plane before everything': { t: stage(), edit: camera({ clipFar: 1 }), code: 'camera-clipped', brighter: 3 },
  'six stops too dark': {
    t: stage(),
    edit: camera({ exposure: { ev100: null, stops: -6 } }),
    code: 'exposure',
    words: /too dark/,
    brighter: 4,
  },
  'six stops too bright': {
    t: stage(),
    edit: camera({ exposure: { ev100: null, stops: 6 } }),
    code: 'exposure',
    words: /too bright/,
    darker: 2,
  },
  'a panel that shows its back': {
    t: stage({
      lights: [],
      meshes: { ...stage().meshes, panel: transformed(plane(2, 2), [0, 0.01, 2], 0) },
      materials: { panel: { emission_luminance: 20 } },
    }),
    edit: (d) => ({
      ...d,
      objects: d.objects.map((o) =>
        o.name === 'panel' ? { ...o, transform: [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, 1.5, -1, 1] } : o,
      ),
    }),
    code: 'glow-faces-away',
    brighter: 2,
  },
  'clay over what glows': {
    t: stage({
      lights: [],
      meshes: { ...stage().meshes, bulb: transformed(sphere(0.3, 24), [1, 2, 1]) },
      materials: { bulb: { emission_luminance: 60 } },
    }),
    recipe: { clay: { on: true, keepEmission: false } },
    code: 'clay-hides-glow',
    brighter: 3,
  },
  'clay over a window': {
    t: stage({
      meshes: { ...stage().meshes, pane: transformed(box(4, 0.02, 4), [1, 3, 1.3]) },
      materials: { pane: { transmission_weight: 1, geometry_thin_walled: true, specular_roughness: 0 } },
    }),
    recipe: { clay: { on: true, keepGlass: false } },
    code: 'clay-hides-glass',
    brighter: 2,
  },
  'a lamp that stops at the first bounce': {
    t: stage({
      meshes: { room: box(6, 6, 6), ball: sphere(0.7, 24) },
      lights: [lamp({ position: [0, 2.9, 0], facing: [0, 1, 0.01], power: 60, bounces: 0 })],
      camera: { position: [0, 0, 2.8], target: [0, -0.2, 0] },
    }),
    recipe: { rayDepth: { all: 8, diffuse: 8 } },
    code: 'light-bounces',
    brighter: 1,
  },
  'a mirror with nothing to show': {
    t: stage({
      lights: [],
      meshes: { ball: sphere(1, 24) },
      materials: { ball: { base_metalness: 1, specular_roughness: 0 } },
      camera: { position: [0, 0, 4], target: [0, 0, 0] },
    }),
    code: 'no-surroundings',
    brighter: 2,
  },
  'a floor darker than soot': {
    t: stage({
      materials: {
        floor: { base_color: [0.001, 0.001, 0.001], specular_weight: 0 },
        ball: { base_color: [0.001, 0.001, 0.001], specular_weight: 0 },
      },
    }),
    code: 'albedo',
    words: /darker than soot/,
    brighter: 0.3,
  },
};

test.each(Object.entries(cases))('%s is found, and its fix is what the picture confirms', async (_, c) => {
  const { d, document, r } = await diagnosed(c);
  const cause = d.causes.find((x) => x.code === c.code);
  expect(d.causes.map((x) => x.code)).toContain(c.code);
  if (c.words) expect(cause!.words).toMatch(c.words);
  if (c.brighter) expect(cause!.stops).toBeGreaterThan(c.brighter);
  if (c.darker) expect(cause!.stops).toBeLessThan(-c.darker);
  // Made, the fix leaves nothing of its kind to be found.
  const fixed = { document: fixScene(document, document.cameras[0], cause!.fix!), r: fixRecipe(r, cause!.fix!) };
  expect(JSON.stringify(fixed)).not.toBe(JSON.stringify({ document, r }));
});

test('an object whose material is gone is named, and looked at in grey', async () => {
  const { d } = await diagnosed({
    t: stage(),
    edit: (x: SceneDocument) => ({
      ...x,
      objects: x.objects.map((o) => (o.name === 'ball' ? { ...o, material: 'gone' } : o)),
    }),
    unloaded: true,
  });
  expect(d.causes[0]).toMatchObject({ code: 'material-missing', about: ['ball'], fix: { grey: ['ball'] } });
  expect(d.mean).toBeGreaterThan(0.05);
});

test('white that reads warm is told from white that does not', async () => {
  const white = { floor: { base_color: [0.8, 0.8, 0.8], specular_weight: 0 }, ball: { base_color: [0.5, 0.1, 0.1] } };
  const warm = await diagnosed({ t: stage({ materials: white, lights: [lamp({ kelvin: 2700 })] }) });
  const cause = warm.d.causes.find((c) => c.code === 'colored-white')!;
  expect(cause.words).toMatch(/floor is white and reads warm/);
  expect(Math.abs((cause.fix!.fields![0].value as number) - 2700)).toBeLessThan(300);
  const even = await diagnosed({ t: stage({ materials: white }) });
  expect(even.d.causes.map((c) => c.code)).not.toContain('colored-white');
});

test('a picture that is right has no cause to name', async () => {
  const { d } = await diagnosed({ t: stage({ environment: [0.05, 0.05, 0.05] }) });
  expect(d.causes).toEqual([]);
  expect(d.mean).toBeGreaterThan(0.05);
  expect(d.clipped).toBeLessThan(0.2);
});

test('causes come in the order of what their fixes change', async () => {
  const { d } = await diagnosed({
    t: stage({ lights: [lamp({ on: false })] }),
    edit: camera({ exposure: { ev100: null, stops: -2 } }),
  });
  const stops = d.causes.map((x) => Math.abs(x.stops ?? 0));
  expect(stops).toEqual([...stops].sort((a, b) => b - a));
  expect(d.causes[0].stops!).toBeGreaterThan(2);
});

test('motion blur over a scene that stands still is said, whatever it changes', async () => {
  const { d } = await diagnosed({
    t: stage(),
    edit: (x: SceneDocument) => ({ ...x, frames: { ...x.frames, last: 10 } }),
    recipe: { camera: { motionBlur: true } },
  });
  expect(d.causes.map((x) => x.code)).toContain('nothing-moves');
});

test('sources of light add up, and one that gives nothing says why', async () => {
  const scene = testScene(
    stage({
      environment: [0.2, 0.2, 0.2],
      lights: [
        lamp(),
        lamp({ name: 'spare', on: false }),
        lamp({ name: 'turned', facing: [1.5, 4, 2] }),
        lamp({ name: 'shut in', position: [0, 0.7, 0], width: 0.2, height: 0.2, facing: [0, 1, 0.1] }),
      ],
    }),
  );
  await pool.load(scene);
  const effects = await lightEffects(pool, async (document) => ({ ...scene, document }), {
    document: scene.document,
    recipe: testRecipe(64, 8),
    camera: scene.document.cameras[0].name,
    frame: 1,
  });
  expect(effects.reduce((sum, e) => sum + e.light, 0)).toBeCloseTo(1, 4);
  expect(effects.map((e) => e.light)).toEqual(effects.map((e) => e.light).sort((a, b) => b - a));
  expect(effects.find((e) => e.name === 'lamp')!.light).toBeGreaterThan(0.2);
  const why = Object.fromEntries(effects.map((e) => [e.name, e.why]));
  expect(why).toMatchObject({
    lamp: null,
    environment: null,
    spare: 'switched off',
    'shut in': 'ball stands in its way',
  });
  expect(why.turned).toMatch(/faces away|too weak/);
});

test('a pixel’s paths tell of every vertex, the light found and why they end', async () => {
  const scene = testScene(stage({ environment: [0.2, 0.2, 0.2] }));
  await pool.load(scene);
  const view = scene.document.cameras[0];
  const recipe = testRecipe(64, 16, { rayDepth: { all: 1, diffuse: 1, reflection: 1 } });
  const { film } = await pool.render(scene, recipe, view);
  const inspector = pool.inspector()!;
  const seen = inspector.see(view, 1, 1, 0.5, 0.5);
  expect(seen.object).toBe('ball');
  expect(seen.front).toBe(true);
  const trails = inspector.trails(recipe, view, 1, 0.5, 0.5, 16);
  expect(trails).toHaveLength(16);
  for (const t of trails) {
    expect(t[0]).toMatchObject({ event: 'vertex', object: 'ball' });
    // The filter is a pixel wide, the ball some forty: a vertex lies by what the ray through the middle met.
    t[0].position.forEach((c, k) => {
      expect(Math.abs(c - seen.position[k])).toBeLessThan(0.15);
    });
    expect(t.at(-1)!.event).toBe('end');
    expect(t.filter((s) => s.event === 'vertex').every((s) => s.object === 'ball' || s.object === 'floor')).toBe(true);
  }
  const ends = new Set(trails.map((t) => t.at(-1)!.reason));
  expect(ends.has('sky') || ends.has('limit all') || ends.has('limit diffuse')).toBe(true);
  const light = trails.flatMap((t) => t.filter((s) => s.event === 'light' && s.reason === null));
  expect(new Set(light.map((l) => l.light))).toContain('lamp');
  // The mean of the paths' light is the pixel's.
  const green = light.reduce((sum, l) => sum + l.rgb[1], 0) / 16;
  expect(green).toBeCloseTo(film.beauty()[1][32 * 64 + 32], 4);
});

test('a world in clay is looked into by the objects’ own names', async () => {
  const scene = testScene(stage());
  const recipe = testRecipe(64, 8, { clay: { on: true } });
  const world = makeWorld(scene, recipe, scene.document.cameras[0], 1);
  expect(world.document.objects.map((o) => o.name)).toEqual(['floor', 'ball']);
  await pool.load(scene, recipe);
  expect(pool.inspector()!.see(scene.document.cameras[0], 1, 1, 0.5, 0.9).object).toBe('floor');
});
