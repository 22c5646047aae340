import { measureTest, numbers, testKernel, testScene } from '@/render/testing';
import { plane, sphere } from '../scene';
import { Kernel, prepareScene, RAY_FLOATS, SEEN_FLOATS } from '.';

type Vec = [number, number, number];
const dot = (a: Vec, b: Vec) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const less = (a: Vec, b: Vec): Vec => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const FACING: Record<string, { n: Vec; u: Vec; v: Vec }> = {
  down: { n: [0, -1, 0], u: [1, 0, 0], v: [0, 0, 1] },
  aside: { n: [1, 0, 0], u: [0, 1, 0], v: [0, 0, 1] },
};

/** Balls, disks and rectangles strewn in a cube. */
function strewn(count: number, seed: number) {
  const next = numbers(seed);
  return Array.from({ length: count }, (_, i) => {
    const at: Vec = [next() * 4 - 2, next() * 4 - 2, next() * 4 - 2];
    const size = 0.02 + next() * 0.3;
    return { kind: (['sphere', 'disk', 'rectangle'] as const)[i % 3], at, size, way: i % 2 ? 'down' : 'aside' };
  });
}

/** How far along a ray one of them is, by the equations of sphere and plane. */
function distance({ kind, at, size, way }: ReturnType<typeof strewn>[number], o: Vec, d: Vec): number {
  const from = less(o, at);
  if (kind === 'sphere') {
    const b = dot(from, d);
    const root = b * b - (dot(from, from) - size * size);
    if (root < 0) return Number.POSITIVE_INFINITY;
    const [near, far] = [-b - Math.sqrt(root), -b + Math.sqrt(root)];
    return near > 0 ? near : far > 0 ? far : Number.POSITIVE_INFINITY;
  }
  const { n, u, v } = FACING[way];
  const t = -dot(from, n) / dot(d, n);
  const on: Vec = [from[0] + t * d[0], from[1] + t * d[1], from[2] + t * d[2]];
  const within =
    kind === 'disk' ? dot(on, on) <= size * size : Math.abs(dot(on, u)) <= size && Math.abs(dot(on, v)) <= size / 2;
  return t > 0 && within ? t : Number.POSITIVE_INFINITY;
}

test.each([5, 40, 900])('of %i lights a ray meets the nearest', (count) => {
  const lights = strewn(count, 7);
  const module = testKernel();
  const scene = testScene({
    meshes: { far: sphere(0.1, 8) },
    lights: lights.map(({ kind, at, size, way }, i) => ({
      ...{ kind, name: `l${i}`, power: 1, position: at },
      ...(kind === 'sphere' ? { radius: size } : { facing: FACING[way].n, up: FACING[way].v }),
      ...(kind === 'disk' ? { radius: size } : {}),
      // Its width lies along its up turned about where it faces.
      ...(kind === 'rectangle' ? { width: size * 2, height: size } : {}),
    })),
  });
  scene.document.objects[0].transform = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 90, 90, 90, 1];
  const prepared = prepareScene(module, scene, 400, 1);
  expect(prepared.plan.light.shapeNodes.length > 0).toBe(count > 8);
  const kernel = new Kernel(module, prepared.memory);
  kernel.bindBare(prepared.end);
  const next = numbers(9);
  const rays = Array.from({ length: 4000 }, (_, i) => {
    const o: Vec = [next() * 6 - 3, next() * 6 - 3, next() * 6 - 3];
    // Some run along the axes.
    const d: Vec = i % 10 === 0 ? [0, i % 20 === 0 ? 1 : -1, 0] : [next() - 0.5, next() - 0.5, next() - 0.5];
    const l = Math.hypot(...d);
    return { o, d: d.map((c) => c / l) as Vec };
  });
  const packed = new Float32Array(rays.length * RAY_FLOATS);
  rays.forEach(({ o, d }, i) => {
    packed.set([...o, ...d, 1e30], i * RAY_FLOATS);
  });
  const { floats, integers } = kernel.lookAlong(packed);
  let met = 0;
  rays.forEach(({ o, d }, i) => {
    const t = lights.map((l) => distance(l, o, d));
    const nearest = Math.min(...t);
    const own = -2 - integers[i * SEEN_FLOATS + 1];
    if (own < 0) {
      // Those that graze an edge may be met or missed by rounding.
      expect(nearest === Number.POSITIVE_INFINITY || isGrazed(lights, o, d, nearest)).toBe(true);
      return;
    }
    met++;
    const at = floats[i * SEEN_FLOATS];
    if (Math.abs(at - nearest) > 1e-3 * (1 + nearest)) expect(isGrazed(lights, o, d, nearest)).toBe(true);
  });
  expect(met).toBeGreaterThan(count === 5 ? 20 : 150);
});

/** Whether what is met there would be missed, or met elsewhere, if everything were a little smaller or larger. */
function isGrazed(lights: ReturnType<typeof strewn>, o: Vec, d: Vec, at: number): boolean {
  const sized = (k: number) => Math.min(...lights.map((l) => distance({ ...l, size: l.size * k }, o, d)));
  return [0.999, 1.001].some((k) => !(Math.abs(sized(k) - at) < 1e-2 * (1 + at)));
}

const matt = { base_color: [0.5, 0.5, 0.5], specular_weight: 0, base_diffuse_roughness: 0 };
const down = { position: [0, 4, 0.001], target: [0, 0, 0], up: [0, 0, -1], focalLengthMm: 400 };

test('two thousand points light a floor as their sum does', async () => {
  const next = numbers(4);
  const points = Array.from({ length: 2000 }, () => ({
    candela: 0.01 + next() ** 4,
    at: [next() * 10 - 5, 0.5 + next() * 3, next() * 10 - 5] as Vec,
  }));
  const scene = {
    meshes: { floor: plane(20, 20) },
    materials: { floor: matt },
    lights: points.map(({ candela, at }, i) => ({ kind: 'point', name: `p${i}`, power: candela, position: at })),
    camera: down,
  };
  const truth = points.reduce((sum, { candela, at }) => sum + (candela * at[1]) / dot(at, at) ** 1.5, 0);
  const got = await measureTest(scene, 256, { rayDepth: { all: 1 } });
  expect(Math.abs(got.mean - (0.5 * truth) / Math.PI)).toBeLessThan(4 * got.error + 2e-3 * truth);
});

test('many shapes of lights keep a lamp’s light from what lies behind them, and let it through where one is missing', async () => {
  const tiles = Array.from({ length: 64 }, (_, i) => [(i % 8) - 3.5, Math.floor(i / 8) - 3.5]);
  const under = (missing: number) => ({
    meshes: { floor: plane(20, 20) },
    materials: { floor: matt },
    lights: [
      { kind: 'point', name: 'lamp', power: 100, position: [0.1, 3, 0.1] },
      ...tiles.map(([x, z], i) => ({
        ...{ kind: 'rectangle', name: `tile ${i}`, power: 0, width: 0.52, height: 0.52 },
        ...{ position: [x * 0.5, 1.5, z * 0.5], facing: [0, 1, 0], up: [0, 0, 1] },
      })),
    ].filter((l) => l.name !== `tile ${missing}`),
    // Looks at the floor from below the tiles.
    camera: { ...down, position: [0, 1.2, 0.001] },
  });
  const shut = await measureTest(under(-1), 16, { rayDepth: { all: 1 } });
  expect(shut.mean).toBe(0);
  // From the lamp to the middle of the floor goes through the tile at (0.05, 0.05).
  const open = await measureTest(under(36), 16, { rayDepth: { all: 1 } });
  const d2 = 0.1 ** 2 + 9 + 0.1 ** 2;
  expect(open.mean / ((0.5 / Math.PI) * (100 / d2) * (3 / Math.sqrt(d2)))).toBeCloseTo(1, 1);
});
