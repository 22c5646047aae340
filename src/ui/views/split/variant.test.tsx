/** @jest-environment <rootDir>/jest.page.cjs */
import { act, fireEvent, screen, within } from '@testing-library/react';
import { FIRST_OUTPUTS } from '@/core/outputs';
import { parseRecipe } from '@/core/recipe';
import { emptyShot, sceneSchema } from '@/core/scene';
import type { FilmClient } from '@/render/page/client';
import { useDesk } from '../../state/desk-store';
import { undo } from '../../state/history';
import { pickedOutput, useOutputs } from '../../state/outputs-store';
import { useRecipe } from '../../state/recipe-store';
import { patientNow } from '../../state/scene-now';
import { useScene } from '../../state/scene-store';
import { useShot } from '../../state/shot-store';
import { takeRecipe } from '../../state/take-recipe';
import { SHOT, trialLine, wholeTrial } from '../../state/testing';
import { useTrials } from '../../state/trials-store';
import { choose, roleNow } from '../../state/variants';
import { completePage, shown } from '../../testing';
import { OutputHead } from './output-head';
import { showOutput } from './shown-picture';
import { SplitPanel } from './split-panel';
import { TAKES } from './takes';

const quay = sceneSchema.parse({
  ...emptyShot('quay'),
  materials: [{ name: 'oak' }],
  objects: ['hull', 'oar', 'wall'].map((name) => ({ name, mesh: 'm', material: 'oak' })),
  sets: { boat: ['hull', 'oar'] },
});
beforeAll(completePage);
beforeEach(() => {
  choose(null);
  useScene.getState().load(quay);
  useRecipe.getState().load(parseRecipe({ sampling: { cameraMin: 16, cameraMax: 64 } }), 1);
  useShot.setState({ id: SHOT, name: 'quay', revision: 1, connected: true, baseline: null });
  useOutputs.getState().load(FIRST_OUTPUTS);
  useDesk.getState().set({ view: 'split', a: { kind: 'live' }, b: null, layer: 'beauty', overlay: 'none' });
});

const output = () => pickedOutput(useOutputs.getState())!;
const button = (name: string | RegExp) => screen.getByRole('button', { name });
const begin = async (words: RegExp) => {
  fireEvent.keyDown(button('add an output'), { key: 'Enter' });
  fireEvent.click(await screen.findByRole('menuitem', { name: words }));
};
const client = (found: string[]) => ({ ask: async () => found }) as unknown as FilmClient;
const point = { x: 0.5, y: 0.5, w: 0, h: 0 };

test('things with their shadow are begun by one click, chosen by clicking, and their picture is the live one when that ends', async () => {
  shown(<SplitPanel />);
  await begin(/shadow on the ground/);
  expect(output()).toMatchObject({ name: 'things', variant: { 'scope.receivers': [], 'scope.sky': false } });
  expect(roleNow()).toBe('receivers');
  // All is seen while things are chosen.
  expect(patientNow()!.recipe.scope.receivers).toBeNull();
  expect(TAKES.words({ ...useDesk.getState(), role: roleNow() })).toMatch(/^rendered: Click takes in/);
  await act(async () => TAKES.take(client(['hull', 'wall']), point, false));
  await act(async () => TAKES.take(client(['wall']), { ...point, w: 0.1, h: 0.1 }, false));
  await act(async () => TAKES.take(client(['wall']), point, true));
  expect(output().variant).toMatchObject({ 'scope.receivers': [{ kind: 'object', name: 'hull' }] });
  const field = screen.getByRole('combobox', { name: 'rendered: add' });
  fireEvent.change(field, { target: { value: 'boat' } });
  fireEvent.keyDown(field, { key: 'Enter' });
  fireEvent.keyDown(field, { key: 'Escape' });
  expect(roleNow()).toBeNull();
  expect(button('hull and 1 more').getAttribute('aria-pressed')).toBe('true');
  const { scope, film } = patientNow()!.recipe;
  expect(scope.receivers).toEqual([
    { kind: 'object', name: 'hull' },
    { kind: 'set', name: 'boat' },
  ]);
  expect(film.features).toContain('shadow');
  act(() => undo());
  expect(output().variant!['scope.receivers']).toHaveLength(1);
});

test('a variant keeps only what it differs in: the rest follows the shot', () => {
  shown(<SplitPanel />);
  fireEvent.click(button('of its own'));
  expect(screen.getByTestId('variant').textContent).toContain('nothing differs yet');
  const rows = within(screen.getByTestId('variant'));
  fireEvent.click(rows.getByRole('button', { name: 'clay' }));
  fireEvent.click(rows.getByRole('button', { name: 'none' }));
  expect(output().variant).toEqual({ 'clay.on': true, 'rayDepth.diffuse': 0 });
  fireEvent.click(rows.getByRole('button', { name: 'as they are' }));
  fireEvent.click(rows.getByRole('button', { name: 'kept' }));
  expect(output().variant).toEqual({});
  const samples = rows.getByRole('textbox', { name: 'samples of this picture' });
  fireEvent.change(samples, { target: { value: '8' } });
  fireEvent.keyDown(samples, { key: 'Enter' });
  expect(patientNow()!.recipe.sampling).toMatchObject({ cameraMin: 8, cameraMax: 8 });
  act(() => void useRecipe.getState().set('rayDepth.diffuse', 7));
  expect(patientNow()!.recipe.rayDepth.diffuse).toBe(7);
  // Elsewhere the picture of the shot is looked at.
  act(() => useDesk.getState().set({ view: 'tune' }));
  expect(patientNow()!.recipe.sampling.cameraMax).toBe(64);
  act(() => useDesk.getState().set({ view: 'split' }));
  fireEvent.click(button('of the shot'));
  expect(output().variant).toBeNull();
});

test('an output shows its own picture: its newest trial, or the live one', () => {
  const own = { ...FIRST_OUTPUTS.list[0], id: 'clay', name: 'clay', variant: { 'clay.on': true } };
  act(() => useOutputs.getState().load({ ...FIRST_OUTPUTS, list: [...FIRST_OUTPUTS.list, own] }));
  const [plain, clay] = [trialLine(1), trialLine(2, { variantFor: { names: ['clay'], variant: { 'clay.on': true } } })];
  act(() => useTrials.getState().put([plain, clay]));
  act(() => useDesk.getState().set({ a: { kind: 'trial', id: plain.id } }));
  act(() => showOutput(own));
  expect(useDesk.getState().a).toEqual({ kind: 'trial', id: clay.id });
  act(() => showOutput(FIRST_OUTPUTS.list[0]));
  expect(useDesk.getState().a).toEqual({ kind: 'trial', id: plain.id });
  act(() => showOutput({ ...own, id: 'other', name: 'other', variant: { 'scope.sky': false } }));
  expect(useDesk.getState().a).toEqual({ kind: 'live' });
});

test('the recipe of a variant is taken without what it differs in', () => {
  const recipe = parseRecipe({ clay: { on: true }, rayDepth: { diffuse: 9 } });
  const outputs = { ...FIRST_OUTPUTS, list: [{ ...FIRST_OUTPUTS.list[0], variant: { 'clay.on': true } }] };
  act(() => takeRecipe({ recipe, outputs }));
  expect(useRecipe.getState().recipe).toMatchObject({ clay: { on: false }, rayDepth: { diffuse: 9 } });
});

test('a trial’s outputs are the same in whatever order the settings of a variant stand', () => {
  const own = { ...FIRST_OUTPUTS.list[0], id: 'few', name: 'few' };
  const now = { ...own, variant: { 'clay.on': true, 'sampling.cameraMax': 8 } };
  const then = { ...own, variant: { 'sampling.cameraMax': 8, 'clay.on': true } };
  const outputs = { ...FIRST_OUTPUTS, list: [FIRST_OUTPUTS.list[0], now] };
  useOutputs.getState().load(outputs);
  const trial = { ...wholeTrial(trialLine(3)), outputs: { ...FIRST_OUTPUTS, list: [then] } };
  shown(<OutputHead outputs={outputs} output={now} trial={trial} />);
  expect(screen.queryByRole('button', { name: 'as in 03' })).toBeNull();
});

test('lights of a picture go off by group, and of a group one by one; what is whole is its group, and all is the shot again', () => {
  const light = (name: string, group: string, power: number) => ({
    kind: 'sphere',
    name,
    group,
    power,
    position: [0, 1, 0],
    radius: 0.1,
  });
  const lights = [light('lantern', 'boat', 1), light('torch', 'boat', 2), light('beacon', 'tower', 3)];
  useScene.getState().load(sceneSchema.parse({ ...quay, lights, environment: null }));
  shown(<SplitPanel />);
  fireEvent.click(button('of its own'));
  const shine = () => output().variant!['scope.lights'];
  const row = (name: string | RegExp) => within(screen.getByTestId('variant')).getByRole('button', { name });
  fireEvent.click(row('tower'));
  expect(shine()).toEqual([{ kind: 'group', name: 'boat' }]);
  fireEvent.keyDown(row('lights of boat'), { key: 'Enter' });
  fireEvent.click(screen.getByRole('menuitemcheckbox', { name: 'torch' }));
  expect(shine()).toEqual([{ kind: 'light', name: 'lantern' }]);
  fireEvent.click(screen.getByRole('menuitemcheckbox', { name: 'lantern' }));
  expect(shine()).toEqual([]);
  fireEvent.click(screen.getByRole('menuitemcheckbox', { name: 'torch' }));
  fireEvent.keyDown(screen.getByRole('menu'), { key: 'Escape' });
  expect(shine()).toEqual([{ kind: 'light', name: 'torch' }]);
  expect(patientNow()!.recipe.scope.lights).toEqual([{ kind: 'light', name: 'torch' }]);
  fireEvent.click(row(/^boat/));
  fireEvent.click(row('tower'));
  expect(shine()).toBeUndefined();
  act(() => undo());
  expect(shine()).toEqual([{ kind: 'group', name: 'boat' }]);
});
