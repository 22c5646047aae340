import { PRESETS } from '@/core/recipe';
import { emptyShot, withField } from '@/core/scene';
import { forget, redo, settle, undo, useHistory } from './history';
import { useRecipe } from './recipe-store';
import { useScene } from './scene-store';

const shot = emptyShot('test');
const lamp = { kind: 'light' as const, name: shot.lights[0].name };
const store = () => useScene.getState();
const words = () => useHistory.getState().past.map((s) => s.words);
const stops = () => store().document!.lights[0].stops;

beforeEach(() => {
  useScene.setState({ document: null, base: null, chosen: [], unsaved: false });
  forget();
  store().load(shot);
});

test('an edit is unsaved, undone and done again; a refused one changes nothing', () => {
  expect(store().setField([lamp], 'stops', 2)).toBeNull();
  expect(store()).toMatchObject({ unsaved: true });
  expect(words()).toEqual([`${lamp.name}: stops`]);
  undo();
  expect(stops()).toBe(0);
  redo();
  expect(stops()).toBe(2);
  const before = store().document;
  expect(store().setField([lamp], 'power', -5)).toEqual(expect.any(String));
  expect(store().document).toBe(before);
});

test('a drag is one step, however many edits it had', () => {
  for (let i = 1; i <= 5; i++) store().setField([lamp], 'stops', i, 'drag');
  settle();
  store().setField([lamp], 'stops', 9, 'drag');
  expect(words()).toHaveLength(2);
  undo();
  expect(stops()).toBe(5);
  undo();
  expect(stops()).toBe(0);
  expect(useHistory.getState().past).toEqual([]);
  redo(2);
  expect(stops()).toBe(9);
});

test('steps of scene and recipe are taken back in the order in which they were made', () => {
  useRecipe.getState().load(PRESETS.Check, 1);
  store().setField([lamp], 'stops', 1);
  useRecipe.getState().set('sampling.lightSamples', 3);
  store().setField([lamp], 'stops', 2);
  undo();
  expect([stops(), useRecipe.getState().recipe!.sampling.lightSamples]).toEqual([1, 3]);
  undo();
  expect([stops(), useRecipe.getState().recipe!.sampling.lightSamples]).toEqual([
    1,
    PRESETS.Check.sampling.lightSamples,
  ]);
  undo();
  expect(stops()).toBe(0);
});

test('several steps go back at once, as the menu of them asks', () => {
  useRecipe.getState().load(PRESETS.Check, 1);
  store().setField([lamp], 'stops', 1);
  useRecipe.getState().set('sampling.lightSamples', 3);
  store().setField([lamp], 'stops', 2);
  undo(3);
  expect([stops(), useRecipe.getState().recipe!.sampling.lightSamples]).toEqual([
    0,
    PRESETS.Check.sampling.lightSamples,
  ]);
  redo(2);
  expect([stops(), useRecipe.getState().recipe!.sampling.lightSamples]).toEqual([1, 3]);
  // More than there are is all of them.
  undo(50);
  expect([stops(), words()]).toEqual([0, []]);
});

test('a drag that goes on after it was taken back is a step of its own', () => {
  store().setField([lamp], 'stops', 1, 'drag');
  undo();
  redo();
  store().setField([lamp], 'stops', 2, 'drag');
  expect(words()).toHaveLength(2);
  undo();
  expect(stops()).toBe(1);
});

test('what is chosen and gone is chosen no more', () => {
  store().choose([lamp]);
  store().edit('remove', (d) => ({ ...d, lights: [] }));
  expect(store().chosen).toEqual([]);
});

test('what was changed while saving stays unsaved', () => {
  store().setField([lamp], 'stops', 1);
  const sent = store().document!;
  store().setField([lamp], 'stops', 2);
  store().saved(sent);
  expect(store()).toMatchObject({ unsaved: true, base: sent });
});

test('another tab’s edits come in beside this one’s, and clashes are named', () => {
  store().setField([lamp], 'stops', 1);
  const theirs = withField(shot, { kind: 'camera', name: 'camera' }, 'focalLengthMm', 85);
  expect(store().rebase(theirs)).toEqual([]);
  expect(store().document).toMatchObject({ cameras: [{ focalLengthMm: 85 }], lights: [{ stops: 1 }] });
  expect(store()).toMatchObject({ unsaved: true, base: theirs });
  expect(store().rebase(withField(theirs, lamp, 'stops', -2))).toEqual([`light ${lamp.name}`]);
  expect(stops()).toBe(1);
});
