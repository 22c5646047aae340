import { RAY_KINDS, TABLE } from '../kernel';
import { parseRecipe } from '../recipe';
import { sceneSchema } from '../scene';
import { Film } from './film';
import { COSTED_KINDS, costsOf, timeShares } from './ray-costs';
import { makeSpec } from './spec';

const document = sceneSchema.parse({
  schema: 1,
  name: 'test',
  cameras: [{ name: 'cam', position: [0, 0, 5], target: [0, 0, 0] }],
  materials: [{ name: 'stone' }],
  objects: [],
  lights: [{ kind: 'point', name: 'lamp', position: [0, 1, 0], power: 1 }],
  geometry: { hash: '', bytes: 0, meshes: [], pictures: [] },
});

/** A film of some cells with these rays a cell, by kind, and times that they cost. */
function filmOf(rays: number[][], costs: Partial<Record<(typeof COSTED_KINDS)[number], number>>): Film {
  const film = new Film(makeSpec(parseRecipe({ size: { width: rays.length * 16, height: 16, scale: 100 } }), document));
  rays.forEach((row, t) => {
    film.samples[t] = 2;
    const table = film.tables(t);
    row.forEach((n, k) => {
      table[TABLE.rays + k] = n;
      table[TABLE.timeMs] += n * (costs[COSTED_KINDS[k]] ?? 0);
    });
  });
  return film;
}
const at = (kind: (typeof COSTED_KINDS)[number]) => COSTED_KINDS.indexOf(kind);
const row = (counts: Partial<Record<(typeof COSTED_KINDS)[number], number>>) =>
  COSTED_KINDS.map((kind) => counts[kind] ?? 0);

test('costs of kinds that cells tell apart are found nearly, in spite of the pull to the mean', () => {
  const rows = Array.from({ length: 60 }, (_, i) => row({ diffuse: 100 + 40 * (i % 7), shadow: 50 + 90 * (i % 5) }));
  const times = rows.map((r) => r[at('diffuse')] * 3 + r[at('shadow')] * 1);
  const costs = costsOf(rows, times);
  expect(costs[at('diffuse')] / costs[at('shadow')]).toBeGreaterThan(2.4);
  expect(costs[at('diffuse')] / costs[at('shadow')]).toBeLessThan(3.2);
});

test('shares of the time are counts by costs, and sum to one', () => {
  const rays = Array.from({ length: 24 }, (_, i) =>
    row({ camera: 512, diffuse: 200 + 150 * (i % 5), shadow: 300 * (1 + (i % 3)) }),
  );
  const shares = timeShares(filmOf(rays, { camera: 0.001, diffuse: 0.004, shadow: 0.001 }))!;
  expect(Object.values(shares).reduce((a, b) => a + b, 0)).toBeCloseTo(1, 9);
  // 512 : 500 × 4 : 600, by the means of the counts.
  const whole = 512 + 500 * 4 + 600;
  // The pull to the mean cost leaves shares between those of the time and those of the rays.
  const rayShare = (n: number) => n / (512 + 500 + 600);
  expect(shares.diffuse).toBeGreaterThan((rayShare(500) + 2000 / whole) / 2);
  expect(shares.diffuse).toBeLessThan(2000 / whole);
  expect(shares.shadow).toBeLessThan(rayShare(600));
  expect(shares.shadow).toBeGreaterThan(600 / whole);
  expect(shares.transmission).toBe(0);
  expect(RAY_KINDS.length + 1).toBe(COSTED_KINDS.length);
});

test('nothing traced has no shares', () => {
  const film = filmOf([row({}), row({})], {});
  film.samples.fill(0);
  expect(timeShares(film)).toBeNull();
});
