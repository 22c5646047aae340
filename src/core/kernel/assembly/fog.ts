// Homogeneous fogs in balls or within meshes, which add up where they overlap: where a ray is in them, what they let through, and
// places along the ray at which they are lit: near a light by equiangular sampling [Kulla & Fajardo 2012] within its cone, by
// distance otherwise, both weighed.
import { angleOf } from './angles';
import {
  FOG_BYTES, FOG_SPANS_BYTES, F_ALBEDO_R, F_ANISOTROPY, F_EXTINCTION, F_RADIUS, F_X, F_Y, F_Z, H_FOGS, H_FOG_COUNT, H_LIGHT_COUNT, L_APEX, L_BOUND, L_FOG_POWER, L_NX, L_NY, L_NZ,
  L_OUTER_COSINE, L_X, L_Y, L_Z, SCENE_BASE,
} from './layout';
import { closeness, isFar } from './light-choice';
import { lightAt, reaches } from './light-records';
import { fogSpans, inFogs, setInFogs } from './media';
import { fraction, hash } from './sobol';
import { distanceFog } from './study';

/** Bytes of a span: where it begins and ends, extinction there, and a bit of each fog. */
const SPAN: usize = 16;
const MOST_SPANS: i32 = i32(usize(FOG_SPANS_BYTES) / SPAN);

// @ts-ignore: decorator
@inline
function fogCount(): i32 {
  return load<i32>(SCENE_BASE, H_FOG_COUNT);
}
// @ts-ignore: decorator
@inline
function fog(i: i32): usize {
  return load<usize>(SCENE_BASE, H_FOGS) + usize(i) * FOG_BYTES;
}
/** Of a ball: one that is within a mesh has none. */
// @ts-ignore: decorator
@inline
function radiusOf(i: i32): f32 {
  return load<f32>(fog(i), F_RADIUS);
}

export function hasFog(): bool {
  return fogCount() != 0;
}

/** The extinction of some fogs together, in 64 bits: what is added and taken away again leaves nothing. */
export function extinctionOf(fogs: u32): f64 {
  let sum: f64 = 0;
  for (; fogs; fogs &= fogs - 1) sum += f64(load<f32>(fog(ctz(fogs)), F_EXTINCTION));
  return sum;
}

/** The fog that scatters where the path is. */
let here: i32 = 0;
export function fogAnisotropy(): f32 {
  return load<f32>(fog(here), F_ANISOTROPY);
}
export function fogAlbedo(channel: usize): f32 {
  return load<f32>(fog(here) + (channel << 2), F_ALBEDO_R);
}

/** Spans of the ray under way that lie in fog, one behind the other. */
let count: i32 = 0;
let openFrom: f32 = 0;
let open: u32 = 0;
/** Metres of fog on the ray, how deep they are together, and what they let through. */
export let fogLength: f32 = 0;
let fogDepth: f32 = 0;
export let fogLeft: f32 = 1;

// @ts-ignore: decorator
@inline
function spanAt(i: i32): usize {
  return fogSpans() + usize(i) * SPAN;
}

/** Begins a ray, in fogs or out of them. */
export function beginFogs(): void {
  count = 0;
  open = inFogs();
  openFrom = 0;
}

/** Notes that the ray goes into meshes' fogs, or out of them. */
export function crossFogs(t: f32, fogs: u32, into: bool): void {
  addSpan(openFrom, t, open);
  open = into ? open | fogs : open & ~fogs;
  openFrom = t;
}

function addSpan(a: f32, b: f32, fogs: u32): void {
  if (fogs == 0 || count == MOST_SPANS || b <= a) return;
  const at = spanAt(count++);
  store<f32>(at, a);
  store<f32>(at, b, 4);
  store<f32>(at, f32(extinctionOf(fogs)), 8);
  store<u32>(at, fogs, 12);
}

let ballFrom: f32 = 0, ballTo: f32 = 0;
/** Where a ray is within a fog's ball, cut to (0, t). */
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

/** Lays a ball's part of the ray, from a to b, over the spans that there are. */
function addBall(a: f32, b: f32, own: u32): void {
  const n = count;
  const before = fogSpans() + FOG_SPANS_BYTES;
  memory.copy(before, fogSpans(), usize(n) * SPAN);
  count = 0;
  let at = a;
  for (let i = 0; i < n; i++) {
    const s = before + usize(i) * SPAN;
    const from = load<f32>(s), to = load<f32>(s, 4), fogs = load<u32>(s, 12);
    // What of the ball lies before it, then what of it lies before the ball, in it and behind it.
    if (from > at && at < b) { addSpan(at, min<f32>(b, from), own); at = min<f32>(b, from); }
    addSpan(from, min<f32>(to, a), fogs);
    addSpan(max<f32>(from, a), min<f32>(to, b), fogs | own);
    addSpan(max<f32>(from, b), to, fogs);
    at = max<f32>(at, min<f32>(to, b));
  }
  addSpan(at, b, own);
}

/** Ends a ray that met something at t, or nothing; `clear` when it ran inside a solid, where no fog is. */
export function endFogs(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, t: f32, clear: bool): void {
  if (clear) count = 0;
  else {
    addSpan(openFrom, t, open);
    const n = fogCount();
    for (let i = 0; i < n; i++)
      if (radiusOf(i) > 0 && ballInterval(fog(i), ox, oy, oz, dx, dy, dz, t)) addBall(ballFrom, ballTo, 1 << i);
  }
  fogLength = 0;
  fogDepth = 0;
  for (let i = 0; i < count; i++) {
    const at = spanAt(i);
    const metres = load<f32>(at, 4) - load<f32>(at);
    fogLength += metres;
    fogDepth += metres * load<f32>(at, 8);
  }
  fogLeft = count == 0 ? f32(1) : NativeMathf.exp(-fogDepth);
}

/**
 * What fogs leave of light along a shadow ray that ends at t. `passed`: distances at which it left meshes' fogs less those at which it entered them, each times
 * extinction; `gained`: how much extinction it gained on its way.
 */
export function fogToLight(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, t: f32, passed: f32, gained: f64): f32 {
  const last = f32(extinctionOf(inFogs()) + gained);
  let depth = last > 0 ? passed + last * t : passed;
  const n = fogCount();
  for (let i = 0; i < n; i++)
    if (radiusOf(i) > 0 && ballInterval(fog(i), ox, oy, oz, dx, dy, dz, t)) depth += load<f32>(fog(i), F_EXTINCTION) * (ballTo - ballFrom);
  return depth > 0 ? NativeMathf.exp(-depth) : 1;
}

/** Distance at which a ray has so deep fog behind it. */
function distanceAt(depth: f32): f32 {
  let rest = depth;
  for (let i = 0; i < count; i++) {
    const at = spanAt(i);
    const a = load<f32>(at), extinction = load<f32>(at, 8);
    const own = (load<f32>(at, 4) - a) * extinction;
    if (rest <= own || i == count - 1) return min<f32>(a + rest / extinction, load<f32>(at, 4));
    rest -= own;
  }
  return 0;
}

/** Extinction at the place last asked for, and the fogs there. */
let extinctionThere: f32 = 0;
let fogsThere: u32 = 0;
/** How deep the fog up to t is; −1 when t lies outside it. */
function depthTo(t: f32): f32 {
  let sum: f32 = 0;
  for (let i = 0; i < count; i++) {
    const at = spanAt(i);
    const a = load<f32>(at), b = load<f32>(at, 4);
    if (t < a) break;
    extinctionThere = load<f32>(at, 8);
    fogsThere = load<u32>(at, 12);
    if (t <= b) return sum + (t - a) * extinctionThere;
    sum += (b - a) * extinctionThere;
  }
  extinctionThere = 0;
  fogsThere = 0;
  return -1;
}

/** Density at which light is scattered at t, of all that is scattered on the ray. */
function scatterDensity(depth: f32): f32 {
  return extinctionThere * NativeMathf.exp(-depth) / (f32(1) - fogLeft);
}

/** Draws by u whether and where light is scattered on the ray: a distance, or −1 when it goes through. */
export function drawScatter(u: f32): f32 {
  const depth = -NativeMathf.log(f32(1) - u);
  return depth < fogDepth ? distanceAt(depth) : f32(-1);
}

/** Draws a distance by u as if light were scattered for certain. */
export function drawScatterSurely(u: f32): f32 {
  return distanceAt(-NativeMathf.log(f32(1) - u * (f32(1) - fogLeft)));
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
  if (isFar(l)) return power * min<f32>(fogLength, fogLength / fogDepth);
  if (!see(l)) return 0;
  // The angle at the light between both ends, by one arc tangent.
  const a = litFrom - nearest, b = litTo - nearest;
  return power * angleOf(apart * (b - a), apart * apart + a * b) / apart;
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
  spanFrom = load<f32>(spanAt(0));
  spanTo = load<f32>(spanAt(count - 1), 4);
  const n = load<i32>(SCENE_BASE, H_LIGHT_COUNT);
  beginChoice(u);
  for (let i = 0; i < n; i++) weighLight(i, fogImportance(i, bounce));
  if (!endChoice()) return false;
  const l = lightAt(fogLight);
  if (isFar(l)) {
    fogT = drawScatterSurely(v);
    fogDensity = scatterDensity(depthTo(fogT));
    return fogDensity > 0;
  }
  if (!see(l)) return false;
  angleFrom = angleOf(litFrom - nearest, apart);
  angleTo = angleOf(litTo - nearest, apart);
  if (angleTo <= angleFrom) return false;
  // Beams are found by angle alone: most of the ray lies outside of them.
  const beam = !distanceFog && litTo - litFrom < f32(0.5) * (spanTo - spanFrom);
  if (!distanceFog && (beam || s < f32(0.5))) {
    const angle = angleFrom + (angleTo - angleFrom) * v;
    fogT = nearest + apart * NativeMathf.tan(angle);
  } else fogT = drawScatterSurely(v);
  const depth = depthTo(fogT);
  if (depth < 0) return false;
  const e = fogT - nearest;
  const equiangular = apart / ((angleTo - angleFrom) * (apart * apart + e * e));
  if (beam) { fogDensity = equiangular; return true; }
  if (distanceFog) { fogDensity = scatterDensity(depth); return true; }
  fogDensity = f32(0.5) * (equiangular + scatterDensity(depth));
  return fogDensity > 0;
}

/** Extinction times what is left of light on the ray up to t. */
export function scatteredAt(t: f32): f32 {
  const depth = max<f32>(depthTo(t), 0);
  return extinctionThere * NativeMathf.exp(-depth);
}

/**
 * Takes the path to the place at t on its ray, which is in fog if the ray is there. Where fogs overlap one of them scatters, by its share of the extinction: t is
 * drawn, and its last bits choose.
 */
export function recallFogAt(t: f32): void {
  depthTo(t);
  let meshes: u32 = 0;
  let rest = fraction(hash(reinterpret<u32>(t))) * extinctionThere;
  here = 0;
  let isChosen = false;
  for (let fogs = fogsThere; fogs; fogs &= fogs - 1) {
    const i = ctz(fogs);
    if (radiusOf(i) <= 0) meshes |= 1 << i;
    const own = load<f32>(fog(i), F_EXTINCTION);
    if (isChosen) continue;
    here = i;
    isChosen = rest < own;
    rest -= own;
  }
  setInFogs(meshes);
}
