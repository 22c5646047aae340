import { type Film, measureFilm } from '@/core/film';
import { displayOf } from '@/core/image';
import { PRESETS, parseRecipe, type Recipe } from '@/core/recipe';
import type { Scene } from '@/core/scene';
import { SHOTS } from '@/core/shots';
import type { Interval } from '@/core/stats';
import { Pilots } from '@/render/advice/pilots';
import { type Prediction, propose } from '@/render/advice/proposal';
import { spawnNode } from '@/render/node/threads';
import { RenderPool } from '@/render/pool/pool';
import { NOISY_SCENES } from '@/render/scenes-testing';
import { testScene } from '@/render/testing';

const THREADS = Number(process.env.LANTERN_BENCH_THREADS ?? 2);
const OTHERS = ['a spot on a brass ball', 'glass under the sky', 'a lamp in fog'];
/** Samples whose noise is asked for, from which times are asked for too. */
const REACHED = 16;

/** A prediction beside what came of it; times by counted rays, since a busy machine's clock tells of itself. */
interface Told {
  noise: { predicted: Interval; measured: number };
  seconds: { predicted: Interval; measured: number; clock: number };
}

/** One proposal that was rendered, and the same goal by camera samples alone. */
interface Held {
  scene: string;
  goal: string;
  recipe: string;
  hot: number;
  /** Efficiency over camera samples alone, by counted rays. */
  gain: number;
  proposal: Told;
  uniform: Told;
}

const words = ({ sampling: s }: Recipe) =>
  `${s.adapt} ${s.cameraMin}–${s.cameraMax}, splits ${Object.values(s.splits).join(' ')}, light ${s.lightSamples}`;

/** Proposals for goals on every shot and on other scenes, as recipes ship: rendered, measured, beside camera samples alone. */
export async function measureCures(module: WebAssembly.Module, thread: URL) {
  const held: Held[] = [];
  const spent: Record<string, number> = {};
  const scenes: [string, () => Scene][] = [
    ...Object.entries(SHOTS),
    ...OTHERS.map((name) => [name, () => testScene(NOISY_SCENES[name])] as [string, () => Scene]),
  ];
  for (const [name, make] of scenes) {
    const scene = make();
    const camera = scene.document.cameras[0];
    const exposure = displayOf(camera.exposure, scene.document.look);
    const pool = new RenderPool(module, spawnNode(thread), THREADS);
    await pool.load(scene);
    const base = parseRecipe({ ...PRESETS.Check, size: { width: 320, height: 180, scale: 100 } });
    const pilots = await Pilots.run(pool, scene, base, camera);
    const render = async (r: Recipe) => {
      const { film, calibratedMs } = await pool.render(scene, r, camera, { calibrate: true });
      return { film, clock: calibratedMs! / 1000 };
    };
    const told = async (recipe: Recipe, { noise, seconds }: Prediction): Promise<Told> => {
      const { film, clock } = await render({ ...recipe, sampling: { ...recipe.sampling, seed: 77 } });
      return {
        noise: { predicted: noise, measured: noiseOf(film) },
        seconds: { predicted: seconds, measured: secondsOf(film), clock },
      };
    };
    const noiseOf = (film: Film) => measureFilm(film, exposure).noise!.rms;
    const secondsOf = (film: Film) => pilots.countedMs(film) / THREADS / 1000;
    const even = (samples: number) =>
      parseRecipe({
        ...base,
        sampling: { ...base.sampling, cameraMin: samples, cameraMax: samples, adapt: 'even', stopNoise: 0 },
      });
    const { film } = await render(even(REACHED));
    const [noise, seconds] = [noiseOf(film), secondsOf(film)];
    for (const goal of [{ noise }, { noise: noise / 1.6 }, { seconds: seconds * 1.5 }, { noise: noise * 1.3 }]) {
      const p = await propose(pilots, base, goal, THREADS);
      const proposal = await told(p.recipe, p.predicted);
      const uniform = await told(even(p.uniform.samples), p.uniform.predicted);
      const worth = ({ noise: n, seconds: s }: Told) => 1 / (n.measured ** 2 * s.measured);
      held.push({
        scene: name,
        goal: JSON.stringify(goal),
        recipe: words(p.recipe),
        hot: pilots.hot,
        gain: worth(proposal) / worth(uniform),
        proposal,
        uniform,
      });
      console.log(line(held.at(-1)!));
      spent[name] ??= pilots.spentMs / THREADS / 1000 / proposal.seconds.measured;
    }
    pool.close();
  }
  return { held, spent };
}

const isWithin = ({ predicted: p, measured: m }: { predicted: Interval; measured: number }) =>
  m >= p.low && m <= p.high;
const ratio = ({ predicted: p, measured: m }: { predicted: Interval; measured: number }) =>
  `${(m / p.value).toFixed(2)}${isWithin({ predicted: p, measured: m }) ? '' : ' OUT'} (${(p.low / p.value).toFixed(2)}–${(p.high / p.value).toFixed(2)})`;

/** A proposal in a line: measured over predicted, with its interval. */
export function line(h: Held): string {
  const part = ({ noise, seconds }: Told) =>
    `noise ${noise.measured.toFixed(2)} % ${ratio(noise)}, time ${seconds.measured.toFixed(1)} s ${ratio(seconds)}`;
  return `  ${h.scene}, ${h.goal}: gain ${h.gain.toFixed(2)}, hot ${h.hot.toFixed(2)}; ${part(h.proposal)}; alone ${part(h.uniform)}; ${h.recipe}`;
}

/** How many predictions held, and how wide they were. */
export function heldCounts(held: readonly Held[]) {
  const all = (pick: (h: Held) => Told) => {
    const told = held.map(pick);
    const near = (x: { predicted: Interval; measured: number }, off: number) =>
      Math.abs(x.measured / x.predicted.value - 1) <= off;
    return {
      noiseNear: told.filter((t) => near(t.noise, 0.1)).length,
      timeNear: told.filter((t) => near(t.seconds, 0.15)).length,
      within: told.filter((t) => isWithin(t.noise) && isWithin(t.seconds)).length,
      widest: Math.max(...told.flatMap((t) => [t.noise, t.seconds]).map(({ predicted: p }) => p.high / p.low)),
    };
  };
  return {
    of: held.length,
    proposals: all((h) => h.proposal),
    alone: all((h) => h.uniform),
    leastGain: Math.min(...held.map((h) => h.gain)),
  };
}
