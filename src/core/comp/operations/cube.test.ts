import { numbers } from '@/render/testing';
import type { Picture } from '../picture';
import { cutBy, type LookTable, readCube, TableError, table } from './cube';

const one = (r: number, g: number, b: number): Picture => ({
  width: 1,
  height: 1,
  planes: [r, g, b, 1].map((v) => Float32Array.of(v)) as unknown as Picture['planes'],
});
const through = (t: LookTable, r: number, g: number, b: number, encoding: 'linear' | 'srgb' = 'linear') =>
  table(one(r, g, b), { encoding }, t, 'Rec.709')
    .planes.slice(0, 3)
    .map((p) => p[0]);
/** A table of a function of three channels. */
const made = (size: number, f: (rgb: number[]) => number[]): LookTable => {
  const lines = [`LUT_3D_SIZE ${size}`];
  for (let b = 0; b < size; b++)
    for (let g = 0; g < size; g++)
      for (let r = 0; r < size; r++) lines.push(f([r, g, b].map((v) => v / (size - 1))).join(' '));
  return readCube(lines.join('\n'));
};
const close = (got: readonly number[], want: readonly number[], digits = 5) =>
  want.forEach((v, c) => {
    expect(got[c]).toBeCloseTo(v, digits);
  });

test('a table that changes nothing changes nothing; what is a sum of channels is exact in every tetrahedron', () => {
  const same = made(5, (rgb) => rgb);
  const mixed = made(4, ([r, g, b]) => [0.5 * r + 0.25 * g, 0.1 + 0.3 * b, r + g - b]);
  const next = numbers(11);
  for (let i = 0; i < 200; i++) {
    const [r, g, b] = [next(), next(), next()];
    close(through(same, r, g, b), [r, g, b]);
    close(through(same, r, g, b, 'srgb'), [r, g, b]);
    close(through(mixed, r, g, b), [0.5 * r + 0.25 * g, 0.1 + 0.3 * b, r + g - b]);
  }
});

test('between corners it goes by the tetrahedron, not by all eight', () => {
  // 1 at the far corner alone: along the tetrahedron the least of the three counts.
  const far = made(2, ([r, g, b]) => Array(3).fill(r * g * b));
  expect(through(far, 0.5, 0.75, 0.25)[0]).toBeCloseTo(0.25, 6);
});

test('one axis a channel, ends of its own, and what lies beyond them', () => {
  const t = readCube(
    'TITLE "Harbour dusk"\n# grey\nLUT_1D_SIZE 3\nDOMAIN_MIN 0 0 0\nDOMAIN_MAX 2 2 2\n0 0 0\n0.5 1 0\n1 1 0.25\n',
  );
  close(through(t, 0.5, 1.5, 2), [0.25, 1, 0.25]);
  close(through(t, -1, 9, 9), [0, 1, 0.25]);
  expect(cutBy(one(-1, 1, 9), { encoding: 'linear' }, t, 'Rec.709')).toBe(2);
});

test.each([
  ['LUT_3D_SIZE 1', /line 1: a size from 2/],
  ['0 0 0', /line 1: values before the size/],
  ['LUT_1D_SIZE 2\n0 0 0', /1 of 2 entries/],
  ['LUT_1D_SIZE 2\n0 0 0\n1 1 1\n1 1 1', /line 4: more than 2/],
  ['LUT_1D_SIZE 2\n0 0\n1 1 1', /line 2: three numbers/],
  ['LUT_1D_SIZE 2\nLUT_3D_SIZE 2', /told twice/],
  ['LUT_1D_SIZE 2\nDOMAIN_MIN 1 1 1\n0 0 0\n1 1 1', /wrong way round/],
  ['LUT_1D_SIZE 2\nSHAPER 3', /SHAPER is not known/],
  ['', /tells no size/],
])('%j is refused by its line', (text, why) => {
  expect(() => readCube(text)).toThrow(TableError);
  expect(() => readCube(text)).toThrow(why);
});
