import fc from 'fast-check';
import { shortened } from './shortened';

test('a text that fits stays, a longer one keeps both ends', () => {
  expect(shortened('light samples 1 → 4', 19)).toBe('light samples 1 → 4');
  const long = shortened('diffuse splits 1 → 4, transmission depth 12 → 28', 40);
  expect(long).toMatch(/^diffuse splits 1/);
  expect(long).toMatch(/12 → 28$/);
});

test('never longer than asked, and never ending in what stands for the rest', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'grapheme', maxLength: 80 }), fc.integer({ min: 5, max: 60 }), (text, most) => {
      const s = shortened(text, most);
      expect(Array.from(s.replaceAll('\u2060', '')).length).toBeLessThanOrEqual(most);
      if (Array.from(text).length > most && !text.endsWith('…')) expect(s.slice(0, -1)).toContain('…');
    }),
    { seed: 11 },
  );
});

test('whole words are kept, as many of both ends as there is room for', () => {
  const seen = (text: string, most: number) => shortened(text, most).replaceAll('\u2060', '');
  const text = 'light samples 2 → 1, later outlier limit 1 → 2';
  expect(seen(text, 42)).toBe('light samples 2 → 1, …outlier limit 1 → 2');
  expect(seen(text, 20)).toBe('light samples …1 → 2');
  expect(seen('lantern-room-at-the-last-light', 12)).toBe('lante …light');
});

test('a line may break before what stands for the rest, and does not end in it', () => {
  const words = shortened('light samples 2 → 1, later outlier limit 1 → 2', 40).split(' ');
  expect(words.filter((w) => w.includes('…')).every((w) => w.length > 1 && w.startsWith('…'))).toBe(true);
});
