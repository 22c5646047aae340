import type { Scene } from '../scene';
import { lanternRoom } from './lantern-room';

/** Shots of "The Keeper's Night" that ship, by name. */
export const SHOTS: Record<string, () => Scene> = { 'lantern-room': lanternRoom };
