import { testKernel } from '../testing';
import { SpeedProbe } from './speed-probe';

/** A clock that is read once a batch of rays and moves on by `stepMs` each time. */
function clock(stepMs: number): () => number {
  let t = 0;
  return () => {
    t += stepMs;
    return t;
  };
}

test('a machine that takes twice as long for the same rays has half the speed', () => {
  const fast = new SpeedProbe(testKernel(), clock(0.5)).measure();
  const slow = new SpeedProbe(testKernel(), clock(1)).measure();
  expect(fast / slow).toBeCloseTo(2, 10);
});

test('speed is rays a second over ten million', () => {
  // 1024 rays a millisecond.
  expect(new SpeedProbe(testKernel(), clock(1)).measure()).toBeCloseTo(1.024e6 / 1e7, 10);
});

test('a real clock gives a real speed', () => {
  const speed = new SpeedProbe(testKernel(), () => performance.now()).measure();
  expect(speed).toBeGreaterThan(0);
  expect(Number.isFinite(speed)).toBe(true);
});
