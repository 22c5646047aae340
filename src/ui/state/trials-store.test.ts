import { trialLine } from './testing';
import { trialsOf, useTrials } from './trials-store';

const store = () => useTrials.getState();
const numbers = () => trialsOf(store()).map((t) => t.number);

beforeEach(() => useTrials.setState({ byId: new Map(), order: [], total: 0 }));

test('pages come in any order and are listed newest first, each trial once', () => {
  store().put([trialLine(5), trialLine(4)], 5);
  store().put([trialLine(3), trialLine(2), trialLine(1)], 5);
  store().put([trialLine(4, { title: 'again' })], 5);
  expect(numbers()).toEqual([5, 4, 3, 2, 1]);
  expect(store()).toMatchObject({ total: 5 });
  expect(trialsOf(store())[1].title).toBe('again');
});

test('a change of one trial leaves the list and all others what they were', () => {
  store().put([trialLine(3), trialLine(2, { state: 'rendering' }), trialLine(1)]);
  const { order, byId } = store();
  store().progress(trialLine(2).id, { fraction: 0.5, leftMs: 900, preview: 4 });
  expect(store().order).toBe(order);
  expect(store().byId.get(trialLine(3).id)).toBe(byId.get(trialLine(3).id));
  expect(store().byId.get(trialLine(2).id)).toMatchObject({ fraction: 0.5, leftMs: 900, preview: 4 });
  store().put([trialLine(2, { state: 'done' })]);
  expect(store().order).toBe(order);
  // A late word of progress changes nothing of a finished one, nor makes one that is not here.
  store().progress(trialLine(2).id, { fraction: 0.6, leftMs: 1, preview: 9 });
  store().progress(trialLine(9).id, { fraction: 0.6, leftMs: 1, preview: 9 });
  expect(store().byId.get(trialLine(2).id)).toMatchObject({ fraction: 1, preview: 4 });
  expect(numbers()).toEqual([3, 2, 1]);
});

test('one that is taken out leaves, and comes back where it was', () => {
  store().put([trialLine(3), trialLine(2), trialLine(1)]);
  store().drop(trialLine(2).id);
  store().drop(trialLine(2).id);
  expect([numbers(), store().total]).toEqual([[3, 1], 2]);
  store().put([trialLine(2)]);
  expect([numbers(), store().total]).toEqual([[3, 2, 1], 3]);
});
