import { type Film, makeLayer } from '@/core/film';
import { luminance } from '@/core/image';
import { lightSources, MOST_GROUPS, type Scene, type SceneDocument, UNASSIGNED, withGroups } from '@/core/scene';
import type { RenderPool } from '../../pool/pool';
import { cameraOf, type Patient } from '../patient';
import { quickRecipe } from './quick';

/** A source to be told apart, by its members as `lightSources` names them. */
export interface Apart {
  members: readonly string[];
}

/** Sources told apart in one render: a film keeps one of its groups for the rest. */
const AT_ONCE = MOST_GROUPS - 1;
const SAMPLES = 32;

/** The document with each of some sources in a light group of its own, and all else unassigned. */
function parted(document: SceneDocument, named: ReadonlyMap<string, Apart>): SceneDocument {
  const groups = new Map(lightSources(document).flatMap((s) => s.members.map((m) => [m, UNASSIGNED])));
  for (const [group, { members }] of named) for (const m of members) groups.set(m, group);
  return { ...withGroups(document, groups), groups: [...named.keys(), UNASSIGNED] };
}

/**
 * Renders sources of light small, each into a light group of its own, as many at once as a film keeps; `visit` gets every
 * film with the groups that its sources are in.
 */
export async function eachApart<T extends Apart>(
  pool: RenderPool,
  sceneOf: (document: SceneDocument) => Promise<Scene>,
  patient: Patient,
  sources: readonly T[],
  signal: AbortSignal | undefined,
  visit: (film: Film, sources: ReadonlyMap<string, T>) => void,
): Promise<void> {
  const { document, recipe, frame } = patient;
  for (let from = 0; from < sources.length && !signal?.aborted; from += AT_ONCE) {
    const named = new Map(sources.slice(from, from + AT_ONCE).map((s, i) => [`s${i}`, s]));
    const { film } = await pool.render(
      await sceneOf(parted(document, named)),
      quickRecipe(recipe, SAMPLES, { groups: true }),
      cameraOf(patient),
      { frame, signal },
    );
    visit(film, named);
  }
}

/** Mean luminance of a layer in nits; 0 where the film lacks it. */
export function meanLight(film: Film, layer: string): number {
  const planes = makeLayer(film, layer)?.planes;
  if (!planes) return 0;
  let sum = 0;
  for (let i = 0; i < planes[0].length; i++) sum += luminance(planes[0][i], planes[1][i], planes[2][i]);
  return sum / planes[0].length;
}
