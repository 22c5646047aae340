import type { Recipe } from '../recipe';
import { type Camera, resolveRules, type Scene } from '../scene';
import { fogBounds } from './fog-bounds';
import { PAGE_BYTES, PLANE_BYTES, SCRATCH, TABLE_BYTES, TRAIL_BYTES, TREE_BYTES } from './layout';
import { makeMemory } from './memory';
import { packRecords, packScene } from './pack';
import { packObjects, placeInstances } from './pack-objects';
import { type PackPlan, planBytes, planPack } from './pack-plan';
import { type PlaneMap, writeParams } from './params';

interface KernelExports {
  bind(base: number): void;
  beginTrees(): void;
  beginTree(record: number, at: number, temp: number): void;
  beginWorld(at: number, temp: number): void;
  referTriangles(from: number, to: number): void;
  halveReferences(most: number): number;
  rootTask(): void;
  growTree(most: number): number;
  treeEnd(): number;
  renderTile(x0: number, y0: number, w: number, h: number, first: number, count: number): void;
  traceRays(rays: number, count: number, hits: number): void;
  traceShadows(rays: number, count: number): number;
  samplePairs(seed: number, pixel: number, half: number, pair: number, count: number, out: number): void;
  lookAlong(rays: number, count: number, out: number): void;
  setTrail(at: number, records: number): void;
  trailLength(): number;
  rayRecordCount(): number;
}

/** Most bytes a thread's scratch area needs for `planes` planes and `posedBytes` of what moves. */
export function scratchBytes(planes: number, posedBytes: number): number {
  return (SCRATCH.tile + planes * PLANE_BYTES + TABLE_BYTES + 16 + posedBytes + 65535) & ~65535;
}

/** A scene in shared memory with its tree built, ready for any number of threads. */
export interface PreparedScene {
  memory: WebAssembly.Memory;
  /** First byte after the scene: scratch areas start here. */
  end: number;
  /** Triangles in the world, those of instances counted as often as they are placed. */
  triangleCount: number;
  plan: PackPlan;
  scene: Scene;
  /** Where the tree of what stands in world space begins, those of what changes its shape, and that over all trees. */
  groundAt: number;
  shapesAt: number;
  worldAt: number;
}

/** What else a render needs to know: flags of `STUDY`, the frame, and the first of the shot. */
export interface BindOptions {
  study?: number;
  frame?: number;
  firstFrame?: number;
  /** Where rays are written down, `RAY_FLOATS` floats each, and how many at most. */
  rayRecords?: { at: number; most: number };
}

/** Floats of a ray that looks, and of what it sees. */
export const RAY_FLOATS = 8;
export const SEEN_FLOATS = 12;
/** Rays looked along in one call, and records of one trail. */
const MOST_LOOKS = 1024;
const MOST_TRAIL = 512;

/** The kernel over a shared memory. Each thread makes its own. */
export class Kernel {
  private readonly exports: KernelExports;
  private scratch = 0;

  constructor(
    module: WebAssembly.Module,
    readonly memory: WebAssembly.Memory,
  ) {
    const instance = new WebAssembly.Instance(module, { env: { memory, abort: () => {} } });
    this.exports = instance.exports as unknown as KernelExports;
  }

  /** Takes the scratch area at `scratch` with these parameters. */
  bind(
    scratch: number,
    recipe: Recipe,
    camera: Camera,
    groupCount: number,
    planes: PlaneMap,
    { study = 0, frame = 1, firstFrame = frame, rayRecords }: BindOptions = {},
  ): void {
    writeParams(this.memory.buffer, scratch, recipe, camera, groupCount, planes, {
      study,
      frame,
      firstFrame,
      rayRecords,
    });
    this.scratch = scratch;
    this.exports.bind(scratch);
  }

  /** Takes a scratch area without parameters, for bare rays. */
  bindBare(scratch: number): void {
    // What built the trees may have left something there.
    new Uint8Array(this.memory.buffer, scratch + SCRATCH.params, SCRATCH.filter - SCRATCH.params).fill(0);
    this.scratch = scratch;
    this.exports.bind(scratch);
  }

  /** Begins counting nodes and blocks. */
  beginTrees(): void {
    this.exports.beginTrees();
  }

  /** Builds the tree of a record in steps, which lets the engine optimise the code on the way. Returns its end. */
  buildTree(record: number, at: number, temp: number, triangles: number): number {
    const step = 4096;
    this.exports.beginTree(record, at, temp);
    for (let t = 0; t < triangles; t += step) this.exports.referTriangles(t, Math.min(triangles, t + step));
    while (this.exports.halveReferences(step));
    this.exports.rootTask();
    while (this.exports.growTree(256));
    return this.exports.treeEnd();
  }

  /** Builds the tree over all others. Returns its end. */
  buildWorld(at: number, temp: number): number {
    this.exports.beginWorld(at, temp);
    while (this.exports.growTree(256));
    return this.exports.treeEnd();
  }

  /**
   * Renders samples [first, first + count) of a tile onto `record` (planes, then tables; the bytes of
   * one tile of a film) and leaves the result there. x0, y0 in frame pixels.
   */
  renderTile(record: Uint8Array, x0: number, y0: number, w: number, h: number, first: number, count: number): void {
    const tile = new Uint8Array(this.memory.buffer, this.scratch + SCRATCH.tile, record.byteLength);
    tile.set(record);
    this.exports.renderTile(x0, y0, w, h, first, count);
    record.set(tile);
  }

  /** Rays that were written down since `bind`. */
  rayRecords(): number {
    return this.exports.rayRecordCount();
  }

  traceRays(rays: number, count: number, hits: number): void {
    this.exports.traceRays(rays, count, hits);
  }

  traceShadows(rays: number, count: number): number {
    return this.exports.traceShadows(rays, count);
  }

  /**
   * What rays meet, `RAY_FLOATS` floats each: origin, direction, most metres, unused. Returns `SEEN_FLOATS` floats a ray:
   * metres, object as an integer (-1 nothing, -2 − n light n), front as an integer, unused, position, normal.
   */
  lookAlong(rays: Float32Array): { floats: Float32Array; integers: Int32Array } {
    const count = rays.length / RAY_FLOATS;
    const from = this.scratch + SCRATCH.tile;
    const to = from + MOST_LOOKS * RAY_FLOATS * 4;
    const out = new Float32Array(count * SEEN_FLOATS);
    for (let i = 0; i < count; i += MOST_LOOKS) {
      const n = Math.min(MOST_LOOKS, count - i);
      new Float32Array(this.memory.buffer, from, n * RAY_FLOATS).set(
        rays.subarray(i * RAY_FLOATS, (i + n) * RAY_FLOATS),
      );
      this.exports.lookAlong(from, n, to);
      out.set(new Float32Array(this.memory.buffer, to, n * SEEN_FLOATS), i * SEEN_FLOATS);
    }
    return { floats: out, integers: new Int32Array(out.buffer) };
  }

  /** How many of some rays, given as for `lookAlong`, are blocked. */
  shadowed(rays: Float32Array): number {
    const from = this.scratch + SCRATCH.tile;
    let blocked = 0;
    for (let i = 0; i < rays.length; i += MOST_LOOKS * RAY_FLOATS) {
      const some = rays.subarray(i, i + MOST_LOOKS * RAY_FLOATS);
      new Float32Array(this.memory.buffer, from, some.length).set(some);
      blocked += this.exports.traceShadows(from, some.length / RAY_FLOATS);
    }
    return blocked;
  }

  /** Takes sample `sample` of pixel (x, y) and returns the records of its trail; see `TRAIL_FIELDS`. */
  trail(x: number, y: number, sample: number, tileBytes: number): ArrayBuffer {
    const tile = this.scratch + SCRATCH.tile;
    new Uint8Array(this.memory.buffer, tile, tileBytes).fill(0);
    const at = (tile + tileBytes + 63) & ~63;
    this.exports.setTrail(at, MOST_TRAIL);
    try {
      this.exports.renderTile(x, y, 1, 1, sample, 1);
      return new Uint8Array(this.memory.buffer, at, this.exports.trailLength() * TRAIL_BYTES).slice().buffer;
    } finally {
      this.exports.setTrail(0, 0);
    }
  }

  samplePairs(seed: number, pixel: number, half: number, pair: number, count: number): Float32Array {
    const out = this.scratch + SCRATCH.tile;
    this.exports.samplePairs(seed, pixel, half, pair, count, out);
    return new Float32Array(this.memory.buffer, out, count * 2).slice();
  }
}

const MOST_BYTES = 32768 * PAGE_BYTES;

function tooLarge(triangles: number, bytes: number): string | null {
  if (bytes <= MOST_BYTES) return null;
  return `the scene has ${(triangles / 1e6).toFixed(1)} million triangles and needs ${Math.ceil(bytes / 1e6)} MB of memory; at most 2147 MB are possible`;
}

/** Why a scene is too large to be traced at all, null when it is not: triangles count once, however often placed. */
export function sizeFault(scene: Scene): string | null {
  const plan = planPack(scene);
  return tooLarge(plan.triangleCount, planBytes(plan));
}

/**
 * Packs a scene and builds its trees; `planes` and `threads` say how much scratch to leave room for. What is not `shaded` is
 * for tracing rays alone.
 */
export function prepareScene(
  module: WebAssembly.Module,
  scene: Scene,
  planes: number,
  threads: number,
  shaded = true,
): PreparedScene {
  const plan = planPack(scene, shaded);
  const most = Math.max(planBytes(plan), plan.temp + scratchBytes(planes, plan.posedBytes) * threads) + 65536;
  const fault = tooLarge(plan.triangleCount, most);
  if (fault) throw new Error(fault);
  const memory = makeMemory(most);
  packScene(module, memory.buffer, scene, plan);
  const kernel = new Kernel(module, memory);
  kernel.beginTrees();
  // In the order of how seldom they change: shared trees that keep their shape stay as they are when objects move.
  const end = buildShared(kernel, plan, plan.tree, false);
  const placed = plan.instancing.shared.reduce((n, t) => n + t.triangles * t.objects.length, 0);
  const triangleCount = plan.treeTriangles[0] + placed;
  const prepared = { memory, plan, scene, groundAt: end, shapesAt: end, worldAt: end, end, triangleCount };
  buildGround(kernel, prepared);
  return prepared;
}

/** Builds the shared trees that change their shape, or those that keep it, one behind the other; returns where they end. */
function buildShared(kernel: Kernel, plan: PackPlan, at: number, shaped: boolean): number {
  return plan.instancing.shared.reduce(
    (end, t, i) =>
      t.shapes > 0 === shaped
        ? kernel.buildTree(plan.trees + (i + 1) * TREE_BYTES, end, plan.temp, plan.treeTriangles[i + 1])
        : end,
    at,
  );
}

/** Builds the tree of what stands in world space, and what lies behind it. */
function buildGround(kernel: Kernel, p: PreparedScene): void {
  p.shapesAt = kernel.buildTree(p.plan.trees, p.groundAt, p.plan.temp, p.plan.treeTriangles[0]);
  buildShapes(kernel, p);
}

/** Builds the trees of what changes its shape, and that over all trees. */
function buildShapes(kernel: Kernel, p: PreparedScene): void {
  p.worldAt = buildShared(kernel, p.plan, p.shapesAt, true);
  buildWorld(kernel, p);
}

function buildWorld(kernel: Kernel, p: PreparedScene): void {
  placeInstances(p.memory.buffer, p.scene, p.plan);
  p.end = (kernel.buildWorld(p.worldAt, p.plan.temp) + 65535) & ~65535;
}

/** What an update had to do. */
export type Rebuilt = 'records' | 'instances' | 'shapes' | 'ground' | 'all';

/** What trees are made of, besides where objects stand: whose change means building anew. */
function treeKey(scene: Scene): string {
  const { objects, geometry, materials, fogs } = scene.document;
  const rules = resolveRules(scene.document);
  return JSON.stringify([
    objects.map((o, i) => [o.mesh, o.material, rules[i].secondaryMaterial, rules[i].hiddenFrom.includes('shadow')]),
    geometry,
    materials.map((m) => [
      m.name,
      m.geometry_opacity < 1,
      m.geometry_thin_walled,
      m.transmission_weight > 0,
      m.transmission_straight_shadows,
      // Shadow rays pass smooth panes: roughness counts where light goes through at all.
      m.transmission_weight > 0 ? [m.specular_roughness, m.transmission_roughness] : null,
      m.textures,
    ]),
    fogBounds(scene.document),
    fogs.length,
  ]);
}

/**
 * Brings a prepared scene up to date, doing no more than the change asks for: records of materials, lights,
 * environment and fog are written in place; moved instances mean a new tree of instances; surfaces that change their
 * shape new trees of their own; other moved objects a new tree of what stands in world space. Null when the scene must be prepared anew.
 * No thread may be tracing, and each must take its scratch area again.
 */
export function updateScene(module: WebAssembly.Module, p: PreparedScene, scene: Scene): Rebuilt | null {
  if (scene.geometry !== p.scene.geometry || treeKey(scene) !== treeKey(p.scene)) return null;
  const plan = planPack(scene);
  const places = (x: PackPlan) => [
    x.light.records,
    x.light.portals,
    x.materials,
    x.tree,
    x.temp,
    x.envPixels,
    x.energySlabs,
    x.textures,
    x.places,
    x.poses,
    x.moving,
    x.light.poses,
    x.light.moving.map((m) => [m.number, m.moments.length]),
  ];
  if (JSON.stringify(places(plan)) !== JSON.stringify(places(p.plan))) return null;
  const moved = scene.document.objects.flatMap((o, i) =>
    JSON.stringify([o.transform, scene.poses?.get(i)?.steps]) ===
    JSON.stringify([p.scene.document.objects[i].transform, p.scene.poses?.get(i)?.steps])
      ? []
      : [i],
  );
  const ground = new Set(plan.instancing.ground);
  packRecords(module, p.memory.buffer, scene, plan, p.scene);
  p.plan = plan;
  p.scene = scene;
  if (moved.length === 0 && !scene.poses) return 'records';
  packObjects(p.memory.buffer, scene, plan);
  const kernel = new Kernel(module, p.memory);
  if (moved.some((i) => ground.has(i))) {
    buildGround(kernel, p);
    return 'ground';
  }
  if (plan.instancing.shared.some((t) => t.shapes > 0)) {
    buildShapes(kernel, p);
    return 'shapes';
  }
  buildWorld(kernel, p);
  return 'instances';
}
