/** @jest-environment <rootDir>/jest.page.cjs */
import { act, fireEvent, screen, within } from '@testing-library/react';
import { OPEN_REACHES } from '@/core/film';
import { FIRST_OUTPUTS, writes } from '@/core/outputs';
import { parseRecipe } from '@/core/recipe';
import { emptyShot } from '@/core/scene';
import { useDesk } from '../../state/desk-store';
import { undo } from '../../state/history';
import { pickedOutput, useOutputs } from '../../state/outputs-store';
import { useRecipe } from '../../state/recipe-store';
import { useScene } from '../../state/scene-store';
import { useShot } from '../../state/shot-store';
import { SHOT } from '../../state/testing';
import { completePage, shown } from '../../testing';
import { SplitPanel } from './split-panel';

beforeAll(completePage);
beforeEach(() => {
  useScene.getState().load(emptyShot('rock'));
  useRecipe.getState().load(parseRecipe({}), 1);
  useShot.setState({ id: SHOT, name: 'rock', revision: 1, connected: true, baseline: null });
  useOutputs.getState().load(FIRST_OUTPUTS);
  useDesk.getState().set({ a: { kind: 'live' }, b: null, layer: 'beauty', overlay: 'none' });
});

const output = () => pickedOutput(useOutputs.getState())!;
const layers = () => within(screen.getByTestId('layers'));
const box = (words: string) => layers().getByRole('checkbox', { name: `write ${words}` });

test('a layer is taken into the output before anything is rendered, and undo takes it out again', () => {
  shown(<SplitPanel />);
  expect(box('depth').getAttribute('aria-checked')).toBe('true');
  expect(box('texture coordinates').getAttribute('aria-checked')).toBe('false');
  fireEvent.click(box('texture coordinates'));
  expect(output().layers).toContain('uv');
  expect(box('texture coordinates').getAttribute('aria-checked')).toBe('true');
  act(() => undo());
  expect(box('texture coordinates').getAttribute('aria-checked')).toBe('false');
});

test('one path class is left out, then the family is taken whole again', () => {
  shown(<SplitPanel />);
  fireEvent.click(box('caustic'));
  expect(writes(output(), 'class.caustic')).toBe(false);
  expect(writes(output(), 'class.emission')).toBe(true);
  expect(screen.getByTestId('written-class').textContent).toContain('9 of 10');
  const section = within(screen.getByRole('region', { name: 'Path classes' }));
  fireEvent.click(section.getByRole('button', { name: 'all' }));
  expect(output().layers).toContain('class.*');
});

test('names are seen as they will be; what would clash is told before anything is written', () => {
  shown(<SplitPanel />);
  expect(screen.getByTestId('file-names').textContent).toBe('rock_parts_01.0001.exr');
  fireEvent.click(screen.getByRole('button', { name: 'one a layer' }));
  expect(screen.queryByRole('alert')).toBeNull();
  expect(screen.getByTestId('file-names').textContent).toMatch(/^rock_parts_beauty_01\.0001\.exr and \d+ more$/);
  act(() => void useOutputs.getState().edit('names', output().id, (o) => ({ ...o, names: [{ kind: 'shot' }] })));
  expect(screen.getByRole('alert').textContent).toContain('add the part “layer”');
  act(() => void useOutputs.getState().edit('names', output().id, (o) => ({ ...o, names: [{ kind: 'layer' }] })));
  expect(screen.queryByRole('alert')).toBeNull();
  expect(screen.getByTestId('file-names').textContent).toMatch(/^beauty\.exr and \d+ more$/);
});

test('text of a name takes no sign that a file system would not', () => {
  shown(<SplitPanel />);
  const [first] = screen.getAllByRole('textbox', { name: 'text of the name' });
  fireEvent.change(first, { target: { value: '/..*v' } });
  fireEvent.blur(first);
  expect(output().names[1]).toEqual({ kind: 'text', text: '..v' });
});

test('a layer of a light group that has gone is told, and can be left out', () => {
  shown(<SplitPanel />);
  act(
    () => void useOutputs.getState().edit('torch', output().id, (o) => ({ ...o, layers: ['beauty', 'group.torch'] })),
  );
  const told = screen.getByTestId('gone');
  expect(told.textContent).toContain('This shot has no torch any more.');
  fireEvent.click(within(told).getByRole('button', { name: 'leave out' }));
  expect(output().layers).toEqual(['beauty']);
  expect(screen.queryByTestId('gone')).toBeNull();
});

test('without an output the panel says what to do', () => {
  shown(<SplitPanel />);
  act(() => void useOutputs.getState().replace('none', { schema: 1, list: [], masks: [] }));
  expect(screen.getByText('Nothing leaves this shot yet: add an output.')).toBeTruthy();
  fireEvent.keyDown(screen.getByRole('button', { name: 'add an output' }), { key: 'Enter' });
  fireEvent.click(screen.getByRole('menuitem', { name: 'What a comp asks for first' }));
  expect(output().name).toBe('output');
  expect(layers().getAllByRole('checkbox').length).toBeGreaterThan(20);
});

test('how far openness looks is scrubbed beside its layer, and is what the output writes', () => {
  shown(<SplitPanel />);
  fireEvent.click(layers().getByRole('button', { name: 'openness to the surroundings' }));
  expect(screen.getByTestId('reach').textContent).toBe('to the end');
  const thumb = screen.getByRole('slider', { name: 'reach of openness' });
  fireEvent.keyDown(thumb, { key: 'ArrowLeft' });
  expect(output().reachMetres).toBe(OPEN_REACHES.at(-1));
  expect(screen.getByTestId('reach').textContent).toBe('32 m');
  fireEvent.keyDown(thumb, { key: 'Home' });
  expect(screen.getByTestId('reach').textContent).toBe('3.1 cm');
});

test('layers are found by their words, families that are closed too', () => {
  shown(<SplitPanel />);
  const field = screen.getByRole('searchbox', { name: 'search layers' });
  fireEvent.change(field, { target: { value: 'bounce' } });
  expect(layers().queryByRole('checkbox', { name: 'write beauty' })).toBeNull();
  expect(layers().getByRole('checkbox', { name: 'write rest of the bounces' })).toBeTruthy();
  fireEvent.change(field, { target: { value: 'no such layer' } });
  expect(screen.getByText('No layer of that name.')).toBeTruthy();
  fireEvent.keyDown(field, { key: 'Escape' });
  expect(layers().getByRole('checkbox', { name: 'write beauty' })).toBeTruthy();
});

test('names of layers begin as is typed, of letters that names can have; nothing is a beginning too', () => {
  shown(<SplitPanel />);
  const field = screen.getByRole('textbox', { name: 'beginning of the layers’ names' });
  const type = (value: string) => {
    fireEvent.change(field, { target: { value } });
    fireEvent.blur(field);
  };
  type('rock. v2_');
  expect(output().prefix).toBe('rockv2_');
  type('');
  expect(output().prefix).toBe('');
  act(() => undo());
  expect(output().prefix).toBe('rockv2_');
});
