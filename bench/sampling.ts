import { measureFilm } from '@/core/film';
import { exposureScale } from '@/core/image';
import { parseRecipe, type Recipe } from '@/core/recipe';
import { SHOTS } from '@/core/shots';
import { efficiency } from '@/core/stats';
import { spawnNode } from '@/render/node/threads';
import { RenderPool } from '@/render/pool/pool';

const SAMPLES = 32;

function recipe(sampling: Record<string, unknown>): Recipe {
  return parseRecipe({
    size: { width: 320, height: 180, scale: 100 },
    sampling: { cameraMin: SAMPLES, cameraMax: SAMPLES, ...sampling },
  });
}

/**
 * Gains in efficiency on each shot, over the same samples everywhere: cells that stop by themselves, samples dealt out
 * for the least rays (each aimed at the noise of the even picture), and splits at half the camera samples.
 */
export async function measureSampling(module: WebAssembly.Module, thread: URL) {
  const out: Record<string, { even: number; cheapest: number; splits: number }> = {};
  for (const [name, make] of Object.entries(SHOTS)) {
    const scene = make();
    const camera = scene.document.cameras[0];
    const pool = new RenderPool(module, spawnNode(thread), 2);
    await pool.load(scene);
    const run = async (r: Recipe) => {
      const { film, calibratedMs } = await pool.render(scene, r, camera, { calibrate: true });
      const { rms } = measureFilm(film, exposureScale(camera.exposure)).noise!;
      return { rms, efficiency: efficiency(rms, calibratedMs! / 1000) };
    };
    const plain = await run(recipe({}));
    const aimed = { cameraMin: SAMPLES / 4, cameraMax: SAMPLES * 32, stopNoise: plain.rms };
    const even = await run(recipe(aimed));
    const cheapest = await run(recipe({ ...aimed, adapt: 'cheapest' }));
    const splits = { diffuse: 2, reflection: 2, transmission: 2, fog: 2 };
    const split = await run(recipe({ cameraMin: SAMPLES / 2, cameraMax: SAMPLES / 2, splits, lightSamples: 2 }));
    pool.close();
    out[name] = {
      even: even.efficiency / plain.efficiency,
      cheapest: cheapest.efficiency / plain.efficiency,
      splits: split.efficiency / plain.efficiency,
    };
  }
  return out;
}

/** Time of the quay with what moves blurred, over that of the still picture. */
export async function measureMotionBlur(module: WebAssembly.Module, thread: URL): Promise<number> {
  const scene = SHOTS['quay-dawn']();
  const camera = scene.document.cameras[0];
  const pool = new RenderPool(module, spawnNode(thread), 2);
  const ratios: number[] = [];
  const time = async (motionBlur: boolean) => {
    const r = parseRecipe({ ...recipe({}), camera: { motionBlur } });
    await pool.load(scene, r, camera, 20);
    return (await pool.render(scene, r, camera, { calibrate: true, frame: 20 })).calibratedMs!;
  };
  for (let i = 0; i < 3; i++) ratios.push((await time(true)) / (await time(false)));
  pool.close();
  return ratios.sort((a, b) => a - b)[1];
}

/** Milliseconds from nothing to the first sample of every pixel, at 640×360 on two threads: load, build, first sweep. */
export async function measureStartUp(module: WebAssembly.Module, thread: URL): Promise<Record<string, number>> {
  const out: Record<string, number> = {};
  for (const [name, make] of Object.entries(SHOTS)) {
    const scene = make();
    const started = performance.now();
    const pool = new RenderPool(module, spawnNode(thread), 2);
    await pool.load(scene);
    const r = parseRecipe({ size: { width: 640, height: 360, scale: 100 } });
    await pool.render(scene, r, scene.document.cameras[0], { targets: [1] });
    out[name] = performance.now() - started;
    pool.close();
  }
  return out;
}
