import { parseRecipe } from '@/core/recipe';
import { useDesk } from './desk-store';
import { relativeEfficiency, trialFigures } from './figures';
import { sourceOf, trialLayers, viewsOf } from './showing';
import type { Trial } from './types';

function trial(change: Partial<Trial> & { recipe?: Trial['recipe'] } = {}): Trial {
  return {
    id: 't1',
    shot: 's',
    number: 1,
    revision: 'r',
    recipe: parseRecipe({}),
    camera: 'cam',
    frame: null,
    parent: null,
    title: '',
    note: '',
    starred: false,
    state: 'done',
    fraction: 1,
    leftMs: null,
    fault: null,
    seconds: { load: 1, trace: 12, calibrated: 10, write: 1 },
    noise: { rms: 2, p95: 3, worst: 4 } as unknown as Trial['noise'],
    figures: null,
    spec: null,
    predicted: null,
    ladder: null,
    createdAt: '2026-01-01T00:00:00Z',
    ...change,
  };
}

test('a film keeps its own light groups when the scene’s have been renamed', () => {
  const spec = { groups: ['lamp', 'old_sky'] } as unknown as Trial['spec'];
  const source = sourceOf({ kind: 'trial', id: 't1' }, trial({ spec }), 0, ['lamp', 'sky']);
  expect(source).toMatchObject({ groups: ['lamp', 'old_sky'] });
});

test('recipes are compared on one scene, camera and frame only', () => {
  const one = trial();
  expect(relativeEfficiency(trial({ id: 't2' }), one)).toBeCloseTo(1);
  for (const other of [{ revision: 'r2' }, { camera: 'high' }, { frame: 7 }])
    expect(relativeEfficiency(trial(other), one)).toBeNull();
});

const desk = (change: object) => ({ ...useDesk.getState(), ...change });

describe('what a slot is made of', () => {
  test('live, a trial in progress, a finished one', () => {
    expect(sourceOf({ kind: 'live' }, null, 0, [])).toEqual({ kind: 'live' });
    const pick = { kind: 'trial', id: 't1' } as const;
    expect(sourceOf(pick, trial({ state: 'rendering' }), 7, [])).toMatchObject({
      kind: 'preview',
      id: 't1',
      version: 7,
    });
    expect(sourceOf(pick, trial({ state: 'stopped' }), 7, ['lamp'])).toMatchObject({ kind: 'trial', groups: ['lamp'] });
    expect(sourceOf(pick, null, 0, [])).toBeNull();
    expect(sourceOf(null, trial(), 0, [])).toBeNull();
  });

  test('a region keeps its place in the frame', () => {
    const recipe = parseRecipe({
      size: { width: 200, height: 100, scale: 100 },
      region: { x: 0.25, y: 0.5, w: 0.5, h: 0.25 },
    });
    const source = sourceOf({ kind: 'trial', id: 't1' }, trial({ recipe }), 0, []);
    expect(source).toMatchObject({ frame: { width: 200, height: 100, x: 50, y: 50, w: 100, h: 25 } });
  });

  test('only layers that the recipe kept are offered', () => {
    const bare = trial({ recipe: parseRecipe({ film: { groups: false, classes: false, features: ['normal'] } }) });
    expect(trialLayers(bare, ['lamp'])).toEqual(['beauty', 'half_a', 'half_b', 'N', 'samples', 'cost', 'rays']);
    const paired = trial({
      recipe: parseRecipe({
        film: {
          groups: false,
          classes: false,
          features: [],
          pairs: [
            { group: 'lamp', class: 'direct_fog' },
            { group: 'gone', class: 'caustic' },
          ],
        },
      }),
    });
    expect(trialLayers(paired, ['lamp'])).toContain('pair.lamp.direct_fog');
    expect(trialLayers(paired, ['lamp']).filter((n) => n.startsWith('pair.'))).toHaveLength(1);
    const full = trial({ recipe: parseRecipe({ film: { groups: true, classes: true, ledger: 'all' } }) });
    expect(trialLayers(full, ['lamp'])).toEqual(
      expect.arrayContaining(['group.lamp', 'half_a.lamp', 'half_b.lamp', 'class.caustic', 'bounce.00', 'bounce.16']),
    );
  });
});

describe('what A and B show', () => {
  test('the beauty while tuning, whatever layer Split last looked at', () => {
    expect(viewsOf(desk({ view: 'tune', layer: 'depth' }), [], null, null)).toEqual({
      a: { kind: 'color', layer: 'beauty' },
      b: { kind: 'color', layer: 'beauty' },
    });
  });

  test('data layers on a scale, colour layers as colour', () => {
    expect(viewsOf(desk({ view: 'split', layer: 'depth', range: [1, 2] }), [], null, null).a).toEqual({
      kind: 'data',
      layer: 'depth',
      range: [1, 2],
    });
    expect(viewsOf(desk({ view: 'split', layer: 'group.lamp' }), [], null, null).b).toEqual({
      kind: 'color',
      layer: 'group.lamp',
    });
  });

  test('each trial under its own balance', () => {
    const balance = { lamp: { stops: 1, color: [1, 1, 1], on: true, solo: false } };
    const views = viewsOf(desk({ view: 'balance', balances: { t1: balance } }), ['lamp'], trial(), trial({ id: 't2' }));
    expect(views.a).toEqual({ kind: 'relit', groups: ['lamp'], balance });
    expect(views.b).toEqual({ kind: 'color', layer: 'beauty' });
  });

  test('an overlay goes over every view; a difference leaves B its picture', () => {
    expect(viewsOf(desk({ view: 'balance', overlay: 'noise' }), [], null, null).b).toEqual({ kind: 'noise', of: null });
    expect(viewsOf(desk({ overlay: 'difference' }), [], null, null).b).toEqual({ kind: 'color', layer: 'beauty' });
  });
});

describe('efficiency against the baseline', () => {
  const noise = (rms: number) => ({ rms }) as unknown as Trial['noise'];

  test('adding samples alone leaves it at 1; half the noise in the same time is ×4', () => {
    const base = trial({ noise: noise(2), seconds: { load: 0, trace: 12, calibrated: 10, write: 0 } });
    expect(
      relativeEfficiency(trial({ noise: noise(1), seconds: { load: 9, trace: 31, calibrated: 40, write: 9 } }), base),
    ).toBeCloseTo(1);
    expect(
      relativeEfficiency(trial({ noise: noise(1), seconds: { load: 0, trace: 12, calibrated: 10, write: 0 } }), base),
    ).toBeCloseTo(4);
  });

  test('is not told of other pixels, nor without a measurement', () => {
    const region = parseRecipe({ region: { x: 0, y: 0, w: 0.5, h: 0.5 } });
    expect(relativeEfficiency(trial({ recipe: region }), trial())).toBeNull();
    expect(relativeEfficiency(trial({ noise: null }), trial())).toBeNull();
    expect(relativeEfficiency(trial(), null)).toBeNull();
  });
});

test('a trial is told by the clock and at speed 1', () => {
  const seconds = { load: 1, trace: 133, calibrated: 80, write: 2 };
  expect(trialFigures(trial({ seconds }))).toMatchObject({ seconds: 133, calibrated: 80 });
  expect(trialFigures(trial({ seconds: null }))).toMatchObject({ seconds: null, calibrated: null });
});
