import { bytes, clock, count, linear, percent, share, words } from '.';

test.each([
  [0.1234, '0.12 %'],
  [9.999, '10.00 %'],
  [12.34, '12.3 %'],
  [null, '–'],
  [Number.NaN, '–'],
])('noise %p reads %s', (v, text) => expect(percent(v)).toBe(text));

test.each([
  [0.4567, '46%'],
  [0.001, '<1%'],
  [-0.02, '-2%'],
  [0, '0%'],
  [undefined, '–'],
])('a share of %p reads %s', (v, text) => expect(share(v)).toBe(text));

test.each([
  [0, '0.0 s'],
  [9.94, '9.9 s'],
  [107.6, '1:48'],
  [59.9, '1:00'],
  [3723, '1:02:03'],
  [null, '–'],
  [Infinity, '–'],
])('%p seconds read %s', (v, text) => expect(clock(v)).toBe(text));

test.each([
  [7, '7'],
  [7.25, '7.3'],
  [999, '999'],
  [12_345, '12.3 k'],
  [345_678, '346 k'],
  [12_345_678, '12.3 M'],
  [2.5e9, '2.5 G'],
  [null, '–'],
])('a count of %p reads %s', (v, text) => expect(count(v)).toBe(text));

test.each([
  [4_000, '4 kB'],
  [84_000_000, '84 MB'],
  [20e9, '20.0 GB'],
])('%p bytes read %s', (v, text) => expect(bytes(v)).toBe(text));

test.each([
  [0.12345, '0.123'],
  [0.00321, '0.0032'],
  [0, '0'],
  [-1.23456, '-1.23'],
  [1234.5, '1234.5'],
  [Infinity, '∞'],
  [-Infinity, '–'],
])('a linear %p reads %s', (v, text) => expect(linear(v)).toBe(text));

test('names lose their underscores', () => expect(words('night_sky_glow')).toBe('night sky glow'));
