// Inner loops of stacks: four planes a picture, of a tile or whole.

export { blend, joinEvenly, join } from './joins';
export { gain, lead, saturate, scale, times, veil, weigh } from './tones';
export { box, turn, weighed } from './boxes';
export { capped, evened, pull, push } from './fill';
export { confuse, enlarge, lay, settle, slice, take } from './lens';
export { addUp, gatherShape, over } from './disks';

/** Where memory begins that no loop keeps anything in. */
export function freeFrom(): usize {
  return __heap_base;
}
