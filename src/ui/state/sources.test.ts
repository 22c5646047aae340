import { comparable, relativeEfficiency } from '@/contract/trial';
import { parseRecipe } from '@/core/recipe';
import { trialFigures } from './figures';
import { sourceOf, trialLayers } from './sources';
import { trialLine, wholeTrial } from './testing';
import type { ListedTrial } from './trials-store';

const listed = (change: object = {}, recipe = parseRecipe({})): ListedTrial => ({
  ...trialLine(1, change, recipe),
  preview: 0,
});
const pick = { kind: 'trial', id: trialLine(1).id } as const;

describe('what a slot is made of', () => {
  test('live, a trial in progress, a finished one once it is there whole', () => {
    expect(sourceOf({ kind: 'live' }, null, null)).toEqual({ kind: 'live' });
    const rendering = { ...listed({ state: 'rendering' }), preview: 7 };
    expect(sourceOf(pick, rendering, null)).toMatchObject({ kind: 'preview', id: pick.id, version: 7 });
    const stopped = listed({ state: 'stopped' });
    expect(sourceOf(pick, stopped, null)).toBeNull();
    const whole = wholeTrial(stopped, parseRecipe({}), ['lamp', 'old_sky']);
    expect(sourceOf(pick, stopped, whole)).toMatchObject({ kind: 'trial', groups: ['lamp', 'old_sky'] });
    // The one that was shown before is not what is asked for.
    expect(sourceOf(pick, stopped, { ...whole, id: 'other' })).toBeNull();
    expect(sourceOf(pick, null, null)).toBeNull();
    expect(sourceOf(null, listed(), whole)).toBeNull();
  });

  test('a denoised one: its picture so far over the plain one, then both films at its strengths', () => {
    const strengths = { all: 0.5, groups: { lamp: 1 } };
    const line = {
      state: 'filtering',
      fraction: 0.5,
      leftMs: 1,
      fault: null,
      strengths,
      residual: null,
      seconds: null,
    };
    const whole = wholeTrial(listed({ state: 'done' }), parseRecipe({}), ['lamp']);
    const denoised = { ...pick, denoised: true } as const;
    const under = listed({ state: 'done', denoised: line });
    expect(sourceOf(denoised, under, whole)).toMatchObject({
      kind: 'preview',
      before: { kind: 'trial', denoised: null },
    });
    expect(sourceOf(pick, under, whole)).toMatchObject({ kind: 'trial', denoised: null });
    const residual = { rms: 1, p95: 2, worstCell: 3 };
    const done = listed({ state: 'done', denoised: { ...line, state: 'done', residual, seconds: 3 } });
    // Which layers it has is on its way.
    expect(sourceOf(denoised, done, whole)).toBeNull();
    const made = { ...done.denoised!, layers: ['beauty'], figures: null, patches: null, about: [], mark: null };
    expect(sourceOf(denoised, done, whole, null, made)).toMatchObject({ denoised: { layers: ['beauty'], strengths } });
  });

  test('a region keeps its place in the frame', () => {
    const recipe = parseRecipe({
      size: { width: 200, height: 100, scale: 100 },
      region: { x: 0.25, y: 0.5, w: 0.5, h: 0.25 },
    });
    const trial = listed({}, recipe);
    expect(sourceOf(pick, trial, wholeTrial(trial, recipe))).toMatchObject({
      frame: { width: 200, height: 100, x: 50, y: 50, w: 100, h: 25 },
    });
  });

  test('only layers that the recipe kept are offered, of the film’s own groups', () => {
    const of = (film: object) => trialLayers(wholeTrial(trialLine(1), parseRecipe({ film }), ['lamp']));
    expect(of({ groups: false, classes: false, features: ['normal'] })).toEqual([
      'beauty',
      'half_a',
      'half_b',
      'N',
      'samples',
      'cost',
      'rays',
    ]);
    const pairs = [
      { group: 'lamp', class: 'direct_fog' },
      { group: 'gone', class: 'caustic' },
    ];
    expect(of({ groups: false, classes: false, features: [], pairs }).filter((n) => n.startsWith('pair.'))).toEqual([
      'pair.lamp.direct_fog',
    ]);
    expect(of({ groups: true, classes: true, ledger: 'all' })).toEqual(
      expect.arrayContaining(['group.lamp', 'half_a.lamp', 'half_b.lamp', 'class.caustic', 'bounce.00', 'bounce.16']),
    );
  });
});

describe('efficiency against the baseline', () => {
  const trial = (change: object, recipe?: ReturnType<typeof parseRecipe>) => trialLine(2, change, recipe);
  const noise = (rms: number) => ({ rms, p95: rms, worstCell: rms });

  test('adding samples alone leaves it at 1; half the noise in the same time is ×4', () => {
    const base = trial({ noise: noise(2), seconds: { load: 0, trace: 12, calibrated: 10, write: 0 } });
    const longer = trial({ noise: noise(1), seconds: { load: 9, trace: 31, calibrated: 40, write: 9 } });
    expect(relativeEfficiency(longer, base)).toBeCloseTo(1);
    expect(relativeEfficiency(trial({ noise: noise(1), seconds: base.seconds }), base)).toBeCloseTo(4);
  });

  test('is told on one scene, camera, frame and the same pixels only, and with a measurement', () => {
    const one = trial({});
    expect(relativeEfficiency(trial({}), one)).toBeCloseTo(1);
    for (const other of [{ revision: 'r2' }, { camera: 'high' }, { frame: 7 }, { noise: null }, { seconds: null }])
      expect(relativeEfficiency(trial(other), one)).toBeNull();
    const region = parseRecipe({ region: { x: 0, y: 0, w: 0.5, h: 0.5 } });
    expect(comparable(trial({}, region), one)).toBe(false);
    expect(relativeEfficiency(one, null)).toBeNull();
  });
});

test('a trial is told by the clock and at speed 1', () => {
  const seconds = { load: 1, trace: 133, calibrated: 80, write: 2 };
  expect(trialFigures(trialLine(1, { seconds }), null)).toMatchObject({ seconds: 133, calibrated: 80, rays: null });
  expect(trialFigures(trialLine(1, { seconds: null }), null)).toMatchObject({ seconds: null, calibrated: null });
});
