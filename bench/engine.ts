import { type Factors, relight } from '@/core/film';
import { parseRecipe, type Recipe } from '@/core/recipe';
import type { Scene } from '@/core/scene';
import { noiseOf } from '@/core/stats';
import { spawnNode } from '@/render/node/threads';
import { RenderPool } from '@/render/pool/pool';
import { median } from './median';

const recipe = (change: Record<string, unknown> = {}): Recipe =>
  parseRecipe({ size: { width: 640, height: 360, scale: 50 }, sampling: { cameraMin: 4, cameraMax: 4 }, ...change });

/** Threads, the price of recording everything, and rays a second inside the integrator: turn by turn, medians. */
export async function measureIntegrator(module: WebAssembly.Module, thread: URL, scene: Scene) {
  const camera = scene.document.cameras[0];
  const pools = await Promise.all(
    [1, 2].map(async (threads) => {
      const pool = new RenderPool(module, spawnNode(thread), threads);
      await pool.load(scene);
      await pool.render(scene, recipe({ sampling: { cameraMin: 2, cameraMax: 2 } }), camera);
      return pool;
    }),
  );
  const beauty = recipe({ film: { groups: false, classes: false, features: [] } });
  const rounds = [];
  for (let i = 0; i < 5; i++) {
    const one = await pools[0].render(scene, recipe(), camera);
    const bare = await pools[0].render(scene, beauty, camera);
    const two = await pools[1].render(scene, recipe(), camera);
    rounds.push({ one, speedUp: one.traceMs / two.traceMs, price: one.traceMs / bare.traceMs });
  }
  for (const pool of pools) pool.close();
  const film = rounds[0].one.film;
  const seconds = median(rounds.map((r) => r.one.traceMs)) / 1000;
  return {
    twoThreadsOverOne: median(rounds.map((r) => r.speedUp)),
    everythingOverBeauty: median(rounds.map((r) => r.price)),
    seconds,
    rays: film.rays(),
    raysPerSecond: film.rays().total / seconds,
    samplesPerSecond: film.sampleTotal() / seconds,
  };
}

const RELIT_GROUPS = 12;

/** Relighting a picture by twelve groups, and its noise. */
export function measureRelight() {
  const [width, height] = [1280, 720];
  const size = width * height;
  const groups = Array.from({ length: RELIT_GROUPS }, (_, g) => `g${g}`);
  const plane = (k: number) => Float32Array.from({ length: size }, (_, i) => Math.abs(Math.sin(i * 0.37 + k)));
  const layers = new Map(
    groups.flatMap((g, k) =>
      ['group.', 'half_a.', 'half_b.'].map((p, h) => [
        `${p}${g}`,
        {
          name: p + g,
          channels: ['R', 'G', 'B'],
          planes: [plane(k + h), plane(k + h + 0.1), plane(k + h + 0.2)],
          kind: 'color' as const,
        },
      ]),
    ),
  );
  const film = { width, height, layers };
  const factors: Factors = Object.fromEntries(
    groups.map((g, k) => [g, [1, 0.9, 0.8].map((c) => c * 2 ** (k / 4)) as [number, number, number]]),
  );
  const time = (work: () => void) => {
    const runs = [0, 1, 2, 3, 4].map(() => {
      const before = performance.now();
      work();
      return performance.now() - before;
    });
    return median(runs);
  };
  const relightMs = time(() => relight(film, groups, factors));
  const noiseMs = time(() => {
    const a = relight(film, groups, factors, 'a')!;
    const b = relight(film, groups, factors, 'b')!;
    noiseOf(a, b, width, height, 1);
  });
  return { pixels: size, groups: RELIT_GROUPS, relightMs, noiseMs };
}
