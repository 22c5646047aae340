// Light that a ray meets: weighed against light sampling at the vertex it left, and the parts it goes into.
import { hitTriangle } from './bvh-trace';
import { contribute } from './film';
import { seenLight, seenT } from './follow';
import { IN_MIRRORS, IN_REFLECTION, ON_DIFFUSE, THROUGH, gainOf, groupOf, lights, reaches } from './light-records';
import { farCount, farLight, farRadiance, lb, lg, lightStrength, lr, radianceOf, setLight } from './lights';
import { DIFFUSE, TRANSMISSION } from './lobes';
import { eb, eg, er } from './material';
import { meshLightOf } from './mesh-lights';
import { sight } from './sight';
import { lightsAlone, lobesAlone } from './study';
import { gx, gy, gz, objectIndex } from './vertex';

/** Of the ray under way: the vertex it left, as far as the light it may meet is concerned. */
let fromX: f32 = 0, fromY: f32 = 0, fromZ: f32 = 0;
let fromObject: i32 = 0, fromRole: i32 = 0;
/** Whether its lobe is a delta, its MIS strength, and how many light samples were picked there. */
let fromDelta: bool = false;
let fromStrength: f32 = 0, fromCount: f32 = 0;

/** Notes the vertex that the next ray leaves; `count` picks among all lights were made there. */
export function leave(x: f32, y: f32, z: f32, object: i32, role: i32, delta: bool, strength: f32, count: f32): void {
  fromX = x; fromY = y; fromZ = z;
  fromObject = object; fromRole = role;
  fromDelta = delta; fromStrength = strength; fromCount = count;
}

/** Notes that the next ray sees lights in `role` and nothing has been gathered where it begins. */
export function leaveUnlit(role: i32): void {
  fromDelta = true;
  fromRole = role;
}

/**
 * Books the light in lr, lg, lb that a ray along d met at distance t, weighed against light sampling at the vertex it
 * left; triangle and cosine where it met a mesh. `bounce` as of a delta vertex, one less for others.
 */
function bookMet(
  light: i32, dx: f32, dy: f32, dz: f32, t: f32, triangle: i32, cosine: f32,
  tr: f32, tg: f32, tb: f32, share: f32, pathClass: i32, bounce: i32,
): void {
  let w = gainOf(light, fromRole);
  if (fromDelta) {
    if (!reaches(light, bounce)) return;
  } else {
    bounce--;
    if (lightsAlone || !lights(light, fromObject, bounce)) return;
    const p = lightStrength(light, fromCount, fromX, fromY, fromZ, dx, dy, dz, t, triangle, cosine);
    if (!lobesAlone) w *= fromStrength / (fromStrength + p);
  }
  contribute(tr * lr * w, tg * lg * w, tb * lb * w, share, groupOf(light), sight, pathClass, bounce);
}

/** Books what a ray along d sees: a light's shape, or all that has no place. */
export function bookSeen(dx: f32, dy: f32, dz: f32, tr: f32, tg: f32, tb: f32, share: f32, pathClass: i32, bounce: i32): void {
  if (seenLight >= 0) {
    radianceOf(seenLight, dx, dy, dz);
    if (lr + lg + lb > 0) bookMet(seenLight, dx, dy, dz, seenT, -1, 1, tr, tg, tb, share, pathClass, bounce);
    return;
  }
  const n = farCount();
  for (let k = 0; k < n; k++) {
    const light = farLight(k);
    if (farRadiance(light, dx, dy, dz)) bookMet(light, dx, dy, dz, seenT, -1, 1, tr, tg, tb, share, pathClass, bounce);
  }
}

/** Books what the surface at the loaded vertex emits towards the ray along d. */
export function bookEmission(dx: f32, dy: f32, dz: f32, tr: f32, tg: f32, tb: f32, share: f32, pathClass: i32, bounce: i32): void {
  const light = meshLightOf(objectIndex);
  if (light < 0) return;
  setLight(er, eg, eb);
  bookMet(light, dx, dy, dz, seenT, hitTriangle, abs(dx * gx + dy * gy + dz * gz), tr, tg, tb, share, pathClass, bounce);
}

/** The role in which light is met through a lobe. */
// @ts-ignore: decorator
@inline
export function roleOf(lobe: i32, delta: bool): i32 {
  return lobe == DIFFUSE ? ON_DIFFUSE : lobe == TRANSMISSION ? THROUGH : delta ? IN_MIRRORS : IN_REFLECTION;
}
