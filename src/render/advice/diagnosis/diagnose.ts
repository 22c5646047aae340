import { measureFilm } from '@/core/film';
import { exposureScale, luminance } from '@/core/image';
import type { Recipe } from '@/core/recipe';
import type { Scene, SceneDocument } from '@/core/scene';
import type { RenderPool } from '../../pool/pool';
import { cameraOf, type Patient } from '../patient';
import { type Fix, fixRecipe, fixScene } from './fix';
import { quickRecipe } from './quick';
import type { Suspect } from './standing';
import { ACROSS, DOWN, survey } from './survey';
import { logMeanOf, suspects } from './suspects';

/** A cause that has been tried: what its fix is measured to change. */
export interface Cause {
  code: string;
  words: string;
  fix: Fix | null;
  about: string[];
  /** Change of the picture's brightness by the fix alone, in stops; null where there is none to measure. */
  stops: number | null;
}

export interface Diagnosis {
  /** The picture as it stands: mean luminance at the camera's exposure (1 = display white), shares of pixels. */
  mean: number;
  black: number;
  clipped: number;
  noisePercent: number | null;
  /** In order of effect. */
  causes: Cause[];
  rays: number;
  ms: number;
}

const SAMPLES = 16;
/** Brightness above which a pixel counts no more: one lamp in sight must not outweigh the room. */
const MOST = 4;
/** Fixes that change less than this are no causes. */
const LEAST_STOPS = 0.1;
const FLOOR = 1e-6;

interface Measured {
  luminances: Float32Array;
  /** Colours at the survey's sights. */
  colors: [number, number, number][];
  mean: number;
  lost: Record<string, number>;
  noise: number | null;
  rays: number;
}

const withoutMaterial = (d: SceneDocument) =>
  d.objects.filter((o) => !d.materials.some((m) => m.name === o.material)).map((o) => o.name);

const greyed = (d: SceneDocument, grey: string[]) => fixScene(d, d.cameras[0], { label: '', grey });

/** Colours of a picture about the middles of the survey's sights, each the mean of 3 × 3 pixels. */
function colorsAt(planes: readonly Float32Array[], { width, height }: { width: number; height: number }) {
  const out: [number, number, number][] = [];
  for (let y = 0; y < DOWN; y++)
    for (let x = 0; x < ACROSS; x++) {
      const px = Math.min(width - 2, Math.max(1, Math.floor(((x + 0.5) / ACROSS) * width)));
      const py = Math.min(height - 2, Math.max(1, Math.floor(((y + 0.5) / DOWN) * height)));
      const mean = planes.map((p) => {
        let sum = 0;
        for (let j = -1; j <= 1; j++) for (let i = -1; i <= 1; i++) sum += p[(py + j) * width + px + i];
        return sum / 9;
      });
      out.push(mean as [number, number, number]);
    }
  return out;
}

/**
 * Finds why a picture is dark, white or noisy: looks about with rays, suspects, and renders the scene small with every
 * suspect's fix made to see what it changes. `sceneOf` makes scenes of documents; `onStep` hears how far it has come.
 */
export async function diagnose(
  pool: RenderPool,
  sceneOf: (document: SceneDocument) => Promise<Scene>,
  patient: Patient,
  { signal, onStep }: { signal?: AbortSignal; onStep?: (done: number, of: number, words: string) => void } = {},
): Promise<Diagnosis> {
  const started = performance.now();
  let rays = 0;
  const measure = async (document: SceneDocument, recipe: Recipe): Promise<Measured> => {
    // A fix may be one of the camera.
    const camera = cameraOf({ ...patient, document });
    const { film } = await pool.render(
      await sceneOf(document),
      quickRecipe(recipe, SAMPLES, { groups: false, lostLight: true, lostChance: 1 }),
      camera,
      {
        frame: patient.frame,
        signal,
      },
    );
    const [r, g, b] = film.beauty();
    const luminances = Float32Array.from(r, (_, i) => luminance(r[i], g[i], b[i]));
    const scale = exposureScale(camera.exposure);
    const mean = luminances.reduce((sum, y) => sum + Math.min(MOST, y * scale), 0) / luminances.length;
    const figures = measureFilm(film, scale);
    rays += figures.rays.total;
    const lost: Record<string, number> = {};
    const { lost: found } = figures;
    if (found?.byLimit)
      for (const [kind, share] of Object.entries(found.byLimit))
        lost[kind] = share * (Number.isFinite(found.ofLight) && mean > 0 ? found.ofLight : 1);
    return {
      luminances,
      colors: colorsAt([r, g, b], film.spec.region),
      mean,
      lost,
      noise: figures.noise?.rms ?? null,
      rays,
    };
  };
  const { recipe } = patient;
  const missing = withoutMaterial(patient.document);
  // What has no material cannot be traced: it is looked at in plain grey.
  const document = missing.length > 0 ? greyed(patient.document, missing) : patient.document;
  const camera = cameraOf(patient);
  onStep?.(0, 1, 'the picture as it stands');
  const base = await measure(document, recipe);
  const inspector = pool.inspector()!;
  const looked = survey(inspector, document, recipe, camera, patient.frame);
  const scale = exposureScale(camera.exposure);
  const list = suspects({
    document,
    recipe,
    camera,
    survey: looked,
    colors: base.colors,
    logMean: logMeanOf(base.luminances, camera.exposure),
    lost: base.lost,
  });
  const causes: Cause[] = [];
  if (missing.length > 0)
    causes.push({
      code: 'material-missing',
      words: `${missing.join(', ')}: the material is not there.`,
      fix: { label: 'Give plain grey', grey: missing },
      about: missing,
      stops: null,
    });
  for (const [i, s] of list.entries()) {
    if (signal?.aborted) break;
    onStep?.(i + 1, list.length + 1, s.words);
    const cause = await tried(s);
    if (cause) causes.push(cause);
  }
  const weight = (c: Cause) => (c.stops === null ? Infinity : Math.abs(c.stops));
  causes.sort((a, b) => weight(b) - weight(a));
  const share = (test: (y: number) => boolean) =>
    base.luminances.reduce((n, y) => n + (test(y * scale) ? 1 : 0), 0) / base.luminances.length;
  return {
    mean: base.mean,
    black: share((y) => y < 0.002),
    clipped: share((y) => y > 1),
    noisePercent: base.noise,
    causes,
    rays,
    ms: performance.now() - started,
  };

  async function tried(s: Suspect): Promise<Cause | null> {
    const { code, words, fix, about } = s;
    if (!fix) return { code, words, fix, about, stops: null };
    const after = await measure(fixScene(document, camera, fix), fixRecipe(recipe, fix));
    const stops = Math.log2((after.mean + FLOOR) / (base.mean + FLOOR));
    if (!s.certain && Math.abs(stops) < LEAST_STOPS) return null;
    return { code, words, fix, about, stops };
  }
}
