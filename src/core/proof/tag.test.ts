import { numbers } from '@/render/testing';
import { between, planesThrough, SPACE_NAMES } from '../image';
import { mistaken } from './tag';

const size = { width: 120, height: 80 };
const COUNT = size.width * size.height;
const next = numbers(9);
/** Patches of colour with grain on them. */
function picture(grain: number) {
  const own = numbers(4);
  const hues = Array.from({ length: 24 }, () => [own(), own(), own()]);
  return [0, 1, 2].map((c) =>
    Float32Array.from({ length: COUNT }, (_, i) => {
      const [x, y] = [i % size.width, Math.floor(i / size.width)];
      const patch = Math.floor(x / 20) + 6 * Math.floor(y / 20);
      return hues[patch % 24][c] * (1 + grain * (next() - 0.5));
    }),
  );
}
const truth = picture(0);

test.each(SPACE_NAMES.flatMap((is) => SPACE_NAMES.filter((s) => s !== is).map((told) => [is, told] as const)))(
  'light in %s that is read as %s is noticed, through noise and at another exposure',
  (is, told) => {
    const stored = planesThrough(picture(0.1), between('Rec.709', is)).map((p) => p.map((v) => v * 2.3));
    const read = planesThrough(stored, between(told, 'Rec.709'));
    const found = mistaken(read, truth, size, told);
    // The primaries of these two lie so near each other that taking one for the other hardly shows.
    const areAlike = [is, told].every((s) => s === 'ACEScg' || s === 'Rec.2020');
    if (areAlike && found === null) return;
    expect(found?.space).toBe(is);
    expect(found!.left).toBeLessThan(0.02);
    expect(found!.before).toBeGreaterThan(3 * found!.left);
  },
);

test('what is right, grey, or another picture is not called mistaken', () => {
  expect(mistaken(picture(0.3), truth, size, 'Rec.709')).toBeNull();
  const grey = [truth[1], truth[1], truth[1]];
  expect(mistaken(grey, grey, size, 'ACEScg')).toBeNull();
  const other = truth.map((p) => p.slice().reverse());
  expect(mistaken(other, truth, size, 'Rec.709')).toBeNull();
  expect(
    mistaken(
      truth,
      truth.map((p) => p.map(() => 0)),
      size,
      'Rec.709',
    ),
  ).toBeNull();
});
