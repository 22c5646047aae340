import { parseRecipe } from '@/core/recipe';
import { useDesk } from '../state/desk-store';
import { type Looking, viewsOf } from '../state/showing';
import { trialLine, wholeTrial } from '../state/testing';
import { VIEWS, viewNamed } from './registry';

const looking = (desk: object, rest: Partial<Looking> = {}): Looking => ({
  desk: { ...useDesk.getState(), ...desk },
  groups: ['lamp'],
  a: null,
  b: null,
  ledger: false,
  masking: null,
  roles: null,
  written: ['beauty'],
  reachMetres: null,
  mixes: { a: null, b: null },
  stack: null,
  wide: false,
  ...rest,
});
const shown = (view: string, desk: object, rest: Partial<Looking> = {}) =>
  viewsOf(looking({ view, ...desk }, rest), viewNamed(view).shows);
const BEAUTY = { kind: 'color', layer: 'beauty' };

test('views have names, keys and labels of their own', () => {
  for (const key of ['name', 'key', 'label'] as const)
    expect(new Set(VIEWS.map((v) => v[key])).size).toBe(VIEWS.length);
  expect(viewNamed('no such view').name).toBe('tune');
});

test('the beauty while tuning, whatever layer Split last looked at', () => {
  expect(shown('tune', { layer: 'depth' })).toEqual({ a: BEAUTY, b: BEAUTY });
});

test('a mask is what it picks of the picture; the picture alone where a trial keeps no coverage', () => {
  const masking = { picked: { names: ['hull'], numbers: [2] }, ramp: null };
  const recipe = (features: string[]) => parseRecipe({ film: { features } });
  const trials = [['coverage'], []].map((f) => ({ ...wholeTrial(trialLine(1)), recipe: recipe(f) }));
  const views = shown('split', { layer: 'mask.boat' }, { masking, a: trials[0], b: trials[1] });
  expect(views).toEqual({ a: { kind: 'picked', masking }, b: BEAUTY });
});

test('the remainder of what is written, and the picture against the sum of it', () => {
  const written = ['beauty', 'group.lamp'];
  const of = { kind: 'chosen', family: 'group', of: written };
  expect(shown('split', { layer: 'rest.group' }, { written }).a).toEqual({ ...of, what: 'rest' });
  expect(shown('split', { layer: 'sum.group' }, { written })).toEqual({ a: BEAUTY, b: { ...of, what: 'sum' } });
});

test('data layers on a scale, colour layers as colour', () => {
  expect(shown('split', { layer: 'depth', range: [1, 2] }).a).toEqual({ kind: 'data', layer: 'depth', range: [1, 2] });
  expect(shown('split', { layer: 'group.lamp' }).b).toEqual({ kind: 'color', layer: 'group.lamp' });
});

test('Comp shows A through the stack, not while H is held; Set-up and Tune do where it is wanted', () => {
  const stack = { stack: { entries: [{}] }, layers: [] } as unknown as Looking['stack'];
  const through = { kind: 'stack', ...stack, wide: false };
  expect(shown('comp', {}, { stack })).toEqual({ a: through, b: BEAUTY });
  expect(shown('comp', {}, { stack, wide: true }).a).toMatchObject({ wide: true });
  expect(shown('comp', { asRendered: true }, { stack }).a).toEqual(BEAUTY);
  for (const view of ['setup', 'tune']) {
    expect(shown(view, {}, { stack }).a).toEqual(BEAUTY);
    expect(shown(view, { throughStack: true }, { stack })).toEqual({ a: through, b: BEAUTY });
  }
});

test('views share H: the open one alone acts, and it goes up in any', () => {
  const held = (down: boolean) => {
    for (const { commands } of VIEWS) for (const c of commands ?? []) if (c.keys === 'h') c.held!(down);
    return useDesk.getState().asRendered;
  };
  for (const view of ['balance', 'comp']) {
    useDesk.getState().set({ view });
    expect([held(true), held(false)]).toEqual([true, false]);
  }
  useDesk.getState().set({ view: 'tune' });
  expect(held(true)).toBe(false);
});

test('Balance shows each slot by its mix, and as it was rendered where that changes nothing', () => {
  const a = { groups: ['lamp'], factors: { lamp: [2, 2, 2] as const } };
  expect(shown('balance', {}, { mixes: { a, b: null } })).toEqual({ a: { kind: 'relit', ...a }, b: BEAUTY });
  expect(shown('tune', {}, { mixes: { a, b: null } }).a).toEqual(BEAUTY);
  const hatched = { kind: 'clipped' };
  expect(shown('balance', { overlay: 'clipped' }, { mixes: { a, b: null } })).toEqual({
    a: { ...hatched, mix: a },
    b: hatched,
  });
  expect(shown('setup', { overlay: 'clipped' }, { mixes: { a, b: null } }).a).toEqual(hatched);
});

test('a limit of ray depth is shown of what keeps a ledger, while its face is open', () => {
  const desk = { face: 'depth', depthLimit: 3, depthDifference: true, a: { kind: 'live' } };
  expect(shown('tune', desk, { ledger: true }).a).toEqual({ kind: 'depth', limit: 3, difference: true });
  expect(shown('tune', desk, { ledger: false }).a).toEqual(BEAUTY);
  expect(shown('tune', { ...desk, face: 'budget' }, { ledger: true }).a).toEqual(BEAUTY);
  const a = wholeTrial(trialLine(1), parseRecipe({ film: { ledger: 'all' } }));
  expect(shown('tune', { ...desk, a: { kind: 'trial', id: a.id } }, { a }).a).toMatchObject({ kind: 'depth' });
});

test('an overlay goes over every view; a difference leaves B its picture', () => {
  expect(shown('balance', { overlay: 'noise', noiseOf: 'gone' }).b).toEqual({ kind: 'noise', of: null });
  expect(shown('split', { overlay: 'noise', noiseOf: 'lamp' }).b).toEqual({ kind: 'noise', of: 'lamp' });
  expect(shown('tune', { overlay: 'difference', differenceGain: 4 })).toEqual({
    a: { kind: 'difference', gain: 4 },
    b: BEAUTY,
  });
});
