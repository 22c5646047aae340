import { makeLayer } from '@/core/film';
import type { Recipe } from '@/core/recipe';
import { plane, sphere, transformed } from '@/core/scene';
import { filmHash } from '../node/film-digest';
import { RenderPool } from '../pool/pool';
import { spawnInline } from '../pool/spawn-inline';
import { renderTest, testKernel, testRecipe, testScene } from '../testing';
import { LiveRender } from './live';

const scene = testScene({
  meshes: { floor: plane(6, 6), ball: transformed(sphere(0.8, 24), [0, 0.8, 0]) },
  lights: [{ kind: 'sphere', name: 'lamp', group: 'lamp', power: 20, position: [1, 3, 2], radius: 0.3 }],
  environment: [0.2, 0.25, 0.3],
  camera: { position: [0, 1.5, 5], target: [0, 0.6, 0] },
});
const camera = scene.document.cameras[0];

async function live(): Promise<{ live: LiveRender; until: (test: () => boolean) => Promise<void>; close: () => void }> {
  const pool = new RenderPool(testKernel(), spawnInline, 1);
  await pool.load(scene);
  const waiting = new Set<() => void>();
  const render = new LiveRender(pool, () => {
    for (const w of waiting) w();
  });
  const until = (test: () => boolean) =>
    new Promise<void>((resolve, reject) => {
      render.failed = reject;
      const look = () => {
        if (!test()) return;
        waiting.delete(look);
        clearInterval(timer);
        resolve();
      };
      const timer = setInterval(look, 20);
      waiting.add(look);
      look();
    });
  return { live: render, until, close: () => pool.close() };
}

const hash = (render: LiveRender) => filmHash((render as unknown as { film: Parameters<typeof filmHash>[0] }).film);

async function finishedHash(recipe: Recipe): Promise<string> {
  return filmHash((await renderTest(scene, recipe)).film);
}

test('the live picture at N samples is the trial at N, bit for bit', async () => {
  const recipe = testRecipe(48, 8);
  const { live: l, until, close } = await live();
  l.start({ scene, recipe, camera, frame: 1 });
  await until(() => l.status().state === 'done');
  expect(l.status()).toMatchObject({ samples: 8, target: 8, changes: 1 });
  expect(l.status().noise!.rms).toBeGreaterThan(0);
  // An eager first sweep of one sample reaches the same sums; only the pair tables start later.
  const film = (l as unknown as { film: Parameters<typeof makeLayer>[0] }).film;
  const trial = (await renderTest(scene, recipe)).film;
  for (const name of ['beauty', 'half_a', 'group.lamp', 'class.direct_diffuse'])
    expect(makeLayer(film, name)!.planes).toEqual(makeLayer(trial, name)!.planes);
  close();
}, 60_000);

test('a change shows a coarse picture at once, and pixels not yet rendered borrow from it', async () => {
  const recipe = testRecipe(320, 2);
  const { live: l, until, close } = await live();
  l.start({ scene, recipe, camera, frame: 1 });
  await until(() => l.status().coarseMs !== null);
  expect(['coarse', 'refining']).toContain(l.status().state);
  expect(l.place()!.width).toBeLessThan(320);
  const coarse = l.layers(['beauty'])!;
  expect(coarse.layers.get('beauty')!.planes[0].some((v) => v > 0)).toBe(true);
  l.halt();
  expect(l.status().state).toBe('halted');
  expect(l.layers(['beauty'])).not.toBeNull();
  close();
}, 60_000);

test('edits that come faster than coarse pictures still show some of them, and end at the last', async () => {
  const recipe = testRecipe(320, 2);
  const { live: l, until, close } = await live();
  const moved = (x: number) => ({ ...camera, position: [x, 1.5, 5] as [number, number, number] });
  const seen: number[] = [];
  for (let i = 0; i < 6; i++) {
    l.start({ scene, recipe, camera: moved(i * 0.1), frame: 1 });
    await new Promise((resolve) => setTimeout(resolve, 5));
    seen.push(l.status().changes);
  }
  await until(() => l.status().state === 'done');
  // One picture under way is always finished; those wanted meanwhile are overtaken by the last.
  expect(l.status().changes).toBeGreaterThanOrEqual(2);
  expect(seen.at(-1)).toBeLessThan(6);
  const last = (await renderTest({ ...scene, document: { ...scene.document, cameras: [moved(0.5)] } }, recipe)).film;
  const film = (l as unknown as { film: Parameters<typeof makeLayer>[0] }).film;
  expect(makeLayer(film, 'beauty')!.planes).toEqual(makeLayer(last, 'beauty')!.planes);
  close();
}, 60_000);

test('halting keeps the picture; a new start replaces it', async () => {
  const { live: l, until, close } = await live();
  l.start({ scene, recipe: testRecipe(48, 4096), camera, frame: 1 });
  await until(() => l.status().samples >= 2);
  l.halt();
  await new Promise((r) => setTimeout(r, 100));
  const kept = l.layers(['beauty'])!.layers.get('beauty')!.planes[0].slice();
  await new Promise((r) => setTimeout(r, 100));
  expect(l.layers(['beauty'])!.layers.get('beauty')!.planes[0]).toEqual(kept);
  l.start({ scene, recipe: testRecipe(48, 4), camera, frame: 1 });
  await until(() => l.status().state === 'done');
  expect(l.status().samples).toBe(4);
  close();
}, 60_000);

test('a pause and going on end at the same bits as never having paused', async () => {
  const recipe = testRecipe(64, 64);
  const straight = await live();
  straight.live.start({ scene, recipe, camera, frame: 1 });
  await straight.until(() => straight.live.status().state === 'done');
  const paused = await live();
  paused.live.start({ scene, recipe, camera, frame: 1 });
  await paused.until(() => paused.live.status().samples >= 2);
  paused.live.pause(true);
  expect(['paused', 'done']).toContain(paused.live.status().state);
  await new Promise((r) => setTimeout(r, 50));
  paused.live.pause(false);
  await paused.until(() => paused.live.status().state === 'done');
  expect(hash(paused.live)).toBe(hash(straight.live));
  straight.close();
  paused.close();
}, 60_000);

test('a start while paused waits and says so', async () => {
  const { live: l, until, close } = await live();
  l.pause(true);
  l.start({ scene, recipe: testRecipe(32, 2), camera, frame: 1 });
  await new Promise((r) => setTimeout(r, 50));
  expect(l.status()).toMatchObject({ state: 'paused', samples: 0 });
  expect(l.layers(['beauty'])).toBeNull();
  l.pause(false);
  await until(() => l.status().state === 'done');
  expect(l.status().samples).toBe(2);
  close();
}, 60_000);

test('another seed gives other bits, so equality above means something', async () => {
  expect(await finishedHash(testRecipe(32, 2))).not.toBe(
    await finishedHash(testRecipe(32, 2, { sampling: { seed: 5 } })),
  );
});

test('another strength of a light shows at once by the film there is, and is traced anew when it has settled', async () => {
  const kept = testRecipe(48, 4, { film: { groups: true } });
  const { live: l, until, close } = await live();
  l.start({ scene, recipe: kept, camera, frame: 1 });
  await until(() => l.status().state === 'done');
  const mean = () => {
    const green = l.layers(['beauty'])!.layers.get('beauty')!.planes[1];
    return green.reduce((a, b) => a + b, 0) / green.length;
  };
  const groupMean = (name: string) => {
    const green = l.layers([name])!.layers.get(name)!.planes[1];
    return green.reduce((a, b) => a + b, 0) / green.length;
  };
  const [lamp, sky] = [groupMean('group.lamp'), groupMean('group.sky')];
  const rays = l.status().rays!.total;
  const brighter = {
    ...scene,
    document: { ...scene.document, lights: scene.document.lights.map((x) => ({ ...x, stops: 1 })) },
  };
  l.start({ scene: brighter, recipe: kept, camera, frame: 1 });
  expect(l.status()).toMatchObject({ state: 'done', changes: 2 });
  expect(l.status().rays!.total).toBe(rays);
  expect(mean()).toBeCloseTo(2 * lamp + sky, 5);
  const made = l as unknown as { madeFor: { scene: unknown } | null };
  await until(() => made.madeFor?.scene === brighter && l.status().state === 'done');
  expect(mean()).toBeCloseTo(2 * lamp + sky, 1);
  // Exposure alone asks for nothing.
  const exposed = { ...camera, exposure: { ev100: null, stops: 2 } };
  l.start({ scene: brighter, recipe: kept, camera: exposed, frame: 1 });
  expect(l.status().state).toBe('done');
  close();
});

test('a question borrows the pool, and the picture goes on to the same bits', async () => {
  const recipe = testRecipe(48, 8);
  const { live: l, until, close } = await live();
  l.start({ scene, recipe, camera, frame: 1 });
  const other = { ...scene, document: { ...scene.document, lights: [] } };
  const asked = l.borrow(async (pool) => (await pool.render(other, testRecipe(16, 2), camera)).finished);
  expect(await asked).toBe(true);
  await until(() => l.status().state === 'done');
  expect(hash(l)).toBe(hash2(await renderTest(scene, recipe)));
  close();
});

const hash2 = ({ film }: Awaited<ReturnType<typeof renderTest>>) => filmHash(film);

test('a change that is taken back at once leaves the picture that was there', async () => {
  const whole = testRecipe(96, 64);
  const part = { ...whole, scope: { ...whole.scope, receivers: [] } };
  const { live: l, until, close } = await live();
  l.start({ scene, recipe: whole, camera, frame: 1 });
  await until(() => l.status().samples >= 4);
  l.start({ scene, recipe: part, camera, frame: 1 });
  await new Promise((resolve) => setTimeout(resolve, 1));
  l.start({ scene, recipe: whole, camera, frame: 1 });
  await until(() => l.status().state === 'done');
  const picture = makeLayer((l as unknown as { film: Parameters<typeof makeLayer>[0] }).film, 'beauty')!.planes;
  expect(picture).toEqual(makeLayer((await renderTest(scene, whole)).film, 'beauty')!.planes);
  close();
}, 60_000);
