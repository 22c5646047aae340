// Homogeneous fog in a ball or within a mesh: where a ray is in it, what it lets through, and places along the ray
// at which it is lit: near a light by equiangular sampling [Kulla & Fajardo 2012] within its cone, by distance otherwise,
// both weighed.
import {
  F_ALBEDO_B, F_ALBEDO_G, F_ALBEDO_R, F_ANISOTROPY, F_EXTINCTION, F_RADIUS, F_X, F_Y, F_Z, H_FOG, H_LIGHT_COUNT, L_APEX, L_BOUND, L_FOG_POWER, L_NX, L_NY, L_NZ, L_OUTER_COSINE, L_X,
  L_Y, L_Z, SCENE_BASE,
} from './layout';
import { closeness, isFar } from './light-choice';
import { lightAt, reaches } from './light-records';
import { distanceFog } from './study';
import { fogIntervals, isInFog, setInFog } from './media';

const MOST_INTERVALS: i32 = 4;

// @ts-ignore: decorator
@inline
function fog(): usize {
  return load<usize>(SCENE_BASE, H_FOG);
}

export function hasFog(): bool {
  return fog() != 0;
}

export function fogAnisotropy(): f32 {
  return load<f32>(fog(), F_ANISOTROPY);
}
export function fogAlbedo(channel: usize): f32 {
  return load<f32>(fog() + (channel << 2), F_ALBEDO_R);
}

/** Intervals of the ray under way that lie in fog. */
let count: i32 = 0;
let open: f32 = -1;
/** Metres of fog on the ray, and what they let through. */
export let fogLength: f32 = 0;
export let fogLeft: f32 = 1;

/** Begins a ray, in fog or out of it. */
export function beginFog(): void {
  count = 0;
  open = isInFog() ? 0 : -1;
}

/** Notes that the ray goes into or out of the fog's mesh. */
export function crossFog(t: f32, front: bool): void {
  if (front) { if (open < 0) open = t; return; }
  if (open >= 0) addInterval(open, t);
  open = -1;
}

function addInterval(a: f32, b: f32): void {
  if (count == MOST_INTERVALS || b <= a) return;
  const at = fogIntervals() + (usize(count++) << 3);
  store<f32>(at, a);
  store<f32>(at, b, 4);
}

let ballFrom: f32 = 0, ballTo: f32 = 0;
/** Where a ray is within the fog's ball, cut to (0, t). */
function ballInterval(f: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, t: f32): bool {
  const x = ox - load<f32>(f, F_X), y = oy - load<f32>(f, F_Y), z = oz - load<f32>(f, F_Z);
  const r = load<f32>(f, F_RADIUS);
  const b = x * dx + y * dy + z * dz;
  const qx = x - b * dx, qy = y - b * dy, qz = z - b * dz;
  const disc = r * r - (qx * qx + qy * qy + qz * qz);
  if (disc <= 0) return false;
  const s = sqrt<f32>(disc);
  ballFrom = max<f32>(-b - s, 0);
  ballTo = min<f32>(-b + s, t);
  return ballTo > ballFrom;
}

/** Ends a ray that met something at t, or nothing; `clear` when it ran inside a solid, where no fog is. */
export function endFog(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, t: f32, clear: bool): void {
  const f = fog();
  if (clear) count = 0;
  else if (load<f32>(f, F_RADIUS) > 0) {
    count = 0;
    if (ballInterval(f, ox, oy, oz, dx, dy, dz, t)) addInterval(ballFrom, ballTo);
  } else if (open >= 0) addInterval(open, t);
  fogLength = 0;
  for (let i = 0; i < count; i++) {
    const at = fogIntervals() + (usize(i) << 3);
    fogLength += load<f32>(at, 4) - load<f32>(at);
  }
  fogLeft = count == 0 ? f32(1) : NativeMathf.exp(-load<f32>(f, F_EXTINCTION) * fogLength);
}

/** What the ball's fog lets through along a shadow ray; a mesh's is told by the surfaces that the ray passes. */
function ballLeft(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, t: f32): f32 {
  const f = fog();
  if (load<f32>(f, F_RADIUS) <= 0 || !ballInterval(f, ox, oy, oz, dx, dy, dz, t)) return 1;
  return NativeMathf.exp(-load<f32>(f, F_EXTINCTION) * (ballTo - ballFrom));
}

/** What a mesh's fog lets through: `metres` = those left less those entered, `inside` whether the ray ends in it at t. */
function meshFogLeft(metres: f32, inside: bool, t: f32): f32 {
  const f = fog();
  if (load<f32>(f, F_RADIUS) > 0) return 1;
  const length = metres + (inside ? t : f32(0));
  return length > 0 ? NativeMathf.exp(-load<f32>(f, F_EXTINCTION) * length) : 1;
}

/** What fog leaves of light along a shadow ray that ends at t and has crossed the fog's mesh, `metres` as for a mesh's fog. */
export function fogToLight(
  ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, t: f32, metres: f32, crossings: i32,
): f32 {
  return ballLeft(ox, oy, oz, dx, dy, dz, t) * meshFogLeft(metres, (isInFog() ? 1 : 0) + crossings > 0, t);
}

/** Distance at which a ray has `metres` of fog behind it. */
function distanceAt(metres: f32): f32 {
  let rest = metres;
  for (let i = 0; i < count; i++) {
    const at = fogIntervals() + (usize(i) << 3);
    const a = load<f32>(at), n = load<f32>(at, 4) - a;
    if (rest <= n || i == count - 1) return a + min<f32>(rest, n);
    rest -= n;
  }
  return 0;
}

/** Metres of fog up to t; −1 when t lies outside it. */
function metresTo(t: f32): f32 {
  let sum: f32 = 0;
  for (let i = 0; i < count; i++) {
    const at = fogIntervals() + (usize(i) << 3);
    const a = load<f32>(at), b = load<f32>(at, 4);
    if (t < a) return -1;
    if (t <= b) return sum + t - a;
    sum += b - a;
  }
  return -1;
}

/** Draws by u whether and where light is scattered on the ray: a distance, or −1 when it goes through. */
export function drawScatter(u: f32): f32 {
  const s = -NativeMathf.log(f32(1) - u) / load<f32>(fog(), F_EXTINCTION);
  return s < fogLength ? distanceAt(s) : f32(-1);
}

/** Draws a distance by u as if light were scattered for certain. */
export function drawScatterSurely(u: f32): f32 {
  return distanceAt(-NativeMathf.log(f32(1) - u * (f32(1) - fogLeft)) / load<f32>(fog(), F_EXTINCTION));
}

let rayX: f32 = 0, rayY: f32 = 0, rayZ: f32 = 0, rayDX: f32 = 0, rayDY: f32 = 0, rayDZ: f32 = 0;
let spanFrom: f32 = 0, spanTo: f32 = 0;
/** Of a light beside the ray: where the ray is nearest to it, how near, and the angles to both ends of the fog. */
let nearest: f32 = 0, apart: f32 = 0, angleFrom: f32 = 0, angleTo: f32 = 0;

/** Part of the ray that a light with a cone can light. */
let litFrom: f32 = 0, litTo: f32 = 0;

/** Cuts litFrom and litTo to the cone of the light's record, if it has one; false when the ray misses it. */
function cutToCone(l: usize): bool {
  const c = load<f32>(l, L_OUTER_COSINE);
  litFrom = spanFrom;
  litTo = spanTo;
  if (c <= -1 || c >= 1) return true;
  const nx = load<f32>(l, L_NX), ny = load<f32>(l, L_NY), nz = load<f32>(l, L_NZ), a = load<f32>(l, L_APEX);
  const x = rayX - load<f32>(l, L_X) + a * nx, y = rayY - load<f32>(l, L_Y) + a * ny, z = rayZ - load<f32>(l, L_Z) + a * nz;
  const dn = rayDX * nx + rayDY * ny + rayDZ * nz, vn = x * nx + y * ny + z * nz;
  const c2 = c * c;
  const p = dn * dn - c2, q = vn * dn - c2 * (x * rayDX + y * rayDY + z * rayDZ), r = vn * vn - c2 * (x * x + y * y + z * z);
  const disc = q * q - p * r;
  // Cones wider than a half space are not cut: their light is nearly everywhere.
  if (c <= 0) return true;
  if (disc <= 0) return p > 0 && vn + dn * spanFrom > 0;
  const s = sqrt<f32>(disc);
  if (abs(p) < f32(1e-7)) return true;
  const t0 = min<f32>((-q - s) / p, (-q + s) / p), t1 = max<f32>((-q - s) / p, (-q + s) / p);
  if (p < 0) {
    // Between both crossings, when they are of the cone and not of its mirror image.
    if (vn + dn * (t0 + t1) * f32(0.5) <= 0) return false;
    litFrom = max<f32>(litFrom, t0);
    litTo = min<f32>(litTo, t1);
  } else if (dn > 0) litFrom = max<f32>(litFrom, t1);
  else litTo = min<f32>(litTo, t0);
  return litTo > litFrom;
}

/** Readies `nearest`, `apart` and the lit part of the ray for a light with a place; false when it lights none. */
function see(l: usize): bool {
  if (!cutToCone(l)) return false;
  const x = load<f32>(l, L_X) - rayX, y = load<f32>(l, L_Y) - rayY, z = load<f32>(l, L_Z) - rayZ;
  nearest = x * rayDX + y * rayDY + z * rayDZ;
  const qx = x - nearest * rayDX, qy = y - nearest * rayDY, qz = z - nearest * rayDZ;
  // A light is no nearer than half its own size, or all places would crowd at its middle; where a beam is still
  // as wide as its light, it grows no brighter towards it.
  apart = max<f32>(sqrt<f32>(qx * qx + qy * qy + qz * qz), max<f32>(load<f32>(l, L_BOUND) * f32(0.5), max<f32>(load<f32>(l, L_APEX), f32(1e-4))));
  return true;
}

/** How much a light may matter in the fog on the ray: its power over squared distance, summed along the ray. */
function fogImportance(light: i32, bounce: i32): f32 {
  const l = lightAt(light);
  if (!reaches(light, bounce)) return 0;
  const power = load<f32>(l, L_FOG_POWER);
  if (power <= 0) return 0;
  if (isFar(l)) return power * min<f32>(fogLength, f32(1) / load<f32>(fog(), F_EXTINCTION));
  if (!see(l)) return 0;
  // The angle at the light between both ends, by one arc tangent.
  const a = litFrom - nearest, b = litTo - nearest;
  return power * NativeMathf.atan2(apart * (b - a), apart * apart + a * b) / apart;
}

/** The light and distance last drawn, the light's chance, and the density of the distance. */
export let fogLight: i32 = -1;
export let fogChance: f32 = 0;
export let fogT: f32 = 0;
export let fogDensity: f32 = 0;

let choice: f32 = 0, weights: f32 = 0, chosenWeight: f32 = 0;

/** A choice by weight in one pass [Chao 1982], so that each light is weighed once: the number is stretched anew each time. */
function beginChoice(u: f32): void {
  choice = u;
  weights = 0;
  fogLight = -1;
}

// @ts-ignore: decorator
@inline
function weighLight(light: i32, weight: f32): void {
  if (!(weight > 0)) return;
  weights += weight;
  const p = weight / weights;
  if (choice < p || fogLight < 0) {
    fogLight = light;
    chosenWeight = weight;
    choice = choice / p;
  } else choice = (choice - p) / (f32(1) - p);
  choice = min<f32>(choice, f32(0.99999994));
}

function endChoice(): bool {
  fogChance = chosenWeight / weights;
  return fogLight >= 0;
}

/** Chooses by u a light that lights fog at a place, among all, by importance there; false when none does. */
export function pickFogLight(x: f32, y: f32, z: f32, bounce: i32, u: f32): bool {
  const n = load<i32>(SCENE_BASE, H_LIGHT_COUNT);
  beginChoice(u);
  for (let i = 0; i < n; i++) weighLight(i, placeImportance(i, x, y, z, bounce));
  return endChoice();
}

function placeImportance(light: i32, x: f32, y: f32, z: f32, bounce: i32): f32 {
  const l = lightAt(light);
  const power = load<f32>(l, L_FOG_POWER);
  if (power <= 0 || !reaches(light, bounce)) return 0;
  return isFar(l) ? power : power * closeness(l, x, y, z);
}

/** Draws a light (by u) and a distance (by s, v) at which it lights the fog on the ray; false when none does. */
export function drawLitPlace(
  ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, bounce: i32, u: f32, v: f32, s: f32,
): bool {
  rayX = ox; rayY = oy; rayZ = oz; rayDX = dx; rayDY = dy; rayDZ = dz;
  spanFrom = load<f32>(fogIntervals());
  spanTo = load<f32>(fogIntervals() + (usize(count - 1) << 3), 4);
  const n = load<i32>(SCENE_BASE, H_LIGHT_COUNT);
  beginChoice(u);
  for (let i = 0; i < n; i++) weighLight(i, fogImportance(i, bounce));
  if (!endChoice()) return false;
  const l = lightAt(fogLight);
  const extinction = load<f32>(fog(), F_EXTINCTION);
  if (isFar(l)) {
    fogT = drawScatterSurely(v);
    fogDensity = extinction * NativeMathf.exp(-extinction * metresTo(fogT)) / (f32(1) - fogLeft);
    return fogDensity > 0;
  }
  if (!see(l)) return false;
  angleFrom = NativeMathf.atan2(litFrom - nearest, apart);
  angleTo = NativeMathf.atan2(litTo - nearest, apart);
  if (angleTo <= angleFrom) return false;
  // Beams are found by angle alone: most of the ray lies outside of them.
  const beam = !distanceFog && litTo - litFrom < f32(0.5) * (spanTo - spanFrom);
  if (!distanceFog && (beam || s < f32(0.5))) {
    const angle = angleFrom + (angleTo - angleFrom) * v;
    fogT = nearest + apart * NativeMathf.tan(angle);
  } else fogT = drawScatterSurely(v);
  const metres = metresTo(fogT);
  if (metres < 0) return false;
  const e = fogT - nearest;
  const equiangular = apart / ((angleTo - angleFrom) * (apart * apart + e * e));
  if (beam) { fogDensity = equiangular; return true; }
  if (distanceFog) { fogDensity = extinction * NativeMathf.exp(-extinction * metres) / (f32(1) - fogLeft); return true; }
  fogDensity = f32(0.5) * (equiangular + extinction * NativeMathf.exp(-extinction * metres) / (f32(1) - fogLeft));
  return fogDensity > 0;
}

/** Extinction times what is left of light on the ray up to t. */
export function scatteredAt(t: f32): f32 {
  const extinction = load<f32>(fog(), F_EXTINCTION);
  return extinction * NativeMathf.exp(-extinction * max<f32>(metresTo(t), 0));
}

/** Takes the path to the place at t on its ray, which is in fog if the ray is there. */
export function recallFogAt(t: f32): void {
  setInFog(load<f32>(fog(), F_RADIUS) <= 0 && metresTo(t) >= 0);
}
