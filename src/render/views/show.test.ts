import type { Factors, FilmLayers, Layer } from '@/core/film';
import { displayValue } from '@/core/image';
import { layersFor, show } from './show';

const WIDTH = 32;
const HEIGHT = 16;
const SIZE = WIDTH * HEIGHT;

function plane(value: number | ((i: number) => number)): Float32Array {
  return Float32Array.from({ length: SIZE }, (_, i) => (typeof value === 'number' ? value : value(i)));
}

function film(...layers: [name: string, planes: Float32Array[], channels?: string[]][]): FilmLayers {
  return {
    width: WIDTH,
    height: HEIGHT,
    layers: new Map(
      layers.map(([name, planes, channels]): [string, Layer] => [
        name,
        { name, planes, channels: channels ?? ['R', 'G', 'B'].slice(0, planes.length), kind: 'color' },
      ]),
    ),
  };
}

const grey = (v: number | ((i: number) => number)) => [plane(v), plane(v), plane(v)];
const pixel = (pixels: Uint8ClampedArray, i: number) => Array.from(pixels.subarray(i * 4, i * 4 + 4));

describe('a colour layer', () => {
  test('is exposed, goes through the display transform and is opaque', () => {
    const shown = show(film(['beauty', grey((i) => i / 100)]), { kind: 'color', layer: 'beauty' }, 2, null)!;
    for (const i of [0, 10, 25, 100, 400]) {
      const [r, g, b, a] = pixel(shown.pixels, i);
      expect(Math.abs(r - displayValue(i / 100, 2) * 255)).toBeLessThan(1.5);
      expect([g, b, a]).toEqual([r, r, 255]);
    }
    expect(shown.legend).toBeNull();
  });

  test('is null when the film lacks it', () => {
    expect(show(film(['beauty', grey(1)]), { kind: 'color', layer: 'group.lamp' }, 1, null)).toBeNull();
  });
});

describe('a relit picture', () => {
  const two = film(['group.lamp', [plane(0.2), plane(0), plane(0)]], ['group.sky', [plane(0), plane(0), plane(0.1)]]);
  const view = (factors: Factors) => ({ kind: 'relit' as const, groups: ['lamp', 'sky'], factors });

  test('adds the groups with their gains', () => {
    const [r, , b] = pixel(show(two, view({ lamp: [2, 2, 2] }), 1, null)!.pixels, 7);
    expect(Math.abs(r - displayValue(0.4, 1) * 255)).toBeLessThan(1.5);
    expect(Math.abs(b - displayValue(0.1, 1) * 255)).toBeLessThan(1.5);
  });

  test('what is black is gone', () => {
    const [r, , b] = pixel(show(two, view({ lamp: [0, 0, 0] }), 1, null)!.pixels, 7);
    expect(r).toBe(0);
    expect(b).toBeGreaterThan(0);
  });
});

test('what is beyond white is hatched of the mix that is shown, not of the film', () => {
  const two = film(
    ['beauty', [plane(0.4), plane(0.4), plane(0.4)]],
    ['group.lamp', [plane(0.3), plane(0.3), plane(0.3)]],
    ['group.sky', [plane(0.1), plane(0.1), plane(0.1)]],
  );
  const dark = (view: Parameters<typeof show>[1]) =>
    show(two, view, 1, null)!.pixels.filter((v, i) => i % 4 === 0 && v === 20).length / SIZE;
  expect(dark({ kind: 'clipped' })).toBe(0);
  const mix = { groups: ['lamp', 'sky'], factors: { lamp: [8, 8, 8] as const } };
  expect(layersFor({ kind: 'clipped', mix }, [])).toEqual(['group.lamp', 'group.sky']);
  expect(dark({ kind: 'clipped', mix })).toBeCloseTo(3 / 8, 2);
});

describe('data', () => {
  test('depth takes its range from the finite values, and a dragged range is kept', () => {
    const z = plane((i) => (i < 32 ? Infinity : 2 + i / SIZE));
    const f = film(['depth', [z], ['Z']]);
    const auto = show(f, { kind: 'data', layer: 'depth', range: null }, 1, null)!;
    expect(auto.legend!.unit).toBe('m');
    expect(auto.legend!.dataLow).toBeCloseTo(2 + 32 / SIZE, 5);
    expect(auto.legend!.dataHigh).toBeCloseTo(2 + (SIZE - 1) / SIZE, 5);
    expect(auto.legend!.low).toBeGreaterThanOrEqual(auto.legend!.dataLow);
    expect(auto.legend!.high).toBeLessThanOrEqual(auto.legend!.dataHigh);
    const dragged = show(f, { kind: 'data', layer: 'depth', range: [0, 10] }, 1, null)!;
    expect([dragged.legend!.low, dragged.legend!.high]).toEqual([0, 10]);
    // Infinity paints as the far end of the scale, never as a hole.
    expect(pixel(auto.pixels, 0)).toEqual([0xfd, 0xe7, 0x25, 255]);
  });

  test('exposure leaves data alone', () => {
    const f = film(['alpha', [plane((i) => i / SIZE)], ['A']]);
    const view = { kind: 'data' as const, layer: 'alpha', range: null };
    expect(show(f, view, 64, null)!.pixels).toEqual(show(f, view, 1, null)!.pixels);
  });

  test('a normal of +Z paints as half, half, full', () => {
    const f = film(['N', [plane(0), plane(0), plane(1)], ['X', 'Y', 'Z']]);
    expect(pixel(show(f, { kind: 'data', layer: 'N', range: null }, 1, null)!.pixels, 3)).toEqual([128, 128, 255, 255]);
  });

  test('coverage mixes the colours of what shares a pixel by their shares', () => {
    const ids = [plane(1), plane(2)];
    const shares = [plane(0.75), plane(0.25)];
    const pure = film(['coverage', [ids[0], plane(1)], ['id0', 'share0']]);
    const mixed = film(['coverage', [ids[0], shares[0], ids[1], shares[1]], ['id0', 'share0', 'id1', 'share1']]);
    const other = film(['coverage', [ids[1], plane(1)], ['id0', 'share0']]);
    const at = (f: FilmLayers) => pixel(show(f, { kind: 'data', layer: 'coverage', range: null }, 1, null)!.pixels, 9);
    const [p, q, m] = [at(pure), at(other), at(mixed)];
    expect(p).not.toEqual(q);
    for (const c of [0, 1, 2]) expect(Math.abs(m[c] - (0.75 * p[c] + 0.25 * q[c]))).toBeLessThan(1.5);
  });
});

describe('measures of a film', () => {
  test('noise paints nothing where the halves agree and most where they differ', () => {
    const even = grey(0.2);
    const odd = grey((i) => (i % WIDTH < 16 ? 0.2 : 0.2 + 0.05 * ((i % 2) * 2 - 1)));
    const shown = show(film(['half_a', even], ['half_b', odd]), { kind: 'noise', of: null }, 1, null)!;
    const level = (i: number) =>
      pixel(shown.pixels, i)
        .slice(0, 3)
        .reduce((a, b) => a + b, 0);
    expect(level(8 * WIDTH + 2)).toBeLessThan(level(8 * WIDTH + 28));
    expect(shown.legend).toMatchObject({ unit: '% of white', low: 0, dataLow: 0 });
  });

  test('the noise of one group is where its own halves differ, weighed at the whole picture’s brightness', () => {
    const odd = (share: number) => grey((i) => (i % WIDTH < 16 ? 0.1 : 0.1 + share * ((i % 2) * 2 - 1)));
    const groups = (rest: number) =>
      film(
        ['beauty', grey(0.1 + rest)],
        ['group.lamp', grey(0.1)],
        ['half_a.lamp', odd(0.02)],
        ['half_b.lamp', odd(-0.02)],
        ['half_a', grey((i) => 0.1 + rest + (i % 2) * 0.05)],
        ['half_b', grey(0.1 + rest)],
      );
    const of = (f: FilmLayers) => show(f, { kind: 'noise', of: 'lamp' }, 1, null)!;
    const dim = of(groups(0.05));
    expect(pixel(dim.pixels, 8 * WIDTH + 2)).toEqual(pixel(of(groups(0.05)).pixels, 8 * WIDTH + 3));
    expect(dim.legend!.title).toBe('Noise of lamp');
    // Beside more light of others the same grain shows less.
    expect(of(groups(0.4)).legend!.dataHigh).toBeLessThan(dim.legend!.dataHigh);
    expect(show(groups(0.05), { kind: 'noise', of: 'stove' }, 1, null)).toBeNull();
  });

  test('a second film can be read on the scale of the first', () => {
    const quiet = film(['half_a', grey(0.2)], ['half_b', grey((i) => 0.2 + (i % 2) * 0.01)]);
    const loud = film(['half_a', grey(0.2)], ['half_b', grey((i) => 0.2 + (i % 2) * 0.05)]);
    const own = show(quiet, { kind: 'noise', of: null }, 1, null)!.legend!;
    const level = (f: FilmLayers, scale: [number, number] | null) =>
      pixel(show(f, { kind: 'noise', of: null }, 1, null, scale)!.pixels, 200)[0];
    expect(show(loud, { kind: 'noise', of: null }, 1, null, [own.low, own.high])!.legend).toMatchObject({
      high: own.high,
    });
    const loudEnds = show(loud, { kind: 'noise', of: null }, 1, null)!.legend!;
    expect(level(quiet, [0, loudEnds.high])).toBeLessThan(level(loud, [0, loudEnds.high]));
    const depth = film(['depth', [plane((i) => i)], ['Z']]);
    const view = { kind: 'data' as const, layer: 'depth', range: null };
    expect(show(depth, view, 1, null, [3, 7])!.legend).toMatchObject({ low: 3, high: 7 });
  });

  test('a difference is amber where A is brighter, cyan where B is, dark where they agree', () => {
    const a = film(['beauty', grey((i) => (i % 3 === 0 ? 0.4 : 0.2))]);
    const b = film(['beauty', grey((i) => (i % 3 === 1 ? 0.4 : 0.2))]);
    const shown = show(a, { kind: 'difference', gain: null }, 1, b)!;
    const [r0, , b0] = pixel(shown.pixels, 0);
    const [r1, , b1] = pixel(shown.pixels, 1);
    expect(r0).toBeGreaterThan(b0);
    expect(b1).toBeGreaterThan(r1);
    expect(pixel(shown.pixels, 2)).toEqual([20, 20, 20, 255]);
    expect(shown.legend!.low).toBe(-shown.legend!.high);
    const want = (displayValue(0.4, 1) - displayValue(0.2, 1)) * 100;
    expect(shown.legend!.dataHigh).toBeCloseTo(want, 3);
    expect(shown.legend!.dataLow).toBeCloseTo(-want, 3);
  });

  test('a difference needs two films of one size', () => {
    const a = film(['beauty', grey(1)]);
    // At a gain of 10 the scale ends at a tenth of white, whatever there is.
    expect(show(a, { kind: 'difference', gain: 10 }, 1, film(['beauty', grey(0)]))!.legend).toMatchObject({
      low: -10,
      high: 10,
    });
    expect(show(a, { kind: 'difference', gain: null }, 1, null)).toBeNull();
    expect(show(a, { kind: 'difference', gain: null }, 1, { ...a, width: WIDTH * 2 })).toBeNull();
  });

  test('a tally paints the error by its power of ten', () => {
    const f = film(['beauty', grey(1)], ['group.lamp', grey((i) => (i === 5 ? 0.501 : 0.5))], ['group.sky', grey(0.5)]);
    const shown = show(f, { kind: 'tally', parting: 'group' }, 1, null)!;
    expect(shown.legend!.dataHigh).toBeCloseTo(-3, 2);
    expect(pixel(shown.pixels, 5)).not.toEqual(pixel(shown.pixels, 6));
    expect(show(f, { kind: 'tally', parting: 'class' }, 1, null)).toBeNull();
  });

  test('cost reads in µs a pixel from 0', () => {
    const shown = show(film(['cost', [plane((i) => (i < SIZE / 2 ? 3 : 9))]]), { kind: 'cost' }, 1, null)!;
    expect(shown.legend).toMatchObject({ unit: 'µs a pixel', low: 0, high: 9, dataLow: 3, dataHigh: 9 });
  });
});

test.each([
  [{ kind: 'color', layer: 'albedo' } as const, ['albedo']],
  [{ kind: 'relit', groups: ['lamp', 'sky'], factors: {} } as const, ['group.lamp', 'group.sky']],
  [{ kind: 'noise', of: null } as const, ['half_a', 'half_b']],
  [{ kind: 'noise', of: 'lamp' } as const, ['beauty', 'group.lamp', 'half_a.lamp', 'half_b.lamp']],
  [{ kind: 'cost' } as const, ['cost']],
  [{ kind: 'tally', parting: 'class' } as const, ['beauty', 'class.caustic']],
  [{ kind: 'difference', gain: null } as const, ['beauty']],
])('only the layers a view needs are asked for: %j', (view, names) => {
  expect(layersFor(view as never, ['group.lamp', 'class.caustic'])).toEqual(names);
});

describe('what an output writes of a family', () => {
  const parts = film(['beauty', grey(0.5)], ['group.lamp', grey(0.2)], ['group.sky', grey(0.3)]);
  const of = { kind: 'chosen' as const, family: 'group' as const, of: ['beauty', 'group.lamp'] };
  const shownAs = (v: number) =>
    pixel(show(film(['beauty', grey(v)]), { kind: 'color', layer: 'beauty' }, 1, null)!.pixels, 5);

  test('is summed, or is what is left of the picture beside it', () => {
    const [sum, rest] = (['sum', 'rest'] as const).map((what) => show(parts, { ...of, what }, 1, null)!.pixels);
    expect(pixel(sum, 5)).toEqual(shownAs(0.2));
    expect(pixel(rest, 5)).toEqual(shownAs(0.3));
  });

  test('asks for the picture and for no part that is not written', () => {
    expect(layersFor({ ...of, what: 'rest' }, ['beauty', 'group.lamp', 'group.sky'])).toEqual(['beauty', 'group.lamp']);
  });
});

describe('what a mask picks', () => {
  const left = plane((i) => (i % WIDTH < WIDTH / 2 ? 1 : 2));
  const own = film(['beauty', grey(0.5)], ['coverage', [left, plane(1)], ['id0', 'share0']]);
  const pixels = show(
    own,
    { kind: 'picked', masking: { picked: { numbers: [1], names: ['hull'] }, ramp: null } },
    1,
    null,
  )!.pixels;

  test('keeps its light; the rest is dimmed', () => {
    expect(pixels[4]).toBe(show(own, { kind: 'color', layer: 'beauty' }, 1, null)!.pixels[4]);
    expect(pixels[(WIDTH - 1) * 4]).toBeLessThan(pixels[4] / 2);
  });

  test('has an edge: dark within, light without', () => {
    expect(pixel(pixels, WIDTH / 2 - 1)).toEqual([0, 0, 0, 255]);
    expect(pixel(pixels, WIDTH / 2)).toEqual([255, 255, 255, 255]);
  });
});

test('things are shown by their role: rendered as they are, what casts striped, what catches crossed, all else dark', () => {
  const quarter = plane((i) => 1 + Math.floor(((i % WIDTH) * 4) / WIDTH));
  const own = film(['beauty', grey(0.5)], ['coverage', [quarter, plane(1)], ['id0', 'share0']]);
  const picked = (n: number) => ({ numbers: [n], names: [`thing ${n}`] });
  const roles = { receivers: picked(1), casters: picked(2), catchers: picked(3) };
  const { pixels } = show(own, { kind: 'roles', roles }, 1, null)!;
  const plain = show(own, { kind: 'color', layer: 'beauty' }, 1, null)!.pixels;
  /** Colours of a quarter of the picture, without its edges. */
  const colours = (n: number) => {
    const out = new Map<string, number>();
    for (let i = 0; i < plain.length / 4; i++) {
      const x = i % WIDTH;
      if (x <= ((n - 1) * WIDTH) / 4 || x >= (n * WIDTH) / 4 - 1) continue;
      const c = pixel(pixels, i).join();
      out.set(c, (out.get(c) ?? 0) + 1);
    }
    return out;
  };
  expect([...colours(1).keys()]).toEqual([pixel(plain, 0).join()]);
  const [casts, catches] = [colours(2), colours(3)].map((c) => [...c.values()].sort((a, b) => b - a));
  expect([casts.length, catches.length]).toEqual([2, 2]);
  // Stripes along both diagonals cover about twice of what those along one do.
  expect(catches[1]).toBeGreaterThan(1.4 * casts[1]);
  expect(colours(4).size).toBe(1);
  expect(Number([...colours(4).keys()][0].split(',')[0])).toBeLessThan(plain[0] / 4);
});
