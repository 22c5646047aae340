export { bandsFor, dealsOut, MOST_FILM_BYTES } from './bands';
export { type Checked, type Finding, leftovers, type Repair } from './check';
export {
  type Delivered,
  inTime,
  type Left,
  summed,
  type TimeLeft,
  timeLeft,
  workAhead,
  workLeft,
} from './forecast';
export { evenly, FramesError, framesText, inOrder, ORDERS, type Order, parseFrames } from './frames';
export { type JobPath, jobTemplate } from './job';
export { MANIFEST_NAME, type Manifest, type ManifestFile, manifestSchema, verifyFiles } from './manifest';
export {
  COMP,
  COMP_KINDS,
  type CompKind,
  filesOfFrame,
  filesOfRun,
  proofRecipe,
  type RunFile,
  type RunNames,
  type RunOf,
  type RunPicture,
  runPictures,
  takenPictures,
} from './plan';
export { filesBytes, filmsBytes } from './space';
export { framesBeside, glanceOf, stepOf } from './steps';
