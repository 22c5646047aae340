// What the path is inside of: solids it has entered, by nested priority [Schmidt & Budge 2002], and how light fares
// within them: absorption [Beer–Lambert] and scattering by Henyey and Greenstein's phase function.
import { cosine, lean, leantX, leantY, leantZ, sine, turn } from './angles';
import {
  FOG_SPANS_BYTES, MEDIA_LIST_BYTES, MOST_MEDIA, M_ABSORB_B, M_ABSORB_G, M_ABSORB_R, M_IOR, M_PRIORITY, M_SCATTER_ANISOTROPY, M_SCATTER_B, M_SCATTER_G, M_SCATTER_R,
  M_THIN_WALLED, M_TRANSMISSION, SCRATCH_MEDIA,
} from './layout';

/** A list: how many solids, their material records in the order they were entered, then in which meshes' fogs the place is. */
const LIST_BYTES: usize = MEDIA_LIST_BYTES;
export const CAMERA_LIST: usize = 0;
export const FIRST_LIST: usize = 1;
export const TWIN_LIST: usize = 2;

let lists: usize = 0;
/** The list of the path under way. */
let now: usize = 0;
export function bindMedia(scratch: usize): void {
  lists = scratch + SCRATCH_MEDIA;
  now = lists + 3 * LIST_BYTES;
}

const IN_FOG_AT: usize = 40;

export function clearMedia(): void {
  store<i32>(now, 0);
  store<i32>(now, 0, IN_FOG_AT);
}

/** The meshes' fogs that the path is inside of, a bit each. */
export function inFogs(): u32 {
  return load<u32>(now, IN_FOG_AT);
}
export function setInFogs(fogs: u32): void {
  store<u32>(now, fogs, IN_FOG_AT);
}
/** Notes that the path goes into some fogs, or out of them. */
export function crossIntoFogs(fogs: u32, into: bool): void {
  setInFogs(into ? inFogs() | fogs : inFogs() & ~fogs);
}

/** Room for spans of a ray that lie in fog, twice. */
export function fogSpans(): usize {
  return lists + 4 * LIST_BYTES + 32;
}
/** Room for a number of each fog. */
export function fogCounts(): usize {
  return fogSpans() + 2 * FOG_SPANS_BYTES;
}
export function keepMedia(list: usize): void {
  copyList(lists + list * LIST_BYTES, now);
}
export function recallMedia(list: usize): void {
  copyList(now, lists + list * LIST_BYTES);
}

/** Four moves: a call of memory.copy takes longer. */
// @ts-ignore: decorator
@inline
function copyList(to: usize, from: usize): void {
  v128.store(to, v128.load(from));
  v128.store(to, v128.load(from, 16), 16);
  v128.store(to, v128.load(from, 32), 32);
  v128.store(to, v128.load(from, 48), 48);
}

/** Room for eight words beside the lists. */
export function spareMedia(): usize {
  return lists + 4 * LIST_BYTES;
}

/** Whether a material fills a solid. */
// @ts-ignore: decorator
@inline
export function isSolid(m: usize): bool {
  return load<f32>(m, M_TRANSMISSION) > 0 && load<f32>(m, M_THIN_WALLED) == 0;
}

// @ts-ignore: decorator
@inline
function entry(i: i32): u32 {
  return load<u32>(now + (usize(i) << 2), 4);
}

/** The solid of highest priority, the last entered among equals, leaving out one occurrence of `except`; 0 = none. */
function topExcept(except: usize): usize {
  let best: usize = 0;
  let bestPriority: f32 = -1;
  let skipped = false;
  for (let i = load<i32>(now) - 1; i >= 0; i--) {
    const m = usize(entry(i));
    if (m == except && !skipped) { skipped = true; continue; }
    const p = load<f32>(m, M_PRIORITY);
    if (p > bestPriority) { bestPriority = p; best = m; }
  }
  return best;
}

/** The solid that fills the place the path is at; 0 = none. */
// @ts-ignore: decorator
@inline
export function medium(): usize {
  const n = load<i32>(now);
  return n == 0 ? 0 : n == 1 ? usize(entry(0)) : topExcept(0);
}

/** Index of what lies outside a surface of material m, met from inside or outside. */
export function outerIndex(m: usize, front: bool): f32 {
  if (load<i32>(now) == 0) return 1;
  const outside = topExcept(front ? 0 : m);
  return outside ? load<f32>(outside, M_IOR) : f32(1);
}

/** The solid that fills the far side of a surface of m; 0 = none. */
export function mediumBeyond(m: usize, front: bool): usize {
  if (!isSolid(m)) return medium();
  const other = topExcept(front ? 0 : m);
  if (!front) return other;
  return other && load<f32>(other, M_PRIORITY) > load<f32>(m, M_PRIORITY) ? other : m;
}

/** Whether another solid of higher priority fills the place, so that this surface of m is not there. */
export function isDisplaced(m: usize, front: bool): bool {
  if (load<i32>(now) == 0) return false;
  const other = topExcept(front ? 0 : m);
  return other != 0 && load<f32>(other, M_PRIORITY) > load<f32>(m, M_PRIORITY);
}

/** Notes that the path goes through a surface of solid m: into it from the front, out of it from the back. */
export function cross(m: usize, front: bool): void {
  const n = load<i32>(now);
  if (front) {
    if (n == MOST_MEDIA) return;
    store<u32>(now + (usize(n) << 2), u32(m), 4);
    store<i32>(now, n + 1);
    return;
  }
  for (let i = n - 1; i >= 0; i--) {
    if (usize(entry(i)) != m) continue;
    for (let k = i; k < n - 1; k++) store<u32>(now + (usize(k) << 2), entry(k + 1), 4);
    store<i32>(now, n - 1);
    return;
  }
}

/** Whether solid m is among those the path is inside of. */
export function isInside(m: usize): bool {
  for (let i = load<i32>(now) - 1; i >= 0; i--) if (usize(entry(i)) == m) return true;
  return false;
}

// @ts-ignore: decorator
@inline
export function scatters(m: usize): bool {
  return m != 0 && load<f32>(m, M_SCATTER_R) + load<f32>(m, M_SCATTER_G) + load<f32>(m, M_SCATTER_B) > 0;
}

/** What is left of light after t metres in solid m: extinction, scattering included. */
export let leftR: f32 = 1;
export let leftG: f32 = 1;
export let leftB: f32 = 1;
export function fade(m: usize, t: f32): void {
  const a = load<f32>(m, M_ABSORB_R) + load<f32>(m, M_SCATTER_R), b = load<f32>(m, M_ABSORB_G) + load<f32>(m, M_SCATTER_G);
  const c = load<f32>(m, M_ABSORB_B) + load<f32>(m, M_SCATTER_B);
  leftR = a > 0 ? NativeMathf.exp(-a * t) : 1;
  leftG = b == a ? leftR : b > 0 ? NativeMathf.exp(-b * t) : 1;
  leftB = c == a ? leftR : c > 0 ? NativeMathf.exp(-c * t) : 1;
}

/**
 * Draws how far light goes in solid m before it scatters: by the extinction of a channel that `pick` chooses.
 * `weighFlight` then tells what a path that went so far is worth, all channels weighed together.
 */
export function drawFlight(m: usize, u: f32, pick: f32): f32 {
  const k: usize = pick < f32(1.0 / 3.0) ? 0 : pick < f32(2.0 / 3.0) ? 4 : 8;
  const extinction = load<f32>(m + k, M_ABSORB_R) + load<f32>(m + k, M_SCATTER_R);
  return extinction > 0 ? -NativeMathf.log(f32(1) - u) / extinction : f32(1e30);
}

/** Sets `left*` to the weight of a flight of t metres in m that ended by scattering, or went through. */
export function weighFlight(m: usize, t: f32, scattered: bool): void {
  const a = load<f32>(m, M_ABSORB_R) + load<f32>(m, M_SCATTER_R), b = load<f32>(m, M_ABSORB_G) + load<f32>(m, M_SCATTER_G);
  const c = load<f32>(m, M_ABSORB_B) + load<f32>(m, M_SCATTER_B);
  fade(m, t);
  if (scattered) {
    const k = f32(3) / max<f32>(a * leftR + b * leftG + c * leftB, f32(1e-30));
    leftR *= k * load<f32>(m, M_SCATTER_R); leftG *= k * load<f32>(m, M_SCATTER_G); leftB *= k * load<f32>(m, M_SCATTER_B);
  } else {
    const k = f32(3) / max<f32>(leftR + leftG + leftB, f32(1e-30));
    leftR *= k; leftG *= k; leftB *= k;
  }
}

/** Density of the phase function [Henyey & Greenstein 1941] for cosine c between the old and the new direction. */
export function phase(c: f32, g: f32): f32 {
  const d = f32(1) + g * g - f32(2) * g * c;
  return (f32(1) - g * g) / (f32(4 * Math.PI) * d * sqrt<f32>(d));
}

export function anisotropyOf(m: usize): f32 {
  return load<f32>(m, M_SCATTER_ANISOTROPY);
}

/** A direction from the phase function about the unit direction d. */
export let phX: f32 = 0;
export let phY: f32 = 0;
export let phZ: f32 = 1;
export function drawPhase(dx: f32, dy: f32, dz: f32, g: f32, u: f32, v: f32): void {
  let c: f32;
  if (abs(g) < f32(1e-3)) c = f32(1) - f32(2) * u;
  else {
    const s = (f32(1) - g * g) / (f32(1) - g + f32(2) * g * u);
    c = (f32(1) + g * g - s * s) / (f32(2) * g);
  }
  c = min<f32>(max<f32>(c, -1), 1);
  const r = sqrt<f32>(f32(1) - c * c);
  turn(v);
  lean(dx, dy, dz, r * cosine, r * sine, c);
  phX = leantX; phY = leantY; phZ = leantZ;
}
