import { readFileSync } from 'node:fs';
import {
  denoisedLayers,
  jointBilateral,
  nonLocalMeans,
  type Picture,
  prepare,
  readyLead,
  readyWhole,
  SURFACE_GUIDES,
  varianceOf,
} from '@/core/denoise';
import { type FilmLayers, LAYER, layerInfo, makeLayers } from '@/core/film';
import { exposureScale, type Look } from '@/core/image';
import { parseRecipe } from '@/core/recipe';
import type { Scene } from '@/core/scene';
import { SHOTS } from '@/core/shots';
import { pictureErrors, type Rgb } from '@/core/stats';
import { spawnNode } from '@/render/node/threads';
import { denoiseFilm } from '@/render/pool/denoiser';
import { RenderPool } from '@/render/pool/pool';
import { NOISY_SCENES } from '@/render/scenes-testing';
import { testScene } from '@/render/testing';

const THREADS = 2;
const SIZE = { width: 240, height: 136 };
/** Samples that are denoised, eight times as many, and those of the picture that both are held against. */
const [FEW, MANY, LONG] = [8, 64, 256];
const OTHERS = ['a spot on a brass ball', 'glass under the sky'];
const BLOCK = 64;

interface Errors {
  /** Without what the noise of the long picture adds. */
  relMse: number;
  flip: number;
}

/** How far from a long picture: few samples, three ways of filtering them, and eight times as many. */
export interface DenoiseErrors {
  plain: Errors;
  bilateral: Errors;
  nonLocalMeans: Errors;
  ours: Errors;
  eightfold: Errors;
  /** Blocks of 64×64 pixels whose squared error is more than a tenth above that of few samples plain, of all. */
  worse: number;
  blocks: number;
  /** relMSE of light groups: of few samples, denoised by themselves, and cut out of a denoised beauty by their share of it. */
  groups: Record<string, { plain: number; alone: number; cut: number }>;
}

const rgbOf = (film: FilmLayers, name: string, scale: number) =>
  film.layers.get(name)!.planes.map((p) => p.map((v) => v * scale)) as unknown as Rgb;

/** Errors in units of display white; the long picture's own noise, told by its halves, is taken off the square. */
function errorsOf(long: FilmLayers, scale: number, look: Look, picture: Rgb): Errors {
  const [truth, a, b] = ['beauty', LAYER.half('a'), LAYER.half('b')].map((name) => rgbOf(long, name, scale));
  const { errors } = pictureErrors(truth, picture, long.width, long.height, { scale: 1, look });
  let sum = 0;
  for (let c = 0; c < 3; c++)
    for (let i = 0; i < truth[c].length; i++) {
      const noise = (a[c][i] - b[c][i]) ** 2 / 4;
      sum += ((picture[c][i] - truth[c][i]) ** 2 - noise) / (truth[c][i] ** 2 + 0.01);
    }
  return { relMse: sum / (3 * truth[0].length), flip: errors.flip };
}

/** Errors of each light group's picture. */
function groupErrors(few: FilmLayers, made: FilmLayers, long: FilmLayers, scale: number): DenoiseErrors['groups'] {
  const groups = [...few.layers.values()].flatMap((l) => layerInfo(l.name).group ?? []);
  const [whole, clean] = [few, made].map((film) => rgbOf(film, 'beauty', scale));
  const of = (group: string) => {
    const names = [LAYER.group(group), LAYER.half('a', group), LAYER.half('b', group)];
    const [truth, a, b] = names.map((n) => rgbOf(long, n, scale));
    const [plain, alone] = [few, made].map((film) => rgbOf(film, names[0], scale));
    const cut = plain.map((p, c) => p.map((v, i) => (whole[c][i] > 0 ? (v / whole[c][i]) * clean[c][i] : 0)));
    const error = (p: readonly Float32Array[]) => {
      let sum = 0;
      for (let c = 0; c < 3; c++)
        for (let i = 0; i < p[c].length; i++)
          sum += ((p[c][i] - truth[c][i]) ** 2 - (a[c][i] - b[c][i]) ** 2 / 4) / (truth[c][i] ** 2 + 0.01);
      return sum / (3 * p[0].length);
    };
    return { plain: error(plain), alone: error(alone), cut: error(cut) };
  };
  return Object.fromEntries([...new Set(groups)].map((g) => [g, of(g)]));
}

function worseBlocks(truth: Rgb, plain: Rgb, ours: Rgb): { worse: number; blocks: number } {
  const { width, height } = SIZE;
  const square = (p: Rgb, x0: number, y0: number) => {
    let sum = 0;
    for (let y = y0; y < Math.min(height, y0 + BLOCK); y++)
      for (let x = x0; x < Math.min(width, x0 + BLOCK); x++)
        for (let c = 0; c < 3; c++) sum += (p[c][y * width + x] - truth[c][y * width + x]) ** 2;
    return sum;
  };
  let [worse, blocks] = [0, 0];
  for (let y = 0; y < height; y += BLOCK)
    for (let x = 0; x < width; x += BLOCK, blocks++) if (square(ours, x, y) > 1.1 * square(plain, x, y)) worse++;
  return { worse, blocks };
}

/** Both halves of the whole picture by each of the readable twins. */
function twins(picture: Picture): { bilateral: Rgb; nonLocalMeans: Rgb } {
  const { leads, size, guides, guideVariance } = picture;
  const sum = (half: 'a' | 'b') =>
    [0, 1, 2].map((c) => leads[0][half][c].map((_, i) => leads.reduce((n, l) => n + l[half][c][i], 0)));
  const [a, b] = [sum('a'), sum('b')];
  const mean = (p: readonly Float32Array[], q: readonly Float32Array[]) =>
    p.map((v, c) => v.map((w, i) => (w + q[c][i]) / 2)) as unknown as Rgb;
  const variance = varianceOf(a, b, size);
  const alike = { reach: 9, patch: 3, k: 0.7 };
  return {
    bilateral: jointBilateral(mean(a, b), guides.slice(0, SURFACE_GUIDES), guideVariance, size, 9) as unknown as Rgb,
    nonLocalMeans: mean(nonLocalMeans(b, a, variance, size, alike), nonLocalMeans(a, b, variance, size, alike)),
  };
}

/** Denoising few samples against eight times as many, on the shots and two other scenes. */
export async function measureDenoise(kernel: WebAssembly.Module, thread: URL): Promise<Record<string, DenoiseErrors>> {
  const module = await WebAssembly.compile(readFileSync(new URL('../public/wasm/denoise.wasm', import.meta.url)));
  const scenes: [string, Scene][] = [
    ...Object.entries(SHOTS).map(([name, make]): [string, Scene] => [name, make()]),
    ...OTHERS.map((name): [string, Scene] => [name, testScene(NOISY_SCENES[name])]),
  ];
  const out: Record<string, DenoiseErrors> = {};
  for (const [name, scene] of scenes) {
    const pool = new RenderPool(kernel, spawnNode(thread), THREADS);
    await pool.load(scene);
    const camera = scene.document.cameras[0];
    const scale = exposureScale(camera.exposure);
    const film = async (samples: number, seed: number): Promise<FilmLayers> => {
      const recipe = parseRecipe({
        size: { ...SIZE, scale: 100 },
        sampling: { cameraMin: samples, cameraMax: samples, seed },
        film: { guides: true, classes: false, features: ['alpha', 'depth'] },
      });
      return makeLayers((await pool.render(scene, recipe, camera)).film);
    };
    const [few, many, long] = [await film(FEW, 1), await film(MANY, 2), await film(LONG, 3)];
    pool.close();
    const { prepared } = await denoiseFilm(few, { module, spawn: spawnNode(thread), threads: THREADS, scale });
    const ready = prepare(few, scale, (size) => new Float32Array(size)).picture;
    for (const lead of ready.leads) readyLead(lead, ready.size);
    readyWhole(ready);
    const other = twins(ready);
    const made = denoisedLayers(few, prepared);
    const [plain, ours] = [few, made].map((f) => rgbOf(f, 'beauty', scale));
    const of = (picture: Rgb) => errorsOf(long, scale, scene.document.look, picture);
    out[name] = {
      plain: of(plain),
      bilateral: of(other.bilateral),
      nonLocalMeans: of(other.nonLocalMeans),
      ours: of(ours),
      eightfold: of(rgbOf(many, 'beauty', scale)),
      groups: groupErrors(few, made, long, scale),
      ...worseBlocks(rgbOf(long, 'beauty', scale), plain, ours),
    };
  }
  return out;
}
