import fc from 'fast-check';
import { numbers, testKernel, testScene } from '@/render/testing';
import { type Mesh, merge, plane, sphere, transformed } from '../scene';
import { Kernel, type PreparedScene, prepareScene } from '.';
import {
  BLOCK,
  BLOCK_BYTES,
  fieldOffset,
  HEADER_FIELDS,
  NODE,
  NODE_BYTES,
  NODE_CHILDREN,
  PASSED_BIT,
  SCENE_BASE,
} from './layout';
import { intersectAll } from './reference/intersect';

/** The tree on scenes that builders stumble over, against the readable twin, and its structure read back. */
const compiled = testKernel();

function build(mesh: Mesh, material: Record<string, unknown> = {}): { kernel: Kernel; prepared: PreparedScene } {
  const scene = testScene({ meshes: { soup: mesh }, materials: { soup: material } });
  const prepared = prepareScene(compiled, scene, 400, 4);
  const kernel = new Kernel(compiled, prepared.memory);
  kernel.bindBare(prepared.end);
  return { kernel, prepared };
}

function soup(triangles: number[][]): Mesh {
  const positions = Float32Array.from(triangles.flat());
  const normals = Float32Array.from({ length: positions.length }, (_, i) => (i % 3 === 2 ? 1 : 0));
  return { positions, normals, indices: Uint32Array.from({ length: triangles.length * 3 }, (_, i) => i) };
}

/** A level square in n × n cells. */
function sheet(size: number, n: number): Mesh {
  const at = (i: number, j: number) => [(i / n - 0.5) * size, 0, (j / n - 0.5) * size];
  const cells = Array.from({ length: n * n }, (_, k) => [k % n, Math.floor(k / n)]);
  return soup(
    cells.flatMap(([i, j]) => [
      [...at(i, j), ...at(i, j + 1), ...at(i + 1, j + 1)],
      [...at(i, j), ...at(i + 1, j + 1), ...at(i + 1, j)],
    ]),
  );
}

interface Leaf {
  box: number[];
  triangles: number[];
}

/** Every leaf reachable from the root with the box its parent holds, and the depth of the tree. */
function leavesOf(prepared: PreparedScene): { leaves: Leaf[]; depth: number; nested: boolean } {
  const view = new DataView(prepared.memory.buffer);
  const root = view.getUint32(SCENE_BASE + fieldOffset(HEADER_FIELDS, 'bvhRoot'), true);
  const leaves: Leaf[] = [];
  let deepest = 0;
  let nested = true;
  const visit = (ref: number, box: number[], depth: number) => {
    deepest = Math.max(deepest, depth);
    if (ref & 15) {
      const triangles: number[] = [];
      for (let b = 0; b < (ref & 15); b++)
        for (let k = 0; k < 4; k++) {
          const id = view.getInt32((ref & ~15) + b * BLOCK_BYTES + BLOCK.id + k * 4, true);
          if (id >= 0) triangles.push(id & ~PASSED_BIT);
        }
      leaves.push({ box, triangles });
      return;
    }
    for (let i = 0; i < NODE_CHILDREN; i++) {
      const child = view.getUint32(ref + NODE.child + i * 4, true);
      const own = [NODE.minX, NODE.minY, NODE.minZ, NODE.maxX, NODE.maxY, NODE.maxZ].map((at) =>
        view.getFloat32(ref + at + i * 4, true),
      );
      if (own[0] > own[3]) continue;
      for (let a = 0; a < 3; a++) nested &&= own[a] >= box[a] && own[a + 3] <= box[a + 3];
      visit(child, own, depth + 1);
    }
  };
  visit(root, [-Infinity, -Infinity, -Infinity, Infinity, Infinity, Infinity], 0);
  return { leaves, depth: deepest, nested };
}

const SPHERE_OF_RAYS = 400;
function compare(mesh: Mesh, seed: number, reach = 3): void {
  const { kernel, prepared } = build(mesh);
  const next = numbers(seed);
  const at = prepared.end + 65536;
  const rays = new Float32Array(prepared.memory.buffer, at, SPHERE_OF_RAYS * 8);
  const count = mesh.indices.length / 3;
  for (let i = 0; i < SPHERE_OF_RAYS; i++) {
    // Half of the rays aim at a triangle's middle, so that most hit something.
    const from = [0, 1, 2].map(() => (next() * 2 - 1) * reach);
    const k = Math.floor(next() * count) * 3;
    const corners = [0, 1, 2].map((c) => mesh.indices[k + c] * 3);
    const to =
      i % 2
        ? [0, 1, 2].map((a) => corners.reduce((s, c) => s + mesh.positions[c + a] / 3, 0))
        : [0, 1, 2].map(() => (next() * 2 - 1) * reach);
    const d = to.map((c, a) => c - from[a]);
    const l = Math.hypot(...d) || 1;
    rays.set([...from, ...d.map((c) => c / l), 1e6, 0], i * 8);
  }
  kernel.traceRays(at, SPHERE_OF_RAYS, at + 65536);
  const t = new Float32Array(prepared.memory.buffer, at + 65536, SPHERE_OF_RAYS * 4);
  const id = new Int32Array(prepared.memory.buffer, at + 65536, SPHERE_OF_RAYS * 4);
  let judged = 0;
  for (let i = 0; i < SPHERE_OF_RAYS; i++) {
    const { nearest, margin } = intersectAll(mesh, Array.from(rays.subarray(i * 8, i * 8 + 7)));
    if (margin < 1e-3) continue;
    judged++;
    const what = `seed ${seed}, ray ${i}`;
    if (!nearest) expect([what, id[i * 4 + 1]]).toEqual([what, -1]);
    else expect(Math.abs(t[i * 4] - nearest.t) / (1 + nearest.t)).toBeLessThan(2e-3);
  }
  expect(judged).toBeGreaterThan(SPHERE_OF_RAYS / 8);
}

const triangleAround = (x: number, y: number, z: number, r: number, turn: number) =>
  [0, 1, 2].flatMap((k) => [
    x + r * Math.cos(turn + k * 2.1),
    y + r * Math.sin(turn + k * 2.1),
    z + r * Math.sin(turn * 3 + k),
  ]);

const SCENES: Record<string, () => Mesh> = {
  'one triangle': () => soup([triangleAround(0, 0, 0, 1, 0.3)]),
  'a hundred times the same triangle': () => soup(Array.from({ length: 100 }, () => triangleAround(0, 0, 0, 1, 0.3))),
  'triangles about one point': () => soup(Array.from({ length: 64 }, (_, i) => triangleAround(0, 0, 0, 1, i * 0.7))),
  'a row that shrinks at every step': () =>
    soup(Array.from({ length: 25 }, (_, i) => triangleAround(2 * 0.8 ** i, 0, 0, 0.5 * 0.8 ** i, i))),
  'a flat sheet': () => sheet(4, 24),
  'sheets in one plane': () => merge([sheet(3, 8), sheet(3, 8), sheet(2, 8)]),
  'slivers across everything': () => {
    const next = numbers(4);
    const far = () => [0, 1, 2].map(() => next() * 5 - 2.5);
    return soup(
      Array.from({ length: 80 }, () => {
        const [a, b] = [far(), far()];
        return [...a, ...b, ...a.map((c) => c + 0.05)];
      }),
    );
  },
  'something huge among something tiny': () =>
    merge([
      transformed(plane(1000, 1000), [0, -2, 0]),
      ...[0, 1, 2].map((i) => transformed(sphere(0.02, 12), [i * 0.1, 0, 0])),
    ]),
  'triangles without area': () =>
    soup([
      [0, 0, 0, 1, 1, 1, 2, 2, 2],
      [1, 0, 0, 1, 0, 0, 1, 0, 0],
      ...Array.from({ length: 20 }, (_, i) => triangleAround(i * 0.2 - 2, 0.3, 0, 0.4, i)),
    ]),
};

test.each(Object.entries(SCENES))('%s: hits are those of the readable twin', (_, make) => {
  compare(make(), 17);
});

test.each(Object.entries(SCENES))('%s: every triangle is in a leaf whose box holds a piece of it', (_, make) => {
  const mesh = make();
  const { leaves, depth, nested } = leavesOf(build(mesh).prepared);
  const found = new Set(leaves.flatMap((l) => l.triangles));
  expect(found.size).toBe(mesh.indices.length / 3);
  expect(nested).toBe(true);
  // Seven waiting children a level must fit the traversal stack.
  expect(depth).toBeLessThan(75);
  for (const { box, triangles } of leaves) {
    expect(triangles.length).toBeLessThanOrEqual(24);
    for (const k of triangles) {
      for (let a = 0; a < 3; a++) {
        const values = [0, 1, 2].map((c) => mesh.positions[mesh.indices[k * 3 + c] * 3 + a]);
        const slack = 1e-5 * (1 + Math.abs(box[a]) + Math.abs(box[a + 3]));
        expect(Math.min(...values)).toBeLessThanOrEqual(box[a + 3] + slack);
        expect(Math.max(...values)).toBeGreaterThanOrEqual(box[a] - slack);
      }
    }
  }
});

test('any soup of triangles is hit as by the readable twin', () => {
  const coordinate = fc.float({ min: -2, max: 2, noNaN: true });
  const triangle = fc.array(coordinate, { minLength: 9, maxLength: 9 });
  fc.assert(
    fc.property(fc.array(triangle, { minLength: 1, maxLength: 40 }), fc.nat(1e6), (triangles, seed) => {
      const big = triangles.filter((t) => {
        const [u, v] = [0, 3].map((o) => [0, 1, 2].map((a) => t[o + 3 + a] - t[a]));
        return Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]) > 0.05;
      });
      fc.pre(big.length > 0);
      compare(soup(big), seed);
    }),
    { numRuns: 25, seed: 21 },
  );
});

test('a scene without triangles has a tree that nothing hits', () => {
  const prepared = prepareScene(compiled, testScene({ environment: [1, 1, 1] }), 400, 1);
  const kernel = new Kernel(compiled, prepared.memory);
  kernel.bindBare(prepared.end);
  const at = prepared.end + 65536;
  new Float32Array(prepared.memory.buffer, at, 8).set([0, 0, 5, 0, 0, -1, 100, 0]);
  kernel.traceRays(at, 1, at + 4096);
  expect(new Int32Array(prepared.memory.buffer, at + 4096, 4)[1]).toBe(-1);
  expect(kernel.traceShadows(at, 1)).toBe(0);
});

test('long diagonals are held in pieces, and pieces stay below half as many again as there are triangles', () => {
  const next = numbers(8);
  const end = () => [0, 1, 2].map(() => next() * 10 - 5);
  const rods = Array.from({ length: 40 }, () => {
    const [a, b] = [end(), end()];
    return [...a, ...b, ...a.map((c) => c + 0.02)];
  });
  // Small ones by the hundred, so that the rods stand out as large.
  const dust = Array.from({ length: 4000 }, () => {
    const [x, y, z] = end();
    return triangleAround(x, y, z, 0.05, x);
  });
  const mesh = soup([...rods, ...dust]);
  const { leaves } = leavesOf(build(mesh).prepared);
  const held = leaves.flatMap((l) => l.triangles);
  expect(held.filter((k) => k < rods.length).length).toBeGreaterThan(rods.length * 4);
  expect(held.length).toBeLessThanOrEqual((rods.length + dust.length) * 1.5);
});

test('the tree ends where the header says, within what was planned for it', () => {
  const { prepared } = build(sphere(1, 64));
  const view = new DataView(prepared.memory.buffer);
  const field = (name: string) => view.getUint32(SCENE_BASE + fieldOffset(HEADER_FIELDS, name), true);
  const bytes = field('nodeCount') * NODE_BYTES + field('blockCount') * BLOCK_BYTES;
  expect(field('bvhEnd') - field('bvhRoot')).toBe(bytes);
  expect(prepared.end).toBeGreaterThanOrEqual(field('bvhEnd'));
});
