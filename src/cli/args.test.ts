import fc from 'fast-check';
import { one, parseArguments, UsageError, wholeNumber } from './args';

const ALLOWED = { out: 'value', set: 'values', threads: 'value' } as const;

test('positional arguments and options in any order', () => {
  const a = parseArguments(['room', '--set', 'a=1', 'b=2', '--out', 'x.exr', '--set', 'c=3'], ALLOWED);
  expect(a.positional).toEqual(['room']);
  expect(one(a, 'out')).toBe('x.exr');
  expect(a.options.get('set')).toEqual(['a=1', 'b=2', 'c=3']);
  expect(one(a, 'threads')).toBeUndefined();
});

test('a value may be joined to its option, be negative, or be a lone dash', () => {
  const a = parseArguments(['--out=-', '--threads', '-3', '--set=a=1', 'b=2'], ALLOWED);
  expect([one(a, 'out'), one(a, 'threads'), a.options.get('set')]).toEqual(['-', '-3', ['a=1', 'b=2']]);
});

test.each([
  [['-x'], '-x is not an option here; these are: --out, --set, --threads'],
  [['--bogus', '1'], '--bogus is not an option here'],
  [['--constructor', '1'], '--constructor is not an option here'],
  [['--out'], '--out needs a value'],
  [['--out', '--set'], '--out needs a value'],
  [['--out', 'a', '--out', 'b'], '--out is given twice'],
])('%j is refused: %s', (argv, words) => {
  expect(() => parseArguments(argv, ALLOWED)).toThrow(UsageError);
  expect(() => parseArguments(argv, ALLOWED)).toThrow(words);
});

test('every argument is used exactly once, or the line is refused', () => {
  const word = fc.stringMatching(/^[a-z]{1,4}$/);
  fc.assert(
    fc.property(fc.array(fc.oneof(word, fc.constantFrom('--out', '--set', '--threads')), { maxLength: 9 }), (argv) => {
      let parsed: ReturnType<typeof parseArguments>;
      try {
        parsed = parseArguments(argv, ALLOWED);
      } catch (error) {
        expect(error).toBeInstanceOf(UsageError);
        return;
      }
      const values = [...parsed.positional, ...[...parsed.options.values()].flat()];
      expect(values.sort()).toEqual(argv.filter((a) => !a.startsWith('--')).sort());
    }),
    { numRuns: 300, seed: 9 },
  );
});

test.each(['0', '65', '2.5', 'two', '', '1e9'])('--threads %j is refused with the range', (text) => {
  const a = parseArguments(['--threads', text], ALLOWED);
  expect(() => wholeNumber(a, 'threads', 1, 64)).toThrow('must be a whole number from 1 to 64');
});

test('a whole number within its range is taken', () => {
  expect(wholeNumber(parseArguments(['--threads', '64'], ALLOWED), 'threads', 1, 64)).toBe(64);
  expect(wholeNumber(parseArguments([], ALLOWED), 'threads', 1, 64)).toBeUndefined();
});
