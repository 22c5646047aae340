import { displayOf, toDisplayBytes } from '@/core/image';
import { BEAUTY_ALONE, parseRecipe } from '@/core/recipe';
import type { Scene, SceneDocument } from '@/core/scene';
import { cameraOf, type Patient } from '../advice/patient';
import { liveOf } from '../page/desk';
import type { RenderPool } from '../pool/pool';
import type { SmallPicture } from '../views/place';
import type { Question } from './question';

/** A place of the sun. */
export interface Sun {
  heightDegrees: number;
  bearingDegrees: number;
}

const SAMPLES = 8;

/** Small pictures of a shot under other suns, at the camera's exposure. */
async function picturesOf(
  pool: RenderPool,
  sceneOf: (document: SceneDocument) => Promise<Scene>,
  patient: Patient,
  suns: readonly Sun[],
  width: number,
  signal?: AbortSignal,
): Promise<SmallPicture[]> {
  const { document, recipe, frame } = patient;
  const { environment } = document;
  if (environment?.kind !== 'sky') throw new Error('the surroundings are no sky');
  const camera = cameraOf(patient);
  const small = parseRecipe({
    ...recipe,
    size: { ...recipe.size, scale: Math.max(1, (width / recipe.size.width) * 100) },
    region: null,
    sampling: { ...recipe.sampling, cameraMin: SAMPLES, cameraMax: SAMPLES, stopNoise: 0 },
    film: { ...recipe.film, ...BEAUTY_ALONE },
  });
  const out: SmallPicture[] = [];
  for (const sun of suns) {
    if (signal?.aborted) break;
    const lit = { ...document, environment: { ...environment, sun: { ...environment.sun, ...sun } } };
    const { film } = await pool.render(await sceneOf(lit), small, camera, { frame, signal });
    const { width: w, height: h } = film.spec.region;
    const [r, g, b] = film.beauty();
    const pixels = new Uint8ClampedArray(w * h * 4);
    toDisplayBytes(r, g, b, w * h, displayOf(camera.exposure, document.look), pixels);
    out.push({ width: w, height: h, pixels });
  }
  return out;
}

/** Small pictures of the shot under other suns. */
export const hours: Question<{ patient: Patient; suns: Sun[]; width: number }, SmallPicture[]> = (
  desk,
  { patient, suns, width },
  { signal },
) => liveOf(desk).borrow((pool) => picturesOf(pool, desk.sceneOf, patient, suns, width, signal));
