// The tile being rendered: where a contribution goes, and the sums from which noise shares are told.
// Pixel sums are added in sample order. Halves hold even and odd samples.
import { keepsTrail, noteLight } from './trail';
import {
  AXIS_ALL, CLASS_CAUSTIC, CLASS_COUNT, LEDGER_PLANES, MAX_GROUPS, OBJECT_COLUMNS, OBJECT_SUM_SLOTS, PLANE_BYTES, P_CAUSTICS,
  P_GROUP_COUNT, P_LEDGER_AXIS, P_LOST_CHANCE, P_OUTLIER_FIRST, P_OUTLIER_LATER, P_PLANE_CLASSES, P_PLANE_COUNT, P_PLANE_GROUPS,
  P_PLANE_LEDGER, P_PLANE_LOST, P_PLANE_SHADOW, P_PLANE_UNSHADOWED, RAY_LOST, RAY_SHADOW, SCRATCH_PAIRS, SCRATCH_PARAMS, SCRATCH_SIGHTS, SCRATCH_SUMS,
  SCRATCH_TILE, SIGHT_COUNT, SUM_OBJECTS, SUM_SLOTS, TABLED_OBJECTS, TABLE_CLAMPED, TABLE_CLASS_BOUNCE, TABLE_GROUP_CLASS, TABLE_INVALID, TABLE_LOST,
  TABLE_OBJECTS, TABLE_PAIRS, TABLE_RAYS, TABLE_TOTAL, TABLE_UNMASKED,
} from './layout';

let scratch: usize = 0;
let tile: usize = 0;
let sums: usize = 0;
let tables: usize = 0;
let pairs: usize = 0;
let sights: usize = 0;
let groupCount: i32 = 0;
let planeGroups: i32 = -1;
let planeClasses: i32 = -1;
let planeLedger: i32 = -1;
let planeShadow: i32 = -1, planeUnshadowed: i32 = -1;
let planeLost: i32 = -1;
let ledgerAxis: i32 = 0;
let lostWeight: f32 = 0;
let caustics: bool = true;
let outlierFirst: f32 = 0;
let outlierLater: f32 = 0;

/** Byte offset of the current pixel within a plane, and the half of the current sample. */
let pixel: usize = 0;
let half: i32 = 0;

export function bindFilm(base: usize): void {
  scratch = base;
  const p = base + SCRATCH_PARAMS;
  tile = base + SCRATCH_TILE;
  sums = base + SCRATCH_SUMS;
  pairs = base + SCRATCH_PAIRS;
  sights = base + SCRATCH_SIGHTS;
  groupCount = load<i32>(p, P_GROUP_COUNT);
  planeGroups = load<i32>(p, P_PLANE_GROUPS);
  planeClasses = load<i32>(p, P_PLANE_CLASSES);
  planeLedger = load<i32>(p, P_PLANE_LEDGER);
  planeShadow = load<i32>(p, P_PLANE_SHADOW);
  planeUnshadowed = load<i32>(p, P_PLANE_UNSHADOWED);
  planeLost = load<i32>(p, P_PLANE_LOST);
  ledgerAxis = load<i32>(p, P_LEDGER_AXIS);
  const chance = load<f32>(p, P_LOST_CHANCE);
  lostWeight = chance > 0 ? f32(1) / chance : f32(0);
  tables = tile + usize(load<i32>(p, P_PLANE_COUNT)) * PLANE_BYTES;
  caustics = load<i32>(p, P_CAUSTICS) != 0;
  outlierFirst = load<f32>(p, P_OUTLIER_FIRST);
  outlierLater = load<f32>(p, P_OUTLIER_LATER);
}

/** Address of the current pixel in a plane. */
// @ts-ignore: decorator
@inline
export function planeAt(plane: i32): usize {
  return tile + usize(plane) * PLANE_BYTES + pixel;
}

// @ts-ignore: decorator
@inline
export function addAt(plane: i32, value: f32): void {
  const at = planeAt(plane);
  store<f32>(at, load<f32>(at) + value);
}

// @ts-ignore: decorator
@inline
export function addColor(plane: i32, r: f32, g: f32, b: f32): void {
  const at = planeAt(plane);
  store<f32>(at, load<f32>(at) + r);
  store<f32>(at, load<f32>(at, PLANE_BYTES) + g, PLANE_BYTES);
  store<f32>(at, load<f32>(at, 2 * PLANE_BYTES) + b, 2 * PLANE_BYTES);
}

// @ts-ignore: decorator
@inline
function addTable(slot: i32, value: f64): void {
  const at = tables + (usize(slot) << 3);
  store<f64>(at, load<f64>(at) + value);
}

export function countRay(kind: i32): void {
  rays++;
  addTable(TABLE_RAYS + (lostBy < 0 ? kind : RAY_LOST), 1);
}

export function countShadow(group: i32): void {
  rays++;
  addTable(TABLE_RAYS + (lostBy < 0 ? RAY_SHADOW + group : RAY_LOST), 1);
}

export function beginPixel(index: i32): void {
  pixel = usize(index) << 2;
  const all = usize(MAX_GROUPS * CLASS_COUNT) << 3;
  memory.fill(sums, 0, usize(groupCount * CLASS_COUNT) << 3);
  memory.fill(sums + all, 0, usize(SUM_OBJECTS + OBJECT_SUM_SLOTS * 12) - all);
}

/** Of the sample under way: rays traced, light that arrived, light that limits kept away. */
let rays: i32 = 0;
let light: f32 = 0;
let lost: f32 = 0;
/** The limit that the path under way is followed beyond, -1 while it keeps to all. */
let lostBy: i32 = -1;

export function beginSample(sampleHalf: i32): void {
  half = sampleHalf;
  rays = 0;
  light = 0;
  lost = 0;
}

/** Half of the sample under way. */
export function halfOf(): i32 {
  return half;
}

/** From here on what the path brings is lost light, kept away by this kind of limit; -1 = it is not. */
export function loseTo(limit: i32): void {
  lostBy = limit;
}

/** Whether light beyond the limits is looked for. */
export function keepsLost(): bool {
  return planeLost >= 0;
}

/** Books the sample under the object its camera ray hit first; -1 = none. */
export function endSample(object: i32): void {
  const row = object < 0 || object >= TABLED_OBJECTS ? TABLED_OBJECTS : object;
  const slot = TABLE_OBJECTS + row * OBJECT_COLUMNS;
  addTable(slot + 1, f64(light));
  addTable(slot + 2, f64(rays));
  if (lost != 0) addTable(slot + 3, f64(lost));
  addTable(slot + 4, 1);
  if (light == 0) return;
  let at = sums + SUM_OBJECTS;
  for (let i = 0; i < OBJECT_SUM_SLOTS; i++) {
    const here = load<i32>(at);
    // What finds no room adds to the last.
    if (here == row + 1 || here == 0 || i == OBJECT_SUM_SLOTS - 1) {
      if (here == 0) store<i32>(at, row + 1);
      const sum = at + 4 + (usize(half) << 2);
      store<f32>(sum, load<f32>(sum) + light);
      return;
    }
    at += 12;
  }
}

/**
 * What the ledger is told of the path: its counted rays, and the step on the ledger's axis with and without the ray
 * under way.
 */
let pathBounce: i32 = 0, stepNow: i32 = 0, stepBefore: i32 = 0;
export function setLedger(bounce: i32, now: i32, before: i32): void {
  pathBounce = bounce;
  stepNow = now;
  stepBefore = before;
}
export function ledgerOf(): i32 {
  return ledgerAxis;
}

function bookLost(r: f32, g: f32, b: f32, share: f32): void {
  const y = r * f32(0.2126) + g * f32(0.7152) + b * f32(0.0722);
  if (!(y < f32(1e30))) { addTable(TABLE_INVALID, 1); return; }
  if (!(y > 0)) return;
  const k = share * lostWeight;
  addColor(planeLost, r * k, g * k, b * k);
  lost += y * k;
  addTable(TABLE_LOST + lostBy, f64(y * k));
}

// @ts-ignore: decorator
@inline
function addSum(slot: i32, y: f32): void {
  const at = sums + (usize(slot * 2 + half) << 2);
  store<f32>(at, load<f32>(at) + y);
}

/**
 * Adds one path's light to every part it belongs to. (r, g, b) is the contribution before division
 * by splits, `share` is that division; the outlier limit scales the whole contribution.
 */
export function contribute(r: f32, g: f32, b: f32, share: f32, lightGroup: i32, sight: i32, pathClass: i32, bounce: i32): void {
  // A group may keep its light apart by how the camera sees it.
  const group = load<i32>(sights + (usize(lightGroup * SIGHT_COUNT + sight) << 2));
  // Caustics that an object refuses have no class.
  if (pathClass < 0 || (pathClass == CLASS_CAUSTIC && !caustics)) return;
  if (keepsTrail()) noteLight(group, lostBy, r * share, g * share, b * share);
  if (lostBy >= 0) { bookLost(r, g, b, share); return; }
  const y = r * f32(0.2126) + g * f32(0.7152) + b * f32(0.0722);
  // Not a number, or without bound: kept out of the film, and counted.
  if (!(y < f32(1e30))) { addTable(TABLE_INVALID, 1); return; }
  if (!(y > 0)) return;
  const limit = bounce == 0 ? outlierFirst : outlierLater;
  let scale = share;
  if (y > limit) {
    scale = share * limit / y;
    addTable(TABLE_CLAMPED, f64((y - limit) * share));
  }
  const cr = r * scale, cg = g * scale, cb = b * scale;
  addColor(half * 3, cr, cg, cb);
  if (planeGroups >= 0) addColor(planeGroups + (half * groupCount + group) * 3, cr, cg, cb);
  if (planeClasses >= 0) addColor(planeClasses + pathClass * 3, cr, cg, cb);
  const pair = load<i32>(pairs + (usize(group * CLASS_COUNT + pathClass) << 2));
  if (pair >= 0) addColor(pair, cr, cg, cb);
  const step = min(bounce, LEDGER_PLANES - 1);
  if (planeLedger >= 0) {
    const at = ledgerAxis == AXIS_ALL ? step : min(bounce == pathBounce ? stepNow : stepBefore, LEDGER_PLANES - 1);
    addColor(planeLedger + at * 3, cr, cg, cb);
  }
  light += y * scale;
  const cy = y * scale;
  addSum(group * CLASS_COUNT + pathClass, cy);
  addSum(MAX_GROUPS * CLASS_COUNT + pathClass * LEDGER_PLANES + step, cy);
  addSum(SUM_SLOTS - 1, cy);
}

/** Adds the products with d of `count` sums from `first` on to a table; most sums are 0, and are passed two at a time. */
function bookShares(first: i32, count: i32, table: i32, d: f64): void {
  for (let i = 0; i < count; i += 2) {
    const at = sums + (usize(first + i) << 3);
    if (!v128.any_true(v128.load(at))) continue;
    bookShare(at, table + i, d);
    if (i + 1 < count) bookShare(at + 8, table + i + 1, d);
  }
}

// @ts-ignore: decorator
@inline
function bookShare(at: usize, slot: i32, d: f64): void {
  const k = f64(load<f32>(at)) - f64(load<f32>(at, 4));
  if (k != 0) addTable(slot, k * d);
}

/** K_j += (S_jA − S_jB)(S_A − S_B) for each source j of this pixel and sweep. */
export function endPixel(): void {
  const whole = sums + (usize(SUM_SLOTS - 1) << 3);
  const d = f64(load<f32>(whole)) - f64(load<f32>(whole, 4));
  addTable(TABLE_TOTAL, d * d);
  if (d == 0) return;
  bookShares(0, groupCount * CLASS_COUNT, TABLE_GROUP_CLASS, d);
  bookShares(MAX_GROUPS * CLASS_COUNT, CLASS_COUNT * LEDGER_PLANES, TABLE_CLASS_BOUNCE, d);
  for (let i: usize = 0; i < usize(OBJECT_SUM_SLOTS); i++) {
    const at = sums + SUM_OBJECTS + i * 12;
    const object = load<i32>(at);
    if (object == 0) break;
    addTable(TABLE_OBJECTS + (object - 1) * OBJECT_COLUMNS, (f64(load<f32>(at, 4)) - f64(load<f32>(at, 8))) * d);
  }
}

/** Notes a sample whose object found no room in its pixel's mask. */
export function countUnmasked(): void {
  addTable(TABLE_UNMASKED, 1);
}

/** Notes how many pairs of samples the noise tables rest on. */
export function countPairs(pairs: i32): void {
  addTable(TABLE_PAIRS, f64(pairs));
}

/** Whether the shadow that catchers receive is kept. */
export function keepsShadow(): bool {
  return planeShadow >= 0;
}

/** Whether direct light without shadow is kept. */
export function keepsUnshadowed(): bool {
  return planeUnshadowed >= 0;
}

/** Adds light that a surface would receive, or a catcher, and whether it does with all that stands in its way. */
export function addShadow(r: f32, g: f32, b: f32, lit: bool, catcher: bool): void {
  addColor((catcher ? planeShadow : planeUnshadowed) + (lit ? 3 : 0), r, g, b);
}

/** Counts a sample that fell on a catcher. */
export function countCatcher(): void {
  if (planeShadow >= 0) addAt(planeShadow + 6, 1);
}
