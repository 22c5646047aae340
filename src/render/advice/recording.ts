import { type Film, filmKept, layerInfo, layersKept, msOfCell } from '@/core/film';
import { frameOf, parseRecipe, type Recipe } from '@/core/recipe';
import { lightGroups, type Scene, type SceneDocument } from '@/core/scene';
import type { RenderPool } from '../pool/pool';
import { cameraOf, type Patient } from './patient';
import { PilotsStopped } from './pilots';

/** What it costs to keep light apart in another way. */
export interface RecordingCost {
  /** More bytes of a stored film, before it is packed. */
  stored: number;
  /** Time of a sample over that before, and the least and most of it that turns told. */
  time: { ratio: number; least: number; most: number };
}

const WIDTH = 160;
const SAMPLES = 2;
const TURNS = 3;

function storedBytes(recipe: Recipe, document: SceneDocument): number {
  const { width, height } = frameOf(recipe).region;
  const planes = layersKept(filmKept(recipe), lightGroups(document)).reduce((n, l) => n + layerInfo(l).planes, 0);
  return planes * width * height * Float32Array.BYTES_PER_ELEMENT;
}

const msOf = (film: Film): number => {
  let ms = 0;
  for (let t = 0; t < film.tileCount; t++) {
    const { w, h } = film.place(t);
    ms += msOfCell(film, t) * w * h;
  }
  return ms;
};

/**
 * What it costs to render a scene as `next` has its light groups instead of as the patient's: bytes told from the planes, time measured by
 * rendering both small in turns. Both documents differ in their light groups alone.
 */
export async function recordingCost(
  pool: RenderPool,
  sceneOf: (document: SceneDocument) => Promise<Scene>,
  patient: Patient,
  next: SceneDocument,
  signal?: AbortSignal,
): Promise<RecordingCost> {
  const { recipe, frame, document } = patient;
  const scenes = [await sceneOf(document), await sceneOf(next)];
  const small = parseRecipe({
    ...recipe,
    size: { ...recipe.size, scale: Math.max(1, Math.min(recipe.size.scale, (WIDTH / recipe.size.width) * 100)) },
    sampling: { ...recipe.sampling, cameraMin: SAMPLES, cameraMax: SAMPLES, adapt: 'even', stopNoise: 0 },
  });
  const timed = async (scene: Scene) => {
    const { film, finished } = await pool.render(scene, small, cameraOf(patient), { frame, signal });
    if (!finished) throw new PilotsStopped('stopped');
    return msOf(film);
  };
  // Whatever else the machine begins or ends meanwhile falls on both alike: in turns, and each turn there and back.
  for (const scene of scenes) await timed(scene);
  const ratios: number[] = [];
  for (let turn = 0; turn < TURNS; turn++) {
    const [a, b, c, d] = [
      await timed(scenes[0]),
      await timed(scenes[1]),
      await timed(scenes[1]),
      await timed(scenes[0]),
    ];
    ratios.push((b + c) / (a + d));
  }
  ratios.sort((x, y) => x - y);
  return {
    stored: storedBytes(recipe, next) - storedBytes(recipe, document),
    time: { ratio: ratios[ratios.length >> 1], least: ratios[0], most: ratios[ratios.length - 1] },
  };
}
