import { canonicalJson } from '@/core/recipe';
import { type Manifest, type RunOf, runPictures } from '@/core/runs';
import type { SceneDocument } from '@/core/scene';
import { sha256 } from '@/node/hash';
import type { Sql } from '../db/connection';
import { filesOfRun, framesRendered } from '../db/run-files';
import { type RunRow, runById } from '../db/runs';
import { revisionById, shotById } from '../db/shots';

/** What a run is of, as it was frozen. */
export const ofRun = ({ recipe, outputs, comp, stack }: RunRow, document: SceneDocument): RunOf => ({
  ...{ document, recipe, outputs },
  comp: comp && { stack, as: comp },
});

/** The manifest of a run as far as it is delivered, and the folder it belongs into; null when the run is not there. */
export async function manifestOf(
  sql: Sql,
  id: string,
  version: string,
): Promise<{ manifest: Manifest; folder: string } | null> {
  const run = await runById(sql, id);
  const revision = run && (await revisionById(sql, run.revision));
  const shot = run && (await shotById(sql, run.shot));
  if (!run || !revision || !shot || run.removed) return null;
  const { document } = revision;
  const pictures = runPictures(ofRun(run, document));
  const files = (await filesOfRun(sql, id)).filter((f) => f.placed);
  const { counts } = run;
  const manifest: Manifest = {
    schema: 1,
    program: `lantern ${version}`,
    shot: shot.name,
    run: run.number,
    frames: run.frames,
    camera: run.camera,
    scene: sha256(canonicalJson(document)),
    recipe: run.recipe,
    outputs: run.outputs,
    complete: counts.done === counts.all && run.files.placed === run.files.packed,
    rendered: (await framesRendered(sql, id)).map((f) => ({
      frame: f.frame,
      variant: pictures[f.picture]?.variant ?? null,
      noise: f.noise,
      seconds: f.seconds,
      machine: f.machine ?? '',
      rendered: new Date(f.at).toISOString(),
    })),
    files: files.map(({ name, output, frame, layers, bytes, sha256 }) => ({
      name,
      output,
      frame,
      layers,
      bytes,
      sha256,
    })),
  };
  return { manifest, folder: run.folder };
}
