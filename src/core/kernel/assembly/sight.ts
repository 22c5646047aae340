// How the camera sees the light of the path under way: by the first of its vertices that is no sharp mirror or glass.
import { SIGHT_FOG, SIGHT_MIRRORS, SIGHT_SEEN, SIGHT_SURFACES } from './layout';
import { DIFFUSE, REFLECTION } from './lobes';
import { sharpR, sharpT } from './material';

/** Of a light that would be met where the path is now. */
export let sight: i32 = SIGHT_SEEN;

/** Begins at the camera. */
export function beginSight(): void {
  sight = SIGHT_SEEN;
}

/** Of a light beyond a lobe of the loaded vertex. */
export function sightPast(lobe: i32): i32 {
  if (sight > SIGHT_MIRRORS) return sight;
  return lobe != DIFFUSE && (lobe == REFLECTION ? sharpR : sharpT) ? SIGHT_MIRRORS : SIGHT_SURFACES;
}

/** Of a light beyond fog where the path is now. */
export function sightPastFog(): i32 {
  return sight > SIGHT_MIRRORS ? sight : SIGHT_FOG;
}

/** Goes on by a lobe of the loaded vertex. */
export function passLobe(lobe: i32): void {
  sight = sightPast(lobe);
}

/** Goes on from where fog scattered the path. */
export function passFog(): void {
  sight = sightPastFog();
}

/** Goes on from where the inside of a solid scattered the path. */
export function passInside(): void {
  if (sight <= SIGHT_MIRRORS) sight = SIGHT_SURFACES;
}
