/** @jest-environment <rootDir>/jest.page.cjs */
import { act } from '@testing-library/react';
import { useDesk } from '../state/desk-store';
import { trialLine } from '../state/testing';
import { useTrials } from '../state/trials-store';
import { completePage, shown } from '../testing';
import { useAbsentTrials } from './film-link';

beforeAll(completePage);
const [one, other] = [trialLine(1), trialLine(2)];
const pick = (line: { id: string }) => ({ kind: 'trial', id: line.id }) as const;

function Watching() {
  useAbsentTrials();
  return null;
}
const slots = () => [useDesk.getState().a, useDesk.getState().b];

beforeEach(() =>
  act(() => {
    useTrials.setState({ byId: new Map(), order: [], total: 0, complete: false });
    useDesk.getState().set({ a: pick(one), b: pick(other) });
    shown(<Watching />);
  }),
);

test('a trial that may still be on its way keeps its slot', () => {
  act(() => useTrials.getState().put([one], 900));
  expect(slots()).toEqual([pick(one), pick(other)]);
});

test('what a whole logbook does not have leaves its slot, in an empty one too', () => {
  act(() => useTrials.setState({ complete: true }));
  expect(slots()).toEqual([{ kind: 'live' }, null]);
});

test('what leaves the logbook leaves its slot, and no other', () => {
  act(() => useTrials.getState().put([one, other], 900));
  act(() => useTrials.getState().drop(other.id));
  expect(slots()).toEqual([pick(one), null]);
});
