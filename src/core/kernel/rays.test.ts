import { numbers, testKernel, testScene } from '@/render/testing';
import { box, type Mesh, merge, sphere, sweep, transformed } from '../scene';
import { Kernel, prepareScene } from '.';
import { intersectAll } from './reference/intersect';

/** Boxes, balls and long thin diagonal rods: easy and hard boxes mixed. */
function thicket(seed: number): Mesh {
  const next = numbers(seed);
  const at = (): [number, number, number] => [next() * 4 - 2, next() * 4 - 2, next() * 4 - 2];
  const parts: Mesh[] = [];
  for (let i = 0; i < 30; i++)
    parts.push(transformed(box(0.1 + next() * 0.4, 0.1 + next() * 0.4, 0.2), at(), next() * 6));
  for (let i = 0; i < 8; i++) parts.push(transformed(sphere(0.2 + next() * 0.2, 12), at()));
  for (let i = 0; i < 25; i++) parts.push(sweep([at(), at()], 0.01, 6));
  return merge(parts);
}

const HITS = 65536 * 4;

function setUp(mesh: Mesh, seed: number, count: number) {
  const module = testKernel();
  const prepared = prepareScene(module, testScene({ meshes: { thicket: mesh } }), 400, 4);
  const kernel = new Kernel(module, prepared.memory);
  kernel.bindBare(prepared.end);
  const rays = prepared.end + 65536;
  const next = numbers(seed);
  const view = new Float32Array(prepared.memory.buffer, rays, count * 8);
  for (let i = 0; i < count; i++) {
    const d = [next() * 2 - 1, next() * 2 - 1, next() * 2 - 1];
    const l = Math.hypot(...d) || 1;
    view.set([next() * 6 - 3, next() * 6 - 3, next() * 6 - 3, d[0] / l, d[1] / l, d[2] / l, 100, 0], i * 8);
  }
  return { kernel, prepared, rays, view };
}

test.each([1, 2, 3])('closest hits are those of the readable twin (seed %i)', (seed) => {
  const mesh = thicket(seed);
  const count = 1500;
  const { kernel, prepared, rays, view } = setUp(mesh, seed + 100, count);
  kernel.traceRays(rays, count, rays + HITS);
  const t = new Float32Array(prepared.memory.buffer, rays + HITS, count * 4);
  const id = new Int32Array(prepared.memory.buffer, rays + HITS, count * 4);
  let hits = 0;
  for (let i = 0; i < count; i++) {
    const r = Array.from(view.subarray(i * 8, i * 8 + 7));
    const { nearest, margin } = intersectAll(mesh, r);
    // Grazing an edge, float and double may disagree; such rays say nothing.
    if (margin < 1e-4) continue;
    if (!nearest) expect(id[i * 4 + 1]).toBe(-1);
    else {
      hits++;
      expect(Math.abs(t[i * 4] - nearest.t)).toBeLessThan(1e-3 * (1 + nearest.t));
    }
  }
  expect(hits).toBeGreaterThan(100);
  const blocked = kernel.traceShadows(rays, count);
  const closest = Array.from({ length: count }, (_, i) => id[i * 4 + 1]).filter((k) => k >= 0).length;
  expect(blocked).toBe(closest);
});

test('rays along the faces of flat boxes are not lost', () => {
  const { kernel, prepared, rays, view } = setUp(box(2, 2, 2), 1, 4);
  view.set([
    0, 0, 5, 0, 0, -1, 100, 0, 0.5, 5, 0.25, 0, -1, 0, 100, 0, -5, 0.1, 0.1, 1, 0, 0, 100, 0, 3, 3, 5, 0, 0, -1, 100, 0,
  ]);
  kernel.traceRays(rays, 4, rays + HITS);
  const t = new Float32Array(prepared.memory.buffer, rays + HITS, 16);
  expect([t[0], t[4], t[8]].map((v) => Math.round(v * 1000) / 1000)).toEqual([4, 4, 4]);
  expect(new Int32Array(prepared.memory.buffer, rays + HITS, 16)[13]).toBe(-1);
});

describe('Owen-scrambled Sobol pairs', () => {
  const { kernel } = setUp(box(1, 1, 1), 1, 1);
  test('every 16 points lie one each in all elementary boxes: a (0, 4, 2)-net', () => {
    for (const [seed, pair] of [
      [1, 0],
      [7, 3],
      [99, 12],
    ]) {
      const points = kernel.samplePairs(seed, 12345, 1, pair, 64);
      for (let block = 0; block < 4; block++) {
        for (const [nx, ny] of [
          [16, 1],
          [8, 2],
          [4, 4],
          [2, 8],
          [1, 16],
        ]) {
          const seen = new Set<number>();
          for (let i = block * 16; i < block * 16 + 16; i++)
            seen.add(Math.floor(points[i * 2] * nx) * ny + Math.floor(points[i * 2 + 1] * ny));
          expect(seen.size).toBe(16);
        }
      }
    }
  });

  test('pixels, halves, pairs and seeds draw different points in [0, 1)', () => {
    const first = kernel.samplePairs(1, 5, 0, 0, 8);
    for (const other of [
      kernel.samplePairs(2, 5, 0, 0, 8),
      kernel.samplePairs(1, 6, 0, 0, 8),
      kernel.samplePairs(1, 5, 1, 0, 8),
      kernel.samplePairs(1, 5, 0, 1, 8),
    ]) {
      expect(Array.from(other)).not.toEqual(Array.from(first));
      for (const v of other) {
        expect(v).toBeGreaterThanOrEqual(0);
        expect(v).toBeLessThan(1);
      }
    }
  });

  test('pairs of dimensions are uncorrelated', () => {
    const n = 4096;
    const [a, b] = [kernel.samplePairs(3, 77, 0, 2, n), kernel.samplePairs(3, 77, 0, 5, n)];
    let sum = 0;
    for (let i = 0; i < n; i++) sum += (a[i * 2] - 0.5) * (b[i * 2] - 0.5) * 12;
    expect(Math.abs(sum / n)).toBeLessThan(4 / Math.sqrt(n));
  });
});
