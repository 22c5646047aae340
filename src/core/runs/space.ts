import { makeSpec } from '../film';
import { bytesStored } from '../outputs';
import { frameOf } from '../recipe';
import { COMP, filesOfFrame, type RunNames, type RunOf, runPictures, takenPictures } from './plan';

/** Bytes of a pixel of what the stack makes: four floats, or three words as shown. */
const COMP_BYTES = { exr: 16, png: 6, tiff: 6 };

/** Most bytes of a frame's files before they are packed. */
export function filesBytes(of: RunOf, names: RunNames, frame: number): number {
  const { files } = filesOfFrame(of, names, frame);
  return runPictures(of)
    .flatMap((picture, i) => files[i].map((file) => ({ file, picture })))
    .reduce((sum, { file, picture: { recipe, outputs } }) => {
      const { region } = frameOf(recipe);
      const pixels = region.width * region.height;
      if (file.output === COMP) return sum + pixels * COMP_BYTES[of.comp!.as];
      return sum + bytesStored(file.layers, pixels, outputs.find((o) => o.name === file.output)!).most;
    }, 0);
}

/** Frames whose films wait for those beside them at most: the first, the middle and the last with their neighbours. */
const WAIT_JOINED = 6;
/** Frames whose films wait for variants, or are lent, while the next one is rendered. */
const WAIT_TAKEN = 2;

/** Bytes that films of so many frames of a run take in the store at once: of all that are kept, else of those that wait for others. */
export function filmsBytes(of: RunOf, frames: number, keeps: boolean): number {
  const taken = new Set(takenPictures(of).values());
  return runPictures(of).reduce((sum, { recipe }, picture) => {
    const { planes, region } = makeSpec(recipe, of.document);
    const film = planes.count * region.width * region.height * 4;
    const joins = recipe.denoise.on && recipe.denoise.neighbours;
    const isTaken = taken.has(picture) || (picture === 0 && taken.size > 0);
    const waiting = joins ? WAIT_JOINED : isTaken ? WAIT_TAKEN : 0;
    return sum + film * (keeps ? frames : Math.min(frames, waiting));
  }, 0);
}
