import { displayOf, toDisplayBytes } from '@/core/image';
import { parseRecipe } from '@/core/recipe';
import type { Scene, SceneDocument } from '@/core/scene';
import type { Patient } from './diagnosis/diagnose';
import type { SmallPicture, Sun } from './film-protocol';
import type { RenderPool } from './pool';

const SAMPLES = 8;

/** Small pictures of a shot under other suns, at the camera's exposure. */
export async function hours(
  pool: RenderPool,
  sceneOf: (document: SceneDocument) => Promise<Scene>,
  { document, recipe, camera: name, frame }: Patient,
  suns: readonly Sun[],
  width: number,
  signal?: AbortSignal,
): Promise<SmallPicture[]> {
  const { environment } = document;
  if (environment?.kind !== 'sky') throw new Error('the surroundings are no sky');
  const camera = document.cameras.find((c) => c.name === name) ?? document.cameras[0];
  const small = parseRecipe({
    ...recipe,
    size: { ...recipe.size, scale: Math.max(1, (width / recipe.size.width) * 100) },
    region: null,
    sampling: { ...recipe.sampling, cameraMin: SAMPLES, cameraMax: SAMPLES, stopNoise: 0 },
    film: { ...recipe.film, groups: false, classes: false, ledger: 'off', features: [], pairs: [], lostLight: false },
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
