import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { fromBytes, readHeaders, readPart } from '@/core/exr';
import { isExact, makeLayers } from '@/core/film';
import { PACKINGS } from '@/core/outputs';
import { parseRecipe } from '@/core/recipe';
import type { Scene } from '@/core/scene';
import { nodeInflate } from '@/node/zlib';
import { writeFilm } from '@/render/node/film-exr';
import { spawnNode } from '@/render/node/threads';
import { RenderPool } from '@/render/pool/pool';

const ratio = (own: number, tool: number) => (tool < LEAST_MS ? null : own / tool);
const ROUNDS = 5;
const MOST_LAYERS = 24;

export interface CodecTimes {
  megabytes: number;
  writeMs: number;
  readMs: number;
  /** Over the time of the OpenEXR library's users' tool; null where what starting it takes hides that. */
  writeRatio: number | null;
  readRatio: number | null;
}

/** Least time of the tool that is told apart from what starting it takes. */
const LEAST_MS = 20;

/**
 * OpenEXR of two dozen layers of a film as half, by every packing, written and read by us and by the OpenEXR library's users' tool,
 * both from and to floats on two threads: the least time of turns, since what else the machine does only adds.
 */
export async function measureExr(module: WebAssembly.Module, thread: URL, scene: Scene) {
  const pool = new RenderPool(module, spawnNode(thread), 2);
  await pool.load(scene);
  const size = { width: 640, height: 360, scale: 100 };
  const recipe = parseRecipe({ size, sampling: { cameraMin: 2, cameraMax: 2 } });
  const { film } = await pool.render(scene, recipe, scene.document.cameras[0]);
  pool.close();
  const layers = makeLayers(film);
  // The tool makes all channels of a file alike: what is always float would make its half file a float one.
  const names = [...layers.layers.keys()].filter((n) => !isExact(n)).slice(0, MOST_LAYERS);
  const tool = (args: string[]) => {
    const before = performance.now();
    execFileSync('oiiotool', ['--threads', '2', ...args], { stdio: ['ignore', 'ignore', 'ignore'] });
    return performance.now() - before;
  };
  const [file, tiny, out] = ['build/bench.exr', 'build/bench-tiny.exr', 'build/bench-tool.exr'];
  execFileSync('oiiotool', ['--create', '16x16', '3', '-d', 'half', '-o', tiny]);
  const times = {} as Record<(typeof PACKINGS)[number], CodecTimes>;
  for (const compression of PACKINGS) {
    const write = async () => {
      const before = performance.now();
      const { bytes } = await writeFilm(
        layers,
        film.spec,
        {},
        {
          depth: 'half',
          compression,
          multiPart: false,
          layers: names,
        },
      );
      return { bytes, ms: performance.now() - before };
    };
    const { bytes } = await write();
    writeFileSync(file, bytes);
    const read = async () => {
      const before = performance.now();
      const source = fromBytes(readFileSync(file));
      const header = await readHeaders(source);
      await readPart(source, header, 0, nodeInflate);
      return performance.now() - before;
    };
    await read();
    const least = { start: Infinity, read: Infinity, toolRead: Infinity, write: Infinity, toolWrite: Infinity };
    const took = (what: keyof typeof least, ms: number) => {
      least[what] = Math.min(least[what], ms);
    };
    for (let i = 0; i < ROUNDS; i++) {
      took('start', tool(['-i:now=1', tiny]));
      took('read', await read());
      took('toolRead', tool(['-i:now=1', file]));
      took('write', (await write()).ms);
      took('toolWrite', tool([file, '-d', 'half', '--compression', compression, '-o', out]));
    }
    // What starting the tool takes, by its work on a file of a few pixels, is not counted; writing, it reads first.
    times[compression] = {
      megabytes: bytes.length / 1e6,
      writeMs: least.write,
      readMs: least.read,
      writeRatio: ratio(least.write, least.toolWrite - least.toolRead),
      readRatio: ratio(least.read, least.toolRead - least.start),
    };
  }
  return times;
}
