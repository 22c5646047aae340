import { measureFilm } from '@/core/film';
import { exposureScale } from '@/core/image';
import { parseRecipe, type Recipe } from '@/core/recipe';
import { SHOTS } from '@/core/shots';
import { efficiency } from '@/core/stats';
import { Pilots } from '@/render/advice/pilots';
import { type Proposal, propose } from '@/render/advice/proposal';
import { spawnNode } from '@/render/node/threads';
import { RenderPool } from '@/render/pool/pool';

const THREADS = 2;

/** One proposal that was rendered: what was predicted, and what came of it. */
interface Held {
  shot: string;
  goal: string;
  gain: number;
  noise: { predicted: number; low: number; high: number; measured: number };
  seconds: { predicted: number; measured: number };
  recipe: string;
}

const words = ({ sampling: s }: Recipe) =>
  `${s.adapt} ${s.cameraMin}–${s.cameraMax}, splits ${Object.values(s.splits).join(' ')}, light ${s.lightSamples}`;

/**
 * Proposals on each shot, rendered and measured: gain in efficiency over camera samples alone, and predictions beside what
 * came of them. `spent` is the pilots' share of the proposal's own time.
 */
export async function measureCures(module: WebAssembly.Module, thread: URL) {
  const held: Held[] = [];
  const spent: Record<string, number> = {};
  for (const [name, make] of Object.entries(SHOTS)) {
    const scene = make();
    const camera = scene.document.cameras[0];
    const pool = new RenderPool(module, spawnNode(thread), THREADS);
    await pool.load(scene);
    // Without a limit a few hot pixels decide the noise of these shots, and no two seeds agree.
    const base = parseRecipe({
      size: { width: 320, height: 180, scale: 100 },
      sampling: { outlierLimit: { first: 2, later: 1 } },
    });
    const run = async (r: Recipe) => {
      const { film, traceMs, calibratedMs } = await pool.render(scene, r, camera, { calibrate: true });
      const { rms } = measureFilm(film, exposureScale(camera.exposure)).noise!;
      return { rms, clock: traceMs / 1000, seconds: calibratedMs! / 1000, efficiency: efficiency(rms, traceMs / 1000) };
    };
    const uniform = async (samples: number) =>
      run(parseRecipe({ ...base, sampling: { ...base.sampling, cameraMin: samples, cameraMax: samples } }));
    const plain = [await uniform(32), await uniform(64)];
    const pilots = await Pilots.run(pool, scene, base, camera);
    const goals = [
      { noise: plain[0].rms },
      { noise: plain[0].rms / 1.6 },
      { seconds: plain[0].seconds * 1.5 },
      { noise: plain[0].rms * 1.3 },
    ];
    for (const goal of goals) {
      const p: Proposal = await propose(pilots, base, goal, THREADS);
      const got = await run({ ...p.recipe, sampling: { ...p.recipe.sampling, seed: 77 } });
      // Beside it, at once: the machine's speed wanders within minutes.
      const rival = await uniform(p.uniform.samples);
      const best = Math.max(rival.efficiency, (await uniform(p.uniform.samples * 2)).efficiency);
      held.push({
        shot: name,
        goal: JSON.stringify(goal),
        gain: got.efficiency / best,
        noise: {
          predicted: p.predicted.noise.value,
          low: p.predicted.noise.low,
          high: p.predicted.noise.high,
          measured: got.rms,
        },
        seconds: { predicted: p.predicted.seconds.value, measured: got.seconds },
        recipe: words(p.recipe),
      });
      spent[name] ??= pilots.spentMs / THREADS / 1000 / got.seconds;
    }
    pool.close();
  }
  return { held, spent };
}
