import { meanOf, measureTest, type TestScene } from '@/render/testing';
import { limitShares, measureFilm, objectShares } from '../film';
import { box, plane, sphere, transformed } from '../scene';

/** What limits keep away, against renders at other limits. */
const matt = { base_color: [0.7, 0.7, 0.7], specular_weight: 0 };
const glass = { transmission_weight: 1, specular_roughness: 0 };
/** A corner with a mirror and a glass ball: all lobes are needed. */
const corner: TestScene = {
  meshes: {
    floor: plane(4, 4),
    wall: transformed(box(4, 3, 0.1), [0, 1.5, -1]),
    ball: transformed(sphere(0.4, 32), [-0.4, 0.5, 0]),
    tin: transformed(box(0.5, 1, 0.5), [0.7, 0.5, -0.2]),
  },
  materials: {
    floor: matt,
    wall: matt,
    ball: glass,
    tin: { base_metalness: 1, base_color: [0.9, 0.9, 0.9], specular_roughness: 0.25 },
  },
  lights: [
    {
      kind: 'rectangle',
      name: 'lamp',
      power: 8,
      position: [0, 2.5, 0.5],
      facing: [0, -1, 0],
      up: [0, 0, 1],
      width: 1,
      height: 1,
    },
  ],
  environment: [0.1, 0.1, 0.1],
  camera: { position: [0, 1.4, 3], target: [0, 0.6, 0] },
};
const deep = { all: 64, diffuse: 64, reflection: 64, transmission: 64, fog: 64, rouletteStart: 64 };
const measure = (change: { rayDepth?: object; film?: object }, samples = 256, t = corner) =>
  measureTest(t, samples, { rayDepth: { ...deep, ...change.rayDepth }, film: change.film ?? {} }, { size: 20 });
const off = (m: Awaited<ReturnType<typeof measure>>) => m.layers.layers.get('beauty')!.planes;

/** The most by which values are off the truth, against what is there. */
const mostOff = (values: ArrayLike<number>, truth: ArrayLike<number>): number => {
  let most = 0;
  for (let i = 0; i < truth.length; i++) most = Math.max(most, Math.abs(values[i] - truth[i]) / Math.max(1, truth[i]));
  return most;
};

test('looking for lost light changes no bit of the picture', async () => {
  const limits = { rayDepth: { all: 2, diffuse: 1, reflection: 1 } };
  const plain = await measure(limits, 16);
  const looked = await measure({ ...limits, film: { lostLight: true } }, 16);
  expect(off(looked)).toEqual(off(plain));
});

const foggy: TestScene = { ...corner, fog: { density: 0.15, albedo: [0.9, 0.9, 0.9] } };

/** Scenes without limits: each is rendered once. */
const unlimited = new Map<TestScene, ReturnType<typeof measure>>();
const wholeOf = (t: TestScene) => {
  const known = unlimited.get(t) ?? measure({}, 512, t);
  unlimited.set(t, known);
  return known;
};

test.each<[string, object, TestScene?]>([
  ['all', { all: 0 }],
  ['diffuse', { diffuse: 0 }],
  ['reflection', { reflection: 0 }],
  ['transmission', { transmission: 1 }],
  ['reach', { reachMetres: 1.1 }],
  ['fog', { fog: 0 }, foggy],
  ['all', { all: 1 }, foggy],
])('what a limit on %s keeps away is what a render without it has more: %j', async (kind, limits, t = corner) => {
  const whole = await wholeOf(t);
  const cut = await measure({ rayDepth: limits, film: { lostLight: true, lostChance: 0.5 } }, 512, t);
  const lost = meanOf(cut.layers, 'lost', 1);
  expect(lost).toBeGreaterThan(0);
  // The lost light's own spread is that of what is missing, seen by half of the paths.
  const tolerance = whole.error + 3 * cut.error + 0.02 * lost;
  expect(Math.abs(cut.mean + lost - whole.mean)).toBeLessThan(tolerance);
  expect(lost).toBeGreaterThan(1.5 * tolerance);
  const shares = limitShares(cut.film)!;
  expect(shares[kind as keyof typeof shares]).toBeGreaterThan(0.99);
});

test('limits of an object are told as such, and lost light by the object where the camera looks', async () => {
  const t: TestScene = { ...corner, rules: { ball: { rayDepth: { transmission: 0 } } } };
  const m = await measure({ film: { lostLight: true, lostChance: 1 } }, 64, t);
  expect(limitShares(m.film)!.object).toBeGreaterThan(0.99);
  const rows = objectShares(m.film, () => 1, 1)!;
  const most = rows.reduce((a, b) => (b.lost > a.lost ? b : a));
  expect(most.object).toBe('ball');
});

test.each(['diffuse', 'reflection', 'transmission', 'fog'] as const)(
  'the ledger of %s rays gives the picture at every limit',
  async (axis) => {
    const t = axis === 'fog' ? foggy : corner;
    const kept = await measure({ film: { ledger: axis } }, 16, t);
    for (const limit of [0, 1, 3]) {
      const cut = await measure({ rayDepth: { [axis]: limit } }, 16, t);
      for (let c = 0; c < 3; c++) {
        const truth = off(cut)[c];
        const sum = new Float64Array(truth.length);
        for (let b = 0; b <= limit; b++)
          kept.layers.layers.get(`bounce.${String(b).padStart(2, '0')}`)!.planes[c].forEach((v, i) => {
            sum[i] += v;
          });
        expect(mostOff(sum, truth)).toBeLessThan(1e-5);
      }
    }
  },
);

test('the ledger of reach gives the picture at every band', async () => {
  const kept = await measure({ film: { ledger: 'reach' } }, 16);
  for (const band of [4, 5, 6]) {
    const truth = off(await measure({ rayDepth: { reachMetres: 2 ** (band - 4) } }, 16))[1];
    const sum = new Float64Array(truth.length);
    for (let b = 0; b <= band; b++)
      kept.layers.layers.get(`bounce.${String(b).padStart(2, '0')}`)!.planes[1].forEach((v, i) => {
        sum[i] += v;
      });
    expect(mostOff(sum, truth)).toBeLessThan(1e-5);
  }
});

test('light, rays and noise by object of the first hit sum to those of the picture', async () => {
  const m = await measure({}, 64);
  const rows = objectShares(m.film, () => 1, 1)!;
  const sum = (of: (r: (typeof rows)[number]) => number) => rows.reduce((s, r) => s + of(r), 0);
  expect(sum((r) => r.noise)).toBeCloseTo(1, 4);
  expect(sum((r) => r.light)).toBeCloseTo(1, 4);
  expect(sum((r) => r.rays)).toBeCloseTo(1, 6);
  const [ball, floor] = ['ball', 'floor'].map((n) => rows.find((r) => r.object === n)!);
  expect(ball.noise).toBeGreaterThan(0);
  expect(floor.light).toBeGreaterThan(0.1);
  expect(measureFilm(m.film, 1).objects!.length).toBe(rows.length);
});
