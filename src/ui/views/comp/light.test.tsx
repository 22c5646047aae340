/** @jest-environment <rootDir>/jest.page.cjs */
import { act, fireEvent, screen } from '@testing-library/react';
import { at, NO_STACK, stackAt } from '@/core/comp';
import { NO_MOODS } from '@/core/moods';
import { FIRST_OUTPUTS } from '@/core/outputs';
import { parseRecipe } from '@/core/recipe';
import { type Content, emptyShot, sceneSchema } from '@/core/scene';
import type { LiveStatus } from '@/render/page/told';
import { useDesk } from '../../state/desk-store';
import { forget, undo } from '../../state/history';
import { useLive } from '../../state/live-store';
import { useMoods } from '../../state/moods-store';
import { useOutputs } from '../../state/outputs-store';
import { useRecipe } from '../../state/recipe-store';
import { useScene } from '../../state/scene-store';
import { useStack } from '../../state/stack-store';
import { completePage, PlayedWorker, shown } from '../../testing';
import { CompPanel } from './comp-panel';
import { addFileLayer, dataOf, lightOf } from './files';
import { FocusRamp } from './focus-ramp';
import { ShapeHandles } from './shape-handles';

const file: Content = {
  ...{ name: 'harbour', use: 'layers', hash: 'a'.repeat(64), bytes: 100, width: 64, height: 36, channels: 4 },
  format: 'float',
  layers: [
    { name: 'beauty', channels: ['R', 'G', 'B'] },
    { name: 'mist', channels: ['R', 'G', 'B', 'A'] },
    { name: 'far', channels: ['Z'] },
    { name: 'coverage', channels: ['thing00.R', 'thing00.G'] },
  ],
  things: ['hull', 'mast'],
};
const document = sceneSchema.parse({
  ...emptyShot('rock'),
  contents: [file],
  look: { whiteKelvin: 4000, shoulder: 0.5, contrast: 1.2, curve: [[0.4, 0.5]] },
});
const recipe = parseRecipe({ film: { groups: true, features: ['alpha', 'depth', 'coverage'] } });
const stack = () => useStack.getState().stack!;
const entries = () => stackAt(stack(), 1).entries;
const opens = (name: string | RegExp) => fireEvent.keyDown(screen.getByRole('button', { name }), { key: 'Enter' });
const item = (name: string | RegExp) => fireEvent.click(screen.getByRole('menuitem', { name }));
const choose = (label: string, option: string | RegExp) => {
  fireEvent.keyDown(screen.getByLabelText(label), { key: 'Enter' });
  fireEvent.keyDown(screen.getByRole('option', { name: option }), { key: 'Enter' });
};
const beauty = { kind: 'layer', source: { from: 'film', film: 'shown', layer: 'beauty' } };
const putStack = (more: object) =>
  act(() => {
    useStack.getState().replace('made', { ...stack(), ...more });
  });

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

test('what a stack works in and is shown on is told above all entries, and changed there', () => {
  putStack({ entries: [beauty] });
  shown(<CompPanel />);
  fireEvent.click(screen.getByRole('button', { name: 'sRGB' }));
  choose('working space', 'ACEScg');
  expect(stack().space).toBe('ACEScg');
  choose('screen', 'Display P3');
  expect(stack().display).toEqual({ to: 'Display P3' });
  expect(screen.getByTestId('stack').textContent).toContain('from ACEScg');
  act(() => void undo());
  act(() => void undo());
  expect(stackAt(stack(), 1)).toMatchObject({ space: 'Rec.709', display: { to: 'sRGB' } });
});

test('the look of the scene moves into the stack as grades, in one step', () => {
  putStack({ entries: [beauty] });
  shown(<CompPanel />);
  opens('Do to all');
  item('the scene’s look, as grades');
  expect(entries().map((e) => (e.kind === 'operation' ? e.operation.does : e.kind))).toEqual([
    ...['layer', 'exposure', 'contrast', 'shoulder', 'curves'],
  ]);
  expect(useScene.getState().document!.look).toEqual({ whiteKelvin: null, shoulder: 1, contrast: 1, curve: [] });
  act(() => void undo());
  expect(entries()).toHaveLength(1);
  expect(useScene.getState().document!.look).toEqual(document.look);
});

test('layers of a file are a film of the stack; light of no known name is added; its data tell distances', () => {
  expect(lightOf(file)).toEqual(['beauty', 'mist']);
  expect(dataOf(file)).toEqual([{ layer: 'far', channel: 'Z' }]);
  putStack({ entries: [beauty] });
  act(() => addFileLayer(file, 'mist', { list: ['entries'], index: 1 }));
  act(() => addFileLayer(file, 'beauty', { list: ['entries'], index: 2 }));
  expect(stack().films).toEqual({ shown: 'A', harbour: 'file:harbour' });
  expect(entries().map((e) => e.kind !== 'operation' && e.way)).toEqual(['by itself', 'add', 'by itself']);
  act(() => void undo());
  act(() => void undo());
  expect(stack().films).toEqual({ shown: 'A' });
  putStack({ entries: [beauty, { kind: 'operation', operation: { does: 'haze', film: 'shown', perMetre: 0.1 } }] });
  act(() => useDesk.getState().set({ entry: 'entries.1' }));
  shown(<CompPanel />);
  choose('distances', 'far of harbour');
  expect(at(stack(), ['entries', 1, 'operation'])).toMatchObject({ film: 'harbour', layer: 'far' });
});

test('a mask takes things of a file by the names that the file has', () => {
  putStack({ entries: [beauty] });
  act(() => useDesk.getState().set({ entry: 'entries.0' }));
  shown(<CompPanel />);
  opens('new mask');
  item('its things');
  expect(at(stack(), ['masks', 'things in harbour', 'of', 0])).toMatchObject({ kind: 'picked', film: 'harbour' });
  fireEvent.click(screen.getByLabelText('things in things in harbour'));
  fireEvent.click(screen.getByText('mast'));
  expect(at(stack(), ['masks', 'things in harbour', 'of', 0, 'names'])).toEqual(['mast']);
});

test('a file whose primaries were mistaken is taken as what it looks like, by one click', async () => {
  jest.useFakeTimers();
  const worker = new PlayedWorker();
  putStack({ entries: [beauty] });
  act(() => addFileLayer(file, 'beauty', { list: ['entries'], index: 1 }));
  shown(<CompPanel />, worker.client);
  await act(() => jest.advanceTimersByTimeAsync(2000));
  const asked = worker.asked.find((m) => m.what === 'stackTag')!;
  const value = { space: 'ACEScg', before: 0.09, left: 0.01 };
  worker.says({ type: 'answered', id: asked.id, answer: value });
  jest.useRealTimers();
  fireEvent.click(await screen.findByRole('button', { name: 'take it as ACEScg' }));
  expect(stack().spaces).toEqual({ harbour: 'ACEScg' });
  choose('primaries of harbour', /not told/);
  expect(stackAt(stack(), 1).spaces).toEqual({});
});

test('corners are added between corners, and taken away while three are left', () => {
  const points = [
    [0, 0],
    [1, 0],
    [1, 1],
  ];
  putStack({ masks: { m: { of: [{ kind: 'polygon', points }] } }, entries: [{ ...beauty, mask: 'm' }] });
  act(() => useDesk.getState().set({ entry: 'entries.0' }));
  shown(<ShapeHandles aspect={2} />);
  const now = () => at(stack(), ['masks', 'm', 'of', 0, 'points']);
  fireEvent.keyDown(screen.getByRole('button', { name: 'corner 2' }), { key: 'Delete' });
  expect(now()).toEqual(points);
  fireEvent.pointerDown(screen.getByRole('button', { name: 'a corner between 1 and 2' }));
  expect(now()).toEqual([points[0], [0.5, 0], points[1], points[2]]);
  fireEvent.keyDown(screen.getByRole('button', { name: 'a corner between 4 and 1' }), { key: 'Enter' });
  expect(now()).toEqual([points[0], [0.5, 0], points[1], points[2], [0.5, 0.5]]);
  fireEvent.doubleClick(screen.getByRole('button', { name: 'corner 2' }));
  expect(now()).toEqual([...points, [0.5, 0.5]]);
});

test('while a focus is open its distances lie over the picture, and are pulled by keys', async () => {
  jest.useFakeTimers();
  const worker = new PlayedWorker();
  const focus = { does: 'focus', film: 'shown', metres: 10, fStop: 2, focalMm: 50, sensorMm: 24 };
  putStack({ entries: [beauty, { kind: 'operation', operation: focus }] });
  act(() => useDesk.getState().set({ entry: 'entries.1' }));
  shown(<FocusRamp />, worker.client);
  await act(() => jest.advanceTimersByTimeAsync(2000));
  const asked = worker.asked.find((m) => m.what === 'depths')!;
  const value = { low: 2, high: 200, bins: new Array(96).fill(1 / 96) };
  worker.says({ type: 'answered', id: asked.id, answer: value });
  jest.useRealTimers();
  const slider = await screen.findByRole('slider', { name: 'focus distance in the picture' });
  expect(screen.getByTestId('focus-ramp').textContent).toMatch(/sharp 7\.9 to 13\.6 m/);
  fireEvent.keyDown(slider, { key: 'ArrowRight', shiftKey: true });
  expect(at(stack(), ['entries', 1, 'operation', 'metres'])).toBeCloseTo(11, 6);
});
