import { readFileSync } from 'node:fs';
import { denoisedLayers, flicker, joinNeighbours, movedTo } from '@/core/denoise';
import { type FilmLayers, LAYER, type Layer, layerInfo, makeLayers } from '@/core/film';
import { exposureScale } from '@/core/image';
import { parseRecipe } from '@/core/recipe';
import { SHOTS } from '@/core/shots';
import { pictureErrors, type Rgb } from '@/core/stats';
import { spawnNode } from '@/render/node/threads';
import { denoiseFilm } from '@/render/pool/denoiser';
import { RenderPool } from '@/render/pool/pool';

const THREADS = 2;
const filter = () => WebAssembly.compile(readFileSync(new URL('../public/wasm/denoise.wasm', import.meta.url)));

const SIZE = { width: 160, height: 90 };
const [FIRST, FRAMES] = [1, 24];
const [FEW, LONG] = [8, 128];
/** Frames that are held against long ones. */
const EVERY = 6;

/** Frames of a sequence as rendered, each denoised alone, and joined with those about it. Means over its frames. */
export interface FramesDenoised {
  /** Difference to the next frame moved here, in percent of display white. */
  flicker: { rendered: number; alone: number; joined: number };
  /** PSNR against long frames, dB. */
  psnr: { rendered: number; alone: number; joined: number };
}

const WAYS = ['rendered', 'alone', 'joined'] as const;
const mean = (v: number[]) => v.reduce((a, x) => a + x, 0) / v.length;

/** Twenty-four frames of quay-dawn, whose boat, light and camera move. */
export async function measureFrames(kernel: WebAssembly.Module, thread: URL): Promise<FramesDenoised> {
  const module = await filter();
  const scene = SHOTS['quay-dawn']();
  const camera = scene.document.cameras[0];
  const scale = exposureScale(camera.exposure);
  const pool = new RenderPool(kernel, spawnNode(thread), THREADS);
  const film = async (frame: number, samples: number, seed: number): Promise<FilmLayers> => {
    const recipe = parseRecipe({
      size: { ...SIZE, scale: 100 },
      sampling: { cameraMin: samples, cameraMax: samples, adapt: 'even', stopNoise: 0, seed },
      film: { guides: true, classes: false, features: ['alpha', 'depth', 'normal', 'albedo', 'motion'] },
    });
    await pool.load(scene, recipe, camera, frame);
    return makeLayers((await pool.render(scene, recipe, camera, { frame })).film);
  };
  const rendered: FilmLayers[] = [];
  const long = new Map<number, FilmLayers>();
  for (let k = 0; k < FRAMES; k++) {
    rendered.push(await film(FIRST + k, FEW, 1 + k));
    if (k % EVERY === EVERY / 2) long.set(k, await film(FIRST + k, LONG, 1000 + k));
  }
  pool.close();
  const alone: FilmLayers[] = [];
  for (const own of rendered) {
    const { prepared } = await denoiseFilm(own, { module, spawn: spawnNode(thread), threads: THREADS, scale });
    alone.push(denoisedLayers(own, prepared));
  }
  const joined = alone.map((own, k) => {
    const about = [
      { frame: alone[k + 1], isAfter: true },
      { frame: alone[k - 1], isAfter: false },
    ].filter((n) => n.frame);
    return joinNeighbours(own, about).film;
  });
  const moved = rendered.slice(1).map((after, k) => movedTo(rendered[k], after, true));
  const frames = { rendered, alone, joined };
  const shown = (f: FilmLayers) => f.layers.get('beauty')!.planes.map((p) => p.map((v) => v * scale)) as unknown as Rgb;
  const display = { scale: 1, look: scene.document.look };
  const psnr = (of: FilmLayers[]) =>
    mean(
      [...long].map(([k, truth]) => {
        const { errors } = pictureErrors(shown(truth), shown(of[k]), SIZE.width, SIZE.height, display);
        return errors.psnr;
      }),
    );
  const told = (of: FilmLayers[]) => mean(moved.map((m, k) => flicker(of[k], of[k + 1], m, scale) ?? 0));
  const all = (measure: (of: FilmLayers[]) => number) =>
    Object.fromEntries(WAYS.map((w) => [w, measure(frames[w])])) as FramesDenoised['psnr'];
  return { flicker: all(told), psnr: all(psnr) };
}

/** What denoising a large film costs. */
export interface DenoiseCost {
  seconds: number;
  /** To the first square, of those that were asked for first. */
  firstSeconds: number;
  /** What filtering adds to the memory of the process, bytes. */
  bytes: number;
  groups: number;
  followers: number;
}

const LARGE = { width: 1280, height: 720 };
const IN_SIGHT = { x: 560, y: 300, width: 96, height: 96 };

/** keepers-desk at 1280×720 with its three light groups halved into six, and all path classes. */
export async function measureDenoiseCost(kernel: WebAssembly.Module, thread: URL): Promise<DenoiseCost> {
  const module = await filter();
  const scene = SHOTS['keepers-desk']();
  const camera = scene.document.cameras[0];
  const pool = new RenderPool(kernel, spawnNode(thread), THREADS);
  const recipe = parseRecipe({
    size: { ...LARGE, scale: 100 },
    sampling: { cameraMin: 4, cameraMax: 4, adapt: 'even', stopNoise: 0 },
    film: { guides: true, classes: true, features: ['alpha', 'depth'] },
  });
  await pool.load(scene, recipe, camera);
  const film = makeLayers((await pool.render(scene, recipe, camera)).film);
  pool.close();
  const layers = new Map(film.layers);
  const halved = (l: Layer, name: string): Layer => ({ ...l, name, planes: l.planes.map((p) => p.map((v) => v / 2)) });
  for (const l of film.layers.values()) {
    const { family, group } = layerInfo(l.name);
    if (family !== 'group') continue;
    for (const half of [group!, `${group}_2`]) {
      layers.set(LAYER.group(half), halved(l, LAYER.group(half)));
      for (const h of ['a', 'b'] as const)
        layers.set(LAYER.half(h, half), halved(film.layers.get(LAYER.half(h, group!))!, LAYER.half(h, half)));
    }
  }
  const before = process.memoryUsage().rss;
  let [most, firstSeconds] = [0, 0];
  const started = performance.now();
  const { prepared, seconds } = await denoiseFilm(
    { ...film, layers },
    {
      module,
      spawn: spawnNode(thread),
      threads: THREADS,
      scale: exposureScale(camera.exposure),
      first: IN_SIGHT,
      onSquare: (done) => {
        most = Math.max(most, process.memoryUsage().rss);
        if (done === 1) firstSeconds = (performance.now() - started) / 1000;
      },
    },
  );
  const { leads, followers } = prepared;
  return { seconds, firstSeconds, bytes: most - before, groups: leads.length, followers: followers.length };
}
