import * as fmath from '../fmath';
import { exposureScale } from '../image';
import { FEATURE_NAMES, type FeatureName, frameOf, type Recipe } from '../recipe';
import { type Camera, cameraAt, cameraSteps } from '../scene';
import {
  CAMERA_BYTES,
  FILTER_TABLE_SIZE,
  fieldOffset,
  LEDGER_AXES,
  LIGHT_SIGHTS,
  MAX_GROUPS,
  MOST_CAMERA_STEPS,
  ONLY,
  PARAM_FIELDS,
  PATH_CLASSES,
  PLANE_BYTES,
  pascal,
  SCRATCH,
  TABLE_BYTES,
} from './layout';

/** Plane indices within a tile, −1 where a plane is not kept. */
export interface PlaneMap {
  groups: number;
  classes: number;
  ledger: number;
  /** Light that limits kept away, red, green and blue. */
  lost: number;
  /** How near each pixel's chosen sample is to its centre, when any feature is taken from it. */
  near: number;
  /** Guides of denoising: `GUIDE_PLANES` of half a, then of half b. */
  guides: number;
  /** First plane of each feature kept. */
  features: Partial<Record<FeatureName, number>>;
  /** Plane of each pair asked for, by group × class count + class. */
  pairs: Record<number, number>;
  /** Number of the group that keeps a group's light as the camera sees it in one way, by group × count of ways + way, where that is another. */
  sights?: Record<number, number>;
  count: number;
}

const CAMERA_FLOATS = CAMERA_BYTES / 4;

function normalize(v: number[]): number[] {
  const l = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]) || 1;
  return v.map((c) => c / l);
}

const cross = (a: number[], b: number[]) => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];

/** Right, up and back axes of a camera. */
export function cameraAxes(camera: Camera): { right: number[]; up: number[]; back: number[] } {
  const back = normalize(camera.position.map((c, i) => c - camera.target[i]));
  let right = cross(camera.up, back);
  if (right.every((c) => Math.abs(c) < 1e-9)) right = cross([0, 0, -1], back);
  right = normalize(right);
  return { right, up: cross(back, right), back };
}

/**
 * Inverse distribution of a pixel filter over (−½, ½) of its width, at `FILTER_TABLE_SIZE` even steps.
 * `gauss` has a standard deviation of a quarter of the width and is cut at its ends.
 */
export function filterTable(kind: 'box' | 'tent' | 'gauss'): Float32Array {
  const n = FILTER_TABLE_SIZE;
  const table = new Float32Array(n);
  const fine = 8192;
  const weight = (x: number) => (kind === 'box' ? 1 : kind === 'tent' ? 1 - 2 * Math.abs(x) : fmath.exp(-8 * x * x));
  const cumulative = new Float64Array(fine + 1);
  for (let i = 0; i < fine; i++) cumulative[i + 1] = cumulative[i] + weight((i + 0.5) / fine - 0.5);
  let j = 0;
  for (let i = 0; i < n; i++) {
    const target = (i / (n - 1)) * cumulative[fine];
    while (j < fine - 1 && cumulative[j + 1] < target) j++;
    const span = cumulative[j + 1] - cumulative[j];
    table[i] = (j + (span > 0 ? Math.min(1, (target - cumulative[j]) / span) : 0)) / fine - 0.5;
  }
  return table;
}

/** Brightest allowed contribution in nits, from stops above display white. */
function outlierNits(stops: number | null, scale: number): number {
  return stops === null ? 3e38 : 2 ** stops / scale;
}

const FIRST: { study: number; frame: number; firstFrame: number; rayRecords?: { at: number; most: number } } = {
  study: 0,
  frame: 1,
  firstFrame: 1,
};

/** A camera as the kernel takes it: place, right, up and back. */
function cameraRow(camera: Camera): number[] {
  const { right, up, back } = cameraAxes(camera);
  return [...camera.position, ...right, ...up, ...back];
}

/** Distance along its axis at which a camera is sharp. */
export function focusOf(camera: Camera): number {
  if (camera.focusMetres !== undefined) return camera.focusMetres;
  const at = camera.focusPoint ?? camera.target;
  const { back } = cameraAxes(camera);
  return Math.max(
    1e-3,
    camera.position.reduce((sum, c, i) => sum + (c - at[i]) * back[i], 0),
  );
}

/** Writes a recipe and camera as the kernel's parameters into the scratch area at `scratch`. */
export function writeParams(
  memory: ArrayBufferLike,
  scratch: number,
  recipe: Recipe,
  camera: Camera,
  groupCount: number,
  planes: PlaneMap,
  { study, frame, firstFrame, rayRecords }: typeof FIRST = FIRST,
): void {
  const view = new DataView(memory, scratch + SCRATCH.params, PARAM_FIELDS.length * 4);
  const put = (
    field: (typeof PARAM_FIELDS)[number] extends infer F ? (F extends `i:${infer N}` ? N : F) : never,
    value: number,
  ) => {
    const at = fieldOffset(PARAM_FIELDS, field as string);
    if (PARAM_FIELDS.includes(`i:${field}` as (typeof PARAM_FIELDS)[number])) view.setInt32(at, value, true);
    else view.setFloat32(at, value, true);
  };
  const { width, height } = frameOf(recipe);
  const now = cameraAt(camera, frame);
  const steps = cameraSteps(camera, frame, recipe.camera.motionBlur);
  const scale = exposureScale(camera.exposure);
  const s = recipe.sampling;
  const d = recipe.rayDepth;
  put('seed', (s.seed + (s.seedLocked ? 0 : Math.imul(frame - firstFrame, 0x9e3779b9))) | 0);
  put('width', width);
  put('height', height);
  put('groupCount', groupCount);
  put('splitsDiffuse', s.splits.diffuse);
  put('splitsReflection', s.splits.reflection);
  put('splitsTransmission', s.splits.transmission);
  put('splitsFog', s.splits.fog);
  put('lightSamples', s.lightSamples);
  put('depthAll', d.all);
  put('depthDiffuse', d.diffuse);
  put('depthReflection', d.reflection);
  put('depthTransmission', d.transmission);
  put('depthFog', d.fog);
  put('holes', d.holes);
  put('rouletteStart', d.rouletteStart);
  put('white', 1 / scale);
  put('caustics', d.caustics ? 1 : 0);
  put('reach', d.reachMetres ?? 3e38);
  put('outlierFirst', outlierNits(s.outlierLimit.first, scale));
  put('outlierLater', outlierNits(s.outlierLimit.later, scale));
  put('camX', now.position[0]);
  put('camY', now.position[1]);
  put('camZ', now.position[2]);
  const tanX = camera.sensorWidthMm / (2 * camera.focalLengthMm);
  put('tanHalfX', tanX);
  put('tanHalfY', (tanX * recipe.size.height) / recipe.size.width);
  const open = recipe.camera.depthOfField && camera.fStop > 0;
  put('lensRadius', open ? camera.focalLengthMm / 1000 / (2 * camera.fStop) : 0);
  put('focus', focusOf(now));
  put('shiftX', camera.shift[0]);
  put('shiftY', (camera.shift[1] * recipe.size.width) / recipe.size.height);
  put('clipNear', camera.clipNear);
  put('clipFar', camera.clipFar ?? 3e38);
  put('blades', camera.blades);
  put('bladesTurn', camera.bladesDegrees / 360);
  put('catsEye', camera.catsEye);
  put('cameraSteps', steps.length);
  const cameras = new Float32Array(memory, scratch + SCRATCH.camera, (MOST_CAMERA_STEPS + 3) * CAMERA_FLOATS);
  const later = [now, now, cameraAt(camera, frame + 1)].map((c) => ({ camera: c, time: 0 }));
  steps.forEach((s, i) => {
    cameras.set([...cameraRow(s.camera), s.time], i * CAMERA_FLOATS);
  });
  later.forEach((s, i) => {
    cameras.set([...cameraRow(s.camera), s.time], (MOST_CAMERA_STEPS + i) * CAMERA_FLOATS);
  });
  put('filterWidth', s.filter.widthPx);
  put('planeGroups', planes.groups);
  put('planeClasses', planes.classes);
  put('planeLedger', planes.ledger);
  put('planeLost', planes.lost);
  put('lostChance', planes.lost >= 0 ? recipe.film.lostChance : 0);
  put('ledgerAxis', recipe.film.ledger === 'off' ? 0 : LEDGER_AXES.indexOf(recipe.film.ledger));
  put('planeNear', planes.near);
  put('planeGuides', planes.guides);
  for (const name of FEATURE_NAMES) put(`plane${pascal(name)}`, planes.features[name] ?? -1);
  // Masks of all kinds are made of the objects' coverage.
  const { coverage, coverage_material, coverage_set } = planes.features;
  put('planeCoverage', coverage ?? coverage_material ?? coverage_set ?? -1);
  const { unshadowed, shadowing } = planes.features;
  put('planeUnshadowed', unshadowed ?? shadowing ?? -1);
  put('planeCount', planes.count);
  put('study', study);
  put('softenCaustics', d.softenCaustics);
  const { occlusion } = recipe.film;
  put('occlusionRays', occlusion.rays);
  put('occlusionCosine', fmath.cos((occlusion.spreadDegrees * Math.PI) / 360));
  put('occlusionReach', occlusion.reachMetres ?? 1e30);
  const poses = scratch + SCRATCH.tile + planes.count * PLANE_BYTES + TABLE_BYTES;
  put('rayRecords', rayRecords?.at ?? 0);
  put('mostRayRecords', rayRecords?.most ?? 0);
  put('poses', (poses + 15) & ~15);
  put('only', ONLY[recipe.film.only]);
  const pairs = new Int32Array(memory, scratch + SCRATCH.pairs, MAX_GROUPS * PATH_CLASSES.length).fill(-1);
  for (const [pair, plane] of Object.entries(planes.pairs)) pairs[Number(pair)] = plane;
  const sights = new Int32Array(memory, scratch + SCRATCH.sights, MAX_GROUPS * LIGHT_SIGHTS.length);
  for (let i = 0; i < sights.length; i++) sights[i] = planes.sights?.[i] ?? Math.floor(i / LIGHT_SIGHTS.length);
  new Float32Array(memory, scratch + SCRATCH.filter, FILTER_TABLE_SIZE).set(filterTable(s.filter.kind));
}
