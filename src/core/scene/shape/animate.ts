import * as fmath from '../../fmath';
import type { Camera, SceneDocument } from '../document/document';
import type { Light } from '../document/light';
import { type Mesh, meshAt } from './mesh';
import type { LightPose, Pose } from './pose';
import type { Scene } from './scene';

type Matrix = readonly number[];
type Object3 = SceneDocument['objects'][number];

const IDENTITY: Matrix = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
/** Turn between two steps at most, so that straight lines between them stay near the arc (within 0.4 %). */
const MOST_TURN = (10 * Math.PI) / 180;
const MOST_STEPS = 33;

interface Parts {
  move: number[];
  /** Unit quaternion x, y, z, w. */
  turn: number[];
  scale: number[];
}

/** Translation, rotation and scale of a matrix without shear; null of any other. */
function partsOf(m: Matrix): Parts | null {
  const columns = [0, 4, 8].map((o) => [m[o], m[o + 1], m[o + 2]]);
  const scale = columns.map((c) => Math.sqrt(c[0] * c[0] + c[1] * c[1] + c[2] * c[2]));
  if (scale.some((s) => s < 1e-12)) return null;
  const [x, y, z] = columns.map((c, i) => c.map((v) => v / scale[i]));
  const dot = (a: number[], b: number[]) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
  if (Math.abs(dot(x, y)) + Math.abs(dot(y, z)) + Math.abs(dot(x, z)) > 1e-4) return null;
  const turned =
    x[0] * (y[1] * z[2] - y[2] * z[1]) - x[1] * (y[0] * z[2] - y[2] * z[0]) + x[2] * (y[0] * z[1] - y[1] * z[0]);
  if (turned < 0) return null;
  // Largest component first, which keeps digits [Shepperd 1978].
  const trace = x[0] + y[1] + z[2];
  const q = [1 + x[0] - y[1] - z[2], 1 - x[0] + y[1] - z[2], 1 - x[0] - y[1] + z[2], 1 + trace];
  const big = q.indexOf(Math.max(...q));
  const s = Math.sqrt(q[big]) / 2;
  const k = 1 / (4 * s);
  const pairs = [
    [s, (x[1] + y[0]) * k, (z[0] + x[2]) * k, (y[2] - z[1]) * k],
    [(x[1] + y[0]) * k, s, (y[2] + z[1]) * k, (z[0] - x[2]) * k],
    [(z[0] + x[2]) * k, (y[2] + z[1]) * k, s, (x[1] - y[0]) * k],
    [(y[2] - z[1]) * k, (z[0] - x[2]) * k, (x[1] - y[0]) * k, s],
  ];
  return { move: [m[12], m[13], m[14]], turn: pairs[big], scale };
}

function matrixOf({ move, turn: [x, y, z, w], scale }: Parts): number[] {
  const rows = [
    [1 - 2 * (y * y + z * z), 2 * (x * y + z * w), 2 * (x * z - y * w)],
    [2 * (x * y - z * w), 1 - 2 * (x * x + z * z), 2 * (y * z + x * w)],
    [2 * (x * z + y * w), 2 * (y * z - x * w), 1 - 2 * (x * x + y * y)],
  ];
  return [...rows.flatMap((r, i) => [...r.map((v) => v * scale[i]), 0]), ...move, 1];
}

/** Rotation between two unit quaternions along the shorter arc [Shoemake 1985]. */
export function slerp(a: readonly number[], b: readonly number[], t: number): number[] {
  let cosine = a.reduce((s, v, i) => s + v * b[i], 0);
  const sign = cosine < 0 ? -1 : 1;
  cosine = Math.min(1, Math.abs(cosine));
  const angle = fmath.acos(cosine);
  const sine = fmath.sin(angle);
  const [p, q] = sine < 1e-6 ? [1 - t, t] : [fmath.sin((1 - t) * angle) / sine, fmath.sin(t * angle) / sine];
  const out = a.map((v, i) => v * p + sign * b[i] * q);
  const l = Math.sqrt(out.reduce((s, v) => s + v * v, 0));
  return out.map((v) => v / l);
}

/** Between two placements: moved, turned and scaled evenly; component by component where one of them is sheared or mirrored. */
export function mixTransforms(a: Matrix, b: Matrix, t: number): Matrix {
  if (t <= 0) return a;
  if (t >= 1) return b;
  const [p, q] = [partsOf(a), partsOf(b)];
  const mix = (u: readonly number[], v: readonly number[]) => u.map((x, i) => x + (v[i] - x) * t);
  if (!p || !q) return mix(a, b);
  return matrixOf({ move: mix(p.move, q.move), turn: slerp(p.turn, q.turn, t), scale: mix(p.scale, q.scale) });
}

/** The two keys around a frame and the way between them; the first or last key beyond them. */
function around<K extends { frame: number }>(keys: readonly K[], frame: number): { a: K; b: K; t: number } {
  let i = 0;
  while (i < keys.length - 2 && keys[i + 1].frame <= frame) i++;
  const a = keys[i];
  const b = keys[Math.min(i + 1, keys.length - 1)];
  const t = b.frame > a.frame ? Math.min(1, Math.max(0, (frame - a.frame) / (b.frame - a.frame))) : 0;
  return { a, b, t };
}

function transformAt(o: Object3, frame: number): Matrix {
  if (!o.motion) return o.transform ?? IDENTITY;
  const { a, b, t } = around(o.motion, frame);
  return mixTransforms(a.transform, b.transform, t);
}

/** How far a placement turns on the way to another, in radians. */
function turnBetween(a: Matrix, b: Matrix): number {
  const [p, q] = [partsOf(a), partsOf(b)];
  if (!p || !q) return a.some((v, i) => v !== b[i]) ? MOST_TURN * 8 : 0;
  return 2 * fmath.acos(Math.min(1, Math.abs(p.turn.reduce((s, v, i) => s + v * q.turn[i], 0))));
}

/** Moments of the shutter, in frames: where it opens and closes, the keys between, and as many more as turns ask for. */
function momentsBetween(
  keys: readonly { frame: number }[],
  from: number,
  to: number,
  turn: (a: number, b: number) => number,
): number[] {
  const within = keys.map((k) => k.frame).filter((f) => f > from && f < to);
  const marks = [from, ...new Set(within), to];
  if (!(to > from)) return [from];
  if (marks.length > MOST_STEPS)
    return Array.from({ length: MOST_STEPS }, (_, i) => from + ((to - from) * i) / (MOST_STEPS - 1));
  const wanted = marks.slice(1).map((b, i) => Math.max(1, Math.ceil(turn(marks[i], b) / MOST_TURN)));
  const more = wanted.reduce((n, w) => n + w - 1, 0);
  const share = Math.min(1, more > 0 ? (MOST_STEPS - marks.length) / more : 1);
  const parts = wanted.map((w) => 1 + Math.floor((w - 1) * share));
  return [
    from,
    ...parts.flatMap((n, i) =>
      Array.from({ length: n }, (_, k) => marks[i] + ((marks[i + 1] - marks[i]) * (k + 1)) / n),
    ),
  ];
}

/** Moments as shares of the shutter. */
const timesOf = (moments: number[], from: number, to: number) =>
  moments.map((t) => (to > from ? (t - from) / (to - from) : 0));

function shapeAt(scene: Scene, o: Object3, frame: number): Mesh {
  const { a, b, t } = around(o.shapes!, frame);
  const mesh = (name: string) => {
    const entry = scene.document.geometry.meshes.find((m) => m.name === name);
    if (!entry) throw new Error(`object ${o.name}: no mesh ${name}`);
    return meshAt(scene.geometry, entry);
  };
  const [p, q] = [mesh(a.mesh), mesh(b.mesh)];
  if (p.positions.length !== q.positions.length || p.indices.length !== q.indices.length)
    throw new Error(
      `object ${o.name}: meshes ${a.mesh} and ${b.mesh} differ in their numbers of vertices or triangles`,
    );
  if (t === 0) return p;
  const mix = (u: Float32Array, v: Float32Array) => u.map((x, i) => x + (v[i] - x) * t);
  return { ...p, positions: mix(p.positions, q.positions), normals: mix(p.normals, q.normals) };
}

/** Whether anything of a scene, a camera of it aside, changes from frame to frame. */
export function isAnimated(document: SceneDocument): boolean {
  return document.objects.some((o) => o.motion || o.shapes) || document.lights.some((l) => l.motion);
}

/** A light as it stands at a frame, beside what carries it. */
function lightAt(light: Light, frame: number): Light {
  if (!light.motion) return light;
  const { a, b, t } = around(light.motion, frame);
  const mixed = (['position', 'facing', 'up'] as const).flatMap((field) => {
    const [p, q] = [a[field], b[field]];
    if (!p || !q || !(field in light)) return [];
    return [[field, p.map((x, i) => x + (q[i] - x) * t)]];
  });
  return { ...light, motion: undefined, ...Object.fromEntries(mixed) };
}

/** How a light moves over the shutter, by itself and with the object that carries it; null when it stands still. */
function lightPose(
  light: Light,
  carrier: Object3 | undefined,
  frame: number,
  shutter: { open: number; close: number },
): LightPose | null {
  if (!light.motion && !carrier?.motion) return null;
  const [from, to] = [frame + shutter.open, frame + shutter.close];
  const carried = (at: number) => (carrier ? transformAt(carrier, at) : IDENTITY);
  // A direction of its own turns as its keys say: a few moments between any two of them.
  const own = light.motion?.some((k) => k.facing) ? MOST_TURN * 3 : 0;
  const keys = [...(light.motion ?? []), ...(carrier?.motion ?? [])].sort((a, b) => a.frame - b.frame);
  const moments = momentsBetween(keys, from, to, (a, b) => Math.max(own, turnBetween(carried(a), carried(b))));
  const steps = moments.map((t) => ({ light: lightAt(light, t), carrier: carrier ? carried(t) : null }));
  const words = steps.map((s) => JSON.stringify(s));
  return words.every((w) => w === words[0]) ? null : { times: timesOf(moments, from, to), steps };
}

/** The object that carries a light: the one it follows, or its parent. */
export function carrierOf(light: Light): string | null {
  return ('follow' in light ? light.follow : null) ?? light.parent;
}

/**
 * The scene as it stands at `frame`: placements of that moment, and poses over the shutter (in frames from it; null for
 * a still picture) of all that moves.
 */
export function sceneAt(scene: Scene, frame: number, shutter: { open: number; close: number } | null): Scene {
  const { document } = scene;
  if (!isAnimated(document)) return scene;
  const poses = new Map<number, Pose>();
  const objects = document.objects.map((o, i) => {
    if (!o.motion && !o.shapes) return o;
    const [from, to] = shutter ? [frame + shutter.open, frame + shutter.close] : [frame, frame];
    const now = transformAt(o, frame);
    const turn = (a: number, b: number) => turnBetween(transformAt(o, a), transformAt(o, b));
    const moments = o.motion && shutter ? momentsBetween(o.motion, from, to, turn) : [frame];
    const steps = moments.map((t) => transformAt(o, t));
    const still = steps.every((m) => m.every((v, k) => v === steps[0][k]));
    const next = transformAt(o, frame + 1);
    const pose: Pose = still
      ? { steps: [now], times: [0], now, next }
      : { steps, times: timesOf(moments, from, to), now, next };
    if (o.shapes) {
      const shaped = shutter ? momentsBetween(o.shapes, from, to, () => 0) : [frame];
      pose.shapeTimes = timesOf(shaped, from, to);
      pose.shapes = shaped.map((t) => shapeAt(scene, o, t));
      pose.shapeNow = shapeAt(scene, o, frame);
      pose.shapeNext = shapeAt(scene, o, frame + 1);
    }
    poses.set(i, pose);
    return { ...o, transform: [...now], motion: undefined, shapes: undefined };
  });
  const lightPoses = new Map<number, LightPose>();
  const lights = document.lights.map((light, i) => {
    const carrier = document.objects.find((o) => o.name === carrierOf(light));
    const pose = shutter ? lightPose(light, carrier, frame, shutter) : null;
    if (pose) lightPoses.set(i, pose);
    return lightAt(light, frame);
  });
  return { ...scene, document: { ...document, objects, lights }, poses, lightPoses };
}

/** A camera as it stands at a frame. */
export function cameraAt(camera: Camera, frame: number): Camera {
  if (!camera.motion) return camera;
  const { a, b, t } = around(camera.motion, frame);
  const mix = (u: readonly number[], v: readonly number[]) =>
    u.map((x, i) => x + (v[i] - x) * t) as [number, number, number];
  return {
    ...camera,
    position: mix(a.position, b.position),
    target: mix(a.target, b.target),
    up: mix(a.up ?? camera.up, b.up ?? camera.up),
  };
}

/** Cameras at moments of the shutter with the moments (0 to 1); one when it does not move. */
export function cameraSteps(camera: Camera, frame: number, blur: boolean): { camera: Camera; time: number }[] {
  if (!camera.motion || !blur) return [{ camera: cameraAt(camera, frame), time: 0 }];
  const [from, to] = [frame + camera.shutter.open, frame + camera.shutter.close];
  // Its directions turn as it passes what it looks at: a few moments between any two keys.
  const moments = momentsBetween(camera.motion, from, to, () => MOST_TURN * 3);
  const times = timesOf(moments, from, to);
  return moments.map((t, i) => ({ camera: cameraAt(camera, t), time: times[i] }));
}
