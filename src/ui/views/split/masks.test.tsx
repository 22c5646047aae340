/** @jest-environment <rootDir>/jest.page.cjs */
import { act, fireEvent, screen, within } from '@testing-library/react';
import { FIRST_OUTPUTS } from '@/core/outputs';
import { parseRecipe } from '@/core/recipe';
import { emptyShot, sceneSchema } from '@/core/scene';
import type { FilmClient } from '@/render/page/client';
import { useDesk } from '../../state/desk-store';
import { undo } from '../../state/history';
import { useOutputs } from '../../state/outputs-store';
import { useRecipe } from '../../state/recipe-store';
import { useScene } from '../../state/scene-store';
import { useShot } from '../../state/shot-store';
import { SHOT } from '../../state/testing';
import { completePage, shown } from '../../testing';
import { SplitPanel } from './split-panel';
import { TAKES } from './takes';

beforeAll(completePage);
beforeEach(() => {
  useScene.getState().load(
    sceneSchema.parse({
      ...emptyShot('quay'),
      materials: [{ name: 'hemp' }],
      objects: ['rope coil', 'rope end', 'hull'].map((name) => ({ name, mesh: 'm', material: 'hemp' })),
      sets: { boat: ['hull', 'rope end'] },
    }),
  );
  useRecipe.getState().load(parseRecipe({}), 1);
  useShot.setState({ id: SHOT, name: 'quay', revision: 1, connected: true, baseline: null });
  useOutputs.getState().load(FIRST_OUTPUTS);
  useDesk.getState().set({ a: { kind: 'live' }, b: null, layer: 'beauty', overlay: 'none' });
});

const masks = () => useOutputs.getState().outputs!.masks;
const layers = () => useOutputs.getState().outputs!.list[0].layers;
const editor = () => within(screen.getByTestId('mask-editor'));
const type = (text: string) => {
  const field = editor().getByRole('combobox', { name: 'add to the mask' });
  fireEvent.change(field, { target: { value: text } });
  fireEvent.keyDown(field, { key: 'Enter' });
};
const add = () => fireEvent.click(within(screen.getByTestId('layers')).getByRole('button', { name: 'mask' }));

test('a mask is made, filled by names and patterns, renamed in the output too, and taken away; undo brings it back', () => {
  shown(<SplitPanel />);
  add();
  expect(useDesk.getState().layer).toBe('mask.mask');
  expect(layers()).toContain('mask.mask');
  type('boat');
  type('rope*');
  type('nobody');
  expect(masks()[0].of).toEqual([
    { kind: 'set', name: 'boat' },
    { kind: 'like', name: 'rope*' },
  ]);
  expect(editor().getByText('3 objects')).toBeTruthy();
  const name = editor().getByRole('textbox', { name: 'name of the mask' });
  fireEvent.change(name, { target: { value: 'tackle' } });
  fireEvent.blur(name);
  expect(masks()[0].name).toBe('tackle');
  expect(layers()).toContain('mask.tackle');
  expect(useDesk.getState().layer).toBe('mask.tackle');
  fireEvent.click(editor().getByRole('button', { name: 'take away' }));
  expect([masks(), layers().filter((l) => l.startsWith('mask.'))]).toEqual([[], []]);
  act(() => undo());
  expect(masks()[0].name).toBe('tackle');
});

test('a click takes in what covers most, a box all that is in it; what is taken out of a set leaves the rest of it', async () => {
  shown(<SplitPanel />);
  add();
  expect(TAKES.words({ ...useDesk.getState(), role: null })).toContain('Alt-click');
  const client = (names: string[]) => ({ ask: async () => names }) as unknown as FilmClient;
  const point = { x: 0.5, y: 0.5, w: 0, h: 0 };
  await act(async () => TAKES.take(client(['hull', 'rope end']), point, false));
  expect(masks()[0].of).toEqual([{ kind: 'object', name: 'hull' }]);
  await act(async () => TAKES.take(client(['rope coil', 'hull']), { ...point, w: 0.2, h: 0.2 }, false));
  expect(masks()[0].of.map((p) => p.name)).toEqual(['hull', 'rope coil']);
  type('boat');
  await act(async () => TAKES.take(client(['hull']), point, true));
  expect(masks()[0].of).toEqual([
    { kind: 'object', name: 'rope coil' },
    { kind: 'object', name: 'rope end' },
  ]);
  await act(async () => TAKES.take(client([]), point, false));
  expect(masks()[0].of).toHaveLength(2);
  act(() => useDesk.getState().set({ layer: 'beauty' }));
  expect(TAKES.words({ ...useDesk.getState(), role: null })).toBeNull();
});

test('a mask is led through a ramp of data, in all of the picture until something is picked; ends are typed and turned about', () => {
  shown(<SplitPanel />);
  add();
  fireEvent.keyDown(editor().getByRole('combobox', { name: 'data of the ramp' }), { key: 'Enter' });
  fireEvent.keyDown(screen.getByRole('option', { name: 'roughness' }), { key: 'Enter' });
  expect(masks()[0].ramp).toEqual({ layer: 'roughness', channel: 'Y', from: 0, to: 1 });
  expect(editor().getByText('all of the picture')).toBeTruthy();
  const begins = editor().getByRole('textbox', { name: 'where the ramp begins' });
  fireEvent.change(begins, { target: { value: '0.6' } });
  fireEvent.blur(begins);
  fireEvent.click(editor().getByRole('button', { name: 'turn the ramp about' }));
  expect(masks()[0].ramp).toMatchObject({ from: 1, to: 0.6 });
  type('boat');
  expect(editor().getByText('2 objects')).toBeTruthy();
  act(() => undo());
  act(() => undo());
  act(() => undo());
  expect(masks()[0].ramp).toMatchObject({ from: 0, to: 1 });
});
