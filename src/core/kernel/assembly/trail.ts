// A record of one path, for looking at: where it went, what light it found, and why it ended. Off while pictures are made.
import { hitInstance, hitT, hitTriangle, closest } from './bvh-trace';
import {
  TRAIL_BYTES, TRAIL_EVENT_BLOCKED, TRAIL_EVENT_END, TRAIL_EVENT_FOG, TRAIL_EVENT_LEFT, TRAIL_EVENT_LIGHT, TRAIL_EVENT_PASSED,
  TRAIL_EVENT_VERTEX, V_B, V_DISTANCE, V_EVENT, V_G, V_LIGHT, V_LOBE, V_OBJECT, V_R, V_REASON, V_X, V_Y, V_Z,
} from './layout';
import { infoOf, objectOf } from './rules';

let trailAt: usize = 0;
let most: i32 = 0;
let written: i32 = 0;

/** Begins to keep up to `records` at `at`; 0 keeps none. */
export function setTrail(at: usize, records: i32): void {
  trailAt = at;
  most = records;
  written = 0;
}

export function trailLength(): i32 {
  return written;
}

// @ts-ignore: decorator
@inline
export function keepsTrail(): bool {
  return trailAt != 0;
}

function begin(event: i32, x: f32, y: f32, z: f32, r: f32, g: f32, b: f32): usize {
  // The last record is kept free for the end.
  if (written >= most - (event == TRAIL_EVENT_END ? 0 : 1)) return 0;
  const at = trailAt + usize(written++) * TRAIL_BYTES;
  memory.fill(at, 0, TRAIL_BYTES);
  store<i32>(at, event, V_EVENT);
  store<i32>(at, -1, V_OBJECT);
  store<i32>(at, -1, V_LIGHT);
  store<i32>(at, -1, V_LOBE);
  store<f32>(at, x, V_X); store<f32>(at, y, V_Y); store<f32>(at, z, V_Z);
  store<f32>(at, r, V_R); store<f32>(at, g, V_G); store<f32>(at, b, V_B);
  return at;
}

/** A surface reached with throughput (r, g, b) after `distance` metres. */
export function noteVertex(object: i32, x: f32, y: f32, z: f32, r: f32, g: f32, b: f32, distance: f32): void {
  const at = begin(TRAIL_EVENT_VERTEX, x, y, z, r, g, b);
  if (!at) return;
  store<i32>(at, object, V_OBJECT);
  store<f32>(at, distance, V_DISTANCE);
}

/** A place in fog reached. */
export function noteFog(x: f32, y: f32, z: f32, r: f32, g: f32, b: f32): void {
  begin(TRAIL_EVENT_FOG, x, y, z, r, g, b);
}

/** The lobe by which the path goes on. */
export function noteLeft(lobe: i32, r: f32, g: f32, b: f32): void {
  const at = begin(TRAIL_EVENT_LEFT, 0, 0, 0, r, g, b);
  if (at) store<i32>(at, lobe, V_LOBE);
}

/** Light booked; `reason` is the limit beyond which it was found, or -1. */
export function noteLight(group: i32, reason: i32, r: f32, g: f32, b: f32): void {
  const at = begin(TRAIL_EVENT_LIGHT, 0, 0, 0, r, g, b);
  if (!at) return;
  store<i32>(at, group, V_LIGHT);
  store<i32>(at, reason, V_REASON);
}

/** A light that a shadow ray did not reach, and the object in its way (-1: another light's shape). */
export function noteBlocked(light: i32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, far: f32): void {
  closest(ox, oy, oz, dx, dy, dz, 0, far);
  const at = begin(TRAIL_EVENT_BLOCKED, ox, oy, oz, 0, 0, 0);
  if (!at) return;
  store<i32>(at, light, V_LIGHT);
  if (hitTriangle >= 0) store<i32>(at, objectOf(infoOf(hitTriangle), hitInstance), V_OBJECT);
  store<f32>(at, hitT, V_DISTANCE);
}

/** An object that a rule hides from the ray. */
export function notePassed(object: i32, x: f32, y: f32, z: f32): void {
  const at = begin(TRAIL_EVENT_PASSED, x, y, z, 0, 0, 0);
  if (at) store<i32>(at, object, V_OBJECT);
}

/** Why the path goes no further, and the light whose shape it met, if any. */
export function noteEnd(reason: i32, light: i32): void {
  const at = begin(TRAIL_EVENT_END, 0, 0, 0, 0, 0, 0);
  if (!at) return;
  store<i32>(at, reason, V_REASON);
  store<i32>(at, light, V_LIGHT);
}
