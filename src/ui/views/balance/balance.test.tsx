/** @jest-environment <rootDir>/jest.page.cjs */
import { act, fireEvent, screen, waitFor, within } from '@testing-library/react';
import type { Run } from '@/contract/run';
import type { Trial } from '@/contract/trial';
import { mixOf, NO_MOODS } from '@/core/moods';
import { FIRST_OUTPUTS } from '@/core/outputs';
import { parseRecipe } from '@/core/recipe';
import { emptyShot, lightGroups, sceneSchema } from '@/core/scene';
import type { LiveStatus } from '@/render/page/told';
import { useDesk } from '../../state/desk-store';
import { forget, undo, useHistory } from '../../state/history';
import { useLive } from '../../state/live-store';
import type { Mixed } from '../../state/mixing';
import { useMoods } from '../../state/moods-store';
import { useOutputs } from '../../state/outputs-store';
import { usePlaying } from '../../state/player-store';
import { useRecipe } from '../../state/recipe-store';
import { useScene } from '../../state/scene-store';
import { type ListedTrial, useTrials } from '../../state/trials-store';
import { completePage, PlayedWorker, passes, shown } from '../../testing';
import { stepAlone } from './actions';
import { BalancePanel } from './balance-panel';
import { KeyStrip } from './key-strip';
import { MoodsFace } from './moods-face';
import { costWords } from './row-menu';
import { patchWords } from './written';

const document = sceneSchema.parse({
  ...emptyShot('rock'),
  lights: ['lamp', 'beam'].map((name) => ({ kind: 'point', name, group: name, power: 10, position: [0, 3, 0] })),
  environment: null,
});
const now = () => useMoods.getState().moods!.now.mix;
const mixed = (group: string, change: object) =>
  useMoods.getState().mix('mix', { ...now(), [group]: { ...mixOf(now(), group), ...change } }, 1);
const moods = () => useMoods.getState().moods!;

beforeAll(completePage);
beforeEach(() =>
  act(() => {
    useScene.getState().load(document);
    useRecipe.getState().load(parseRecipe({}), 1);
    useOutputs.getState().load(FIRST_OUTPUTS);
    useMoods.getState().load(NO_MOODS);
    useDesk.getState().set({ view: 'balance', a: { kind: 'live' }, b: null, live: true, alone: [], moodB: null });
    useLive.setState({ status: { state: 'done', samples: 64, changes: 1 } as LiveStatus });
    forget();
  }),
);

test('every light group has a row; a gain is typed in stops, as a factor or in percent, and what is none is refused', () => {
  shown(<BalancePanel />);
  expect(lightGroups(document)).toEqual(['lamp', 'beam']);
  const field = screen.getByLabelText('lamp gain') as HTMLInputElement;
  for (const [text, stops] of [
    ['+1', 1],
    ['x4', 2],
    ['50 %', -1],
  ] as const) {
    fireEvent.change(field, { target: { value: text } });
    fireEvent.keyDown(field, { key: 'Enter' });
    expect(now().lamp.stops).toBe(stops);
  }
  fireEvent.change(field, { target: { value: 'much' } });
  fireEvent.blur(field);
  expect(now().lamp.stops).toBe(-1);
  expect(field.value).toBe('−1');
  fireEvent.keyDown(field, { key: 'ArrowUp', shiftKey: true });
  expect(now()).toEqual({});
  act(() => undo());
  expect(now().lamp.stops).toBe(-1);
});

test('a group is switched off, and heard alone without a change of the mix', () => {
  shown(<BalancePanel />);
  const row = within(screen.getByTestId('group-beam'));
  fireEvent.click(row.getByRole('button', { name: 'beam on' }));
  expect(now().beam.on).toBe(false);
  fireEvent.click(row.getByRole('button', { name: 'beam alone' }));
  expect(useDesk.getState().alone).toEqual(['beam']);
  expect(useHistory.getState().past).toHaveLength(1);
  fireEvent.click(row.getByRole('button', { name: 'beam alone' }));
  expect(useDesk.getState().alone).toEqual([]);
});

test('groups are heard one after another, from either end, and then all again', () => {
  const groups = ['lamp', 'beam'];
  const heard = (by: 1 | -1) => {
    stepAlone(groups, by);
    return useDesk.getState().alone;
  };
  expect([heard(1), heard(1), heard(1), heard(-1), heard(-1)]).toEqual([['lamp'], ['beam'], [], ['beam'], ['lamp']]);
});

test('a mix is kept as a mood, changed, kept again under its name, and what it was can be had back', async () => {
  const panel = shown(<BalancePanel />);
  act(() => void mixed('lamp', { stops: 2 }));
  const keep = async (name: string) => {
    fireEvent.click(screen.getByRole('button', { name: 'Keep as a mood' }));
    fireEvent.change(screen.getByLabelText('Name of the mood'), { target: { value: name } });
    fireEvent.submit(screen.getByLabelText('Name of the mood'));
    await passes(1);
  };
  await keep('Night watch');
  expect(screen.getByTestId('mood-now').textContent).toBe('Night watch');
  act(() => void mixed('lamp', { stops: -3 }));
  expect(screen.getByText('changed')).toBeTruthy();
  await keep('Night watch');
  expect(moods().list).toMatchObject([{ name: 'Night watch', mix: { lamp: { stops: -3 } } }]);
  panel.unmount();
  shown(<MoodsFace />);
  const menu = () =>
    fireEvent.keyDown(screen.getByRole('button', { name: 'what to do with Night watch' }), { key: 'Enter' });
  menu();
  fireEvent.click(screen.getByRole('menuitem', { name: /the mix before this/ }));
  expect(now().lamp.stops).toBe(2);
  menu();
  fireEvent.click(screen.getByRole('menuitem', { name: 'forget' }));
  expect(moods().list).toEqual([]);
  fireEvent.keyDown(screen.getByRole('button', { name: 'forgotten (1)' }), { key: 'Enter' });
  fireEvent.click(screen.getByRole('menuitem', { name: 'bring back Night watch' }));
  expect(moods().list.map((m) => m.name)).toEqual(['Night watch']);
});

test('a mood goes into B, and A by it against what was rendered', () => {
  const mix = { lamp: { stops: 1, on: true, color: { kind: 'own' as const } } };
  act(() => useMoods.getState().load({ ...NO_MOODS, list: [{ id: 'n', name: 'Night', mix, keys: [], earlier: [] }] }));
  shown(<MoodsFace />);
  fireEvent.click(screen.getByRole('button', { name: 'Night' }));
  expect(moods().now).toEqual({ mix, keys: [], mood: 'n' });
  fireEvent.keyDown(screen.getByRole('button', { name: 'what to do with as rendered' }), { key: 'Enter' });
  fireEvent.click(screen.getByRole('menuitem', { name: 'show in B' }));
  expect(useDesk.getState()).toMatchObject({ moodB: '', b: { kind: 'live' } });
  fireEvent.click(screen.getByRole('button', { name: 'as rendered' }));
  expect(moods().now).toEqual({ mix: {}, keys: [], mood: null });
});

test('what is measured is asked of the live film with the factors of the mix, and its headroom when it is whole', async () => {
  const worker = new PlayedWorker();
  const { unmount } = shown(<BalancePanel />, worker.client);
  act(() => void mixed('lamp', { stops: 1 }));
  await passes(300);
  const relit = worker.asked.filter((m) => m.what === 'relit').at(-1);
  expect(relit?.asked).toMatchObject({ of: 'live', groups: ['lamp', 'beam'], factors: { lamp: [2, 2, 2] } });
  await passes(900);
  expect(worker.asked.filter((m) => m.what === 'headroom').at(-1)?.asked).toMatchObject({ of: 'live', target: 2 });
  unmount();
});

test('moods wait for a film that halves can be made of, and say so', () => {
  act(() => useLive.setState({ status: { state: 'refining', samples: 1, changes: 1 } as LiveStatus }));
  shown(<MoodsFace />);
  expect(screen.getByText(/once every pixel has two samples/)).toBeTruthy();
  act(() => useLive.setState({ status: { state: 'refining', samples: 2, changes: 1 } as LiveStatus }));
  expect(screen.queryByText(/once every pixel has two samples/)).toBeNull();
});

test('the live picture off, or a mix of groups that are not there, is said', () => {
  const { unmount } = shown(<BalancePanel />);
  act(() => void mixed('moon', { stops: 1 }));
  expect(screen.getByTestId('missing-groups').textContent).toContain('moon');
  unmount();
  act(() => useDesk.getState().set({ live: false }));
  shown(<BalancePanel />);
  expect(screen.getByText('The live picture is off')).toBeTruthy();
});

test('the mix is written to the lights in one step, which undo takes back', async () => {
  const worker = new PlayedWorker();
  shown(<BalancePanel />, worker.client);
  act(() => void mixed('lamp', { stops: 2 }));
  act(() => void mixed('beam', { on: false }));
  const question = () => worker.asked.find((m) => m.what === 'emitted');
  await waitFor(() => expect(question()).toBeDefined());
  worker.says({ type: 'answered', id: question()!.id, answer: { lamp: [1, 1, 1], beam: [1, 1, 1] } });
  const write = screen.getByRole('button', { name: 'Write to the lights' });
  await waitFor(() => expect(write.hasAttribute('disabled')).toBe(false));
  const steps = useHistory.getState().past.length;
  fireEvent.click(write);
  const lights = () => useScene.getState().document!.lights.map(({ stops, on }) => [stops, on]);
  expect(lights()).toEqual([
    [2, true],
    [0, false],
  ]);
  expect(now()).toEqual({});
  expect(useHistory.getState().past).toHaveLength(steps + 1);
  expect(screen.getByTestId('written-back').textContent).toContain('tracing patches anew');
  act(() => undo());
  expect(screen.queryByTestId('written-back')).toBeNull();
  expect(now()).toMatchObject({ lamp: { stops: 2 }, beam: { on: false } });
  expect(lights()).toEqual([
    [0, true],
    [0, true],
  ]);
});

describe('lights that are told apart', () => {
  const part = (name: string) => screen.getByTestId(`group-${name}`);

  test('a group opens to its lights and closes again; what stands for it holds for all of them', () => {
    act(() =>
      useScene
        .getState()
        .load(sceneSchema.parse({ ...document, lights: document.lights.map((l) => ({ ...l, group: 'lamps' })) })),
    );
    shown(<BalancePanel />);
    fireEvent.keyDown(screen.getByRole('button', { name: 'how lamps is recorded' }), { key: 'Enter' });
    fireEvent.click(screen.getByRole('menuitem', { name: /its 2 lights apart/ }));
    expect(lightGroups(useScene.getState().document!)).toEqual(['lamps.lamp', 'lamps.beam']);
    for (const name of ['lamps', 'lamps.lamp', 'lamps.beam']) expect(part(name)).toBeTruthy();
    fireEvent.change(screen.getByLabelText('lamps gain'), { target: { value: '+1' } });
    fireEvent.keyDown(screen.getByLabelText('lamps gain'), { key: 'Enter' });
    expect(now()).toMatchObject({ lamps: { stops: 1 } });
    fireEvent.click(screen.getByRole('button', { name: 'what is in lamps' }));
    expect(screen.queryByTestId('group-lamps.lamp')).toBeNull();
    fireEvent.keyDown(screen.getByRole('button', { name: 'how lamps is recorded' }), { key: 'Enter' });
    fireEvent.click(screen.getByRole('menuitem', { name: /its lights together/ }));
    expect(lightGroups(useScene.getState().document!)).toEqual(['lamps']);
  });

  test('a lamp is kept apart by how it is seen, and outputs go on writing its light', () => {
    act(() => {
      const [first, ...rest] = FIRST_OUTPUTS.list;
      useOutputs.getState().load({ ...FIRST_OUTPUTS, list: [{ ...first, layers: ['group.lamp'] }, ...rest] });
    });
    shown(<BalancePanel />);
    fireEvent.keyDown(screen.getByRole('button', { name: 'how lamp is recorded' }), { key: 'Enter' });
    fireEvent.click(screen.getByRole('menuitem', { name: /itself, mirrors, surfaces, fog apart/ }));
    expect(within(part('lamp.seen')).getByText('seen itself')).toBeTruthy();
    expect(part('lamp.mirrors')).toBeTruthy();
    // There is no fog in the scene.
    expect(screen.queryByTestId('group-lamp.fog')).toBeNull();
    expect(useOutputs.getState().outputs!.list[0].layers).toEqual([
      'group.lamp.seen',
      'group.lamp.mirrors',
      'group.lamp.surfaces',
    ]);
    act(() => undo());
    expect(useOutputs.getState().outputs!.list[0].layers).toEqual(['group.lamp']);
    expect(useScene.getState().document!.apart).toBeUndefined();
  });

  test('what a way of recording costs is told with what was measured', () => {
    const time = { ratio: 1.03, least: 1.01, most: 1.06 };
    expect(costWords({ stored: 17e6, time })).toBe('+17 MB a film · time +3 % (+1 to +6 %)');
    expect(costWords({ stored: -17e6, time: { ...time, least: 0.98 } })).toContain('−17 MB a film · time alike');
  });
});

test('patches that were traced anew say what noise and limits explain', () => {
  const told = {
    patches: 24,
    apart: -2.99,
    noise: 0.84,
    cut: -2.72,
    cutByGroup: { lamp: -2.7, sky: -0.02 },
    isExplained: true,
  };
  expect(patchWords(told)).toBe(
    'Written: 24 patches traced anew have −2.99 % light, −2.72 % of it by outlier limits, most in lamp; the rest is within their noise of ±0.84 %.',
  );
  const plain = patchWords({ ...told, apart: 0.1, cut: 0, isExplained: false });
  expect(plain).toBe('Written: 24 patches traced anew have +0.10 % light; it is beyond their noise of ±0.84 %.');
});

test('a mix is keyed at frames; then it changes with the frame that is looked at, and is not written to the lights', () => {
  act(() => useScene.getState().load(sceneSchema.parse({ ...document, frames: { first: 1, last: 25 } })));
  const both = (
    <>
      <BalancePanel />
      <MoodsFace />
    </>
  );
  shown(both);
  fireEvent.click(screen.getByRole('button', { name: 'key at frame 1' }));
  fireEvent.change(screen.getByLabelText('frame of the mix'), { target: { value: '25' } });
  const gain = () => screen.getByLabelText('lamp gain') as HTMLInputElement;
  fireEvent.change(gain(), { target: { value: '+2' } });
  fireEvent.keyDown(gain(), { key: 'Enter' });
  expect(moods().now.keys.map((k) => k.frame)).toEqual([1, 25]);
  fireEvent.change(screen.getByLabelText('frame of the mix'), { target: { value: '13' } });
  expect(gain().value).toBe('+1');
  expect(screen.getByRole('button', { name: 'Write to the lights' }).hasAttribute('disabled')).toBe(true);
  fireEvent.keyDown(screen.getByRole('button', { name: 'key at frame 25' }), { key: 'ArrowLeft' });
  expect(moods().now.keys.map((k) => k.frame)).toEqual([1, 24]);
  fireEvent.keyDown(screen.getByRole('button', { name: 'key at frame 24' }), { key: 'Delete' });
  fireEvent.keyDown(screen.getByRole('button', { name: 'key at frame 1' }), { key: 'Delete' });
  expect(moods().now).toMatchObject({ mix: {}, keys: [] });
});

test('over a frame of a run its own frames are gone through, and play', () => {
  act(() => useScene.getState().load(sceneSchema.parse({ ...document, frames: { first: 1, last: 25 } })));
  const rows = [1, 9, 17, 25].map((frame) => ({
    id: `f${frame}`,
    frame,
    picture: 0,
    state: frame < 25 ? 'done' : 'queued',
  }));
  const run = { id: 'r', number: 4, rows } as unknown as Run;
  const trial = { id: 'f9', frame: 9, run: { id: 'r', number: 4, picture: 0 } } as Trial;
  for (const { id } of rows) useTrials.getState().put([{ id } as ListedTrial]);
  const mixed: Mixed = { of: 'live', trial, groups: ['lamp'], own: null, frame: 9 };
  shown(<KeyStrip moods={moods()} mixed={mixed} run={run} />);
  const strip = screen.getByLabelText('frame of the mix');
  // The nearest that is done: the last one waits.
  fireEvent.change(strip, { target: { value: '24' } });
  expect(useDesk.getState().a).toEqual({ kind: 'trial', id: 'f17' });
  fireEvent.click(screen.getByRole('button', { name: 'play the run' }));
  expect(usePlaying.getState()).toEqual({ on: true, picture: 0 });
  fireEvent.click(screen.getByRole('button', { name: 'stop playing the run' }));
  expect(usePlaying.getState().on).toBe(false);
});
