import { layersKept } from '../film';
import {
  allFiles,
  chosenOf,
  type NamedBy,
  type Output,
  type OutputFile,
  type Outputs,
  pictureRecipe,
  pictures,
  type Variant,
  withMade,
} from '../outputs';
import type { Recipe } from '../recipe';
import { lightGroups, type SceneDocument } from '../scene';

/** A picture of every frame of a run: the shot's own or a variant, with the outputs that leave from it. */
export interface RunPicture {
  variant: Variant | null;
  recipe: Recipe;
  outputs: Output[];
}

/** What a run is of. */
export interface RunOf {
  document: SceneDocument;
  recipe: Recipe;
  outputs: Outputs;
}

/** The pictures that the outputs of a run are of, each with a film that keeps what they write: the shot's own first. */
export function runPictures({ document, recipe, outputs: { list, masks } }: RunOf): RunPicture[] {
  const groups = lightGroups(document);
  return pictures(list).map(({ variant, outputs }) => ({
    variant,
    outputs,
    recipe: pictureRecipe(recipe, { list, masks }, variant, groups),
  }));
}

/** Layers that an output of a run writes, and those it names that films of the scene cannot keep. */
export function layersOfOutput(
  output: Output,
  of: Pick<RunPicture, 'recipe'>,
  { document, outputs }: Pick<RunOf, 'document' | 'outputs'>,
): { chosen: string[]; absent: string[] } {
  return chosenOf(output, withMade(layersKept(of.recipe.film, lightGroups(document)), outputs.masks));
}

/** What names of files of a run are made of beside the frame. `trial` is the number of the run. */
export type RunNames = Omit<NamedBy, 'frame'>;

/** A file that a run delivers of a frame. */
export interface RunFile extends OutputFile {
  output: string;
}

/** Files of one frame, picture by picture, and why they cannot be written so. */
export function filesOfFrame(of: RunOf, names: RunNames, frame: number): { files: RunFile[][]; faults: string[] } {
  const all = runPictures(of);
  const layers = new Map(all.flatMap((p) => p.outputs.map((o) => [o.id, layersOfOutput(o, p, of).chosen] as const)));
  const plans = allFiles(of.outputs.list, (o) => layers.get(o.id)!, { ...names, frame });
  return {
    files: all.map((p) => p.outputs.flatMap((o) => plans.get(o.id)!.files.map((f) => ({ ...f, output: o.name })))),
    faults: [...plans.values()].flatMap((p) => p.faults),
  };
}
