import fc from 'fast-check';
import { LAYER } from '../film';
import {
  checkStack,
  evaluate,
  keyFrames,
  type Picture,
  type Sources,
  type Stack,
  StackError,
  stackAt,
  WAYS,
  wayOf,
} from '.';
import { join } from './reference/join';
import { shapeMask } from './shapes';

const picture = (pixels: readonly (readonly number[])[], width = pixels.length): Picture => ({
  width,
  height: pixels.length / width,
  planes: [0, 1, 2, 3].map((c) => Float32Array.from(pixels, (p) => p[c])) as unknown as Picture['planes'],
});
const pixels = ({ planes }: Picture) =>
  Array.from(planes[0], (_, i) => planes.map((p) => p[i])) as [number, number, number, number][];
const sourcesOf = (layers: Record<string, Picture>, data: Partial<Sources> = {}): Sources => {
  const [{ width, height }] = Object.values(layers);
  return {
    width,
    height,
    light: (s) => layers[s.from === 'film' ? s.layer : s.picture],
    mask: () => new Float32Array(width * height).fill(1),
    depth: () => new Float32Array(width * height),
    table: () => {
      throw new Error('no table');
    },
    ...data,
  };
};
const layer = (name: string, more: object = {}) => ({
  kind: 'layer',
  source: { from: 'film', film: 'a', layer: name },
  ...more,
});
const made = (entries: object[], sources: Sources, more: object = {}, frame = 1) =>
  evaluate(stackAt({ entries, ...more }, frame), sources);

describe('ways in which a layer joins what is below', () => {
  const B = [0.5, 0, 100, 1];
  const F = [0.25, 2, 0.5, 0.5];
  const at = (way: (typeof WAYS)[number], m: number) => pixels(join(picture([B]), picture([F]), way, m, null))[0];
  test.each<[(typeof WAYS)[number], number[], number[]]>([
    // Half, whole.
    ['over', [0.5 * 0.75 + 0.125, 1, 75.25, 1], [0.5 * 0.5 + 0.25, 2, 50.5, 1]],
    ['add', [0.625, 1, 100.25, 1], [0.75, 2, 100.5, 1]],
    ['subtract', [0.375, -1, 99.75, 1], [0.25, -2, 99.5, 1]],
    ['multiply', [0.5 * 0.625, 0, 75, 1], [0.125, 0, 50, 1]],
    ['divide', [0.8, 0, 100 / 0.75, 1], [2, 0, 200, 1]],
    ['screen', [0.5 + 0.5 * (0.25 - 0.125), 1, 100, 1], [0.625, 2, 100, 1]],
    ['shadow', [0.4375, 0, 75, 1], [0.375, 0, 50, 1]],
    ['occlude', [0.5 * 0.625, 0, 75, 1], [0.125, 0, 50, 1]],
  ])('%s at half and at all of it', (way, half, whole) => {
    const near = (got: number[], want: number[]) =>
      want.forEach((v, c) => {
        expect(got[c]).toBeCloseTo(v, 4);
      });
    expect(at(way, 0)).toEqual(B);
    near(at(way, 0.5), half);
    near(at(way, 1), whole);
  });

  test('a mask does to each pixel what the opacity does to all; what is black divides nothing', () => {
    const below = picture([B, B, B]);
    const above = picture([F, F, F]);
    const mask = Float32Array.from([0, 0.5, 1]);
    for (const way of WAYS) {
      const by = pixels(join(below, above, way, 1, mask));
      [0, 0.5, 1].forEach((m, i) => {
        expect(by[i]).toEqual(m === 0 ? B : at(way, m));
      });
    }
    expect(pixels(join(picture([B]), picture([[0, 0, 0, 1]]), 'divide', 1, null))[0]).toEqual(B);
  });

  test('screen is never below what goes in and has no step where it leaves 0 to 1', () => {
    const value = fc.float({ min: 0, max: 100, noNaN: true });
    fc.assert(
      fc.property(value, value, fc.float({ min: 0, max: 1, noNaN: true }), (b, f, m) => {
        const [[got]] = pixels(join(picture([[b, b, b, 1]]), picture([[f, f, f, 1]]), 'screen', m, null));
        expect(got).toBeGreaterThanOrEqual(b * (1 - 1e-6) - 1e-6);
        if (m === 1) expect(got).toBeGreaterThanOrEqual(f * (1 - 1e-6) - 1e-6);
      }),
      { seed: 3 },
    );
    const screened = (f: number) =>
      pixels(join(picture([[0.4, 0.4, 0.4, 1]]), picture([[f, f, f, 1]]), 'screen', 1, null))[0][0];
    expect(Math.abs(screened(1) - screened(1.0001))).toBeLessThan(2e-4);
  });
});

describe('a stack', () => {
  const beauty = picture([
    [0.5, 0.25, 0.125, 1],
    [4, 2, 1, 0.5],
  ]);
  const lamp = picture([
    [0.1, 0.2, 0.3, 1],
    [1, 1, 1, 0.5],
  ]);
  const sources = sourcesOf({
    beauty,
    'group.lamp': lamp,
    plate: picture([
      [1, 1, 1, 1],
      [1, 0, 0, 1],
    ]),
  });

  test('layers join by what they are: a picture over, parts added, openness and shadow holding back, data never', () => {
    const film = (name: string) =>
      wayOf({ from: 'film', film: 'a', layer: name, alpha: 'whole', reachMetres: null, mood: null });
    expect(
      ['beauty', LAYER.group('lamp'), 'class.caustic', 'occlusion', 'shadow', 'N', 'coverage', 'half_a'].map(film),
    ).toEqual(['over', 'add', 'add', 'occlude', 'shadow', null, null, null]);
    const refused = () => made([layer('beauty'), layer('depth')], sources);
    expect(refused).toThrow(StackError);
    expect(refused).toThrow(/entries\.1\.source: data never shows/);
  });

  test('what is neutral is the identity bit for bit, also through a nest', () => {
    const neutral = [
      { does: 'exposure' },
      { does: 'white' },
      { does: 'contrast' },
      { does: 'saturation' },
      { does: 'ranges' },
      { does: 'shoulder' },
      { does: 'vignette' },
      { does: 'soften' },
      { does: 'sharpen' },
      { does: 'glow' },
      { does: 'haze', film: 'a' },
    ];
    const out = made(
      [layer('beauty', { operations: neutral }), ...neutral.map((operation) => ({ kind: 'operation', operation }))],
      sources,
    );
    expect(pixels(out)).toEqual(pixels(beauty));
    const nested = made([{ kind: 'nest', entries: [layer('beauty')] }], sources);
    expect(pixels(nested)).toEqual(pixels(beauty));
    const off = made(
      [layer('beauty'), layer('group.lamp', { on: false }), layer('group.lamp', { opacity: 0 })],
      sources,
    );
    expect(pixels(off)).toEqual(pixels(beauty));
  });

  test('a plate under the picture shows where the picture is not', () => {
    const out = pixels(
      made([{ kind: 'layer', source: { from: 'picture', picture: 'plate' } }, layer('beauty')], sources),
    );
    expect(out).toEqual([
      [0.5, 0.25, 0.125, 1],
      [4.5, 2, 1, 1],
    ]);
  });

  test('numbers are set at frames: evenly between them, eased, held before and after; wrong ones are refused by their place', () => {
    const keys = (ease?: boolean) => ({
      keys: [
        { frame: 1, value: 0 },
        { frame: 5, value: 2 },
      ],
      ...(ease ? { ease } : {}),
    });
    const document = (ease?: boolean) => ({
      entries: [layer('beauty', { operations: [{ does: 'exposure', stops: keys(ease) }] })],
    });
    const stops = (frame: number, ease?: boolean) =>
      Math.log2(pixels(evaluate(stackAt(document(ease), frame), sources))[0][0] / 0.5);
    expect([-3, 1, 3, 5, 99].map((f) => stops(f))).toEqual([0, 0, 1, 2, 2]);
    expect(stops(2, true)).toBeCloseTo(2 * (3 / 16 - 2 / 64), 6);
    expect(keyFrames(document())).toEqual([1, 5]);
    expect(() => checkStack({ entries: [layer('beauty', { opacity: { keys: [{ frame: 3, value: 7 }] } })] })).toThrow(
      /entries\.0\.opacity/,
    );
    expect(() => checkStack({ entries: [layer('beauty', { mask: 'stones' })] })).toThrow(/no mask stones/);
    expect(() => checkStack({ entries: [layer('beauty', { operations: [{ does: 'blurr' }] })] })).toThrow(StackError);
  });
});

describe('masks', () => {
  test('a pixel that is half covered gives half; shapes have their areas', () => {
    const base = { invert: false, how: 'with' as const, feather: 0 };
    const half = shapeMask(
      {
        kind: 'polygon',
        ...base,
        points: [
          [0, 0],
          [0.625, 0],
          [0.625, 1],
          [0, 1],
        ],
      },
      4,
      4,
    );
    expect(Array.from(half.slice(4, 8))).toEqual([1, 1, 0.5, 0]);
    const sum = (m: Float32Array) => m.reduce((s, v) => s + v, 0);
    const disk = shapeMask(
      { kind: 'ellipse', ...base, center: [0.5, 0.5], radius: [0.25, 0.125], turnDegrees: 30 },
      160,
      80,
    );
    expect(sum(disk) / (Math.PI * 20 * 10)).toBeCloseTo(1, 2);
    const soft = shapeMask(
      { kind: 'ellipse', ...base, feather: 0.1, center: [0.5, 0.5], radius: [0.25, 0.125], turnDegrees: 30 },
      160,
      80,
    );
    expect(sum(soft) / sum(disk)).toBeCloseTo(1, 1);
    const slope = shapeMask({ kind: 'gradient', invert: false, how: 'with', from: [0, 0], to: [1, 0] }, 4, 1);
    expect(Array.from(slope)).toEqual([0.125, 0.375, 0.625, 0.875]);
  });

  test('they join, take from and keep within each other, and turn around', () => {
    const items = [
      { kind: 'picked', film: 'a', names: ['stone'] },
      { kind: 'ramp', film: 'a', layer: 'roughness', channel: 'Y', low: 0, high: 1 },
    ];
    const values: Record<string, number[]> = { picked: [0.5, 1, 0.25], ramp: [0.5, 0.25, 1] };
    const sources = sourcesOf(
      {
        beauty: picture([
          [1, 1, 1, 1],
          [1, 1, 1, 1],
          [1, 1, 1, 1],
        ]),
      },
      { mask: (item) => Float32Array.from(values[item.kind]) },
    );
    const shown = (how: string, invert = false) => {
      const masks = { m: { of: [items[0], { ...items[1], how }], invert } };
      const brighter = { kind: 'operation', mask: 'm', operation: { does: 'exposure', stops: 1 } };
      return pixels(made([layer('beauty'), brighter], sources, { masks })).map((p) => p[0] - 1);
    };
    expect(shown('with')).toEqual([0.75, 1, 1]);
    expect(shown('without')).toEqual([0.25, 0.75, 0]);
    expect(shown('within')).toEqual([0.25, 0.25, 0.25]);
    expect(shown('within', true)).toEqual([0.75, 0.75, 0.75]);
  });
});

describe('random stacks', () => {
  /** What a stack comes to at one pixel, as plainly as it can be said. */
  function plainly(entries: Stack['entries'], light: (name: string) => number[]): number[] {
    let below = [0, 0, 0, 0];
    for (const entry of entries) {
      if (entry.kind === 'operation' || !entry.on) continue;
      const f =
        entry.kind === 'nest' ? plainly(entry.entries, light) : light((entry.source as { layer: string }).layer);
      const m = entry.opacity;
      const way = entry.way === 'by itself' ? 'over' : entry.way;
      const b = below;
      const color = [0, 1, 2].map((c) => {
        const [x, y] = [b[c], f[c]];
        if (way === 'over') return y * m + x * (1 - f[3] * m);
        if (way === 'add') return x + y * m;
        if (way === 'subtract') return x - y * m;
        if (way === 'multiply') return x * (1 - m) + x * y * m;
        if (way === 'shadow') return x - x * y * m;
        return x * (1 - m) + x * m * y;
      });
      const covers = way === 'over' ? 1 - (1 - b[3]) * (1 - f[3] * m) : way === 'add' ? Math.max(b[3], f[3] * m) : b[3];
      below = [...color, covers];
    }
    return below;
  }

  test('come to what a plain reading of them comes to', () => {
    const leaf = fc.record({
      kind: fc.constant('layer'),
      source: fc.constantFrom('one', 'two').map((name) => ({ from: 'film', film: 'a', layer: name })),
      way: fc.constantFrom('over', 'add', 'subtract', 'multiply', 'shadow', 'occlude'),
      opacity: fc.constantFrom(0, 0.25, 0.5, 1),
      on: fc.boolean(),
    });
    const entries = fc.letrec<{ entry: object; list: object[] }>((tie) => ({
      entry: fc.oneof(
        { depthSize: 'small' },
        leaf,
        fc.record({ kind: fc.constant('nest'), entries: tie('list'), opacity: fc.constantFrom(0.5, 1) }),
      ),
      list: fc.array(tie('entry'), { maxLength: 5 }),
    })).list;
    const lights: Record<string, number[]> = { one: [0.5, 2, 0.125, 0.5], two: [1, 0.25, 8, 1] };
    const sources = sourcesOf({ one: picture([lights.one]), two: picture([lights.two]) });
    fc.assert(
      fc.property(entries, (list) => {
        const stack = stackAt({ entries: list }, 1);
        const [got] = pixels(evaluate(stack, sources));
        plainly(stack.entries, (n) => lights[n]).forEach((v, c) => {
          expect(Math.abs(got[c] - v)).toBeLessThan(1e-5 * Math.max(1, Math.abs(v)));
        });
      }),
      { seed: 5, numRuns: 300 },
    );
  });
});
