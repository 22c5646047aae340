import { readFileSync } from 'node:fs';
import { Film, makeLayer, makeSpec, measureFilm } from '@/core/film';
import { displayOf } from '@/core/image';
import { Kernel, makeWorld, prepareScene, scratchBytes } from '@/core/kernel';
import { parseRecipe, type Recipe } from '@/core/recipe';
import type { Scene } from '@/core/scene';
import { efficiency } from '@/core/stats';
import { RenderPool } from '@/render/pool/pool';
import { MAX_PLANES } from '@/render/pool/protocol';
import { spawnInline } from '@/render/pool/spawn-inline';
import { median } from './median';

const size = { width: 320, height: 180, scale: 100 };
const RAY_BYTES = 32;
const HIT_BYTES = 16;
const MOST_RAYS = 1_200_000;
const ROUNDS = 5;
/** Against the engine as it was: so many samples that the noise no longer hangs on a few points, and as many more as finals have, of fewer pixels. */
const AGAINST = { width: 160, height: 90, samples: 64, rounds: 3 };
const AGAINST_LONG = { width: 64, height: 36, samples: 512, rounds: 1 };

/** Of one sample a pixel: rays, and seconds of tracing them within a render and bare, in the order in which the render sent them. */
export interface OwnRays {
  rays: number;
  shadows: number;
  rendered: number;
  bare: number;
}

/**
 * The integrator's own rays: a render writes them down, and then it and the bare tracing of the same rays take turns, on one thread.
 * What the render takes longer is shading.
 */
export function measureOwnRays(module: WebAssembly.Module, scene: Scene): OwnRays {
  const recipe = parseRecipe({ size, sampling: { cameraMin: 1, cameraMax: 1 } });
  const camera = scene.document.cameras[0];
  const { first } = scene.document.frames;
  const room = Math.ceil((2 * MOST_RAYS * (RAY_BYTES + HIT_BYTES)) / 1024);
  const prepared = prepareScene(module, makeWorld(scene, recipe, camera, first), room, 1);
  const { memory, end, plan } = prepared;
  const kernel = new Kernel(module, memory);
  const spec = makeSpec(recipe, scene.document);
  const at = end + scratchBytes(MAX_PLANES, plan.posedBytes);
  const render = (rayRecords?: { at: number; most: number }): number => {
    kernel.bind(end, recipe, camera, spec.groups.length, spec.planes, { frame: first, firstFrame: first, rayRecords });
    const film = new Film(spec);
    const from = performance.now();
    for (let t = 0; t < film.tileCount; t++) {
      const { x, y, w, h } = film.place(t);
      kernel.renderTile(film.record(t), x, y, w, h, 0, 1);
    }
    return (performance.now() - from) / 1000;
  };
  render();
  render({ at, most: MOST_RAYS });
  const count = kernel.rayRecords();
  if (count === MOST_RAYS) throw new Error('more rays than there is room for');
  const floats = new Float32Array(memory.buffer, at, count * 8);
  const kind = (asks: number) => {
    const rows: Float32Array[] = [];
    for (let i = 0; i < count; i++) if (floats[i * 8 + 7] === asks) rows.push(floats.slice(i * 8, i * 8 + 8));
    return rows;
  };
  const [meeting, asking] = [kind(0), kind(1)];
  const shadowsAt = at + meeting.length * RAY_BYTES;
  [...meeting, ...asking].forEach((row, i) => {
    floats.set(row, i * 8);
  });
  const bare = (): number => {
    const from = performance.now();
    kernel.traceRays(at, meeting.length, at + count * RAY_BYTES);
    kernel.traceShadows(shadowsAt, asking.length);
    return (performance.now() - from) / 1000;
  };
  bare();
  const rounds = Array.from({ length: ROUNDS }, () => ({ rendered: render(), bare: bare() }));
  return {
    rays: count,
    shadows: asking.length,
    rendered: median(rounds.map((r) => r.rendered)),
    bare: median(rounds.map((r) => r.bare)),
  };
}

/** What one engine makes of a recipe. */
interface Made {
  seconds: number;
  rays: number;
  rms: number;
  beauty: readonly Float32Array[];
}
interface Engine {
  render(settings: unknown): Promise<Made>;
  close(): void;
}

/** The engine as it was, built: kernel and host together, since layouts change (`bench/baseline`). */
async function openBaseline(scene: Scene): Promise<Engine> {
  const folder = new URL('../bench/baseline/', import.meta.url);
  const { openBaseline: open } = await import(new URL('engine.mjs', folder).href);
  // Its documents had one fog.
  const { fogs, ...document } = scene.document;
  return open(readFileSync(new URL('kernel.wasm', folder)), {
    ...scene,
    document: { ...document, fog: fogs[0] ?? null },
  });
}

async function openNow(module: WebAssembly.Module, scene: Scene): Promise<Engine> {
  const pool = new RenderPool(module, spawnInline, 1);
  await pool.load(scene);
  const camera = scene.document.cameras[0];
  return {
    async render(settings) {
      const recipe: Recipe = parseRecipe(settings);
      const { film, traceMs } = await pool.render(scene, recipe, camera);
      const { noise } = measureFilm(film, displayOf(camera.exposure, scene.document.look));
      const beauty = makeLayer(film, 'beauty')!.planes;
      return { seconds: traceMs / 1000, rays: film.rays().total, rms: noise!.rms, beauty };
    },
    close: () => pool.close(),
  };
}

const meanOf = ({ beauty }: Made) => beauty.reduce((s, p) => s + p.reduce((a, b) => a + b, 0) / p.length, 0) / 3;

/** This engine over the one that it began as, the same recipe by turns on one thread: rays and samples a second, efficiency, and mean light. */
export async function measureAgainstBaseline(
  module: WebAssembly.Module,
  scene: Scene,
): Promise<{ rays: number; samples: number; efficiency: number; light: number; efficiencyLong: number }> {
  const [was, now] = [await openBaseline(scene), await openNow(module, scene)];
  const turns = async ({ width, height, samples, rounds }: typeof AGAINST): Promise<[Made, Made][]> => {
    const settings = (k: number) => ({ size: { width, height, scale: 100 }, sampling: { cameraMin: k, cameraMax: k } });
    for (const engine of [was, now]) await engine.render(settings(4));
    const made: [Made, Made][] = [];
    for (let i = 0; i < rounds; i++)
      made.push([await was.render(settings(samples)), await now.render(settings(samples))]);
    return made;
  };
  const [short, long] = [await turns(AGAINST), await turns(AGAINST_LONG)];
  was.close();
  now.close();
  const ratio = (rounds: [Made, Made][], of: (m: Made) => number) => median(rounds.map(([a, b]) => of(b) / of(a)));
  const gain = (m: Made) => efficiency(m.rms, m.seconds);
  return {
    rays: ratio(short, (m) => m.rays / m.seconds),
    samples: ratio(short, (m) => 1 / m.seconds),
    efficiency: ratio(short, gain),
    light: ratio(short, meanOf),
    efficiencyLong: ratio(long, gain),
  };
}
