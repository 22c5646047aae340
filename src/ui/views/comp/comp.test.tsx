/** @jest-environment <rootDir>/jest.page.cjs */
import { act, fireEvent, screen, within } from '@testing-library/react';
import { at, NO_STACK, stackAt } from '@/core/comp';
import { NO_MOODS } from '@/core/moods';
import { FIRST_OUTPUTS } from '@/core/outputs';
import { parseRecipe } from '@/core/recipe';
import { emptyShot, sceneSchema } from '@/core/scene';
import type { LiveStatus } from '@/render/page/told';
import { useDesk } from '../../state/desk-store';
import { forget, undo, useHistory } from '../../state/history';
import { useLive } from '../../state/live-store';
import { useMoods } from '../../state/moods-store';
import { useOutputs } from '../../state/outputs-store';
import { useRecipe } from '../../state/recipe-store';
import { useScene } from '../../state/scene-store';
import { useStack } from '../../state/stack-store';
import { trialLine } from '../../state/testing';
import { useTrials } from '../../state/trials-store';
import { completePage, shown } from '../../testing';
import { actedOn } from './acted-on';
import { CompPanel } from './comp-panel';
import { COMP } from './index';
import { KeysFace } from './keys-face';
import { handlesOf, ShapeHandles } from './shape-handles';

const document = sceneSchema.parse({
  ...emptyShot('rock'),
  lights: ['lamp', 'beam'].map((name) => ({ kind: 'point', name, group: name, power: 10, position: [0, 3, 0] })),
  environment: null,
});
const recipe = parseRecipe({ film: { groups: true, features: ['alpha', 'depth', 'coverage'] } });
const stack = () => useStack.getState().stack!;
const entries = (frame = 1) => stackAt(stack(), frame).entries;
const opensMenu = (name: string | RegExp) => fireEvent.keyDown(screen.getByRole('button', { name }), { key: 'Enter' });
const item = (name: string | RegExp) => fireEvent.click(screen.getByRole('menuitem', { name }));
const types = (label: string, text: string) => {
  // An open entry has each number in its sentence and in a row.
  const [field] = screen.getAllByLabelText(label);
  fireEvent.change(field, { target: { value: text } });
  fireEvent.keyDown(field, { key: 'Enter' });
};

beforeAll(completePage);
beforeEach(() =>
  act(() => {
    useScene.getState().load(document);
    useRecipe.getState().load(recipe, 1);
    useOutputs.getState().load(FIRST_OUTPUTS);
    useMoods.getState().load(NO_MOODS);
    useStack.getState().load(NO_STACK);
    useDesk.getState().set({ view: 'comp', a: { kind: 'live' }, b: null, live: true, entry: null, stackFrame: null });
    useLive.setState({ status: { state: 'done', samples: 64, changes: 1 } as LiveStatus });
    forget();
  }),
);

test('a stack begins with light groups, says that all parts are in, and which one is not any more', () => {
  shown(<CompPanel />);
  fireEvent.click(screen.getByRole('button', { name: 'Its light groups' }));
  expect(screen.getAllByTestId('entry')).toHaveLength(2);
  expect(screen.getByTestId('parts-in').textContent).toBe('all, once');
  opensMenu('menu of beam');
  item('Take away');
  expect(screen.getByTestId('stack').textContent).not.toContain('beam');
  act(() => undo());
  fireEvent.click(screen.getByRole('checkbox', { name: 'lamp on' }));
  expect(entries().map((e) => e.on)).toEqual([false, true]);
  expect(useHistory.getState().past.at(-1)?.words).toBe('lamp off');
});

test('numbers in sentences are typed, stepped, refused in words, and keyed by K', () => {
  act(() => useDesk.getState().set({ stackFrame: 1 }));
  shown(<CompPanel />);
  fireEvent.click(screen.getByRole('button', { name: 'The picture' }));
  opensMenu('Do to all');
  item('contrast');
  types('contrast of contrast', '1.4');
  expect(entries()[1]).toMatchObject({ operation: { does: 'contrast', amount: 1.4 } });
  types('contrast of contrast', '40');
  expect(entries()[1]).toMatchObject({ operation: { amount: 1.4 } });
  fireEvent.click(screen.getByRole('button', { name: 'beauty' }));
  const [opacity] = screen.getAllByLabelText('opacity of beauty');
  fireEvent.keyDown(opacity, { key: 'ArrowDown' });
  expect(entries()[0].opacity).toBeCloseTo(0.99, 9);
  fireEvent.keyDown(opacity, { key: 'k' });
  act(() => useDesk.getState().set({ stackFrame: 12 }));
  types('opacity of beauty', '50');
  expect([1, 12].map((f) => entries(f)[0].opacity)).toEqual([0.99, 0.5]);
});

test('an entry lies elsewhere, twice, in a nest, under another name; steps go back one by one', () => {
  shown(<CompPanel />);
  fireEvent.click(screen.getByRole('button', { name: 'Its light groups' }));
  const names = () => entries().map((e) => (e.kind === 'layer' && e.source.from === 'film' ? e.source.layer : e.kind));
  opensMenu('menu of lamp');
  item('Up');
  expect(names()).toEqual(['group.beam', 'group.lamp']);
  opensMenu('menu of lamp');
  item('Duplicate');
  expect(names()).toEqual(['group.beam', 'group.lamp', 'group.lamp']);
  expect(screen.getByTestId('parts-in').textContent).toBe('twice');
  act(() => undo());
  opensMenu('menu of lamp');
  item('This and all below as one layer');
  expect(names()).toEqual(['nest']);
  opensMenu('menu of a nest');
  item('Rename');
  fireEvent.change(screen.getByLabelText('Name'), { target: { value: 'all light' } });
  fireEvent.submit(screen.getByLabelText('Name'));
  expect(entries()[0].name).toBe('all light');
  act(() => undo(3));
  expect(names()).toEqual(['group.lamp', 'group.beam']);
});

test('a mask is made of things and data, joined, and clicks take things into it', () => {
  shown(<CompPanel />);
  fireEvent.click(screen.getByRole('button', { name: 'The picture' }));
  fireEvent.click(screen.getByRole('button', { name: 'beauty' }));
  opensMenu('new mask');
  item('things clicked in the picture');
  expect(entries()[0].mask).toBe('things');
  expect(COMP.takes!.words({ ...useDesk.getState(), role: null })).toContain('things: click takes in');
  opensMenu('and more');
  item('depth');
  const rows = within(screen.getByTestId('mask-rows'));
  fireEvent.click(rows.getAllByRole('button', { name: 'outside' })[1]);
  expect(at(stack(), ['masks', 'things', 'of'])).toMatchObject([{ kind: 'picked' }, { layer: 'depth', invert: true }]);
  types('1 from of things', '25');
  expect(at(stack(), ['masks', 'things', 'of', 1, 'high'])).toBe(25);
});

test('what the film lacks is told in its row, and films keep it from then on', () => {
  act(() => useRecipe.getState().load(parseRecipe({ film: { groups: true } }), 1));
  shown(<CompPanel />);
  fireEvent.click(screen.getByRole('button', { name: 'The picture' }));
  act(() => {
    const operation = { does: 'focus', film: 'shown', metres: 3, fStop: 2 };
    useStack.getState().replace('focus', { ...stack(), entries: [{ kind: 'operation', operation }] });
    useDesk.getState().set({ a: { kind: 'live' } });
  });
  // The live picture keeps depth from now on, for the stack.
  expect(screen.queryByText(/not in/)).toBeNull();
  act(() => {
    const source = { from: 'picture', picture: 'plate' };
    useStack.getState().replace('plate', {
      ...stack(),
      pictures: { plate: { file: 'nowhere' } },
      entries: [{ kind: 'layer', source }],
    });
  });
  expect(within(screen.getByTestId('entry')).getByRole('status').textContent).toContain('plate');
});

test('keys lie over the frames, move by arrows, and go', () => {
  act(() => {
    useStack.getState().replace('keyed', {
      ...stack(),
      entries: [
        {
          kind: 'layer',
          source: { from: 'film', film: 'shown', layer: 'beauty' },
          opacity: {
            keys: [
              { frame: 1, value: 1 },
              { frame: 9, value: 0.5 },
            ],
          },
        },
      ],
    });
  });
  shown(<KeysFace />);
  const key = screen.getByRole('button', { name: 'key of beauty · opacity at frame 9' });
  fireEvent.keyDown(key, { key: 'ArrowRight' });
  expect(entries(10)[0].opacity).toBe(0.5);
  fireEvent.click(screen.getByRole('button', { name: 'beauty · opacity eased' }));
  expect(at(stack(), ['entries', 0, 'opacity', 'ease'])).toBe(true);
  fireEvent.keyDown(screen.getByRole('button', { name: 'key of beauty · opacity at frame 1' }), { key: 'Delete' });
  expect(entries(1)[0].opacity).toBe(0.5);
  fireEvent.change(screen.getByLabelText('frame of the stack'), { target: { value: '7' } });
  expect(useDesk.getState().stackFrame).toBe(7);
});

test('what the parts here lack of the picture is a layer of its own, and so is what another trial has not', () => {
  act(() => useTrials.getState().put([trialLine(3, { id: 'other', title: 'lamp off' }, recipe)]));
  shown(<CompPanel />);
  fireEvent.click(screen.getByRole('button', { name: 'Its light groups' }));
  opensMenu('menu of beam');
  item('Take away');
  opensMenu('Add a layer');
  item('the picture less the parts that are in');
  const rest = entries()[1] as Extract<ReturnType<typeof entries>[number], { kind: 'nest' }>;
  expect(rest.way).toBe('add');
  expect(rest.entries.map((e) => e.kind === 'layer' && [e.source, e.way])).toMatchObject([
    [{ layer: 'beauty', alpha: 'whole' }, 'over'],
    [{ layer: 'group.lamp' }, 'subtract'],
  ]);
  opensMenu('Add a layer');
  item(/less 03 lamp off/);
  expect(at(stack(), ['films', 'trial 03'])).toBe('trial:other');
  expect(screen.queryByText(/not in/)).toBeNull();
});

test('points of drawn shapes are where they are seen, and set what they are dragged to', () => {
  const [aspect, center] = [2, [0.5, 0.5] as const];
  const ellipse = {
    kind: 'ellipse',
    center,
    radius: [0.4, 0.2],
    turnDegrees: 0,
    feather: 0,
    invert: false,
    how: 'with',
  };
  const [middle, width, height] = handlesOf(ellipse as never, aspect);
  expect([middle, width, height].map((h) => h.place)).toEqual([
    [0.5, 0.5],
    [0.7, 0.5],
    [0.5, 0.7],
  ]);
  expect(width.to([0.75, 0.1])).toEqual({ at: ['radius', 0], value: 0.5 });
  expect(middle.to([0.25, 0.3])).toEqual({ at: ['center'], value: [0.25, 0.3] });
  // Turned by a quarter, what was to the right is below.
  const turned = handlesOf({ ...ellipse, turnDegrees: 90 } as never, aspect)[1];
  expect(turned.place[0]).toBeCloseTo(0.5, 9);
  expect(turned.place[1]).toBeCloseTo(0.9, 9);

  act(() => {
    const source = { from: 'film', film: 'shown', layer: 'beauty' };
    useStack.getState().replace('masked', {
      ...stack(),
      masks: { m: { of: [{ kind: 'gradient', from: [0, 0], to: [1, 1] }] } },
      entries: [{ kind: 'layer', source, mask: 'm' }],
    });
    useDesk.getState().set({ entry: 'entries.0' });
  });
  shown(<ShapeHandles aspect={aspect} />);
  fireEvent.keyDown(screen.getByRole('button', { name: '1 of the gradient' }), { key: 'ArrowLeft', shiftKey: true });
  expect(at(stack(), ['masks', 'm', 'of', 0, 'to'])).toEqual([0.98, 1]);
});

test('a white point is taken of what its operation acts on: below it in its own list, or its layer so far', () => {
  const light = (layer: string, operations: object[] = []) => ({
    kind: 'layer',
    source: { from: 'film', film: 'shown', layer },
    operations,
  });
  const toAll = { kind: 'operation', operation: { does: 'white' } };
  const own = [{ does: 'exposure', stops: 1 }, { does: 'white' }];
  const entries = [light('beauty'), { kind: 'nest', entries: [light('group.lamp', own), toAll] }, toAll];
  const whole = stackAt({ ...NO_STACK, entries }, 1);
  const of = (...base: (string | number)[]) => actedOn(whole, base).entries;
  expect(of('entries', 2, 'operation')).toEqual(whole.entries.slice(0, 2));
  expect(of('entries', 1, 'entries', 1, 'operation')).toMatchObject([{ source: { layer: 'group.lamp' } }]);
  expect(of('entries', 1, 'entries', 0, 'operations', 1)).toMatchObject([
    { source: { layer: 'group.lamp' }, operations: [{ does: 'exposure', stops: 1 }] },
  ]);
});

test('over a live shot of several frames the stack is at the frame that is rendered', () => {
  act(() => {
    useScene.getState().load({ ...document, frames: { first: 1, last: 20, perSecond: 24 } });
    useDesk.getState().set({ frame: 5, stackFrame: 12 });
  });
  shown(<KeysFace />);
  expect(screen.getByText('frame 5')).toBeTruthy();
  fireEvent.change(screen.getByLabelText('frame of the stack'), { target: { value: '7' } });
  expect(useDesk.getState()).toMatchObject({ frame: 7, stackFrame: null });
});
