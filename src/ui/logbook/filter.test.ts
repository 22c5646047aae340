import { parseRecipe } from '@/core/recipe';
import { trialLine } from '../state/testing';
import { filtered } from './filter';

const trial = (number: number, change: Parameters<typeof trialLine>[1] = {}, recipe = parseRecipe({ name: 'Check' })) =>
  trialLine(number, { title: 'light samples 1 → 2', camera: 'desk cam', ...change }, recipe);

const trials = [
  trial(4, { starred: true, note: 'too dark by the stair' }),
  trial(3, { state: 'stopped', frame: 12 }),
  trial(2, { ladder: { id: 'x', at: [{ label: 'fog density', value: 0.1 }] }, title: 'fog density 0.1' }),
  trial(1, {}, parseRecipe({ name: 'Final', region: { x: 0, y: 0, w: 0.5, h: 0.5 } })),
];
const numbers = (text: string, starred = false) => filtered(trials, text, starred).map((t) => t.number);

test.each([
  ['', [4, 3, 2, 1]],
  ['stair', [4]],
  ['STAIR dark', [4]],
  ['stair ladder', []],
  ['stopped', [3]],
  ['f12', [3]],
  ['ladder fog', [2]],
  ['final', [1]],
  ['region', [1]],
  ['02', [2]],
])('“%s” keeps %j', (text, expected) => {
  expect(numbers(text as string)).toEqual(expected);
});

test('starred ones alone, and of them those that the words keep', () => {
  expect(numbers('', true)).toEqual([4]);
  expect(numbers('fog', true)).toEqual([]);
});
