import { measureFilm } from '@/core/film';
import { parseRecipe } from '@/core/recipe';
import { plane, type Scene } from '@/core/scene';
import { efficiency } from '@/core/stats';
import { spawnNode } from '@/render/node/threads';
import { RenderPool } from '@/render/pool/pool';
import { numbers, testScene } from '@/render/testing';
import { median } from './median';
import { middleGrey } from './techniques';

const [LAMPS, ROUNDS] = [10, 3];
/** Radius of a lamp in metres, and of each bulb of a swarm that is as large and as bright: so small that bulbs hardly stand in each other’s way. */
const [LAMP, BULB] = [0.3, 0.0005];

/** A yard lit by ten lamps above the picture, each a ball or a swarm of so many bulbs in its place: what is seen of bulbs would be noise of another kind. */
function yard(bulbs: number): Scene {
  const next = numbers(5);
  const lamps = Array.from({ length: LAMPS }, () => [next() * 16 - 8, 5 + next(), next() * 16 - 8]);
  const within = (): number[] => {
    const at = [next(), next(), next()].map((v) => (2 * v - 1) * LAMP);
    return Math.hypot(...at) <= LAMP ? at : within();
  };
  const own = { kind: 'sphere', unit: 'lumens' };
  return testScene({
    meshes: { yard: plane(20, 20) },
    materials: { yard: { base_color: [0.6, 0.6, 0.6], specular_weight: 0 } },
    lights: lamps.flatMap((position, i) =>
      bulbs === 1
        ? [{ ...own, name: `lamp ${i}`, power: 1000, position, radius: LAMP }]
        : Array.from({ length: bulbs }, (_, k) => ({
            ...own,
            name: `bulb ${i} ${k}`,
            power: 1000 / bulbs,
            position: within().map((v, c) => v + position[c]),
            radius: BULB,
          })),
    ),
    camera: { position: [0, 4, 7], target: [0, 0, 0], focalLengthMm: 28 },
  });
}

/** Ten thousand lights over ten that give the same light: time at equal noise, time a sample, and milliseconds until they can be traced. */
export async function measureManyLights(module: WebAssembly.Module, thread: URL) {
  const recipe = parseRecipe({
    size: { width: 320, height: 180, scale: 100 },
    sampling: { cameraMin: 16, cameraMax: 16, outlierLimit: { first: null, later: null } },
    rayDepth: { diffuse: 2 },
  });
  const scenes = [yard(1), yard(1000)];
  const pools = scenes.map(() => new RenderPool(module, spawnNode(thread), 2));
  const loadMs: number[] = [];
  for (const [i, pool] of pools.entries()) {
    const from = performance.now();
    await pool.load(scenes[i]);
    loadMs.push(performance.now() - from);
  }
  const [times, costs]: number[][] = [[], []];
  for (let r = 0; r < ROUNDS; r++) {
    const got: { seconds: number; efficiency: number }[] = [];
    for (const [i, pool] of pools.entries()) {
      const { film, calibratedMs } = await pool.render(scenes[i], recipe, scenes[i].document.cameras[0], {
        calibrate: true,
      });
      const seconds = calibratedMs! / 1000;
      got.push({ seconds, efficiency: efficiency(measureFilm(film, middleGrey(film)).noise!.rms, seconds) });
    }
    times.push(got[1].seconds / got[0].seconds);
    costs.push(got[0].efficiency / got[1].efficiency);
  }
  for (const pool of pools) pool.close();
  return { atEqualNoise: median(costs), aSample: median(times), loadMs: loadMs[1] };
}
