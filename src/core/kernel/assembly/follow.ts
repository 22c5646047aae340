// What a ray meets: passing cut-outs by chance and surfaces that another solid displaces.
import { closest, hitInstance, hitT, hitTriangle, hitU, hitV } from './bvh-trace';
import { countRay } from './film';
import { beginFogs, crossFogs, endFogs, hasFog } from './fog';
import { MOST_FOGS, M_BOUNDARY, M_OPACITY, RAY_CAMERA } from './layout';
import { meet, metLight, metT } from './light-shapes';
import { CAMERA_LIST, clearMedia, cross, crossIntoFogs, fogCounts, isDisplaced, isInside, isSolid, keepMedia, medium, setInFogs, spareMedia } from './media';
import { hides } from './rules';
import { fraction, hash } from './sobol';
import { keepsTrail, notePassed } from './trail';
import { epsilon, front, loadVertex, lookAsCamera, material, objectFlags, objectIndex, px, py, pz, record } from './vertex';

/** Further than anything. */
export const FAR: f32 = 1e30;
/** Surfaces that one ray may pass; more means a fault in the scene. */
const MOST_PASSED: i32 = 256;

let holes: i32 = 0;
export function bindFollow(mostHoles: i32): void {
  holes = mostHoles;
}

/** What `seenLight` holds when no light's shape is met. */
export const SURFACE: i32 = -1;
export const SKY: i32 = -2;
export const NOTHING: i32 = -3;

/**
 * Result of `follow`: the number of the light whose shape is met; or `SURFACE`, whose vertex is then loaded; `SKY` when
 * the ray left the scene; `NOTHING` up to a limit. `seenNothing` when the limit of cut-outs ended the ray.
 */
export let seenLight: i32 = -1;
export let seenT: f32 = 0;
export let seenNothing: bool = false;

/** Follows a ray of `kind` up to `far`. (stream, index, step) fix the chances of cut-outs. */
export function follow(
  ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, far: f32, kind: i32, stream: u32, index: u32, step: i32,
): void {
  seenNothing = false;
  // Whatever goes on from the camera's ray without a vertex sees as the camera does.
  const sees = step == 0 ? RAY_CAMERA : kind;
  lookAsCamera(sees == RAY_CAMERA);
  let from: f32 = 0;
  let passed = 0;
  const foggy = hasFog();
  if (foggy) beginFogs();
  for (let turn = 0; turn < MOST_PASSED; turn++) {
    countRay(kind);
    if (turn == 0) meet(ox, oy, oz, dx, dy, dz, 0, far);
    closest(ox, oy, oz, dx, dy, dz, from, metT);
    if (metLight >= 0 && (hitTriangle < 0 || metT < hitT)) {
      seenLight = metLight;
      seenT = metT;
      break;
    }
    seenT = hitT;
    if (hitTriangle < 0) {
      seenLight = far < FAR ? NOTHING : SKY;
      break;
    }
    seenLight = SURFACE;
    loadVertex(hitTriangle, hitInstance, hitU, hitV, dx, dy, dz);
    if (objectFlags && hides(objectFlags, sees, front)) {
      if (keepsTrail()) notePassed(objectIndex, px, py, pz);
      from = hitT + epsilon;
      if (turn == MOST_PASSED - 1) { seenNothing = true; return; }
      continue;
    }
    const bounded = u32(load<f32>(record, M_BOUNDARY));
    if (bounded) {
      crossFogs(hitT, bounded, front);
      crossIntoFogs(bounded, front);
      from = hitT + epsilon;
      continue;
    }
    const opacity = load<f32>(material, M_OPACITY);
    if (opacity < 1) {
      const chance = hash(stream ^ hash(index * 0x9e3779b9 + u32(step * 64 + turn)));
      if (fraction(chance) >= opacity) {
        if (++passed > holes) { seenNothing = true; return; }
        from = hitT + epsilon;
        continue;
      }
    }
    if (!isSolid(record) || !isDisplaced(record, front)) break;
    cross(record, front);
    from = hitT + epsilon;
    if (turn == MOST_PASSED - 1) { seenNothing = true; return; }
  }
  if (foggy) endFogs(ox, oy, oz, dx, dy, dz, seenT, medium() != 0);
}

/** Takes up again what an earlier ray saw. */
export function restoreSeen(kind: i32, t: f32): void {
  seenLight = kind;
  seenT = t;
}

/** Finds the solids that the camera stands in: those that a ray leaves without having entered. */
export function findCameraMedia(x: f32, y: f32, z: f32): void {
  // Any direction will do; this one runs along no axis or plane of symmetry, where edges are likely.
  const dx: f32 = 0.3426830136, dy: f32 = 0.9102548798, dz: f32 = 0.2323884808;
  const found = spareMedia();
  const left = fogCounts();
  let count = 0;
  memory.fill(left, 0, MOST_FOGS << 2);
  clearMedia();
  lookAsCamera(true);
  let from: f32 = 0;
  for (let turn = 0; turn < MOST_PASSED; turn++) {
    closest(x, y, z, dx, dy, dz, from, FAR);
    if (hitTriangle < 0) break;
    loadVertex(hitTriangle, hitInstance, hitU, hitV, dx, dy, dz);
    from = hitT + epsilon;
    if (objectFlags && hides(objectFlags, RAY_CAMERA, front)) continue;
    let bounded = u32(load<f32>(record, M_BOUNDARY));
    if (bounded) {
      for (; bounded; bounded &= bounded - 1) {
        const at = left + (usize(ctz(bounded)) << 2);
        store<i32>(at, load<i32>(at) + (front ? -1 : 1));
      }
      continue;
    }
    if (!isSolid(record)) continue;
    if (front || isInside(record)) { cross(record, front); continue; }
    if (count < 8) { store<u32>(found + (usize(count) << 2), u32(record)); count++; }
  }
  clearMedia();
  // The one left first was entered last.
  for (let i = count - 1; i >= 0; i--) cross(usize(load<u32>(found + (usize(i) << 2))), true);
  let inside: u32 = 0;
  for (let i = 0; i < MOST_FOGS; i++) if (load<i32>(left + (usize(i) << 2)) > 0) inside |= 1 << i;
  setInFogs(inside);
  keepMedia(CAMERA_LIST);
}
