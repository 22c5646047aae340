import { progressTeller } from './progress';

const told = (isTerminal: boolean) => {
  const lines: string[] = [];
  const tell = progressTeller({ write: (t) => lines.push(t) }, isTerminal);
  for (let s = 0; s <= 30; s++) tell({ fraction: s / 30, elapsedMs: s * 1000 });
  return lines;
};

test('without a terminal there is a line every ten seconds, and one at the end', () => {
  expect(told(false)).toEqual([
    '  0 %  0 s\n',
    ' 33 %  10 s  20 s left\n',
    ' 67 %  20 s  10 s left\n',
    '100 %  30 s\n',
  ]);
});

test('in a terminal one line is written over itself', () => {
  const lines = told(true);
  expect(lines).toHaveLength(31);
  expect(lines.every((l) => l.startsWith('\r') && !l.includes('\n'))).toBe(true);
});
