import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import type { Scene } from '@/core/scene';
import { SHOTS } from '@/core/shots';
import { packOnThreads } from '@/node/zlib';
import { compileWasm } from '@/render/node/threads';
import { database } from '@/server/db/connection';
import { measureStacks } from './comp';
import { heldCounts, measureCures } from './cures';
import { measureDenoise } from './denoise';
import { measureDenoiseCost, measureFrames } from './denoise-frames';
import { measureEdits } from './edits';
import { measureIntegrator, measureRelight } from './engine';
import { measureExr } from './exr';
import { measureManyLights } from './lights';
import { measurePage, measureTrial } from './page';
import { measureInstanced, measureRays, type RayRates, SETS } from './rays';
import { measureWorkers, simulateFarm } from './runs';
import { measureMotionBlur, measureSampling, measureStartUp } from './sampling';
import { glbScene, hardScene, instancedScene, lanternRoom } from './scenes';
import { measureFilmMemory, measureStorage } from './storage';
import { measureTechniques } from './techniques';
import { measureAgainstBaseline, measureOwnRays } from './yardstick';

/** `npm run bench [-- SECTION …]`: everything measured in one run, or some sections of it, ratios beside their targets. Reports, never gates. */
function say(what: string, measured: string, target = ''): void {
  process.stdout.write(`${what.padEnd(58)} ${measured.padStart(16)}   ${target}\n`);
}
const f = (v: number, digits = 2) => v.toFixed(digits);

function sayRays(name: string, r: RayRates, javascriptTarget: number): void {
  for (const s of SETS) {
    say(`${name}: ${s} rays, one thread`, `${f(r.kernel[s])} M/s`);
    if (s !== 'shadow') say('  × the JavaScript yardstick', f(r.overJavascript[s], 1), `at least ${javascriptTarget}`);
    if (r.overNative) {
      say('  × the native default build', f(r.overNative.default[s]), `at least ${s === 'bounce' ? 0.85 : 0.9}`);
      say('  × the native high-quality build', f(r.overNative.high[s]), 'the aim: 1');
    }
  }
  if (!r.overNative) say('  native yardstick', 'not installed', 'libembree-dev builds it');
  say(`${name}: build, CPU seconds a million triangles`, f(r.buildSecondsPerMillion), 'at most 2');
}

/** What the sections measure with. */
interface Tools {
  module: WebAssembly.Module;
  thread: URL;
  room: Scene;
  /** The server that was started for it. */
  url: string;
}

/** Figures by name, as they stand in the file. */
type Figures = Record<string, unknown>;

async function rays({ module, thread, room }: Tools): Promise<Figures> {
  const rays = { hard: measureRays(module, hardScene()), 'lantern-room': measureRays(module, room) };
  sayRays('hard scene', rays.hard, 15);
  sayRays('lantern-room', rays['lantern-room'], 6);
  const instanced = measureInstanced(module, instancedScene());
  say(
    `${f(instanced.triangles / 1e6, 1)} M instanced triangles: build`,
    `${f(instanced.buildMs, 0)} ms`,
    `${f(instanced.megabytes, 0)} MB`,
  );
  for (const s of SETS) say(`  ${s} rays, one thread`, `${f(instanced[s])} M/s`);
  const integrator = await measureIntegrator(module, thread, room);
  say('lantern-room: two threads over one', f(integrator.twoThreadsOverOne), 'at least 1.8');
  say('lantern-room: everything recorded over beauty alone', f(integrator.everythingOverBeauty), 'at most 1.15');
  return { rays, instanced, integrator };
}

async function edits({ module, thread, room }: Tools): Promise<Figures> {
  const edits = await measureEdits(module, thread, room);
  for (const [what, e] of Object.entries(edits))
    say(`edit of ${what}: rebuilds ${e.rebuilt}, ready in`, `${f(e.ms, 0)} ms`, `loading anew: ${f(e.loadMs, 0)} ms`);
  return { edits };
}

async function cures({ module, thread }: Tools): Promise<Figures> {
  const cures = await measureCures(module, thread);
  const counts = heldCounts(cures.held);
  for (const [what, c] of [
    ['proposals', counts.proposals],
    ['camera samples alone', counts.alone],
  ] as const) {
    say(`${what}: noise within 10 %`, `${c.noiseNear} of ${counts.of}`, '20 of 24');
    say(`${what}: time within 15 %, by counted rays`, `${c.timeNear} of ${counts.of}`, '20 of 24');
    say(`${what}: both in their interval`, `${c.within} of ${counts.of}`, '23 of 24');
    say(`${what}: widest interval, high over low`, f(c.widest), '2');
  }
  say('proposals: least efficiency over camera samples alone', `× ${f(counts.leastGain)}`, '0.97');
  for (const [shot, share] of Object.entries(cures.spent))
    say(`${shot}: pilots over the first proposal's own time`, f(share), 'a few per cent of a final frame');
  return { cures };
}

async function techniques({ module, thread }: Tools): Promise<Figures> {
  const techniques = await measureTechniques(module, thread);
  say('efficiency: Owen-Sobol over plain random numbers', `× ${f(techniques.sobolOverRandom)}`, 'lamps in a yard');
  say('efficiency: both techniques over light sampling alone', `× ${f(techniques.misOverLights)}`, 'lantern-room');
  say('efficiency: both techniques over lobe sampling alone', `× ${f(techniques.misOverLobes)}`, 'lantern-room');
  say('efficiency: light tree over uniform choice', `× ${f(techniques.treeOverUniform)}`, '200 lamps');
  say('efficiency: equiangular over distance sampling', `× ${f(techniques.equiangularOverDistance)}`, 'lamp in fog');
  const many = await measureManyLights(module, thread);
  say('10,000 lights over 10 of the same light: time at equal noise', `× ${f(many.atEqualNoise)}`, 'at most 2');
  say('  time a sample', `× ${f(many.aSample)}`);
  say('  until they can be traced', `${f(many.loadMs, 0)} ms`);
  return { techniques, many };
}

async function denoise({ module, thread }: Tools): Promise<Figures> {
  const denoise = await measureDenoise(module, thread);
  for (const [scene, d] of Object.entries(denoise)) {
    const told = (of: 'plain' | 'bilateral' | 'nonLocalMeans' | 'ours' | 'eightfold') =>
      `${d[of].relMse.toPrecision(3)} · ${d[of].flip.toFixed(4)}`;
    say(`${scene}: relMSE · FLIP of 8 samples`, told('plain'));
    say('  by a joint bilateral filter', told('bilateral'));
    say('  by cross-half non-local means', told('nonLocalMeans'));
    say('  denoised', told('ours'), `${told('eightfold')} (64 samples)`);
    say('  blocks of 64×64 worse than plain by a tenth', `${d.worse} of ${d.blocks}`, '0');
    for (const [group, e] of Object.entries(d.groups))
      say(
        `  ${group}: relMSE denoised, and as its share of the beauty`,
        `${e.alone.toPrecision(3)} · ${e.cut.toPrecision(3)}`,
        e.plain.toPrecision(3),
      );
  }
  const frames = await measureFrames(module, thread);
  const three = (of: Record<'rendered' | 'alone' | 'joined', number>) =>
    `${f(of.rendered)} · ${f(of.alone)} · ${f(of.joined)}`;
  say('24 frames: flicker rendered · denoised alone · joined', three(frames.flicker), '% of white');
  say('  PSNR to 128 samples', three(frames.psnr), 'dB');
  const cost = await measureDenoiseCost(module, thread);
  say(
    `1280×720, ${cost.groups} groups, ${cost.followers} classes: denoised`,
    `${f(cost.seconds, 1)} s`,
    'at most 15 s on 2 threads',
  );
  say('  first square of what is in sight', `${f(cost.firstSeconds, 1)} s`, 'at most 1 s at 640×360');
  say('  memory beside the film', `${f(cost.bytes / 2 ** 20, 0)} MB`);
  return { denoise, frames, cost };
}

async function sampling({ module, thread }: Tools): Promise<Figures> {
  const sampling = await measureSampling(module, thread);
  for (const [shot, s] of Object.entries(sampling)) {
    say(`${shot}: cells that stop by themselves over even samples`, `× ${f(s.even)}`, 'efficiency');
    say(`${shot}: samples dealt out for the least rays over even ones`, `× ${f(s.cheapest)}`, 'efficiency');
    say(`${shot}: two of each split over twice the camera samples`, `× ${f(s.splits)}`, 'efficiency');
  }
  return { sampling };
}

async function opening({ module, thread }: Tools): Promise<Figures> {
  const startUp = await measureStartUp(module, thread);
  for (const [shot, ms] of Object.entries(startUp))
    say(`${shot}: from nothing to the first sweep`, `${f(ms, 0)} ms`, '640×360');
  return { startUp };
}

async function blur({ module, thread }: Tools): Promise<Figures> {
  const motionBlur = await measureMotionBlur(module, thread);
  say('quay-dawn: motion blur over the still picture, time', f(motionBlur), 'at most 1.4');
  return { motionBlur };
}

async function exr({ module, thread, room }: Tools): Promise<Figures> {
  const ratio = (v: number | null) => (v === null ? 'too quick to tell' : f(v));
  const exr = await measureExr(module, thread, room);
  for (const [packing, t] of Object.entries(exr)) {
    const [write, read] = packing === 'zip' ? [1, 1.2] : [2, 2];
    say(
      `OpenEXR, half ${packing}, ${f(t.megabytes, 0)} MB: write over the tool's`,
      ratio(t.writeRatio),
      `at most ${write}`,
    );
    say('  read', ratio(t.readRatio), `at most ${read}`);
  }
  return { exr };
}

async function comp(): Promise<Figures> {
  const light = measureRelight();
  say(
    `relight of ${f(light.pixels / 1e3, 0)}k pixels, ${light.groups} groups`,
    `${f(light.relightMs, 1)} ms`,
    'at most 16 ms',
  );
  say('noise of the relit picture', `${f(light.noiseMs, 0)} ms`, 'within 300 ms');
  const stacks = await measureStacks();
  say('stack of 12 layers, masks and grade, 1280×720', `${f(stacks.layersMs, 0)} ms`, 'at most 33 ms');
  say('  × the plain reading of it', f(stacks.plainMs / stacks.layersMs, 1));
  say('  the first picture of it', `${f(stacks.firstMs, 0)} ms`);
  say('  × copying what its layers hold', f(stacks.layersMs / stacks.copyMs, 1));
  say('  a number of the topmost entry changed', `${f(stacks.againMs, 0)} ms`);
  say('  thinned, as it is while it is dragged', `${f(stacks.thinnedMs, 0)} ms`, 'at most 50 ms');
  say('sums of 12 layers alone', `${f(stacks.sumsMs, 0)} ms`, `oiiotool, with its reading: ${f(stacks.toolMs, 0)} ms`);
  say('focus by depth, f/1.4', `${f(stacks.focusMs, 0)} ms`, 'at most 150 ms');
  say('glow of 2 % of the height', `${f(stacks.glowMs, 0)} ms`);
  return { light, stacks };
}

async function storage({ module, thread, room }: Tools): Promise<Figures> {
  const storage = await measureStorage(database());
  say('film into PostgreSQL', `${f(storage.writeMBs, 0)} MB/s`, 'at least 25');
  say('film out of PostgreSQL', `${f(storage.readMBs, 0)} MB/s`, 'at least 25');
  const memory = await measureFilmMemory(database(), module, thread, room);
  say(
    `film of ${f(memory.filmMB, 0)} MB with everything: memory while it is stored`,
    `× ${f(memory.store)}`,
    'at most 1.3',
  );
  say(`  while all of it is cut for a download (${f(memory.cutMB, 0)} MB)`, `× ${f(memory.cut)}`, 'at most 1.3');
  return { storage, memory };
}

async function page({ url }: Tools): Promise<Figures> {
  const page = await measurePage(url);
  say('live: first coarse picture after a change', `${f(page.coarseMs, 0)} ms`, 'within 300 ms');
  say('live: refreshes a second', f(page.refreshesPerSecond, 1), 'at least 8');
  for (const [what, ms] of Object.entries(page.setup))
    say(
      what.includes('a second') ? `live: ${what}` : `live: first picture after an edit: ${what}`,
      what.includes('a second') ? f(ms, 1) : `${f(ms, 0)} ms`,
      what.includes('a second') ? 'at least 8' : 'within 150 ms',
    );
  say('live: page tasks, 95th percentile', `${f(page.taskP95Ms, 1)} ms`, 'under 50 ms');
  return { page };
}

async function runs({ url }: Tools): Promise<Figures> {
  const workers = await measureWorkers();
  say('run of 24 frames: two workers over one, a thread each', f(workers.twoOverOne), 'at most 0.55');
  say(
    `  beside tracing, of a frame of ${f(workers.frameSeconds, 1)} s`,
    `${f(workers.besideTracingSeconds)} s`,
    'at most 0.5 s of 5 s',
  );
  say(
    '  time told after three frames is off by',
    `${f(workers.forecast.off * 100, 0)} %`,
    workers.forecast.held ? 'within its interval' : 'outside of its interval',
  );
  const farm = await simulateFarm(database(), url);
  say('200 sleeping workers, 20,000 frames: through the queue', `${f(farm.framesPerSecond, 0)} /s`);
  say('  finished, and twice', `${farm.finished} · ${farm.twice}`, '20000 · 0');
  say('  started in', `${f(farm.startSeconds, 1)} s`);
  say('  runs listed meanwhile, 95th percentile', `${f(farm.listMs, 0)} ms`, 'under 200 ms');
  say('  all 20,000 frames fetched', `${f(farm.wholeMs, 0)} ms`);
  return { workers, farm };
}

async function trial({ url }: Tools): Promise<Figures> {
  const trial = await measureTrial(url, database());
  say(
    `trial: queue, storage and checkpoint add (${f(trial.filmMB, 0)} MB film)`,
    `${f(trial.addedMs, 0)} ms`,
    `at most ${f(trial.allowedMs, 0)} ms`,
  );
  return { trial };
}

/** The integrator beside its own rays traced bare, and beside the engine as it was. */
async function engine({ module }: Tools): Promise<Figures> {
  const ownRays: Figures = {};
  const baseline: Figures = {};
  const scenes = {
    ...Object.fromEntries(Object.entries(SHOTS).map(([name, make]) => [name, make()])),
    'a GLB': await glbScene(),
  };
  for (const [name, scene] of Object.entries(scenes)) {
    const own = measureOwnRays(module, scene);
    ownRays[name] = own;
    say(`${name}: rays in the integrator, one thread`, `${f(own.rays / own.rendered / 1e6)} M/s`);
    say('  the same rays bare', `${f(own.rays / own.bare / 1e6)} M/s`);
    say('  share of the time that is tracing', f(own.bare / own.rendered), 'at least 0.6');
    const over = await measureAgainstBaseline(module, scene);
    baseline[name] = over;
    say('  rays a second over the engine as it was', `× ${f(over.rays)}`, 'at least 1.6');
    say('  samples a second over it', `× ${f(over.samples)}`);
    say('  efficiency over it, and light', `× ${f(over.efficiency)} · ${f(over.light, 4)}`, '1.5 to 3 · 1');
    say('  efficiency over it at 512 samples', `× ${f(over.efficiencyLong)}`, '1.5 to 3');
  }
  return { ownRays, baseline };
}

const SECTIONS: Record<string, (tools: Tools) => Promise<Figures>> = {
  rays,
  engine,
  edits,
  cures,
  techniques,
  denoise,
  sampling,
  opening,
  blur,
  exr,
  comp,
  storage,
  page,
  runs,
  trial,
};

const FILE = 'build/bench.json';

async function main(names: readonly string[]): Promise<void> {
  const unknown = names.find((n) => !(n in SECTIONS));
  if (unknown !== undefined) throw new Error(`${unknown}: sections are ${Object.keys(SECTIONS).join(', ')}`);
  packOnThreads(new URL('./packing.mjs', import.meta.url));
  const tools: Tools = {
    module: await compileWasm(new URL('../public/wasm/kernel.wasm', import.meta.url)),
    thread: new URL('./thread.mjs', import.meta.url),
    room: lanternRoom(),
    url: process.env.LANTERN_URL!,
  };
  // Sections that are not asked for keep their figures of before.
  const figures: Figures = names.length > 0 && existsSync(FILE) ? JSON.parse(readFileSync(FILE, 'utf8')) : {};
  for (const [name, measure] of Object.entries(SECTIONS)) {
    if (names.length > 0 && !names.includes(name)) continue;
    Object.assign(figures, await measure(tools));
    writeFileSync(FILE, `${JSON.stringify(figures, null, 2)}\n`);
  }
  process.stdout.write(`figures are in ${FILE}\n`);
  await database().end();
}

main(process.argv.slice(2)).catch((error) => {
  process.stderr.write(`bench: ${(error as Error).message}\n`);
  process.exit(1);
});
