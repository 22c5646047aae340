import fc from 'fast-check';
import {
  type Counts,
  CURES,
  type CureModel,
  chooseCells,
  fitCures,
  leftWith,
  msOf,
  mulberry,
  nonNegativeLeastSquares,
  ONE_EACH,
  type Pilot,
  predictCure,
  samplesLeaving,
  solveCure,
  squaresOf,
} from '.';

const TRUE: CureModel = {
  seen: 65536,
  b: 1,
  beta: 1,
  v0: 0.002,
  v: { diffuse: 0.05, reflection: 0.001, transmission: 0, fog: 0.01, light: 0.02 },
  c0: 2e-4,
  c: { diffuse: 4e-4, reflection: 2e-4, transmission: 1e-4, fog: 1e-4, light: 1e-4 },
};

/** Plans of pilots: three counts of camera samples, then each cure twice and four times. */
const PLANS: { samples: number; counts: Counts }[] = [
  ...[4, 8, 16].map((samples) => ({ samples, counts: ONE_EACH })),
  ...CURES.flatMap((k) => [2, 4].map((s) => ({ samples: 8, counts: { ...ONE_EACH, [k]: s } }))),
];

/** Pilots as a frame of this model would give them: patches differ in brightness, each measured with some error. */
function synthetic(model: CureModel, patches: number, error: number, seed: number): Pilot[] {
  const random = mulberry(seed);
  const scale = Array.from({ length: patches }, () => -Math.log(1 - random()));
  const mean = scale.reduce((a, s) => a + s, 0) / patches;
  const jitter = () => 1 + error * (random() + random() + random() - 1.5) * 2;
  return PLANS.map(({ samples, counts }) => ({
    samples,
    counts,
    squares: scale.map((s) => (squaresOf(model, samples, counts) * s * jitter()) / mean),
    ms: scale.map(() => msOf(model, samples, counts) * jitter()),
  }));
}
const even = (n: number) => ({ stratum: new Array(n).fill(0), weight: new Array(n).fill(1 / n) });

describe('non-negative least squares', () => {
  test('finds the numbers that made the data, and none below zero', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0, max: 5, noNaN: true }), { minLength: 3, maxLength: 3 }),
        fc.integer({ min: 1, max: 1e6 }),
        (x, seed) => {
          const random = mulberry(seed);
          const rows = Array.from({ length: 12 }, () => [1, random() * 4, random() * 9]);
          const found = nonNegativeLeastSquares(
            rows,
            rows.map((r) => r.reduce((s, a, k) => s + a * x[k], 0)),
          );
          found.forEach((v, k) => {
            expect(v).toBeGreaterThanOrEqual(0);
            expect(v).toBeCloseTo(x[k], 4);
          });
        },
      ),
      { numRuns: 50, seed: 5 },
    );
  });

  test('an answer that would be negative is zero, and the rest fits around it', () => {
    // y = 2 − x, which a line through a non-negative slope meets best as a constant.
    const x = nonNegativeLeastSquares(
      [
        [1, 0],
        [1, 1],
        [1, 2],
      ],
      [2, 1, 0],
    );
    expect(x[1]).toBe(0);
    expect(x[0]).toBeCloseTo(1, 9);
  });

  test('columns that cannot be told apart go by what is known of them', () => {
    const x = nonNegativeLeastSquares(
      [
        [1, 1],
        [2, 2],
      ],
      [4, 8],
      { ridge: 1e-3, prior: [1, 3] },
    );
    expect(x[0] + x[1]).toBeCloseTo(4, 2);
    expect(x[1] - x[0]).toBeGreaterThan(1.7);
  });
});

describe('the cheapest cure', () => {
  test('exact pilots give the model back', () => {
    const { model } = fitCures(synthetic(TRUE, 40, 0, 3), even(40));
    expect(model.b).toBeCloseTo(1, 6);
    expect(model.beta).toBe(1);
    expect(model.v0).toBeCloseTo(TRUE.v0, 6);
    for (const k of CURES) {
      expect(model.v[k]).toBeCloseTo(TRUE.v[k], 6);
      expect(model.c[k]).toBeCloseTo(TRUE.c[k], 8);
    }
    expect(model.c0).toBeCloseTo(TRUE.c0, 8);
  });

  test('good sequences show in the exponents', () => {
    const better = { ...TRUE, b: 1.3, beta: 1.2 };
    const { model } = fitCures(synthetic(better, 40, 0, 3), even(40));
    expect(model.b).toBeCloseTo(1.3, 6);
    expect(model.beta).toBe(1.2);
  });

  test('the counts are those of Cochran’s closed form, to a whole number', () => {
    const { counts } = solveCure(TRUE, { noise: 0.2 });
    for (const k of CURES) {
      const ideal = Math.sqrt((TRUE.v[k] * TRUE.c0) / (TRUE.v0 * TRUE.c[k]));
      expect(Math.abs(counts[k] - Math.max(1, ideal))).toBeLessThan(1.001);
    }
  });

  test('reaches the noise asked for with less time than camera samples alone, and no other counts do better', () => {
    const goal = { noise: 0.3 };
    const best = solveCure(TRUE, goal);
    expect(100 * Math.sqrt(squaresOf(TRUE, best.samples, best.counts))).toBeLessThanOrEqual(goal.noise);
    const time = (counts: Counts) => {
      const n = 2 * Math.ceil(squaresOf(TRUE, 1, counts) / (goal.noise / 100) ** 2 / 2);
      return msOf(TRUE, n, counts);
    };
    const own = msOf(TRUE, best.samples, best.counts);
    expect(own).toBeLessThan(time(ONE_EACH) * 0.75);
    for (const k of CURES)
      for (const step of [-1, 1]) {
        const s = best.counts[k] + step;
        if (s >= 1) expect(own).toBeLessThan(time({ ...best.counts, [k]: s }) * 1.02);
      }
  });

  test('within a time gets the noise as low as it goes, and a noise out of reach takes the most samples', () => {
    const best = solveCure(TRUE, { ms: 0.2 });
    expect(msOf(TRUE, best.samples, best.counts)).toBeLessThanOrEqual(0.2);
    expect(squaresOf(TRUE, best.samples, best.counts)).toBeLessThan(
      squaresOf(TRUE, Math.floor(0.2 / msOf(TRUE, 1, ONE_EACH)), ONE_EACH),
    );
    expect(solveCure(TRUE, { noise: 0.2 }, { counts: { ...ONE_EACH, diffuse: 2 } }).counts).toEqual({
      ...ONE_EACH,
      diffuse: 2,
    });
    expect(solveCure(TRUE, { noise: 1e-6 }, { most: 512 }).samples).toBe(512);
  });

  test('the 95 % interval holds the truth about that often', () => {
    let noise = 0;
    let ms = 0;
    const RUNS = 60;
    // The patches differ from run to run, so each run's prediction errs like a real one.
    for (let run = 0; run < RUNS; run++) {
      const random = mulberry(run + 900);
      const scale = Array.from({ length: 60 }, () => -Math.log(1 - random()));
      const pilots: Pilot[] = PLANS.map(({ samples, counts }) => ({
        samples,
        counts,
        squares: scale.map((s) => squaresOf(TRUE, samples, counts) * s * (0.9 + 0.2 * random())),
        ms: scale.map((s) => msOf(TRUE, samples, counts) * (0.5 + 0.5 * s) * (0.95 + 0.1 * random())),
      }));
      const counts = { ...ONE_EACH, diffuse: 3, light: 2 };
      const p = predictCure(fitCures(pilots, even(60), run), 100, counts);
      const truth = 100 * Math.sqrt(squaresOf(TRUE, 100, counts));
      if (p.noise.low <= truth && truth <= p.noise.high) noise++;
      const time = msOf(TRUE, 100, counts);
      if (p.ms.low <= time && time <= p.ms.high) ms++;
    }
    expect(noise / RUNS).toBeGreaterThan(0.85);
    expect(ms / RUNS).toBeGreaterThan(0.85);
    expect(noise / RUNS).toBeLessThan(1.01);
  });
});

describe('cells that stand for all', () => {
  test('their weights sum to the whole, and the estimate of a skewed total is near it and better than even choice', () => {
    const random = mulberry(4);
    const values = Array.from({ length: 900 }, () => (random() < 0.03 ? 50 : 1) * random());
    const truth = values.reduce((a, v) => a + v, 0) / values.length;
    let own = 0;
    let plain = 0;
    for (let seed = 1; seed <= 40; seed++) {
      const { cells, weight } = chooseCells(values, 48, seed);
      expect(weight.reduce((a, w) => a + w, 0)).toBeCloseTo(1, 9);
      expect(new Set(cells).size).toBe(cells.length);
      own += (cells.reduce((s, c, i) => s + weight[i] * values[c], 0) - truth) ** 2;
      const dice = mulberry(seed + 7000);
      let mean = 0;
      for (let i = 0; i < 48; i++) mean += values[Math.floor(dice() * values.length)] / 48;
      plain += (mean - truth) ** 2;
    }
    expect(own).toBeLessThan(plain / 10);
  });

  test('of no noise at all, or fewer cells than asked for, all are served', () => {
    expect(chooseCells([0, 0, 0, 0], 12).weight.reduce((a, w) => a + w, 0)).toBeCloseTo(1, 9);
    expect(chooseCells([1], 12)).toEqual({ cells: [0], stratum: [0], weight: [1] });
  });
});

test('beyond what pilots have seen, a steep fall evens out, and samples are found for what is left', () => {
  const steep: CureModel = { ...TRUE, b: 1.7, seen: 16 };
  expect(leftWith(steep, 8) / leftWith(steep, 16)).toBeCloseTo(2 ** 1.7, 9);
  expect(leftWith(steep, 16) / leftWith(steep, 64)).toBeCloseTo(4 ** 1.05, 9);
  const slow: CureModel = { ...TRUE, b: 0.8, seen: 16 };
  expect(leftWith(slow, 16) / leftWith(slow, 64)).toBeCloseTo(4 ** 0.8, 9);
  for (const m of [steep, slow])
    for (const n of [3, 16, 700]) expect(samplesLeaving(m, leftWith(m, n))).toBeCloseTo(n, 6);
});
