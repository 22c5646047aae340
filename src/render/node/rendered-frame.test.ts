import { existsSync, mkdtempSync, readdirSync, rmSync, utimesSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Film, filmBytes, layerNames, makeLayer, makeSpec, measureFilm } from '@/core/film';
import { displayOf } from '@/core/image';
import { plane, sphere } from '@/core/scene';
import { RenderPool } from '../pool/pool';
import { spawnInline } from '../pool/spawn-inline';
import { testKernel, testRecipe, testScene } from '../testing';
import { roomForFilms, sweepBands, traceFrame } from './rendered-frame';

const scene = testScene({
  meshes: { floor: plane(4, 4), ball: sphere(0.5, 24) },
  lights: [{ kind: 'point', name: 'p', power: 20, position: [0, 3, 0] }],
  environment: [0.3, 0.3, 0.3],
  camera: { position: [0, 2, 4], target: [0, 0, 0] },
});
const { document } = scene;
const camera = document.cameras[0];
const display = displayOf(camera.exposure, document.look);
const recipe = testRecipe(100, 8, {
  region: { x: 0.1, y: 0.05, w: 0.8, h: 0.9 },
  film: { features: ['alpha', 'depth', 'coverage', 'position'], ledger: 'all' },
});
const pool = new RenderPool(testKernel(), spawnInline, 1);
const dir = mkdtempSync(join(tmpdir(), 'lantern-bands-test-'));
const folder = join(dir, 'frame');
let whole: Film;

beforeAll(async () => {
  await pool.load(scene);
  ({ film: whole } = await pool.render(scene, recipe, camera));
});
beforeEach(() => {
  // Three bands.
  process.env.LANTERN_FILM_BYTES = String(Math.ceil(filmBytes(makeSpec(recipe, document)) / 2.5));
});
afterEach(() => {
  Reflect.deleteProperty(process.env, 'LANTERN_FILM_BYTES');
});
afterAll(() => {
  pool.close();
  rmSync(dir, { recursive: true });
});

/** Traces the frame; `stopAt` is the band in which it is stopped, `dieAt` that in which the process ends. */
async function traced({ stopAt = -1, dieAt = -1 } = {}) {
  const bands: string[] = [];
  const frame = await traceFrame({ recipe, document, display, folder }, async (part, { band, bands: of }) => {
    bands.push(`${band}/${of}`);
    if (band === dieAt) throw new Error('killed');
    const signal = band === stopAt ? AbortSignal.abort() : undefined;
    const { film, finished, traceMs } = await pool.render(scene, part, camera, { signal });
    return { film, finished, spent: { traceMs, calibratedMs: 2 * traceMs } };
  });
  return { ...frame, figures: frame.figures(), bands };
}

test('a frame that does not fit into memory goes in bands, to the same layers and figures', async () => {
  const { frame, film, figures, finished, spent, bands, end } = await traced();
  expect(bands).toEqual(['0/3', '1/3', '2/3']);
  expect([film, finished, frame.spec]).toEqual([null, true, whole.spec]);
  for (const name of layerNames(whole.spec))
    if (name !== 'cost') expect([name, frame.layer(name)]).toEqual([name, makeLayer(whole, name)]);
  const { noise, darker, hot, rays, samples, sampleRange, clampedLight } = measureFilm(whole, display);
  expect(figures).toMatchObject({ noise, darker, hot, rays, samples, sampleRange });
  expect(figures.clampedLight).toBeCloseTo(clampedLight, 6);
  expect(spent.calibratedMs).toBeCloseTo(2 * spent.traceMs, 6);
  end();
  expect(existsSync(folder)).toBe(false);
});

test('one that fits is one film', async () => {
  process.env.LANTERN_FILM_BYTES = '1e9';
  const { frame, film, bands } = await traced();
  expect(bands).toEqual(['0/1']);
  expect(frame.layer('beauty')).toEqual(makeLayer(film!, 'beauty'));
});

test('whoever takes it up again on this machine goes on behind the bands that are done', async () => {
  await expect(traced({ dieAt: 1 })).rejects.toThrow('killed');
  const { frame, bands, end } = await traced();
  expect(bands).toEqual(['1/3', '2/3']);
  expect(frame.layer('beauty')).toEqual(makeLayer(whole, 'beauty'));
  end();
});

test('a stop keeps what there is, with nothing below it, and can go on', async () => {
  const stopped = await traced({ stopAt: 1 });
  expect([stopped.bands, stopped.finished, stopped.figures.noise]).toEqual([['0/3', '1/3'], false, null]);
  const [red] = stopped.frame.layer('beauty').planes;
  const width = whole.spec.region.width;
  expect(red.slice(0, 32 * width)).toEqual(makeLayer(whole, 'beauty')!.planes[0].slice(0, 32 * width));
  expect(red.slice(-width).every((v) => v === 0)).toBe(true);
  stopped.end();
  const { bands, frame, end } = await traced();
  expect(bands).toEqual(['1/3', '2/3']);
  expect(frame.layer('half_a')).toEqual(makeLayer(whole, 'half_a'));
  end();
});

test('bands that were given up are swept away after a week', async () => {
  await expect(traced({ dieAt: 1 })).rejects.toThrow('killed');
  sweepBands(dir);
  expect(readdirSync(dir)).toEqual(['frame']);
  const old = new Date(Date.now() - 8 * 24 * 3600e3);
  utimesSync(folder, old, old);
  sweepBands(dir);
  expect(readdirSync(dir)).toEqual([]);
  sweepBands(join(dir, 'nowhere'));
});

test('a film may take a part of the machine’s memory, or what is set', () => {
  process.env.LANTERN_FILM_BYTES = '1234';
  expect(roomForFilms()).toBe(1234);
  Reflect.deleteProperty(process.env, 'LANTERN_FILM_BYTES');
  expect(roomForFilms()).toBeLessThanOrEqual(4e9);
});
