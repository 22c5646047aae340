import type { Scene } from '../scene';
import { keepersDesk } from './keepers-desk';
import { lanternRoom } from './lantern-room';
import { quayDawn } from './quay-dawn';

/** Shots of "The Keeper's Night" that ship, by name. */
export const SHOTS: Record<string, () => Scene> = {
  'lantern-room': lanternRoom,
  'keepers-desk': keepersDesk,
  'quay-dawn': quayDawn,
};

export { SHOT_PLATES, SHOT_STACKS } from './examples';
