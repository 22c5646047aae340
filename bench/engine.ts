import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { fromBytes, readHeaders, readPart } from '@/core/exr';
import { type Balance, makeLayers, relight } from '@/core/film';
import { frameOf, parseRecipe, type Recipe } from '@/core/recipe';
import type { Scene } from '@/core/scene';
import { noiseOf } from '@/core/stats';
import { nodeInflate } from '@/node/zlib';
import { writeFilm } from '@/render/node/film-exr';
import { spawnNode } from '@/render/node/threads';
import { RenderPool } from '@/render/pool/pool';

const median = (v: number[]) => [...v].sort((a, b) => a - b)[v.length >> 1];

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

/** OpenEXR of a whole film, written and read by us and by the OpenEXR library's users' tool. */
export async function measureExr(module: WebAssembly.Module, thread: URL, scene: Scene) {
  const pool = new RenderPool(module, spawnNode(thread), 2);
  await pool.load(scene);
  const { film } = await pool.render(
    scene,
    recipe({ size: { width: 640, height: 360, scale: 100 }, sampling: { cameraMin: 2, cameraMax: 2 } }),
    scene.document.cameras[0],
  );
  pool.close();
  const layers = makeLayers(film);
  const write = async () => {
    const before = performance.now();
    const { bytes } = await writeFilm(
      layers,
      film.spec,
      {},
      {
        depth: 'half',
        compression: 'zip',
        multiPart: false,
        layers: [...layers.layers.keys()].filter((n) => n !== 'coverage'),
      },
    );
    return { bytes, ms: performance.now() - before };
  };
  const file = 'build/bench.exr';
  const { bytes } = await write();
  writeFileSync(file, bytes);
  const read = async () => {
    const before = performance.now();
    const source = fromBytes(new Uint8Array(readFileSync(file)));
    const header = await readHeaders(source);
    await readPart(source, header, 0, nodeInflate);
    return performance.now() - before;
  };
  const tool = (args: string[]) => {
    const before = performance.now();
    execFileSync('oiiotool', ['--threads', '2', ...args], { stdio: ['ignore', 'ignore', 'ignore'] });
    return performance.now() - before;
  };
  const tiny = 'build/bench-tiny.exr';
  const out = 'build/bench-tool.exr';
  execFileSync('oiiotool', ['--create', '16x16', '3', '-d', 'half', '-o', tiny]);
  await read();
  const rounds: { readMs: number; writeMs: number; readRatio: number; writeRatio: number }[] = [];
  for (let i = 0; i < 7; i++) {
    // What starting the tool takes, by its work on a file of a few pixels, is not counted.
    const start = tool(['--native', '-i:now=1', tiny]);
    const readMs = await read();
    const toolReadMs = tool(['--native', '-i:now=1', file]) - start;
    const writeMs = (await write()).ms;
    const toolWriteMs = tool([file, '--native', '--compression', 'zip', '-o', out]) - start - toolReadMs;
    rounds.push({ readMs, writeMs, readRatio: readMs / toolReadMs, writeRatio: writeMs / toolWriteMs });
  }
  const middle = (of: (r: (typeof rounds)[number]) => number) => median(rounds.map(of));
  return {
    megabytes: bytes.length / 1e6,
    writeMs: middle((r) => r.writeMs),
    readMs: middle((r) => r.readMs),
    writeRatio: middle((r) => r.writeRatio),
    readRatio: middle((r) => r.readRatio),
  };
}

/** Relighting the visible pixels by eight groups, and its noise. */
export function measureRelight() {
  const { width, height } = frameOf(parseRecipe({ size: { width: 1280, height: 720, scale: 65 } }));
  const size = width * height;
  const groups = Array.from({ length: 8 }, (_, g) => `g${g}`);
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
  const balance: Balance = Object.fromEntries(
    groups.map((g, k) => [g, { stops: k / 4, color: [1, 0.9, 0.8], on: true, solo: false }]),
  );
  const time = (work: () => void) => {
    const runs = [0, 1, 2, 3, 4].map(() => {
      const before = performance.now();
      work();
      return performance.now() - before;
    });
    return median(runs);
  };
  const relightMs = time(() => relight(film, groups, balance));
  const noiseMs = time(() => {
    const a = relight(film, groups, balance, 'a')!;
    const b = relight(film, groups, balance, 'b')!;
    noiseOf(a, b, width, height, 1);
  });
  return { pixels: size, groups: 8, relightMs, noiseMs };
}
