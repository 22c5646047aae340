/** @jest-environment <rootDir>/jest.page.cjs */
import { api } from './api';
import { partInSight, takeStrengths } from './denoising';
import { trialLine } from './testing';
import { useTrials } from './trials-store';
import { UPRIGHT, useViewport } from './viewport-store';

const residual = { rms: 1, p95: 2, worstCell: 3 };
const denoised = (all: number) => ({
  state: 'done' as const,
  fraction: 1,
  leftMs: 0,
  fault: null,
  strengths: { all, groups: {} },
  residual,
  seconds: 2,
});
const line = (all: number) => trialLine(1, { state: 'done', denoised: denoised(all) });
const { id } = trialLine(1);
const shown = () => useTrials.getState().byId.get(id)!.denoised!;

beforeEach(() => {
  jest.useFakeTimers();
  useTrials.setState({ byId: new Map(), order: [], total: 0 });
  useTrials.getState().put([line(1)]);
});
afterEach(() => {
  jest.useRealTimers();
  jest.restoreAllMocks();
});

test('strengths are taken at once, sent when they rest, and not undone by what the server told meanwhile', async () => {
  const sent: number[] = [];
  let answer: (v: { residual: typeof residual }) => void = () => {};
  jest.spyOn(api, 'setStrengths').mockImplementation((_, { all }) => {
    sent.push(all);
    return new Promise((resolve) => {
      answer = resolve;
    });
  });
  takeStrengths(id, { all: 0.8, groups: {} });
  takeStrengths(id, { all: 0.4, groups: {} });
  expect(shown().strengths.all).toBe(0.4);
  jest.advanceTimersByTime(1000);
  expect(sent).toEqual([0.4]);
  useTrials.getState().put([line(1)]);
  expect(shown().strengths.all).toBe(0.4);
  answer({ residual: { ...residual, rms: 5 } });
  await Promise.resolve();
  await Promise.resolve();
  expect(shown().residual!.rms).toBe(5);
  // From then on the server has the word.
  await Promise.resolve();
  useTrials.getState().put([line(0.7)]);
  expect(shown().strengths.all).toBe(0.7);
});

test('what is in sight comes first: where A and B part of a whole picture, what is close of a close one', () => {
  const pixels = { width: 640, height: 360, region: { x: 100, y: 50, width: 300, height: 200 } };
  useViewport.setState({ zoom: null, pan: { x: 0, y: 0 }, parting: { ...UPRIGHT, x: 0.5, y: 0.5 } });
  const about = partInSight({ pixels });
  expect(about.x + about.width / 2).toBeCloseTo(320 - 100, -1);
  expect(about.width).toBeLessThan(110);
  useViewport.setState({ zoom: 20, pan: { x: 0, y: 0 } });
  const close = partInSight({ pixels });
  expect(close.width).toBeLessThan(about.width + 1);
  // Nothing of it is in sight: still a part of it.
  useViewport.setState({ zoom: null, parting: { ...UPRIGHT, x: 0, y: 0 } });
  expect(partInSight({ pixels })).toEqual({ x: 0, y: 0, width: 1, height: 1 });
});
