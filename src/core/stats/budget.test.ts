import fc from 'fast-check';
import { affordable, type KeyFrame, type Sequence, secondsUntil, sequenceSeconds } from './budget';
import { exactly } from './resample';

/** A frame whose noise is `noise` at one sample, and which takes `seconds` a sample. */
const key = (frame: number, noise: number, seconds: number): KeyFrame => ({
  frame,
  table: [4, 16, 64, 256].map((samples) => ({
    samples,
    noise: exactly(noise / Math.sqrt(samples)),
    seconds: exactly(seconds * samples),
  })),
});
const sequence = (change: Partial<Sequence> = {}): Sequence => ({
  first: 1,
  last: 48,
  keys: [key(1, 8, 1), key(24, 8, 1), key(48, 8, 1)],
  fixedSeconds: 2,
  workers: 1,
  ...change,
});

test('frames that are all alike take as many times one frame, over the workers', () => {
  const s = sequence();
  const ten = [10, 10, 10].map(exactly);
  expect(sequenceSeconds(s, ten).value).toBeCloseTo(48 * 12);
  expect(sequenceSeconds({ ...s, workers: 4 }, ten).value).toBeCloseTo(12 * 12);
  // Of 48 frames 5 workers render ten rounds, the last with idle ones.
  expect(sequenceSeconds({ ...s, workers: 5 }, ten).value).toBeCloseTo(10 * 12);
  // More workers than frames: one round.
  expect(sequenceSeconds({ ...s, workers: 100 }, ten).value).toBeCloseTo(12);
});

test('frames between measured ones lie between: a straight rise sums to its mean', () => {
  const seconds = [10, 10 + 20 * (23 / 47), 30].map(exactly);
  expect(sequenceSeconds(sequence({ fixedSeconds: 0 }), seconds).value).toBeCloseTo((48 * (10 + 30)) / 2);
  const spread = { value: 10, low: 8, high: 13 };
  expect(sequenceSeconds(sequence({ fixedSeconds: 0 }), [spread, spread, spread])).toEqual({
    value: expect.closeTo(480),
    low: expect.closeTo(384),
    high: expect.closeTo(624),
  });
});

test('a single frame and a measured frame alone are enough', () => {
  const one = sequence({ first: 7, last: 7, keys: [key(7, 8, 1)], workers: 3 });
  expect(sequenceSeconds(one, [exactly(10)]).value).toBeCloseTo(12);
});

test('what is affordable fits the time, two samples more do not, and its noise is that of the worst frame', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 300, max: 1e5, noNaN: true }),
      fc.integer({ min: 1, max: 9 }),
      (available, workers) => {
        const s = sequence({ workers, keys: [key(1, 8, 1), key(24, 12, 2), key(48, 6, 1)] });
        const found = affordable(s, available);
        const needs = (samples: number) =>
          sequenceSeconds(
            s,
            [1, 2, 1].map((k) => exactly(k * samples)),
          ).value;
        if (!found) {
          expect(needs(2)).toBeGreaterThan(available);
          return;
        }
        expect(needs(found.samples)).toBeLessThanOrEqual(available * (1 + 1e-9));
        if (found.samples < 65536) expect(needs(found.samples + 2)).toBeGreaterThan(available);
        expect(found.noise.value).toBeCloseTo(12 / Math.sqrt(found.samples), 6);
      },
    ),
  );
});

test('the next time the clock shows so much', () => {
  const evening = new Date(2026, 10, 25, 22, 30);
  expect(secondsUntil('08:00', evening)).toBe(9.5 * 3600);
  expect(secondsUntil('23:00', evening)).toBe(1800);
  expect(secondsUntil('22:30', evening)).toBe(24 * 3600);
  expect(secondsUntil('25:00', evening)).toBeNull();
  expect(secondsUntil('soon', evening)).toBeNull();
});
