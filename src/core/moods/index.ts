export { whyDark } from './dark';
export { asEarlier, broughtBack, forgotten, freeName, isKept, kept, moved, renamed, taken, withNow } from './edit';
export { parseGain, stopsText } from './gain';
export {
  AS_RENDERED,
  between,
  colorFactors,
  emittedColor,
  emptyChannels,
  isNeutral,
  type Mixing,
  missingGroups,
  mixFactors,
  mixingOf,
  mixOf,
} from './mix';
export {
  type GroupMix,
  type Key,
  type Mix,
  type MixColor,
  MOST_STOPS,
  type Mood,
  type MoodFile,
  type Moods,
  MoodsError,
  NO_MOODS,
  parseMoodFile,
  parseMoods,
  type Timed,
} from './schema';
export { eachMix, keyedAt, mixAt, movedKey, unkeyedAt } from './timed';
export { type Whitened, whitened } from './white';
export { type WrittenBack, writtenBack } from './write-back';
