import { execFileSync } from 'node:child_process';
import { existsSync, writeFileSync } from 'node:fs';
import { BufferAttribute, BufferGeometry, Ray, Vector3 } from 'three';
import { MeshBVH } from 'three-mesh-bvh';
import { Kernel, type PreparedScene, prepareScene } from '@/core/kernel';
import type { Mesh, Scene } from '@/core/scene';
import { numbers } from '@/render/testing';
import { median } from './median';
import { oneMesh } from './scenes';

const SET = 200000;
export const SETS = ['primary', 'bounce', 'shadow'] as const;

type Rates = Record<(typeof SETS)[number], number>;

/** Mrays/s of our kernel, and how many times a yardstick's rate that is: medians over rounds that alternate. */
export interface RayRates {
  buildSecondsPerMillion: number;
  kernel: Rates;
  overJavascript: Rates;
  overNative: { default: Rates; high: Rates } | null;
}

/** Rays of a camera, of bounces off what they meet, and of shadows to a point above: 8 floats a ray. */
function raySets(kernel: Kernel, memory: WebAssembly.Memory, base: number, scene: Scene): Float32Array[] {
  const camera = scene.document.cameras[0];
  const next = numbers(11);
  const primary = new Float32Array(SET * 8);
  const half = camera.sensorWidthMm / (2 * camera.focalLengthMm);
  const back = camera.position.map((c, i) => c - camera.target[i]);
  const l = Math.hypot(...back);
  const b = back.map((c) => c / l);
  const right = [b[2], 0, -b[0]].map((c) => c / Math.hypot(b[2], b[0]));
  const up = [b[1] * right[2] - b[2] * right[1], b[2] * right[0] - b[0] * right[2], b[0] * right[1] - b[1] * right[0]];
  const side = Math.ceil(Math.sqrt(SET));
  for (let i = 0; i < SET; i++) {
    // Neighbouring rays in order, as a renderer sends them.
    const x = ((((i % side) + next()) / side) * 2 - 1) * half;
    const y = (1 - ((Math.floor(i / side) + next()) / side) * 2) * half * 0.6;
    const d = right.map((r, k) => r * x + up[k] * y - b[k]);
    const n = Math.hypot(...d);
    primary.set([...camera.position, ...d.map((c) => c / n), 1e6, 0], i * 8);
  }
  const rays = new Float32Array(memory.buffer, base, SET * 8);
  rays.set(primary);
  kernel.traceRays(base, SET, base + SET * 32);
  const hits = new Float32Array(memory.buffer, base + SET * 32, SET * 4);
  const ids = new Int32Array(memory.buffer, base + SET * 32, SET * 4);
  const bounce = new Float32Array(SET * 8);
  const shadow = new Float32Array(SET * 8);
  for (let i = 0, from = 0; i < SET; i++) {
    while (ids[(from % SET) * 4 + 1] < 0) from++;
    const k = from++ % SET;
    const t = hits[k * 4] * 0.9999;
    const p = [0, 1, 2].map((a) => primary[k * 8 + a] + primary[k * 8 + 3 + a] * t);
    const d = [next() * 2 - 1, next() * 2 - 1, next() * 2 - 1];
    const n = Math.hypot(...d) || 1;
    bounce.set([...p, ...d.map((c) => c / n), 1e6, 0], i * 8);
    const light = [0.4, 2.9, 0.8].map((c) => c + (next() - 0.5) * 0.2);
    const to = light.map((c, a) => c - p[a]);
    const far = Math.hypot(...to);
    shadow.set([...p, ...to.map((c) => c / far), far * 0.999, 1], i * 8);
  }
  return [primary, bounce, shadow];
}

function javascriptYardstick(mesh: Mesh, sets: Float32Array[]): () => number[] {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(mesh.positions, 3));
  geometry.setIndex(new BufferAttribute(mesh.indices, 1));
  const bvh = new MeshBVH(geometry);
  const ray = new Ray(new Vector3(), new Vector3());
  const count = 20000;
  const rate = (set: Float32Array) => {
    const before = performance.now();
    for (let i = 0; i < count; i++) {
      ray.origin.fromArray(set, (i * 80) % (SET * 8));
      ray.direction.fromArray(set, ((i * 80) % (SET * 8)) + 3);
      bvh.raycastFirst(ray, 2, 0, set[((i * 80) % (SET * 8)) + 6]);
    }
    return count / (performance.now() - before) / 1000;
  };
  return () => sets.map(rate);
}

function nativeYardstick(mesh: Mesh, sets: Float32Array[]): (() => Record<'default' | 'high', number[]>) | null {
  if (!existsSync('build/native-rays')) return null;
  const file = 'build/native-rays.bin';
  const head = Uint32Array.of(mesh.positions.length / 3, mesh.indices.length / 3, SET, sets.length);
  writeFileSync(
    file,
    Buffer.concat(
      [head, mesh.positions, mesh.indices, ...sets].map((a) => Buffer.from(a.buffer, a.byteOffset, a.byteLength)),
    ),
  );
  return () => {
    const text = execFileSync('build/native-rays', [file], { encoding: 'utf8' });
    const rates = (quality: string) =>
      sets.map((_, s) => Number(new RegExp(`^${quality} rate ${s} ([\\d.]+)$`, 'm').exec(text)?.[1]));
    return { default: rates('default'), high: rates('high') };
  };
}

/** The ray sets of a prepared scene, and what times our kernel on one: Mrays/s, one thread. */
function kernelYardstick(module: WebAssembly.Module, prepared: PreparedScene, scene: Scene) {
  const kernel = new Kernel(module, prepared.memory);
  kernel.bindBare(prepared.end);
  const base = prepared.end + 65536;
  const sets = raySets(kernel, prepared.memory, base, scene);
  const rays = new Float32Array(prepared.memory.buffer, base, SET * 8);
  const rate = (set: Float32Array, s: number) => {
    rays.set(set);
    const from = performance.now();
    if (s === 2) kernel.traceShadows(base, SET);
    else kernel.traceRays(base, SET, base + SET * 32);
    return SET / (performance.now() - from) / 1000;
  };
  sets.forEach(rate);
  return { sets, rate };
}

/** Rays a second, one thread, and what the trees take, of a scene too large to lay out for the yardsticks. */
export function measureInstanced(module: WebAssembly.Module, scene: Scene) {
  const before = performance.now();
  const prepared = prepareScene(module, scene, 24000, 1);
  const buildMs = performance.now() - before;
  const { sets, rate } = kernelYardstick(module, prepared, scene);
  const [primary, bounce, shadow] = sets.map((set, s) => median([1, 2, 3, 4, 5].map(() => rate(set, s))));
  return { triangles: prepared.triangleCount, megabytes: prepared.end / 1e6, buildMs, primary, bounce, shadow };
}

const ROUNDS = 7;

/** Rays a second, one thread, of our kernel and the yardsticks on the same rays, turn by turn. */
export function measureRays(module: WebAssembly.Module, scene: Scene): RayRates {
  const mesh = oneMesh(scene);
  // The sky's and the surfaces' tables take the same time for any number of triangles.
  const bare: Scene = { ...scene, document: { ...scene.document, objects: [] } };
  let prepared = prepareScene(module, scene, 24000, 1);
  const builds: number[] = [];
  for (let i = 0; i < 3; i++) {
    const before = performance.now();
    prepareScene(module, bare, 24000, 1);
    const between = performance.now();
    prepared = prepareScene(module, scene, 24000, 1);
    builds.push(performance.now() - between - (between - before));
  }
  const { sets, rate } = kernelYardstick(module, prepared, scene);
  const javascript = javascriptYardstick(mesh, sets);
  const native = nativeYardstick(mesh, sets);
  const rounds = Array.from({ length: ROUNDS }, () => {
    const mine = sets.map((set, s) => median([rate(set, s), rate(set, s), rate(set, s)]));
    const theirs = native?.();
    const over = (rates: number[]) => mine.map((v, s) => v / rates[s]);
    return {
      mine,
      javascript: over(javascript()),
      default: theirs && over(theirs.default),
      high: theirs && over(theirs.high),
    };
  });
  const middle = (of: (r: (typeof rounds)[number]) => number[]): Rates => {
    const at = (s: number) => median(rounds.map((r) => of(r)[s]));
    return { primary: at(0), bounce: at(1), shadow: at(2) };
  };
  return {
    buildSecondsPerMillion: (median(builds) / 1000 / (mesh.indices.length / 3)) * 1e6,
    kernel: middle((r) => r.mine),
    overJavascript: middle((r) => r.javascript),
    overNative: native && { default: middle((r) => r.default!), high: middle((r) => r.high!) },
  };
}
