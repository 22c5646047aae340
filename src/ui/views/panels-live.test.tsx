/** @jest-environment <rootDir>/jest.page.cjs */
import { act, screen } from '@testing-library/react';
import { Profiler, type ReactNode } from 'react';
import { FIRST_OUTPUTS } from '@/core/outputs';
import { parseRecipe } from '@/core/recipe';
import { emptyShot } from '@/core/scene';
import type { LiveStatus } from '@/render/page/told';
import { LogbookFace, LogbookHead } from '../logbook/logbook';
import { Drawer } from '../shell/drawer';
import { TopBar } from '../shell/top-bar';
import { useDesk } from '../state/desk-store';
import { useLive } from '../state/live-store';
import { useOutputs } from '../state/outputs-store';
import { useRecipe } from '../state/recipe-store';
import { useScene } from '../state/scene-store';
import { useShot } from '../state/shot-store';
import { SHOT, trialLine } from '../state/testing';
import { useTrials } from '../state/trials-store';
import { completePage, passes, shown } from '../testing';
import { VIEWS, viewNamed } from './registry';
import { CurePart } from './tune/cure-part';

/** What the live picture tells nine times a second: another count of samples, every so often another noise. */
function status(n: number): LiveStatus {
  return {
    state: 'refining',
    samples: 4 + n,
    target: 4096,
    samplesPerSecond: 1e5 + n,
    raysPerSecond: 1e6 + n,
    rays: null,
    times: null,
    noise: { rms: 20 / Math.sqrt(1 + Math.floor(n / 13)), p95: 30, worstCell: 60 } as LiveStatus['noise'],
    darker: null,
    hot: null,
    shares: null,
    objects: null,
    elapsedMs: n * 110,
    coarseMs: 90,
    changes: 1,
    triangles: 1000,
  };
}
/** Five seconds of it. */
const STATUSES = 45;

beforeAll(() => {
  completePage();
  useScene.getState().load(emptyShot('rock'));
  useRecipe.getState().load(parseRecipe({}), 1);
  useOutputs.getState().load(FIRST_OUTPUTS);
  useShot.setState({ id: SHOT, name: 'rock', revision: 1, connected: true, baseline: trialLine(1).id });
  useTrials.getState().put([3, 2, 1].map((n) => trialLine(n)));
});
beforeEach(() => act(() => useLive.setState({ status: status(0) })));

/** How often what stands inside renders while the live picture goes on for five seconds. */
async function rendersWhileLive(children: ReactNode): Promise<number> {
  let renders = 0;
  const { unmount } = shown(
    <Profiler id="panel" onRender={() => renders++}>
      {children}
    </Profiler>,
  );
  // What is asked at first, and settles a moment later, is none of the live picture's doing.
  await passes(50);
  renders = 0;
  for (let n = 1; n <= STATUSES; n++) act(() => useLive.setState({ status: status(n) }));
  unmount();
  return renders;
}

test('figures that live are seen to render, so that the count below means something', async () => {
  const { Panel } = viewNamed('tune');
  const renders = await rendersWhileLive(<Panel />);
  expect(renders).toBeGreaterThanOrEqual(STATUSES);
});

test.each([
  ['the top bar', <TopBar key="bar" />],
  ['the logbook with its map', <LogbookFace key="log" />],
  ['the head of the logbook', <LogbookHead key="head" />],
  ['the drawer', <Drawer key="drawer" />],
  ['the search for the cheapest recipe', <CurePart key="cure" />],
])('%s does not render while the picture lives', async (_, panel) => {
  expect(await rendersWhileLive(panel)).toBe(0);
});

test.each(['contents', 'lights', 'sky', 'surfaces'] as const)(
  'Set-up at %s does not render while the picture lives',
  async (part) => {
    act(() => useDesk.getState().set({ view: 'setup', part }));
    const { Panel } = viewNamed('setup');
    expect(await rendersWhileLive(<Panel />)).toBe(0);
  },
);

test('balance renders when the samples of the live picture have doubled, to measure it anew, and not else', async () => {
  act(() => useDesk.getState().set({ view: 'balance' }));
  const { Panel } = viewNamed('balance');
  const doublings = Math.floor(Math.log2(4 + STATUSES)) - Math.log2(4);
  expect(await rendersWhileLive(<Panel />)).toBe(doublings);
});

test.each(VIEWS.map((v) => v.name).filter((name) => !['setup', 'tune', 'balance'].includes(name)))(
  '%s does not render while the picture lives',
  async (name) => {
    act(() => useDesk.getState().set({ view: name }));
    const { Panel } = viewNamed(name);
    expect(await rendersWhileLive(<Panel />)).toBe(0);
  },
);

test('faces of the drawer that show no live figure do not render either', async () => {
  act(() => useDesk.getState().set({ view: 'tune' }));
  const budget = viewNamed('tune').faces!.find((f) => f.name === 'budget')!;
  expect(await rendersWhileLive(<budget.Body />)).toBe(0);
});

test('of two thousand trials only those in sight are in the page', () => {
  act(() =>
    useTrials.getState().put(
      Array.from({ length: 2000 }, (_, i) => trialLine(i + 1)),
      2000,
    ),
  );
  const { container, unmount } = shown(
    <>
      <LogbookFace />
      <LogbookHead />
    </>,
  );
  expect(screen.getByTestId('logbook-count').textContent).toContain('2000 trials');
  expect(container.querySelectorAll('[data-testid^="trial-"]').length).toBeLessThan(40);
  unmount();
});
