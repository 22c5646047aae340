import fc from 'fast-check';
import { eventSchema } from './events';
import { draftChangeSchema, houseSchema } from './shot';
import { identifier, predictionSchema } from './terms';
import {
  editTrialSchema,
  finished,
  ladderStepSchema,
  logbookPageSchema,
  newTrialSchema,
  running,
  TRIAL_STATES,
  timed,
  trialLineSchema,
} from './trial';

const ID = '01930abc-0000-7000-8000-00000000000d';
const line = {
  id: ID,
  shot: ID,
  number: 1,
  run: null,
  revision: ID,
  camera: 'wide',
  frame: null,
  parent: null,
  title: 'a',
  note: '',
  starred: false,
  state: 'done',
  fraction: 1,
  leftMs: null,
  untimed: false,
  sample: false,
  fault: null,
  seconds: { load: 1, trace: 2, calibrated: 2, write: 0 },
  noise: { rms: 1, p95: 2, worstCell: 3 },
  predicted: null,
  ladder: null,
  variantFor: null,
  film: null,
  denoised: null,
  createdAt: '2031-01-01T00:00:00Z',
  recipeName: 'Check',
  pixels: { width: 4, height: 4, region: { x: 0, y: 0, width: 4, height: 4 } },
};

/** Where a message is wrong, as dotted paths. */
const faults = (schema: { safeParse: (v: unknown) => { error?: { issues: { path: PropertyKey[] }[] } } }, v: unknown) =>
  schema.safeParse(v).error?.issues.map((i) => i.path.join('.')) ?? [];

test('an identifier is one as the server gives it, and nothing like it', () => {
  fc.assert(fc.property(fc.uuid(), (id) => identifier.safeParse(id).success));
  for (const other of ['', 'last', ID.toUpperCase(), `${ID}0`, `${ID} `, ID.replace('-', '')])
    expect([other, identifier.safeParse(other).success]).toEqual([other, false]);
});

test('a trial is listed with all of its figures, or says where it lacks one', () => {
  expect(trialLineSchema.parse(line)).toEqual(line);
  expect(logbookPageSchema.parse({ trials: [line], total: 900 }).total).toBe(900);
  expect(faults(trialLineSchema, { ...line, state: 'dreaming' })).toEqual(['state']);
  expect(faults(trialLineSchema, { ...line, noise: { rms: 1, p95: null, worstCell: 3 } })).toEqual(['noise.p95']);
  expect(faults(trialLineSchema, { ...line, pixels: { width: 4, height: 4 } })).toEqual(['pixels.region']);
});

test('every state is either finished, under way or failed; only what is under way is timed', () => {
  for (const state of TRIAL_STATES) {
    const t = { state, untimed: false, run: null };
    expect([finished(t), running(t), state === 'failed'].filter(Boolean)).toEqual([true]);
    if (timed(t)) expect(running(t)).toBe(true);
  }
  expect(timed({ state: 'queued', untimed: false, run: null })).toBe(false);
  expect(timed({ state: 'rendering', untimed: true, run: null })).toBe(false);
});

test('what is sent for a trial has its defaults, and no word that is not known', () => {
  const least = { shot: 'quay-dawn', camera: 'wide', recipe: {} };
  expect(newTrialSchema.parse(least)).toEqual({
    ...least,
    frame: null,
    parent: null,
    fields: [],
    ladder: null,
    output: null,
    predicted: null,
    key: null,
  });
  expect(faults(newTrialSchema, { ...least, samples: 4 })).toHaveLength(1);
  expect(faults(newTrialSchema, { ...least, frame: 1.5 })).toEqual(['frame']);
  expect(faults(newTrialSchema, { ...least, parent: 'last' })).toEqual(['parent']);
  const field = { owner: { kind: 'light', name: 'flame' }, path: 'stops', value: 1 };
  expect(faults(newTrialSchema, { ...least, fields: [field, field, field] })).toEqual(['fields']);
  expect(faults(newTrialSchema, { ...least, fields: [{ ...field, owner: { kind: 'moon', name: 'x' } }] })).toEqual([
    'fields.0.owner.kind',
  ]);
});

test('a prediction is never negative, and has an interval', () => {
  const of = (value: number) => ({ value, low: value / 2, high: value * 2 });
  expect(faults(predictionSchema, { noise: of(2), seconds: of(30) })).toEqual([]);
  expect(faults(predictionSchema, { noise: of(-1), seconds: of(30) })).toContain('noise.value');
  expect(faults(predictionSchema, { noise: { value: 2 }, seconds: of(30) })).toEqual(['noise.low', 'noise.high']);
});

test('a ladder steps one thing or two', () => {
  const at = { label: 'camera samples', value: 64 };
  for (const [n, right] of [
    [0, false],
    [1, true],
    [2, true],
    [3, false],
  ] as const)
    expect(ladderStepSchema.safeParse({ id: ID, at: Array(n).fill(at) }).success).toBe(right);
});

test('a title is trimmed and never empty; what is not said stays as it is', () => {
  expect(editTrialSchema.parse({ title: '  night ' })).toEqual({ title: 'night' });
  expect(editTrialSchema.parse({})).toEqual({});
  expect(faults(editTrialSchema, { title: '   ' })).toEqual(['title']);
  expect(faults(editTrialSchema, { note: 'x'.repeat(4001) })).toEqual(['note']);
});

test('events are told apart by their type, and far smaller than what the database can tell', () => {
  const events = [
    { type: 'trial', id: ID, shot: ID, state: 'done' },
    { type: 'progress', id: ID, shot: ID, fraction: 0.5, leftMs: 1000, preview: 3 },
    { type: 'draft', shot: ID, version: 12, by: ID },
    { type: 'baseline', shot: ID, trial: null },
  ];
  for (const event of events) {
    expect(eventSchema.parse(event)).toEqual(event);
    expect(JSON.stringify(event).length).toBeLessThan(500);
  }
  expect(faults(eventSchema, { type: 'party' })).toEqual(['type']);
});

test('a draft says which tab saved it; the house counts whole workers', () => {
  expect(faults(draftChangeSchema, { recipe: {}, by: ID })).toEqual([]);
  expect(faults(draftChangeSchema, { by: 'x'.repeat(61) })).toEqual(['by']);
  expect(faults(houseSchema, { workers: 1.5, delivers: true, storedBytes: 0 })).toEqual(['workers']);
});
