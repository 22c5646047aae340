import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { denoisedLayers } from '@/core/denoise';
import { LAYER, makeLayers } from '@/core/film';
import { plane, sphere, transformed } from '@/core/scene';
import { intervalAt, noiseOf, ONE_EACH, type Rgb, readAt } from '@/core/stats';
import { denoiseFilm } from '../pool/denoiser';
import { RenderPool } from '../pool/pool';
import { spawnInline } from '../pool/spawn-inline';
import { testKernel, testRecipe, testScene } from '../testing';
import { adviseDenoised, samplesFor } from './denoised';
import { PilotsStopped, withCounts } from './pilots';

const filter = new WebAssembly.Module(readFileSync(join(__dirname, '../../../public/wasm/denoise.wasm')));
const scene = testScene({
  meshes: { floor: plane(8, 8), ball: transformed(sphere(0.8, 24), [0, 0.8, 0]) },
  materials: { ball: { base_color: [0.7, 0.3, 0.2] } },
  lights: [{ kind: 'sphere', name: 'lamp', group: 'lamp', power: 12, position: [1.4, 1.2, 0.6], radius: 0.25 }],
  environment: [0.02, 0.02, 0.03],
  camera: { position: [0, 1.5, 5], target: [0, 0.7, 0] },
});
const camera = scene.document.cameras[0];
const recipe = testRecipe(112, 16);
const how = { threads: 2, filter, spawn: spawnInline };

test('values are read along straight lines of logarithms, and no further than can be told', () => {
  const [tried, values] = [
    [4, 8, 16],
    [4, 2, 1],
  ];
  expect(readAt(tried, values, 4)).toBeCloseTo(4);
  expect(readAt(tried, values, 12)).toBeCloseTo(4 / 3);
  expect(readAt(tried, values, 64)).toBeCloseTo(0.25);
  const told = values.map((v) => ({ value: v, low: v / 2, high: 2 * v }));
  const read = intervalAt(tried, told, 12)!;
  expect([read.value, read.low, read.high].map((v) => v.toFixed(3))).toEqual(['1.333', '0.667', '2.667']);
  expect([intervalAt(tried, told, 2), intervalAt(tried, told, 17)]).toEqual([null, null]);
  expect(samplesFor(tried, values, 2)).toBe(8);
  expect(samplesFor(tried, values, 0.3)).toBe(54);
  expect(samplesFor(tried, values, 0.1)).toBeNull();
});

test('the least samples that are clean when denoised are found, and what they leave comes out as told', async () => {
  const pool = new RenderPool(testKernel(), spawnInline, 1);
  await pool.load(scene);
  const words: string[] = [];
  const advice = await adviseDenoised(pool, scene, recipe, camera, {
    ...how,
    target: 2,
    onStep: (_done, _of, w) => words.push(w),
  });
  expect(words.at(-1)).toBe('denoising 16 samples');
  expect(advice.samples).not.toBeNull();
  const { error, residual, noise, seconds } = advice.predicted;
  expect(error.value).toBeLessThanOrEqual(2);
  expect(residual.value).toBeLessThan(noise.value);
  expect(seconds.value).toBeGreaterThan(0);
  expect(advice.table.map((t) => t.samples)).toEqual([4, 8, 16, 32, 64]);
  const at = (of: 'error' | 'residual') =>
    intervalAt(
      advice.table.map((t) => t.samples),
      advice.table.map((t) => t[of]),
      Math.max(4, advice.samples!),
    )!.value;
  expect(at('error') / error.value).toBeCloseTo(1, 5);
  expect(at('residual') / residual.value).toBeCloseTo(1, 5);
  const even = withCounts({ ...recipe, film: { ...recipe.film, guides: true } }, advice.samples!, ONE_EACH);
  const film = makeLayers((await pool.render(scene, even, camera, {})).film);
  const { prepared } = await denoiseFilm(film, { module: filter, spawn: spawnInline, threads: 1, scale: 1 });
  const made = denoisedLayers(film, prepared);
  const [a, b] = (['a', 'b'] as const).map((h) => made.layers.get(LAYER.half(h))!.planes as unknown as Rgb);
  const left = noiseOf(a, b, film.width, film.height, 1).rms;
  expect(left).toBeGreaterThan(residual.low * 0.8);
  expect(left).toBeLessThan(residual.high * 1.25);
  pool.close();
});

test('a stop ends it', async () => {
  const pool = new RenderPool(testKernel(), spawnInline, 1);
  await pool.load(scene);
  const stop = new AbortController();
  const asked = adviseDenoised(pool, scene, recipe, camera, {
    ...how,
    target: 2,
    signal: stop.signal,
    onStep: (done) => done === 2 && stop.abort(),
  });
  await expect(asked).rejects.toThrow(PilotsStopped);
  pool.close();
});
