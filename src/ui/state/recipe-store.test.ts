import { parseRecipe } from '@/core/recipe';
import { forget, redo, undo, useHistory } from './history';
import { useRecipe } from './recipe-store';

const store = () => useRecipe.getState();
const steps = () => useHistory.getState().past.map((s) => s.words);

beforeEach(() => {
  forget();
  store().load(parseRecipe({ sampling: { cameraMin: 4, cameraMax: 16 } }), 3);
});

test('a setting is set, marked unsaved and can be undone and redone', () => {
  expect(store().set('sampling.lightSamples', 4)).toBeNull();
  expect(store()).toMatchObject({ unsaved: true, version: 3 });
  expect(steps()).toEqual(['light samples 1 → 4']);
  undo();
  expect(store().recipe!.sampling.lightSamples).toBe(1);
  redo();
  expect(store().recipe!.sampling.lightSamples).toBe(4);
  redo();
  expect(store().recipe!.sampling.lightSamples).toBe(4);
});

test.each([
  ['sampling.cameraMax', 0],
  ['sampling.cameraMax', 2.5],
  ['rayDepth.all', 65],
  ['sampling.filter.kind', 'sinc'],
  ['sampling.bogus', 1],
])('%s = %p is refused in words and changes nothing', (path, value) => {
  const before = store().recipe;
  expect(store().set(path, value)).toEqual(expect.any(String));
  expect(store().recipe).toBe(before);
  expect(store().unsaved).toBe(false);
  expect(steps()).toEqual([]);
});

test('the ends of the range of samples push each other', () => {
  store().set('sampling.cameraMin', 64);
  expect(store().recipe!.sampling).toMatchObject({ cameraMin: 64, cameraMax: 64 });
  store().set('sampling.cameraMax', 8);
  expect(store().recipe!.sampling).toMatchObject({ cameraMin: 8, cameraMax: 8 });
});

test('setting what already holds is no step', () => {
  store().set('sampling.cameraMax', 16);
  expect(store().unsaved).toBe(false);
  expect(steps()).toEqual([]);
});

test('a new change after an undo forgets what was undone', () => {
  store().set('sampling.lightSamples', 2);
  undo();
  store().set('sampling.lightSamples', 3);
  expect(useHistory.getState().future).toEqual([]);
  undo();
  expect(store().recipe!.sampling.lightSamples).toBe(1);
});

test('what was changed while saving stays unsaved', () => {
  store().set('sampling.lightSamples', 2);
  const sent = store().recipe!;
  store().set('sampling.lightSamples', 3);
  store().saved(4, sent);
  expect(store()).toMatchObject({ version: 4, unsaved: true });
  store().saved(5, store().recipe!);
  expect(store().unsaved).toBe(false);
});

test('steps are kept to a limit, the newest ones', () => {
  for (let i = 0; i < 230; i++) store().set('sampling.seed', i + 10);
  expect(steps()).toHaveLength(200);
  undo();
  expect(store().recipe!.sampling.seed).toBe(238);
});
