import { numbers } from '@/render/testing';
import { applied, between, encodeSrgb, type Matrix, SPACE_NAMES } from '../image';
import { type Cause, causesOf, causeWords } from '.';
import { blurred } from './glow';
import type { PartOf } from './sums';

const [WIDTH, HEIGHT] = [96, 72];
const SIZE = WIDTH * HEIGHT;

/** Five lights of a room: each its own colour, place and grain; one is seen itself, and is far above white. */
function lights(seed: number): PartOf[] {
  const next = numbers(seed);
  return ['sky', 'lamp', 'stove', 'sign', 'door'].map((name, k) => {
    const [u, v, size] = [next() * WIDTH, next() * HEIGHT, 6 + next() * 25];
    const colour = [0.3 + next(), 0.3 + next(), 0.3 + next()];
    const texture = [0.05 + next() * 0.3, 0.05 + next() * 0.3];
    const planes = colour.map((w) => {
      const plane = new Float32Array(SIZE);
      for (let i = 0; i < SIZE; i++) {
        const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
        const d = Math.hypot(x - u, y - v);
        const seen = name === 'lamp' && d < 3 ? 12 : 0;
        const surface = 0.6 + 0.4 * Math.sin(x * texture[0] + k) * Math.sin(y * texture[1]);
        const grain = 0.7 + 0.6 * next();
        plane[i] = w * (seen + (surface * grain * 0.7) / (1 + (d / size) ** 2));
      }
      return plane;
    });
    return { name: `group.${name}`, planes };
  });
}

const sumOf = (parts: readonly PartOf[]): Float32Array[] =>
  [0, 1, 2].map((c) =>
    Float32Array.from({ length: SIZE }, (_, i) => parts.reduce((sum, p) => sum + p.planes[c][i], 0)),
  );
const mapped = (planes: readonly Float32Array[], f: (v: number) => number) => planes.map((p) => p.map(f));
const through = (planes: readonly Float32Array[], m: Matrix) => {
  const out = planes.map((p) => new Float32Array(p.length));
  for (let i = 0; i < SIZE; i++)
    applied(
      m,
      planes.map((p) => p[i]),
    ).forEach((v, c) => {
      out[c][i] = v;
    });
  return out;
};
const held = (beauty: readonly Float32Array[], parts: readonly PartOf[]) => ({
  width: WIDTH,
  height: HEIGHT,
  beauty,
  parts,
});
const kinds = (causes: Cause[]) => causes.map((c) => c.kind);

const parts = lights(3);
const beauty = sumOf(parts);
const changed = (k: number, f: (planes: readonly Float32Array[]) => Float32Array[]) =>
  parts.map((p, i) => (i === k ? { ...p, planes: f(p.planes) } : p));

test('what adds up has no cause', () => {
  for (let seed = 1; seed <= 10; seed++) {
    const own = lights(seed);
    expect(causesOf(held(sumOf(own), own), [], 1e-5)).toEqual([]);
  }
});

test('a light that is left out is none of the faults, unless another layer holds it', () => {
  for (let k = 0; k < parts.length; k++) {
    const less = parts.filter((_, i) => i !== k);
    expect([k, causesOf(held(beauty, less), [], 1e-5)]).toEqual([k, []]);
    const other = { name: 'lamp_light', planes: parts[k].planes };
    expect(
      causesOf(held(beauty, less), [{ name: 'door_light', planes: parts[(k + 1) % parts.length].planes }, other], 1e-5),
    ).toEqual([{ kind: 'misnamed', layer: 'lamp_light' }]);
  }
});

test.each(SPACE_NAMES.filter((s) => s !== 'Rec.709'))(
  'a beauty or a part tagged %s is named with the pair',
  (space) => {
    const matrix = between('Rec.709', space);
    const [cause] = causesOf(held(through(beauty, matrix), parts), [], 1e-5);
    expect(cause).toMatchObject({ kind: 'matrix', layer: 'beauty', pair: ['Rec.709', space] });
    expect(causeWords(cause).repair).toBe(`read beauty as ${space}`);
    const [own] = causesOf(
      held(
        beauty,
        changed(2, (p) => through(p, matrix)),
      ),
      [],
      1e-5,
    );
    expect(own).toMatchObject({ kind: 'matrix', layer: 'group.stove', pair: ['Rec.709', space] });
  },
);

test('a matrix of no known pair is shown, a part or the beauty that is merely brighter is told by its factor', () => {
  const odd = [
    [0.8, 0.3, 0],
    [0.1, 0.9, 0],
    [0, 0.2, 0.7],
  ];
  expect(causesOf(held(through(beauty, odd), parts), [], 1e-5)).toMatchObject([{ kind: 'matrix', pair: null }]);
  const double = (p: readonly Float32Array[]) => mapped(p, (v) => v * 2);
  const [whole] = causesOf(held(double(beauty), parts), [], 1e-5) as { factor: number }[];
  expect(whole).toMatchObject({ kind: 'gain', layer: 'beauty' });
  expect(whole.factor).toBeCloseTo(2, 4);
  const [one] = causesOf(held(beauty, changed(1, double)), [], 1e-5) as { factor: number }[];
  expect(one).toMatchObject({ kind: 'gain', layer: 'group.lamp' });
  expect(one.factor).toBeCloseTo(2, 3);
  const without = sumOf(parts.filter((_, i) => i !== 4));
  expect(causesOf(held(without, parts), [], 1e-5)).toEqual([
    { kind: 'gain', layer: 'group.door', factor: Number.POSITIVE_INFINITY },
  ]);
});

test.each([
  ['beauty', held(mapped(beauty, encodeSrgb), parts)],
  [
    'parts',
    held(
      beauty,
      parts.map((p) => ({ ...p, planes: mapped(p.planes, encodeSrgb) })),
    ),
  ],
  [
    'all',
    held(
      mapped(beauty, encodeSrgb),
      parts.map((p) => ({ ...p, planes: mapped(p.planes, encodeSrgb) })),
    ),
  ],
])('a display curve in %s is named', (layers, it) => {
  expect(causesOf(it, [], 1e-5)).toEqual([{ kind: 'curve', layers, curve: 'sRGB' }]);
});

test('a beauty cut at white, of eight bits, or both with a curve', () => {
  const clamp = (v: number) => Math.min(1, v);
  const white = causesOf(held(mapped(beauty, clamp), parts), [], 1e-5);
  expect(white).toMatchObject([{ kind: 'ceiling', layers: ['beauty'], at: 1 }]);
  const cut = causesOf(
    held(
      beauty,
      changed(1, (p) => mapped(p, (v) => Math.min(2, v))),
    ),
    [],
    1e-5,
  );
  expect(cut).toMatchObject([{ kind: 'ceiling', layers: ['group.lamp'], at: 2 }]);
  const eight = (v: number) => Math.round(clamp(v) * 255) / 255;
  expect(kinds(causesOf(held(mapped(beauty, eight), parts), [], 1e-5))).toEqual(['ceiling', 'eight-bit']);
  const display = causesOf(
    held(
      mapped(beauty, (v) => eight(encodeSrgb(clamp(v)))),
      parts,
    ),
    [],
    1e-5,
  );
  expect(display).toMatchObject([
    { kind: 'curve', layers: 'beauty', curve: 'sRGB' },
    { kind: 'ceiling' },
    { kind: 'eight-bit' },
  ]);
});

test('values that half does not hold', () => {
  const over = changed(1, (p) => mapped(p, (v) => (v > 10 ? Infinity : v)));
  expect(causesOf(held(beauty, over), [], 4e-3)).toEqual([{ kind: 'overflow', layers: ['group.lamp'] }]);
});

test('a glow is known by its halos, narrow or wide, and its share is told', () => {
  for (const sigma of [3, 8, 20]) {
    const glowing = beauty.map((p) => {
      const soft = blurred(Float64Array.from(p), WIDTH, HEIGHT, sigma);
      return p.map((v, i) => v + 0.15 * soft[i]);
    });
    const [cause, ...more] = causesOf(held(glowing, parts), [], 1e-5) as { kind: string; share: number }[];
    expect([sigma, cause?.kind, more]).toEqual([sigma, 'glow', []]);
    expect(Math.abs(cause.share - 0.15)).toBeLessThan(0.05);
  }
});

test('every cause comes in words, in one line, with a repair', () => {
  const causes: Cause[] = [
    { kind: 'overflow', layers: ['group.lamp'] },
    { kind: 'ceiling', layers: ['beauty', 'group.lamp'], at: 1, share: 0.031 },
    { kind: 'eight-bit', layers: ['a', 'b', 'c', 'd', 'e'] },
    { kind: 'misnamed', layer: 'lamp' },
    { kind: 'gain', layer: 'group.lamp', factor: 2 },
    { kind: 'matrix', layer: 'beauty', matrix: between('Rec.709', 'ACEScg'), pair: ['Rec.709', 'ACEScg'] },
    { kind: 'curve', layers: 'all', curve: 'sRGB' },
    { kind: 'glow', share: 0.12 },
  ];
  expect(causes.map(causeWords).map(({ cause, repair }) => `${cause}: ${repair}`)).toMatchInlineSnapshot(`
[
  "group.lamp ends at the largest value of half, 65504, or became infinite: write it as float",
  "beauty, group.lamp are cut at 1, in 3.10 % of the pixels: write scene-linear values without a limit",
  "a, b, c and 2 more hold nothing but steps of eight bits: write half or float from the render itself",
  "what is missing is the layer lamp, which is not named as a part: give it a part’s name",
  "group.lamp is 2 times what it should be: multiply it by 0.5",
  "colours of beauty went through a constant matrix, that from Rec.709 to ACEScg: a wrong colour tag: read beauty as ACEScg",
  "all layers carry a curve for displays, sRGB: write scene-linear values, and leave the curve to the display",
  "the beauty has a glow around what is bright, 12.0 % of its light: add the glow after the parts are joined",
]
`);
});
