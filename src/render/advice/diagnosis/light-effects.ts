import { LAYER, measureFilm } from '@/core/film';
import { exposureScale } from '@/core/image';
import type { Recipe } from '@/core/recipe';
import { glowsOf, type Scene, type SceneDocument } from '@/core/scene';
import type { RenderPool } from '../../pool/pool';
import { cameraOf, type Patient } from '../patient';
import { type Apart, eachApart, meanLight } from './sources-apart';
import { type LightSurvey, survey } from './survey';

/** A source of light and what it does for the picture. */
export interface LightEffect {
  kind: 'light' | 'sun' | 'environment' | 'material';
  /** Light or material; `sun` and `environment` otherwise. */
  name: string;
  on: boolean;
  /** Share of the light in the picture, and of its noise (variance); null for the noise of a picture without any. */
  light: number;
  noise: number | null;
  /** Why it gives nothing, where it gives nothing. */
  why: string | null;
}

interface SourceRef extends Apart {
  kind: LightEffect['kind'];
  name: string;
  on: boolean;
}

function sourcesOf(document: SceneDocument): SourceRef[] {
  const { lights, environment, materials, objects } = document;
  const out: SourceRef[] = lights.map((l) => ({ kind: 'light', name: l.name, on: l.on, members: [`light ${l.name}`] }));
  if (environment?.kind === 'sky') out.push({ kind: 'sun', name: 'sun', on: environment.sun.on, members: ['sun sun'] });
  if (environment)
    out.push({ kind: 'environment', name: 'environment', on: environment.on, members: ['environment environment'] });
  const glows = glowsOf(document);
  for (const m of materials) {
    const members = glows.filter((g) => g.material === m.name).map((g) => `glow ${objects[g.object].name}`);
    if (members.length > 0) out.push({ kind: 'material', name: m.name, on: m.light.on, members });
  }
  return out;
}

function reason(document: SceneDocument, recipe: Recipe, source: SourceRef, looked: LightSurvey | undefined): string {
  if (!source.on) return 'switched off';
  if (source.kind === 'material')
    return recipe.clay.on && !recipe.clay.keepEmission
      ? 'clay covers what glows'
      : 'hidden, facing away, or too small to reach the picture';
  if (source.kind !== 'light') {
    const env = document.environment;
    if (source.kind === 'sun' && env?.kind === 'sky' && env.sun.heightDegrees < 0) return 'below the horizon';
    return 'nothing of it reaches what is seen';
  }
  const l = document.lights.find((x) => x.name === source.name)!;
  if (recipe.clay.on && recipe.clay.occlusion) return 'clay is shaded by occlusion';
  if (l.power === 0) return 'its power is 0';
  if (Math.max(...l.color) === 0) return 'its colour is black';
  if (l.stops < -9) return `turned down by ${-l.stops} stops`;
  if (l.include?.length === 0) return 'it lights only things that are not there';
  if (Math.max(l.gains.diffuse, l.gains.reflection, l.gains.transmission) === 0) return 'its gains on surfaces are 0';
  if (l.include) return `it lights only ${l.include.join(', ')}`;
  if (looked && looked.before < 0.01) return 'it faces away from what is seen';
  const first = looked && [...looked.blockers].sort((a, b) => b[1] - a[1])[0];
  if (first && looked.open < 0.05) return `${first[0]} stands in its way`;
  if (l.exclude.length > 0) return `it does not light ${l.exclude.join(', ')}`;
  return 'too weak beside the others';
}

/**
 * All sources of light by what they do for the picture, strongest first: every one is rendered into a light group of
 * its own, so shares of light sum to 1.
 */
export async function lightEffects(
  pool: RenderPool,
  sceneOf: (document: SceneDocument) => Promise<Scene>,
  patient: Patient,
  signal?: AbortSignal,
): Promise<LightEffect[]> {
  const { document, recipe, frame } = patient;
  const camera = cameraOf(patient);
  const scale = exposureScale(camera.exposure);
  const found: { source: SourceRef; y: number; noise: number | null }[] = [];
  let whole = 0;
  await eachApart(pool, sceneOf, patient, sourcesOf(document), signal, (film, sources) => {
    whole = meanLight(film, 'beauty');
    const { shares } = measureFilm(film, scale);
    for (const [group, source] of sources) {
      const noise = shares
        ? shares.groupClass.filter((s) => s.group === group).reduce((sum, s) => sum + s.share, 0)
        : null;
      found.push({ source, y: meanLight(film, LAYER.group(group)), noise });
    }
  });
  const dark = found.filter((f) => !(f.y > whole * 1e-5));
  const looked =
    dark.some((f) => f.source.kind === 'light') && pool.isLoaded
      ? survey(pool.inspector()!, document, recipe, camera, frame)
      : null;
  return found
    .map(({ source: { kind, name, on, members }, y, noise }) => ({
      kind,
      name,
      on,
      light: whole > 0 ? y / whole : 0,
      noise,
      why: y > whole * 1e-5 ? null : reason(document, recipe, { kind, name, on, members }, looked?.lights.get(name)),
    }))
    .sort((a, b) => b.light - a.light);
}
