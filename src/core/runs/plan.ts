import type { StackDocument } from '../comp';
import { layersKept } from '../film';
import {
  allFiles,
  chosenOf,
  filesOf,
  isOfVariant,
  type NamedBy,
  type Output,
  type OutputFile,
  type Outputs,
  outputSchema,
  pictureRecipe,
  pictures,
  type Variant,
  withMade,
} from '../outputs';
import { NOT_DENOISED, parseRecipe, type Recipe } from '../recipe';
import { lightGroups, type SceneDocument } from '../scene';
import { pictureNeeds, variantsIn } from '../stacks';

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
  /** The stack whose picture is delivered beside them, and as which kind of file; null where none is. */
  comp?: { stack: StackDocument; as: CompKind } | null;
}

export const COMP_KINDS = ['exr', 'png', 'tiff'] as const;
export type CompKind = (typeof COMP_KINDS)[number];

/** What stands for an output in names of what the stack makes. */
export const COMP = 'comp';

/** The pictures that the outputs of a run are of, each with a film that keeps what they write: the shot's own first. */
export function runPictures({ document, recipe, outputs: { list, masks }, comp = null }: RunOf): RunPicture[] {
  const groups = lightGroups(document);
  const all = pictures(list);
  // The stack lies over the shot's own picture, whether any output is of that or not.
  if (comp && all[0]?.variant !== null) all.unshift({ variant: null, outputs: [] });
  return all.map(({ variant, outputs }) => ({
    variant,
    outputs,
    recipe: pictureRecipe(
      recipe,
      { list, masks },
      variant,
      groups,
      comp ? pictureNeeds(comp.stack, list, variant) : [],
    ),
  }));
}

/** Pictures of variants whose films the stack of a run takes, by where it says that they are: numbers among those of the run. */
export function takenPictures(of: RunOf): Map<string, number> {
  if (!of.comp) return new Map();
  const all = runPictures(of);
  const taken = [...variantsIn(of.comp.stack, of.outputs.list)];
  const numbered = taken.map(
    ([where, v]) => [where, all.findIndex(({ variant }) => isOfVariant({ variant }, v))] as const,
  );
  return new Map(numbered.filter(([, picture]) => picture > 0));
}

/** Width in pixels and samples of a frame that only proves what is written. */
const [PROOF_PX, PROOF_SAMPLES] = [320, 8];

/** A recipe by which a frame shows for little what every file of a run holds. */
export function proofRecipe(recipe: Recipe): Recipe {
  const { size, sampling } = recipe;
  return parseRecipe({
    ...recipe,
    name: `${recipe.name}, proof`,
    size: { ...size, scale: Math.min(size.scale, Math.max(1, (PROOF_PX / size.width) * 100)) },
    sampling: { ...sampling, cameraMin: 2, cameraMax: Math.min(PROOF_SAMPLES, sampling.cameraMax), stopNoise: 0 },
    denoise: NOT_DENOISED,
  });
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

/** The file of what the stack makes of a frame. */
function compFileOf(as: CompKind, by: NamedBy): RunFile {
  const [{ name }] = filesOf(outputSchema.parse({ id: COMP, name: COMP, layers: ['beauty'] }), ['beauty'], by).files;
  return { name: name.replace(/exr$/, as === 'tiff' ? 'tif' : as), layers: [], output: COMP };
}

/** Files of a frame, picture by picture, and why they cannot be written so. */
export interface FrameFiles {
  files: RunFile[][];
  faults: string[];
}

/** The files of every frame of a run, by frame: what they have in common is looked at once. */
export function filesOfRun(of: RunOf, names: RunNames): (frame: number) => FrameFiles {
  const all = runPictures(of);
  const layers = new Map(all.flatMap((p) => p.outputs.map((o) => [o.id, layersOfOutput(o, p, of).chosen] as const)));
  return (frame) => filesNamed(of, all, (o) => layers.get(o.id)!, { ...names, frame });
}

function filesNamed(
  of: RunOf,
  all: readonly RunPicture[],
  layersOf: (output: Output) => readonly string[],
  by: NamedBy,
): FrameFiles {
  const plans = allFiles(of.outputs.list, layersOf, by);
  const files = all.map((p) =>
    p.outputs.flatMap((o): RunFile[] => plans.get(o.id)!.files.map((f) => ({ ...f, output: o.name }))),
  );
  const faults = [...plans.values()].flatMap((p) => p.faults);
  if (of.comp) {
    const own = compFileOf(of.comp.as, by);
    if (files.flat().some((f) => f.name === own.name))
      faults.push(`${own.name} is the stack’s: call the output otherwise`);
    files[0].push(own);
  }
  return { files, faults };
}

/** The files of one frame of a run. */
export const filesOfFrame = (of: RunOf, names: RunNames, frame: number): FrameFiles => filesOfRun(of, names)(frame);
