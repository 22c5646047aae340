import { advice } from './advice';
import { brightest } from './brightest';
import { clean } from './clean';
import { covering } from './covering';
import { cures } from './cures';
import { depth } from './depth';
import { depths } from './depths';
import { diagnosis } from './diagnosis';
import { effects } from './effects';
import { emitted } from './emitted';
import { errors } from './errors';
import { gather } from './gather';
import { geometry } from './geometry';
import { glb } from './glb';
import { gradeTable } from './grade-table';
import { headroom } from './headroom';
import { histogram } from './histogram';
import { hours } from './hours';
import { judged } from './judged';
import { layerNoise } from './layer-noise';
import { layerPicture } from './layer-picture';
import { lightPictures } from './light-pictures';
import { lightShares } from './light-shares';
import { moodPicture } from './mood-picture';
import { pictureTimes } from './picture-times';
import { recording } from './recording';
import { relit } from './relit';
import { rewritten } from './rewritten';
import { runTimes } from './run-times';
import { saving } from './saving';
import { scopes } from './scopes';
import { see } from './see';
import { sequence } from './sequence';
import { stackCut } from './stack-cut';
import { stackFigures } from './stack-figures';
import { stackFile } from './stack-file';
import { stackPixel } from './stack-pixel';
import { stackTag } from './stack-tag';
import { stills } from './stills';
import { swatch } from './swatch';
import { tally } from './tally';
import { trails } from './trails';
import { tune } from './tune';
import { within } from './within';

/** Every question by its name. Another one is a file and a line here. */
export const QUESTIONS = {
  advice,
  brightest,
  clean,
  covering,
  cures,
  depth,
  depths,
  diagnosis,
  effects,
  emitted,
  errors,
  gather,
  geometry,
  glb,
  headroom,
  histogram,
  hours,
  judged,
  layerNoise,
  layerPicture,
  lightPictures,
  lightShares,
  moodPicture,
  pictureTimes,
  runTimes,
  recording,
  relit,
  rewritten,
  saving,
  scopes,
  see,
  sequence,
  stackCut,
  stackFigures,
  gradeTable,
  stackFile,
  stackPixel,
  stackTag,
  stills,
  swatch,
  tally,
  trails,
  tune,
  within,
};

export type QuestionName = keyof typeof QUESTIONS;
/** What goes into a question, and what comes out of it. */
export type Asked<K extends QuestionName> = Parameters<(typeof QUESTIONS)[K]>[1];
export type Answered<K extends QuestionName> = Awaited<ReturnType<(typeof QUESTIONS)[K]>>;
