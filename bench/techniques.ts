import { type Film, measureFilm } from '@/core/film';
import { STUDY } from '@/core/kernel/layout';
import { parseRecipe } from '@/core/recipe';
import { plane, type Scene } from '@/core/scene';
import { efficiency } from '@/core/stats';
import { spawnNode } from '@/render/node/threads';
import { RenderPool } from '@/render/pool/pool';
import { numbers, testScene } from '@/render/testing';
import { median } from './median';
import { lanternRoom } from './scenes';

/** A yard lit by two hundred lamps of many strengths. */
function manyLamps(): Scene {
  const next = numbers(11);
  return testScene({
    meshes: { yard: plane(20, 20) },
    materials: { yard: { base_color: [0.6, 0.6, 0.6] } },
    lights: Array.from({ length: 200 }, (_, i) => ({
      kind: 'sphere',
      name: `lamp ${i}`,
      power: 2 ** (next() * 8),
      position: [next() * 20 - 10, 0.4 + next(), next() * 20 - 10],
      radius: 0.08,
    })),
    camera: { position: [0, 8, 12], target: [0, 0, 0], focalLengthMm: 28 },
  });
}

/** A lamp in thick fog close before the camera. */
function lampInFog(): Scene {
  return testScene({
    meshes: { quay: plane(20, 20) },
    materials: { quay: { base_color: [0.1, 0.1, 0.1] } },
    lights: [{ kind: 'point', name: 'lamp', power: 60, position: [0.4, 1.2, 0] }],
    camera: { position: [0, 1.2, 5], target: [0, 1.2, 0], focalLengthMm: 28 },
    fog: { density: 0.15, radiusMetres: 25 },
  });
}

/** Exposure that shows a film's mean as middle grey: noise in what is clipped to white would not count. */
export function middleGrey(film: Film): number {
  const green = film.beauty()[1];
  return 0.18 / (green.reduce((a, b) => a + b, 0) / green.length);
}

/** How many times as efficient our technique is as a poorer one on a scene: measured noise and calibrated seconds. */
async function gain(
  module: WebAssembly.Module,
  thread: URL,
  scene: Scene,
  study: number,
  change = {},
): Promise<number> {
  const recipe = parseRecipe({
    size: { width: 320, height: 180, scale: 100 },
    sampling: { cameraMin: 16, cameraMax: 16, outlierLimit: { first: null, later: null } },
    ...change,
  });
  const camera = scene.document.cameras[0];
  const pool = new RenderPool(module, spawnNode(thread), 2);
  await pool.load(scene);
  const ratios: number[] = [];
  let exposure: number | undefined;
  for (let i = 0; i < 3; i++) {
    const of = async (flags: number) => {
      const { film, calibratedMs } = await pool.render(scene, recipe, camera, { calibrate: true, study: flags });
      exposure ??= middleGrey(film);
      return efficiency(measureFilm(film, exposure).noise!.rms, calibratedMs! / 1000);
    };
    ratios.push((await of(0)) / (await of(study)));
  }
  pool.close();
  return median(ratios);
}

/** Gains in efficiency of what the sampling is made of, each against the poorer technique in its place. */
export async function measureTechniques(module: WebAssembly.Module, thread: URL) {
  const room = lanternRoom();
  const straight = { rayDepth: { all: 1, fog: 0 } };
  return {
    sobolOverRandom: await gain(module, thread, manyLamps(), STUDY.plainRandom, straight),
    misOverLights: await gain(module, thread, room, STUDY.lightsAlone),
    misOverLobes: await gain(module, thread, room, STUDY.lobesAlone),
    treeOverUniform: await gain(module, thread, manyLamps(), STUDY.uniformChoice, straight),
    equiangularOverDistance: await gain(module, thread, lampInFog(), STUDY.distanceFog, straight),
  };
}
