import fc from 'fast-check';
import { filmHash } from '@/render/node/film-digest';
import { meanOf, numbers, renderTest, testKernel, testRecipe, testScene } from '@/render/testing';
import { box, type Mesh, plane, type Scene, sphere, transformed } from '../scene';
import { Kernel, prepareScene } from '.';
import { determinant, instanceMatrices, instancingOf, point, worldBox } from './instancing';
import { planPack } from './pack-plan';
import { intersectAll } from './reference/intersect';

type Matrix = number[];

/** Turns about Y and X, scales by axis (a negative one mirrors), shears x by y, moves. */
function matrix(move: number[], turn = 0, scale = [1, 1, 1], tilt = 0, shear = 0): Matrix {
  const [c, s, cx, sx] = [Math.cos(turn), Math.sin(turn), Math.cos(tilt), Math.sin(tilt)];
  const axes = [
    [c, 0, -s],
    [s * sx, cx, c * sx],
    [s * cx, -sx, c * cx],
  ].map((a, i) => a.map((v) => v * scale[i]));
  axes[1] = axes[1].map((v, i) => v + shear * axes[0][i]);
  return [...axes[0], 0, ...axes[1], 0, ...axes[2], 0, ...move, 1];
}

/** The mesh placed at every transform: as one shared mesh, or as a mesh of its own for each. */
function placed(mesh: Mesh, transforms: Matrix[], shared: boolean, more: Parameters<typeof testScene>[0] = {}): Scene {
  const names = transforms.map((_, i) => (shared ? 'float' : `float ${i}`));
  const meshes = { ...more.meshes, ...Object.fromEntries(names.map((n) => [n, mesh])) };
  const materials = { ...more.materials, ...Object.fromEntries(names.map((n) => [n, more.materials?.float ?? {}])) };
  const scene = testScene({ ...more, meshes, materials });
  const others = scene.document.objects.filter((o) => !names.includes(o.name));
  const objects = transforms.map((transform, i) => ({
    name: `float ${i}`,
    mesh: names[i],
    material: names[i],
    transform,
  }));
  return { ...scene, document: { ...scene.document, objects: [...others, ...objects] } };
}

/** All triangles of a scene in the world, in double precision up to the last step. */
function flattened(mesh: Mesh, transforms: Matrix[]): Mesh {
  const count = mesh.positions.length / 3;
  const positions = new Float32Array(transforms.length * count * 3);
  const indices: number[] = [];
  transforms.forEach((m, k) => {
    for (let i = 0; i < count; i++) {
      const p = point(m, mesh.positions[i * 3], mesh.positions[i * 3 + 1], mesh.positions[i * 3 + 2]);
      positions.set(p, (k * count + i) * 3);
    }
    indices.push(...Array.from(mesh.indices, (i) => i + k * count));
  });
  return { positions, normals: positions, indices: Uint32Array.from(indices) };
}

const ball = sphere(0.4, 12);
/** Normals are interpolated in an instance's own space, which tells on coarse meshes that are stretched. */
const fineBall = sphere(0.4, 64);
const odd = [
  matrix([-1, 0, 0]),
  matrix([0, 0.6, -0.5], 1.1, [1, 2, 0.5]),
  matrix([1, 0, 0.3], 0.4, [-1, 1, 1], 0.7),
  matrix([0.2, -0.9, 0], 2.5, [0.3, 1.2, 1.2], 1.9, 0.8),
  matrix([0.9, -0.4, 1.2], 2.5, [0.3, 0.3, 0.3]),
];

test('hits on turned, stretched, mirrored and sheared instances are those of their triangles in the world', () => {
  const count = 1200;
  const scene = placed(ball, odd, true);
  const compiled = testKernel();
  const prepared = prepareScene(compiled, scene, 400, 4);
  const kernel = new Kernel(compiled, prepared.memory);
  kernel.bindBare(prepared.end);
  const at = prepared.end + 65536;
  const rays = new Float32Array(prepared.memory.buffer, at, count * 8);
  const next = numbers(3);
  for (let i = 0; i < count; i++) {
    const from = [0, 1, 2].map(() => next() * 6 - 3);
    const to = odd[i % odd.length].slice(12, 15).map((c) => c + next() * 0.6 - 0.3);
    const d = to.map((c, a) => c - from[a]);
    const l = Math.hypot(...d);
    rays.set([...from, ...d.map((c) => c / l), 1e5, 0], i * 8);
  }
  kernel.traceRays(at, count, at + 131072);
  const t = new Float32Array(prepared.memory.buffer, at + 131072, count * 4);
  const id = new Int32Array(prepared.memory.buffer, at + 131072, count * 4);
  const world = flattened(ball, odd);
  let hits = 0;
  let judgedMisses = 0;
  for (let i = 0; i < count; i++) {
    const { nearest, margin } = intersectAll(world, Array.from(rays.subarray(i * 8, i * 8 + 7)));
    if (margin < 1e-3) continue;
    if (nearest) {
      hits++;
      expect(Math.abs(t[i * 4] - nearest.t) / (1 + nearest.t)).toBeLessThan(1e-3);
      expect(id[i * 4 + 1]).toBeLessThan(ball.indices.length / 3);
    } else {
      judgedMisses++;
      expect(id[i * 4 + 1]).toBe(-1);
    }
  }
  expect(hits).toBeGreaterThan(300);
  expect(judgedMisses).toBeGreaterThan(20);
  expect(kernel.traceShadows(at, count)).toBe(
    Array.from({ length: count }, (_, i) => id[i * 4 + 1]).filter((k) => k >= 0).length,
  );
});

describe('a picture of instances', () => {
  const view = { position: [0, 0.5, 4.5], target: [0, 0, 0] };
  const lamp = { kind: 'sphere', name: 'lamp', group: 'lamp', power: 30, position: [1, 3, 2], radius: 0.4 };
  const around = {
    meshes: { floor: transformed(plane(8, 8), [0, -1.6, 0]) },
    lights: [lamp],
    environment: [0.3, 0.3, 0.4] as [number, number, number],
    camera: view,
  };
  const recipe = testRecipe(48, 32);

  test('is the picture of the same objects with meshes of their own', async () => {
    const [a, b] = await Promise.all(
      [true, false].map((shared) => renderTest(placed(fineBall, odd, shared, around), recipe)),
    );
    for (const layer of ['beauty', 'group.lamp', 'class.direct_diffuse']) {
      const [p, q] = [a, b].map((r) => r.layers.layers.get(layer)!.planes[1]);
      const differ = p.filter((v, i) => Math.abs(v - q[i]) > 0.02 * (v + q[i]) + 1e-4).length;
      // Rounding moves hits by the last bit, so some paths take another way.
      expect(differ / p.length).toBeLessThan(0.02);
      expect(meanOf(a.layers, layer, 1) / meanOf(b.layers, layer, 1)).toBeCloseTo(1, 2);
    }
    const [n, m] = [a, b].map((r) => r.layers.layers.get('N')!.planes);
    for (let c = 0; c < 3; c++)
      expect(n[c].filter((v, i) => Math.abs(v - m[c][i]) > 2e-3).length / n[c].length).toBeLessThan(0.005);
  });

  test('tells its objects apart in the coverage', async () => {
    const [a, b] = await Promise.all(
      [true, false].map((shared) => renderTest(placed(fineBall, odd, shared, around), recipe)),
    );
    expect(a.film.spec.coverage).toEqual(b.film.spec.coverage);
    const [p, q] = [a, b].map((r) => r.layers.layers.get('coverage')!.planes[0]);
    const seen = new Set(p);
    expect([1, 2, 3, 4, 5, 6].filter((id) => seen.has(id))).toEqual([1, 2, 3, 4, 5, 6]);
    expect(p.filter((v, i) => v !== q[i]).length / p.length).toBeLessThan(0.005);
  });

  test('has the same bits on one thread and on three', async () => {
    const scene = placed(fineBall, odd, true, around);
    const hashes = await Promise.all([1, 3].map(async (n) => filmHash((await renderTest(scene, recipe, n)).film)));
    expect(hashes[0]).toBe(hashes[1]);
  });
});

test('clear glass, stretched and instanced, is still white in a white world', async () => {
  const scene = placed(sphere(1, 64), [matrix([0, 0, 0], 0.5, [1, 1.4, 0.8]), matrix([9, 0, 0])], true, {
    materials: { float: { base_color: [1, 1, 1], specular_roughness: 0, transmission_weight: 1 } },
    environment: [1, 1, 1],
    camera: { focalLengthMm: 60, position: [0, 0, 6] },
  });
  const { layers } = await renderTest(scene, testRecipe(16, 64));
  expect(meanOf(layers, 'beauty', 1)).toBeGreaterThan(0.996);
  expect(meanOf(layers, 'beauty', 1)).toBeLessThan(1.004);
});

test('light comes straight through instanced panes as through panes of their own', async () => {
  // Enough triangles that the pane is shared: a box alone would be laid out in full.
  const pane: Mesh = box(2, 2, 0.01);
  const fine = Array.from({ length: 6 }, () => pane).reduce<Mesh>(
    (m, p) => ({
      positions: Float32Array.from([...m.positions, ...p.positions.map((v, i) => (i % 3 === 2 ? v + 50 : v))]),
      normals: Float32Array.from([...m.normals, ...p.normals]),
      indices: Uint32Array.from([...m.indices, ...p.indices.map((k) => k + m.positions.length / 3)]),
    }),
    pane,
  );
  const material = { base_color: [1, 1, 1], specular_roughness: 0, transmission_weight: 1, geometry_thin_walled: true };
  const transforms = [matrix([0, 1, 0], 0, [2, 1, 3], 1.2), matrix([0, 0.6, 0], 0.4, [1.5, 1.5, 0.5], 1.5)];
  const lit = async (shared: boolean) => {
    const scene = placed(fine, transforms, shared, {
      meshes: { floor: plane(0.4, 0.4) },
      materials: { float: material, floor: { base_color: [0.5, 0.5, 0.5], specular_weight: 0 } },
      lights: [{ kind: 'sphere', name: 'lamp', group: 'lamp', power: 100, position: [0.2, 3, 0.1], radius: 0.2 }],
      camera: { position: [0.6, 0.15, 0], target: [0, 0, 0], focalLengthMm: 200 },
    });
    expect(instancingOf(scene).shared.length).toBe(shared ? 1 : 0);
    return meanOf((await renderTest(scene, testRecipe(16, 64))).layers, 'class.direct_diffuse', 1);
  };
  const [a, b] = [await lit(true), await lit(false)];
  expect(b).toBeGreaterThan(0.01);
  expect(a / b).toBeCloseTo(1, 2);
});

describe('what is shared', () => {
  const many = Array.from({ length: 1000 }, (_, i) => matrix([i, 0, 0]));

  test('a thousand placings take the memory of one mesh, and of a record each', () => {
    const mesh = sphere(0.4, 48);
    const one = planPack(placed(mesh, many.slice(0, 1), true));
    const all = planPack(placed(mesh, many, true));
    expect(all.triangleCount).toBe(mesh.indices.length / 3);
    expect(all.tempBytes + all.temp - one.tempBytes - one.temp).toBeLessThan(1000 * 600);
    expect(prepareScene(testKernel(), placed(mesh, many, true), 8, 1).triangleCount).toBe(1000 * all.triangleCount);
  });

  test('only meshes of some size that are placed twice with one material', () => {
    const scene = placed(ball, odd, true, { meshes: { floor: plane(1, 1), crate: box(1, 1, 1) } });
    expect(instancingOf(scene)).toMatchObject({
      ground: [0, 1],
      shared: [{ mesh: 'float', objects: [2, 3, 4, 5, 6] }],
    });
    scene.document.objects[2] = { ...scene.document.objects[2], material: 'crate' };
    expect(instancingOf(scene)).toMatchObject({ ground: [0, 1, 2], shared: [{ objects: [3, 4, 5, 6] }] });
  });

  test('an object that its transform flattens is named', () => {
    const flat = matrix([0, 0, 0], 0, [1, 0, 1]);
    expect(() => prepareScene(testKernel(), placed(ball, [odd[0], flat], true), 8, 1)).toThrow('float 1');
  });
});

describe('matrices', () => {
  const number = fc.double({ min: -3, max: 3, noNaN: true });
  const any = fc
    .tuple(fc.tuple(number, number, number), number, fc.tuple(number, number, number), number, number)
    .map(([move, turn, scale, tilt, shear]) => matrix(move, turn, scale, tilt, shear))
    .filter((m) => Math.abs(determinant(m)) > 1e-2);
  const by = (rows: number[], p: number[]) =>
    [0, 1, 2].map((i) => rows[i * 4] * p[0] + rows[i * 4 + 1] * p[1] + rows[i * 4 + 2] * p[2] + rows[i * 4 + 3]);

  test('to the world and back is where it was', () => {
    fc.assert(
      fc.property(any, fc.tuple(number, number, number), (m, p) => {
        const { toLocal, toWorld } = instanceMatrices(m, 'float');
        by(toWorld, p).forEach((v, i) => {
          expect(v).toBeCloseTo(point(m, p[0], p[1], p[2])[i], 9);
        });
        by(toLocal, by(toWorld, p)).forEach((v, i) => {
          expect(v).toBeCloseTo(p[i], 6);
        });
      }),
      { numRuns: 200, seed: 12 },
    );
  });

  test('a box in the world holds every point of the box', () => {
    fc.assert(
      fc.property(
        any,
        fc.tuple(number, number, number),
        fc.tuple(number, number, number),
        fc.array(fc.nat(100), { minLength: 3, maxLength: 3 }),
        (m, a, b, share) => {
          const low = a.map((v, i) => Math.min(v, b[i]));
          const high = a.map((v, i) => Math.max(v, b[i]));
          const inside = low.map((v, i) => v + ((high[i] - v) * share[i]) / 100);
          const out = worldBox(m, low, high);
          point(m, inside[0], inside[1], inside[2]).forEach((v, i) => {
            expect(v).toBeGreaterThanOrEqual(out.low[i]);
            expect(v).toBeLessThanOrEqual(out.high[i]);
          });
        },
      ),
      { numRuns: 200, seed: 13 },
    );
  });
});
