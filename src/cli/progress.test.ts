import { progressTeller } from './progress';

const told = (isTerminal: boolean) => {
  const lines: string[] = [];
  const tell = progressTeller({ write: (t) => lines.push(t) }, isTerminal);
  for (let s = 0; s <= 30; s++) tell({ fraction: s / 30, elapsedMs: s * 1000 });
  return lines;
};

test('without a terminal there is a line every ten seconds, and one at the end', () => {
  expect(told(false)).toEqual([' 33 %  10 s  20 s left\n', ' 67 %  20 s  10 s left\n', '100 %  30 s\n']);
});

test('a short render writes nothing where there is no terminal', () => {
  const lines: string[] = [];
  const tell = progressTeller({ write: (t) => lines.push(t) }, false);
  for (const fraction of [0, 0.5, 1]) tell({ fraction, elapsedMs: fraction * 4000 });
  expect(lines).toEqual([]);
});

test('in a terminal one line is written over itself', () => {
  const lines = told(true);
  expect(lines).toHaveLength(31);
  expect(lines.every((l) => l.startsWith('\r') && !l.includes('\n'))).toBe(true);
});
