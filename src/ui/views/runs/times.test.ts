import type { RunFrame } from '@/contract/run';
import { runLeft } from './times';

const row = (frame: number, state: RunFrame['state'], seconds: number | null): RunFrame => ({
  ...{ id: `f${frame}`, frame, picture: 0, state, fraction: 0, noise: null, seconds },
  ...{ machine: null, fault: null, step: null },
});

test('a traced frame that waits for those beside it has before it what packed ones took longer', () => {
  const done = [1, 2, 3, 4].map((f) => row(f, 'done', 10));
  const left = (...rows: RunFrame[]) => runLeft({ rows: [...done, ...rows] }, 1)!.value;
  expect(left(row(5, 'queued', null))).toBeCloseTo(10, 6);
  expect(left(row(5, 'waiting', 8))).toBeCloseTo(2, 6);
  expect(left(row(5, 'waiting', 12))).toBeCloseTo(0, 6);
  expect(left(row(5, 'done', 10))).toBeCloseTo(0, 6);
});
