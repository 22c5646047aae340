import fc from 'fast-check';
import { testRecipe, testScene } from '@/render/testing';
import { PATH_CLASSES, TABLE, TILE_PIXELS, TILE_SIZE } from '../kernel';
import { parseRecipe } from '../recipe';
import { sphere } from '../scene';
import { Film } from './film';
import { type FilmLayers, type Layer, layerNames, makeLayer, makeLayers } from './layers';
import { relight } from './relight';
import { noiseShares } from './shares';
import { filmBytes, keepsReaches, makeSpec } from './spec';
import { tally } from './tally';

const { document } = testScene({
  lights: [
    { kind: 'sphere', name: 'lamp', group: 'lamp', power: 1, position: [0, 0, 0], radius: 1 },
    { kind: 'sphere', name: 'glow', group: 'glow', power: 1, position: [0, 0, 0], radius: 1 },
  ],
});

function filmOf(change: Record<string, unknown> = {}): Film {
  const recipe = parseRecipe({ size: { width: 40, height: 20, scale: 100 }, ...change });
  return new Film(makeSpec(recipe, document));
}

/** Sets a plane's sum at one film pixel. */
function put(film: Film, plane: number, x: number, y: number, value: number): void {
  const t = Math.floor(y / TILE_SIZE) * film.spec.tilesX + Math.floor(x / TILE_SIZE);
  film.floats(t)[plane * TILE_PIXELS + (y % TILE_SIZE) * TILE_SIZE + (x % TILE_SIZE)] = value;
}

describe('a film', () => {
  test('has whole tiles, cut where the picture ends', () => {
    const film = filmOf();
    expect([film.spec.tilesX, film.spec.tilesY]).toEqual([3, 2]);
    expect(film.place(5)).toEqual({ x: 32, y: 16, w: 8, h: 4 });
    expect(film.buffer.byteLength).toBe(filmBytes(film.spec));
  });

  test('keeps only the planes its recipe asks for', () => {
    const bare = filmOf({ film: { groups: false, classes: false, features: [] } });
    expect(bare.spec.planes).toMatchObject({ groups: -1, classes: -1, ledger: -1, features: {}, count: 6 });
    expect(makeLayer(bare, 'group.lamp')).toBeNull();
    expect([...makeLayers(bare).layers.keys()]).toEqual(['beauty', 'half_a', 'half_b', 'cost', 'rays', 'samples']);
  });

  test('refuses a buffer of another size', () => {
    const film = filmOf();
    expect(() => new Film(film.spec, new ArrayBuffer(16))).toThrow('expected');
  });

  test('means divide by each cell’s own samples: halves by half of them', () => {
    const film = filmOf();
    film.samples.fill(4);
    film.samples[1] = 8;
    for (const x of [3, 20]) {
      put(film, 0, x, 2, 8);
      put(film, 3, x, 2, 16);
    }
    const at = (name: string, x: number) => makeLayer(film, name)!.planes[0][2 * 40 + x];
    expect([at('beauty', 3), at('half_a', 3), at('half_b', 3)]).toEqual([6, 4, 8]);
    expect([at('beauty', 20), at('half_a', 20), at('half_b', 20)]).toEqual([3, 2, 4]);
    expect(at('beauty', 4)).toBe(0);
    expect(at('samples', 20)).toBe(8);
  });

  test('depth is infinite where nothing was hit', () => {
    const film = filmOf({ film: { features: ['depth'] } });
    film.samples.fill(2);
    put(film, film.spec.planes.features.depth!, 5, 5, 3.5);
    put(film, film.spec.planes.near, 5, 5, 1);
    const z = makeLayer(film, 'depth')!.planes[0];
    expect(z[5 * 40 + 5]).toBe(3.5);
    expect(z[5 * 40 + 6]).toBe(Infinity);
  });

  test('coverage ranks by share, the lower number first on a tie', () => {
    const film = filmOf({ film: { features: ['coverage'] } });
    film.samples.fill(4);
    const base = film.spec.planes.features.coverage!;
    [
      [7, 1],
      [3, 2],
      [2, 1],
    ].forEach(([id, sum], k) => {
      put(film, base + k * 2, 1, 1, id);
      put(film, base + k * 2 + 1, 1, 1, sum);
    });
    const layer = makeLayer(film, 'coverage')!;
    expect(layer.planes.slice(0, 8).map((p) => p[41])).toEqual([3, 0.5, 2, 0.25, 7, 0.25, 0, 0]);
  });

  test('counts samples over the pixels that exist', () => {
    const film = filmOf();
    film.samples.fill(2);
    film.samples[5] = 6;
    expect(film.sampleTotal()).toBe(40 * 20 * 2 + 8 * 4 * 4);
  });
});

describe('noise shares', () => {
  test('sum to 1 over groups and classes, and each weighs its cell by slope and samples', () => {
    const film = filmOf();
    film.samples.fill(2);
    film.samples[1] = 4;
    const t0 = film.tables(0);
    t0[0] = 3;
    t0[PATH_CLASSES.length] = 1;
    t0[TABLE.total] = 4;
    const t1 = film.tables(1);
    t1[0] = 16;
    t1[TABLE.total] = 16;
    const shares = noiseShares(film, (t) => (t === 0 ? 1 : 2))!;
    // Cell 0 gives 1/4 of each, cell 1 gives 2/16.
    const whole = 4 / 4 + (2 * 16) / 16;
    const of = (group: string) => shares.groupClass.filter((s) => s.group === group).reduce((a, s) => a + s.share, 0);
    expect(of('lamp')).toBeCloseTo((3 / 4 + 2) / whole, 12);
    expect(of('glow')).toBeCloseTo(1 / 4 / whole, 12);
  });

  test('are unknown before a pair of samples', () => {
    const film = filmOf();
    film.samples.fill(1);
    expect(noiseShares(film, () => 1)).toBeNull();
  });
});

const SIZE = 12;
function layers(values: Record<string, number[]>): FilmLayers {
  return {
    width: 4,
    height: 3,
    layers: new Map(
      Object.entries(values).map(([name, v]): [string, Layer] => [
        name,
        {
          name,
          channels: ['R', 'G', 'B'],
          kind: 'color',
          planes: [0, 1, 2].map((c) => Float32Array.from({ length: SIZE }, (_, i) => v[(i * 3 + c) % v.length])),
        },
      ]),
    ),
  };
}

describe('relighting', () => {
  const groups = ['lamp', 'glow', 'sky'];
  const values = fc.array(fc.float({ min: 0, max: 100, noNaN: true }), { minLength: 36, maxLength: 36 });
  const factor = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: 0, max: 60, noNaN: true }))) as fc.Arbitrary<
    [number, number, number]
  >;

  test('is the sum of factor × part, for any number of groups and any factors', () => {
    fc.assert(
      fc.property(
        fc.array(values, { minLength: 3, maxLength: 3 }),
        fc.array(factor, { minLength: 3, maxLength: 3 }),
        (v, k) => {
          const film = layers({ 'group.lamp': v[0], 'group.glow': v[1], 'group.sky': v[2] });
          const out = relight(film, groups, { lamp: k[0], glow: k[1], sky: k[2] })!;
          for (let c = 0; c < 3; c++) {
            const want = (i: number) =>
              groups.reduce((s, g, n) => s + film.layers.get(`group.${g}`)!.planes[c][i] * k[n][c], 0);
            expect(out[c].every((got, i) => Math.abs(got - want(i)) <= 1e-5 * Math.max(1, want(i)))).toBe(true);
          }
        },
      ),
      { numRuns: 60, seed: 5 },
    );
  });

  test.each([1, 15, 17, 8191, 8192, 8193, 20_001])(
    'of %i pixels every one is the sum, and those before leave nothing',
    (size) => {
      const plane = (k: number) => Float32Array.from({ length: size }, (_, i) => ((i * 7 + k * 3) % 11) / 4);
      const film = {
        width: size,
        height: 1,
        layers: new Map(
          groups.map((g, n): [string, Layer] => [
            `group.${g}`,
            {
              name: `group.${g}`,
              channels: ['R', 'G', 'B'],
              planes: [0, 1, 2].map((c) => plane(n + c)),
              kind: 'color',
            },
          ]),
        ),
      };
      const out = relight(film, groups, { lamp: [2, 0, 1], glow: [0, 0, 0.5], sky: [0.25, 0, 4] })!;
      const want = [
        (i: number) => 2 * plane(0)[i] + 0.25 * plane(2)[i],
        () => 0,
        (i: number) => plane(2)[i] + 0.5 * plane(3)[i] + 4 * plane(4)[i],
      ];
      want.forEach((of, c) => {
        expect(out[c]).toHaveLength(size);
        for (let i = 0; i < size; i += 1 + Math.floor(size / 40)) expect(out[c][i]).toBe(of(i));
        expect(out[c][size - 1]).toBe(of(size - 1));
      });
    },
  );

  test('groups that are not named are as they were rendered', () => {
    const film = layers({ 'group.lamp': [1], 'group.glow': [2], 'group.sky': [4] });
    expect(relight(film, groups, {})![0][0]).toBe(7);
    expect(relight(film, groups, { glow: [0, 1, 3] })!.map((p) => p[0])).toEqual([5, 7, 11]);
  });

  test('a missing part is told, not taken as black', () => {
    expect(relight(layers({ 'group.lamp': [1] }), groups, {})).toBeNull();
  });
});

describe('the tally', () => {
  test('finds a part that is a thousandth off at one pixel, and measures it against the beauty', () => {
    const film = layers({ beauty: [1], 'group.lamp': [0.75], 'group.sky': [0.25] });
    expect(tally(film, 'group')).toMatchObject({ maxError: 0, rmsError: 0, decibels: -Infinity });
    film.layers.get('group.sky')!.planes[1][7] += 0.001;
    const t = tally(film, 'group')!;
    expect(t.maxError).toBeCloseTo(0.001, 6);
    expect(t.rmsError).toBeCloseTo(0.001 / Math.sqrt(SIZE), 6);
    expect(t.decibels).toBeCloseTo(20 * Math.log10(0.001 / Math.sqrt(SIZE)), 1);
    expect(t.map[7]).toBeCloseTo(0.001, 6);
  });

  test('dark pixels are measured against a hundredth of the mean, so that they do not blow the error up', () => {
    const film = layers({ beauty: [1], 'group.lamp': [1] });
    for (const plane of film.layers.get('beauty')!.planes) plane[0] = 0;
    for (const plane of film.layers.get('group.lamp')!.planes) plane[0] = 1e-6;
    expect(tally(film, 'group')!.maxError).toBeCloseTo(1e-6 / (11 / 12 / 100), 6);
  });

  test('without parts there is none', () => {
    expect(tally(layers({ beauty: [1] }), 'class')).toBeNull();
  });
});

test('masks by material and set come of the objects’ coverage: what belongs together is summed', () => {
  const names = ['mug', 'dome', 'tea'];
  const document = {
    ...testScene({
      meshes: Object.fromEntries(names.map((n) => [n, sphere(1, 8)])),
      sets: { glassware: ['dome', 'tea'], table: ['mug', 'tea'] },
    }).document,
  };
  document.objects = document.objects.map((o) => (o.name === 'tea' ? { ...o, material: 'dome' } : o));
  const recipe = testRecipe(16, 4, { film: { features: ['coverage', 'coverage_material', 'coverage_set'] } });
  const film = new Film(makeSpec(recipe, document));
  film.samples.fill(4);
  // Of four samples one fell on the mug, two on the dome, one on the tea.
  const at = film.spec.planes.features.coverage! * TILE_PIXELS;
  [
    [1, 1],
    [2, 2],
    [3, 1],
  ].forEach(([id, n], k) => {
    film.floats(0)[at + k * 2 * TILE_PIXELS] = id;
    film.floats(0)[at + (k * 2 + 1) * TILE_PIXELS] = n;
  });
  const first = (name: string) =>
    makeLayer(film, name)!
      .planes.map((p) => p[0])
      .slice(0, 6);
  expect(first('coverage')).toEqual([2, 0.5, 1, 0.25, 3, 0.25]);
  const dome = document.materials.findIndex((m) => m.name === 'dome') + 1;
  const mug = document.materials.findIndex((m) => m.name === 'mug') + 1;
  expect(first('coverage_material')).toEqual([dome, 0.75, mug, 0.25, 0, 0]);
  // What is in two sets counts in full in both.
  expect(first('coverage_set')).toEqual([1, 0.75, 2, 0.5, 0, 0]);
  // Asked for alone, a mask brings no other with it.
  const alone = makeSpec(testRecipe(16, 4, { film: { features: ['coverage_set'] } }), document);
  expect(layerNames(alone).filter((n) => n.startsWith('coverage'))).toEqual(['coverage_set']);
});

test('films from before openness was kept by reach are known by their planes', () => {
  const { document } = testScene({ meshes: { ball: sphere(1, 8) } });
  const specOf = (features: string[]) => makeSpec(testRecipe(16, 4, { film: { features } }), document);
  expect(keepsReaches(specOf(['depth']))).toBe(false);
  const now = specOf(['occlusion', 'roughness']);
  expect(keepsReaches(now)).toBe(true);
  expect(keepsReaches(specOf(['roughness', 'occlusion']))).toBe(true);
  const { occlusion } = now.planes.features;
  const before = { ...now.planes, features: { occlusion, roughness: occlusion! + 1 }, count: occlusion! + 2 };
  expect(keepsReaches({ planes: before })).toBe(false);
});
