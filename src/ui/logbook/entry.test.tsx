/** @jest-environment <rootDir>/jest.page.cjs */
import { act, cleanup, fireEvent, screen, within } from '@testing-library/react';
import type { TrialLine } from '@/contract/trial';
import { useDesk } from '../state/desk-store';
import { useShot } from '../state/shot-store';
import { SHOT, trialLine } from '../state/testing';
import { useTrials } from '../state/trials-store';
import { completePage, passes, shown } from '../testing';
import { Entry } from './entry';

beforeAll(completePage);

/** What the page asks of the server, as method, path and what is sent. */
let asked: string[];
beforeEach(() => {
  asked = [];
  Object.assign(globalThis, {
    fetch: (path: string, init?: RequestInit) => {
      asked.push(`${init?.method ?? 'GET'} ${path} ${init?.body ?? ''}`.trim());
      return Promise.resolve({ ok: true, status: 200, json: async () => ({}) });
    },
  });
  act(() => {
    useTrials.setState({ byId: new Map(), order: [], total: 0 });
    useShot.setState({ id: SHOT, baseline: trialLine(1).id });
    useDesk.getState().set({ a: { kind: 'live' }, b: null });
  });
});

/** The entry of a trial, beside the baseline, which is number 1. */
function entry(change: Partial<TrialLine> = {}, number = 2) {
  const trial = trialLine(number, change);
  act(() => useTrials.getState().put([trialLine(1), trial]));
  shown(<Entry id={trial.id} />);
  return { trial, at: within(screen.getByTestId(`trial-${number}`)) };
}
const text = (number = 2) => screen.getByTestId(`trial-${number}`).textContent!;

test('a click shows a trial in A, with Alt or Shift in B', () => {
  const { trial, at } = entry();
  const picture = at.getByRole('button', { name: /^trial 02/ });
  fireEvent.click(picture);
  expect(useDesk.getState().a).toEqual({ kind: 'trial', id: trial.id });
  expect(text()).toContain('A');
  fireEvent.click(picture, { altKey: true });
  expect(useDesk.getState().b).toEqual({ kind: 'trial', id: trial.id });
});

test('a finished trial tells noise, time and its efficiency against the baseline', () => {
  // A quarter of the baseline's noise in twice its time: 16 / 2.
  entry({
    noise: { rms: 0.5, p95: 1, worstCell: 1 } as TrialLine['noise'],
    seconds: { load: 1, trace: 24, calibrated: 20, write: 1 },
  });
  expect(text()).toContain('0.50 %');
  expect(text()).toContain('24');
  expect(text()).toContain('×8.00');
});

test('the baseline says that it is', () => {
  entry({}, 1);
  expect(text(1)).toContain('baseline');
});

test('trials of other pixels have no efficiency', () => {
  entry({ pixels: { width: 64, height: 64, region: { x: 0, y: 0, width: 8, height: 8 } } as TrialLine['pixels'] });
  expect(text()).not.toContain('×');
});

test.each([
  [2.2, '+10 % of predicted'],
  [1.8, '−10 % of predicted'],
  [2, '±0 % of predicted'],
])('a noise of %d %% where 2 %% was predicted is %s', (rms, words) => {
  entry({
    noise: { rms, p95: 3, worstCell: 4 } as TrialLine['noise'],
    predicted: { noise: { value: 2, low: 1.9, high: 2.1 } } as TrialLine['predicted'],
  });
  expect(text()).toContain(words);
});

test('what was predicted of denoising is held against what it left, at full strength alone', () => {
  const interval = (value: number) => ({ value, low: value, high: value });
  const made = (all: number) => ({
    noise: { rms: 8, p95: 9, worstCell: 10 } as TrialLine['noise'],
    predicted: {
      noise: interval(8),
      seconds: interval(1),
      denoised: { error: interval(3), residual: interval(2) },
    } as TrialLine['predicted'],
    denoised: {
      state: 'done',
      fraction: 1,
      leftMs: 0,
      fault: null,
      strengths: { all, groups: {} },
      residual: { rms: 1, p95: 2, worstCell: 3 },
      seconds: 4,
    } as TrialLine['denoised'],
  });
  entry(made(1));
  expect(text()).toContain('−50 % of predicted');
  expect(text()).toContain('denoised');
  cleanup();
  entry(made(0.5));
  expect(text()).not.toContain('predicted');
});

test.each([
  [{ state: 'queued', fraction: 0 }, 'waiting'],
  [{ state: 'rendering', fraction: 0.42 }, '42 %'],
  [{ state: 'failed', fault: 'light flame: no power' }, 'failed: light flame: no power'],
  [{ state: 'stopped' }, 'stopped'],
] as [Partial<TrialLine>, string][])('%j is told as %j', (change, words) => {
  entry(change);
  expect(text()).toContain(words);
});

test('a long name keeps its beginning and its end, which tell trials apart', () => {
  const title = 'Final · transmission depth 4 → 12, camera samples 64 → 4096, region of the lens';
  entry({ title });
  expect(text()).toMatch(/Final.*…/);
  expect(text()).toContain('region of the lens');
  expect(text()).not.toContain(title);
  expect(screen.getByRole('button', { name: /^trial 02/ }).getAttribute('aria-label')).toContain(title);
});

test.each([
  ['star', {}, (id: string) => `PATCH /api/trials/${id} {"starred":true}`],
  ['unstar', { starred: true }, (id: string) => `PATCH /api/trials/${id} {"starred":false}`],
  ['make baseline', {}, (id: string) => `PUT /api/shots/${SHOT}/baseline {"trial":"${id}"}`],
  ['remove trial', {}, (id: string) => `PATCH /api/trials/${id} {"removed":true}`],
] as [string, Partial<TrialLine>, (id: string) => string][])(
  '%s asks the server for that alone',
  async (name, change, request) => {
    const { trial, at } = entry(change);
    fireEvent.click(at.getByRole('button', { name }));
    await passes();
    expect(asked).toEqual([request(trial.id)]);
  },
);

test('only a stopped trial can go on', async () => {
  const { trial, at } = entry({ state: 'stopped' });
  fireEvent.click(at.getByRole('button', { name: 'go on' }));
  await passes();
  expect(asked).toEqual([expect.stringContaining(`/api/trials/${trial.id}`)]);
  entry({}, 3);
  expect(within(screen.getByTestId('trial-3')).queryByRole('button', { name: 'go on' })).toBeNull();
});
