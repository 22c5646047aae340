/** @jest-environment <rootDir>/jest.page.cjs */
import { act, fireEvent, screen, within } from '@testing-library/react';
import type { Movie } from '@/contract/movie';
import type { Room, RunFrame, RunLine } from '@/contract/run';
import { parseOutputs } from '@/core/outputs';
import { parseRecipe } from '@/core/recipe';
import { emptyShot, sceneSchema } from '@/core/scene';
import { useDesk } from '../../state/desk-store';
import { forget, undo } from '../../state/history';
import { useNewRun } from '../../state/new-run-store';
import { useOutputs } from '../../state/outputs-store';
import { useRecipe } from '../../state/recipe-store';
import { useScene } from '../../state/scene-store';
import { useShot } from '../../state/shot-store';
import { completePage, passes, shown } from '../../testing';
import { FramesFace } from './frames-face';
import { MachinesFace } from './machines-face';
import { RunsPanel } from './runs-panel';
import { betweenTimes, runLeft, timeOfDay } from './times';
import { wantedWords } from './wanted';

const SHOT = '01930abc-0000-7000-8000-000000000000';
const RUN = '01930abc-0000-7000-8000-000000000001';
const frameId = (n: number) => `01930abc-0000-7000-8000-${String(1000 + n).padStart(12, '0')}`;

const document = sceneSchema.parse({
  ...emptyShot('rock'),
  frames: { first: 1, last: 48, perSecond: 24 },
  lights: ['lamp', 'beam'].map((name) => ({
    kind: 'point',
    name,
    group: name,
    power: 10,
    position: [0, 3, 0],
    on: name === 'lamp',
    motion: [
      { frame: 1, position: [0, 3, 0] },
      { frame: 48, position: [1, 3, 0] },
    ],
  })),
  environment: null,
});
const recipe = parseRecipe({ name: 'Check', size: { scale: 50 }, sampling: { cameraMin: 16, cameraMax: 64 } });
const outputs = parseOutputs({ list: [{ id: 'a', name: 'main', layers: ['beauty', 'group.*'] }] });

const row = (n: number, change: Partial<RunFrame> = {}): RunFrame => ({
  id: frameId(n),
  frame: n,
  picture: 0,
  state: 'done',
  fraction: 1,
  noise: 1 + n / 10,
  seconds: 10,
  machine: 'skerry',
  fault: null,
  step: null,
  ...change,
});
const line: RunLine = {
  id: RUN,
  shot: SHOT,
  number: 3,
  title: 'night',
  camera: 'cam',
  frames: '1-6',
  folder: '/films/rock-run03',
  keepsFilms: false,
  priority: 0,
  state: 'on',
  createdAt: '2031-01-01T00:00:00Z',
  wantedAt: null,
  endedAt: null,
  pictures: 1,
  counts: { all: 6, done: 3, failed: 1, left: 0, busy: 1 },
  files: { packed: 3, placed: 2, bytes: 3e6 },
  fault: null,
  besideTracing: 1,
};
const rows = [
  row(1),
  row(2, { step: 0.25 }),
  row(3),
  row(4, { state: 'failed', fault: 'the film would take 9 GB', noise: null, seconds: null }),
  row(5, { state: 'rendering', fraction: 0.5, noise: null, seconds: null }),
  row(6, { state: 'queued', noise: null, seconds: null, machine: null }),
];

let runs: RunLine[] = [];
let movies: Movie[] = [];
let room: Room;
const sent: { path: string; method: string; body: unknown }[] = [];
beforeAll(completePage);
beforeEach(() => {
  runs = [];
  movies = [];
  sent.length = 0;
  room = {
    folder: '/films/rock-run04',
    taken: [],
    freeBytes: 5e9,
    storeBytes: 19e9,
    missing: [],
    fault: null,
    next: 4,
  };
  const answers = (path: string): unknown => {
    if (path.endsWith('/room')) return { room };
    if (path.endsWith('/runs')) return { runs };
    if (path === `/api/runs/${RUN}`)
      return {
        run: { ...line, revision: RUN, recipe, outputs, variants: [null] },
        rows: rows.map((r) => [
          r.id,
          r.frame,
          r.picture,
          r.state,
          r.fraction,
          r.noise,
          r.seconds,
          r.machine,
          r.fault,
          r.step,
        ]),
      };
    if (path === `/api/runs/${RUN}/movies`) return { movies, id: frameId(80) };
    if (path === '/api/house') return { workers: 2, delivers: true, storedBytes: 0 };
    if (path === '/api/workers')
      return {
        join: ['ssh -fN -L 5480:127.0.0.1:5480 keeper@skerry'],
        workers: [
          { machine: 'skerry', isOther: false, doing: { shot: 'rock', run: 3, frame: 5, number: null, fraction: 0.5 } },
          { machine: 'holm', isOther: true, doing: null },
        ].map((w, i) => ({
          ...{ id: frameId(90 + i), cores: 4, threads: 4, wantedThreads: null, drained: false, speed: 1.2 },
          ...{ seenSeconds: 1, gone: false, mark: 'ab12cd34' },
          ...w,
        })),
      };
    return {};
  };
  globalThis.fetch = (async (path: string, init?: RequestInit) => {
    if (init?.method) sent.push({ path, method: init.method, body: JSON.parse(String(init.body ?? 'null')) });
    return { ok: true, status: 200, json: async () => answers(path) };
  }) as never;
  act(() => {
    useShot.setState({ id: SHOT, name: 'rock' });
    useScene.getState().load(document);
    useRecipe.getState().load(recipe, 1);
    useOutputs.getState().load(outputs);
    useNewRun.setState({ byShot: {} });
    useDesk.getState().set({ view: 'runs', run: null, a: { kind: 'live' }, b: null, camera: null });
    forget();
  });
});

const found = () =>
  [...screen.getByTestId('check').querySelectorAll('[data-code]')].map((l) => l.getAttribute('data-code'));

test('a run is put together: frames are counted, names told, leftovers found and put right in one step', async () => {
  shown(<RunsPanel />);
  await passes();
  expect(screen.getByTestId('file-count').textContent).toBe('48');
  expect(screen.getByTestId('run-names').textContent).toContain('rock_main_01.0001.exr … 0048.exr');
  expect(found()).toEqual(['scale', 'dark']);
  fireEvent.click(screen.getByRole('button', { name: 'switch on' }));
  expect(useScene.getState().document!.lights.every((l) => l.on)).toBe(true);
  expect(found()).toEqual(['scale']);
  act(() => undo());
  fireEvent.click(screen.getByRole('button', { name: 'put all 2 right' }));
  expect(screen.getByTestId('check').textContent).toContain('Nothing is left over');
  act(() => undo());
  expect(found()).toEqual(['scale', 'dark']);
});

test('frames that cannot be read are refused in words, and nothing can be started', async () => {
  shown(<RunsPanel />);
  await passes();
  const field = screen.getByLabelText('frames of the run');
  fireEvent.change(field, { target: { value: '1-60' } });
  expect(screen.getByRole('alert').textContent).toBe('1-60: the shot has frames 1 to 48');
  expect(screen.getByRole('button', { name: /^Start/ })).toHaveProperty('disabled', true);
  fireEvent.change(field, { target: { value: '1-9x2' } });
  await passes();
  expect(screen.getByRole('button', { name: 'Start 5 frames' })).toHaveProperty('disabled', false);
});

test('files that are in the way stop a run until they may be written over', async () => {
  room.taken = ['rock_main_04.0001.exr', 'rock_main_04.0002.exr'];
  shown(<RunsPanel />);
  await passes();
  expect(screen.getByTestId('check').textContent).toContain('2 files of these names are in the folder');
  const start = screen.getByRole('button', { name: /^Start/ });
  expect(start).toHaveProperty('disabled', true);
  fireEvent.click(screen.getByRole('button', { name: 'write over them' }));
  expect(start).toHaveProperty('disabled', false);
});

test('what films and files take is told before the start, and what does not fit', async () => {
  room.freeBytes = 0;
  room.storeBytes = 1e6;
  shown(<RunsPanel />);
  await passes();
  expect(found()).toEqual(['scale', 'dark', 'disk']);
  const start = screen.getByRole('button', { name: /^Start/ });
  expect(start).toHaveProperty('disabled', false);
  fireEvent.click(screen.getByRole('button', { name: 'films too' }));
  expect(found()).toContain('store');
  expect(screen.getByTestId('check').textContent).toContain('1 MB are left for films');
  expect(start).toHaveProperty('disabled', true);
});

test('a run that goes on tells what is done, left, noisiest, and why a frame failed; it is paused and ended', async () => {
  runs = [line];
  act(() => useDesk.getState().set({ run: RUN }));
  shown(<RunsPanel />);
  await passes();
  await passes();
  expect(screen.getByTestId('run-done').textContent).toBe('3');
  // Half of frame 5 and all of frame 6, ten seconds each, on two workers, of which one makes a whole frame.
  expect(screen.getByTestId('run-left').textContent).toBe('7.5 s');
  expect(screen.getByText('1.30 %')).toBeTruthy();
  expect(screen.getByRole('alert').textContent).toBe('frame 4: the film would take 9 GB');
  expect(screen.getByTestId('run-folder').textContent).toContain('2 files there, 1 on their way');
  fireEvent.click(screen.getByRole('button', { name: 'Pause' }));
  fireEvent.click(screen.getByRole('button', { name: 'Stop' }));
  expect(sent.filter((s) => s.method === 'PATCH').map((s) => s.body)).toEqual([
    { state: 'paused' },
    { state: 'stopped' },
  ]);
  fireEvent.keyDown(screen.getByRole('button', { name: 'Again' }), { key: 'Enter' });
  fireEvent.click(screen.getByRole('menuitem', { name: /that failed/ }));
  expect(sent.at(-1)).toEqual({
    path: `/api/runs/${RUN}/again`,
    method: 'POST',
    body: { which: 'failed', urgent: false },
  });
});

test('when a run is wanted is said, and told against what its frames lead to expect', async () => {
  runs = [{ ...line, wantedAt: new Date(Date.now() + 3600e3).toISOString() }];
  act(() => useDesk.getState().set({ run: RUN }));
  shown(<RunsPanel />);
  await passes();
  await passes();
  expect(screen.getByTestId('in-time').textContent).toMatch(/in time, 59:\d\d to spare$/);
  fireEvent.click(screen.getByRole('button', { name: 'none' }));
  expect(sent.at(-1)?.body).toEqual({ wantedAt: null });
  fireEvent.change(screen.getByLabelText('wanted by'), { target: { value: '2031-02-03T08:00' } });
  expect(sent.at(-1)?.body).toEqual({ wantedAt: new Date('2031-02-03T08:00').toISOString() });
});

test('words for when a run is wanted', () => {
  const now = new Date(2031, 0, 1, 12, 0).getTime();
  const at = (minutes: number) => new Date(now + minutes * 60000).toISOString();
  const leftOn = (w: number) => ({ value: 3600 / w, low: 3000 / w, high: 4200 / w });
  const told = (minutes: number) => wantedWords(at(minutes), leftOn, 1, now);
  expect(told(-5)).toMatch(/which has passed$/);
  expect(told(60)).toMatch(/: it may be up to 10:00 late; 2 workers of this speed would make it$/);
  expect(told(10)).toMatch(/: at least 40:00 late; 7 workers of this speed would make it$/);
  expect(told(0.5)).toMatch(/more workers would not help$/);
});

test('frames stand in a row with noise and time, and say what they are while they are not done', async () => {
  runs = [line];
  act(() => useDesk.getState().set({ run: RUN, a: { kind: 'trial', id: frameId(4) } }));
  shown(<FramesFace />);
  await passes();
  await passes();
  expect(screen.getByTestId('frames').textContent).toContain('frame 4 on skerry');
  fireEvent.click(screen.getByRole('button', { name: 'again, next' }));
  expect(sent.at(-1)?.body).toEqual({ which: [frameId(4)], urgent: true });
  // Where there is no room, frames share a bar, which says that one of them failed.
  const chart = screen.getByRole('img', { name: 'time and noise of every frame, and how far it stands out' });
  expect([...chart.querySelectorAll('title')].map((t) => t.textContent)).toEqual(['frames 1 to 6: 1 failed']);
});

test('a frame says how far it stands out from those beside it', async () => {
  runs = [line];
  act(() => useDesk.getState().set({ run: RUN, a: { kind: 'trial', id: frameId(2) } }));
  shown(<FramesFace />);
  await passes();
  await passes();
  expect(screen.getByTestId('frame-about').textContent).toContain('frame 2 · 1.20 % · 0:10 · steps 0.25 % on skerry');
});

test('a movie is asked for by rate and codec, tells how far it is, and what was read back of it', async () => {
  const movie = { id: frameId(81), run: RUN, picture: 0, shows: 'beauty', codec: 'av1', rate: 24 } as const;
  const facts = { codec: 'av1', width: 640, height: 360, frames: 6, rate: 24, seconds: 0.25, bytes: 4e5, held: 3 };
  movies = [
    { ...movie, state: 'making', fraction: 0.4, fault: null, name: null, facts: null },
    { ...movie, id: frameId(82), state: 'done', fraction: 1, fault: null, name: 'rock-run03.webm', facts },
  ];
  runs = [line];
  act(() => useDesk.getState().set({ run: RUN }));
  shown(<RunsPanel />);
  await passes();
  await passes();
  const list = screen.getByTestId('movies');
  expect(list.textContent).toContain('40 % · AV1');
  expect(list.textContent).toContain('AV1 · 6 frames · 24 a second · 0.25 s · 640×360 · 400 kB · 3 stand still');
  fireEvent.keyDown(screen.getByRole('button', { name: 'Take' }), { key: 'Enter' });
  fireEvent.click(screen.getByRole('menuitem', { name: /a movie/ }));
  const dialog = screen.getByTestId('movie-dialog');
  expect(dialog.textContent).toContain('3 of 6 frames are done');
  const rate = within(dialog).getByLabelText('frames a second');
  fireEvent.change(rate, { target: { value: '0' } });
  fireEvent.blur(rate);
  fireEvent.change(rate, { target: { value: '12' } });
  fireEvent.blur(rate);
  fireEvent.click(within(dialog).getByRole('button', { name: 'Make the movie' }));
  await passes();
  expect(sent.at(-1)).toEqual({
    path: `/api/runs/${RUN}/movies`,
    method: 'POST',
    body: { picture: 0, shows: 'beauty', codec: 'av1', rate: 12 },
  });
  fireEvent.click(within(screen.getByTestId('movies')).getByRole('button', { name: 'stop' }));
  expect(sent.at(-1)).toMatchObject({ path: `/api/movies/${frameId(81)}`, method: 'DELETE' });
});

test('machines tell what they do; one of another build says why it is given nothing', async () => {
  shown(<MachinesFace />);
  await passes();
  const doing = (await screen.findAllByTestId('doing')).map((d) => d.textContent);
  expect(doing[0]).toBe('rock run 03 frame 5, 50 %');
  expect(doing[1]).toMatch(/^built from something else \(ab12cd34\)/);
  fireEvent.click(within(screen.getByText('holm').closest('tr')!).getByRole('button', { name: 'drain' }));
  expect(sent.at(-1)?.body).toEqual({ machine: 'holm', drained: true });
  expect(screen.getByTestId('machines').textContent).toContain('ssh -fN -L 5480');
});

test('the end of a run is told by its frames, with the weekday where that is another', () => {
  expect(runLeft({ rows: rows.slice(0, 2).concat(rows.slice(4)) }, 1)).toBeNull();
  expect(runLeft({ rows }, 1)?.value).toBe(15);
  const now = new Date(2031, 0, 1, 12, 0);
  expect(timeOfDay(3600, now)).not.toMatch(/\w{3},? /);
  expect(timeOfDay(86400, now)).toMatch(/^\w{3}/);
  expect(betweenTimes({ value: 1, low: 1, high: 1 })).toBe('to the minute');
});
