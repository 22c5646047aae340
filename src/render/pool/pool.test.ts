import { Film, filmBytes, makeSpec, measureFilm, relight, tally } from '@/core/film';
import { exposureScale } from '@/core/image';
import { LEDGER_PLANES } from '@/core/kernel';
import { FEATURE_NAMES, parseRecipe } from '@/core/recipe';
import { box, lathe, merge, plane, sphere, transformed } from '@/core/scene';
import { noiseOf, type Rgb } from '@/core/stats';
import { filmHash } from '../node/film-digest';
import { renderTest, type TestScene, testKernel, testRecipe, testScene } from '../testing';
import { RenderPool } from './pool';
import { type FromTracer, MAX_PLANES, type ToTracer, type Tracer } from './protocol';
import { spawnInline } from './spawn-inline';
import { centreOut, sweepTargets } from './sweeps';

/** A little room with every kind of light and lobe: matt, metal, a glass ball, a pane, two lamps and a sky. */
const scene = testScene({
  meshes: {
    floor: plane(8, 8),
    wall: transformed(box(6, 3, 0.2), [0, 1.5, -2]),
    kettle: transformed(
      lathe(
        [
          [0, 0],
          [0.4, 0],
          [0.5, 0.4],
          [0, 0.7],
        ],
        32,
      ),
      [-1, 0, 0],
    ),
    float: transformed(sphere(0.5, 32), [0.6, 0.5, 0.4]),
    pane: transformed(box(2, 1.5, 0.01), [1.2, 0.8, 1.4]),
    lantern: transformed(merge([sphere(0.15, 16)]), [-0.2, 0.15, 1]),
  },
  materials: {
    floor: { base_color: [0.5, 0.45, 0.4] },
    wall: { base_color: [0.3, 0.4, 0.5], specular_roughness: 0.5 },
    kettle: { base_color: [0.8, 0.5, 0.2], base_metalness: 1, specular_roughness: 0.2 },
    float: {
      specular_roughness: 0,
      transmission_weight: 1,
      transmission_color: [0.7, 0.9, 0.8],
      transmission_depth: 0.5,
    },
    pane: { base_color: [1, 1, 1], specular_roughness: 0, transmission_weight: 1, geometry_thin_walled: true },
    lantern: { base_color: [0.1, 0.1, 0.1], emission_luminance: 3, emission_color: [1, 0.6, 0.3], light_group: 'wick' },
  },
  lights: [
    { kind: 'sphere', name: 'bulb', group: 'bulb', power: 30, position: [1.5, 2.2, 0.5], radius: 0.15 },
    {
      kind: 'rectangle',
      name: 'panel',
      group: 'panel',
      power: 4,
      position: [-1.5, 2.5, 1],
      facing: [0.3, -1, -0.2],
      width: 1,
      height: 0.5,
    },
  ],
  environment: [0.3, 0.4, 0.6],
  camera: { position: [0, 1.2, 4.5], target: [0, 0.7, 0], fStop: 8, focusMetres: 4 },
});
const ledger = { film: { ledger: 'all' } };

describe('the film adds up', () => {
  const recipe = testRecipe(40, 16, {
    ...ledger,
    sampling: { outlierLimit: { first: 1, later: 0 }, splits: { diffuse: 2, transmission: 2 }, lightSamples: 2 },
  });
  const rendered = renderTest(scene, recipe);

  test.each(['group', 'class', 'bounce'] as const)(
    '%s parts sum to the beauty, outlier limits and splits included',
    async (parting) => {
      const t = tally((await rendered).layers, parting)!;
      expect(t.maxError).toBeLessThan(1e-5);
      expect(t.parts.length).toBeGreaterThan(3);
    },
  );

  test('groups carry what their lights send, and every class occurs', async () => {
    const { layers } = await rendered;
    const sum = (name: string) => layers.layers.get(name)!.planes[1].reduce((a, b) => a + b, 0);
    for (const g of ['bulb', 'panel', 'sky', 'wick']) expect(sum(`group.${g}`)).toBeGreaterThan(0);
    for (const c of [
      'emission',
      'direct_diffuse',
      'direct_reflection',
      'indirect_diffuse',
      'indirect_reflection',
      'indirect_transmission',
      'caustic',
    ])
      expect(sum(`class.${c}`)).toBeGreaterThan(0);
  });

  test('clamped light is counted', async () => {
    expect((await rendered).film.clampedLight()).toBeGreaterThan(0);
  });

  test('a neutral relight is the beauty, and doubling one group adds it once more', async () => {
    const { layers, film } = await rendered;
    const { groups } = film.spec;
    const beauty = layers.layers.get('beauty')!.planes[0];
    const same = relight(layers, groups, {})![0];
    const more = relight(layers, groups, { bulb: [2, 2, 2] })![0];
    const bulb = layers.layers.get('group.bulb')!.planes[0];
    for (let i = 0; i < beauty.length; i += 7) {
      expect(same[i]).toBeCloseTo(beauty[i], 4);
      expect(more[i]).toBeCloseTo(beauty[i] + bulb[i], 3);
    }
    const black = groups.filter((g) => g !== 'bulb').map((g) => [g, [0, 0, 0] as const]);
    const solo = relight(layers, groups, Object.fromEntries(black))![0];
    expect(Array.from(solo)).toEqual(Array.from(bulb));
  });

  test('coverage and alpha agree, and a pixel’s shares sum to at most one', async () => {
    const { layers } = await rendered;
    const coverage = layers.layers.get('coverage')!.planes;
    const alpha = layers.layers.get('alpha')!.planes[0];
    let edges = 0;
    for (let i = 0; i < alpha.length; i++) {
      let sum = 0;
      for (let r = 0; r < coverage.length; r += 2) sum += coverage[r + 1][i];
      expect(sum).toBeLessThanOrEqual(1 + 1e-6);
      expect(Math.abs(sum - alpha[i])).toBeLessThan(1e-6);
      if (coverage[3][i] > 0) edges++;
    }
    expect(edges).toBeGreaterThan(20);
  });

  test('depth is the distance along the axis, infinite on the sky', async () => {
    const { layers } = await rendered;
    const depth = layers.layers.get('depth')!.planes[0];
    expect(depth.some((v) => v === Infinity)).toBe(true);
    const floorPixel = depth[38 * 40 + 4];
    expect(floorPixel).toBeGreaterThan(1.5);
    expect(floorPixel).toBeLessThan(4.5);
  });
});

describe('ray depth', () => {
  const at = (rayDepth: Record<string, unknown>) => renderTest(scene, testRecipe(24, 8, { ...ledger, rayDepth }));

  test('the picture at a limit is the sum of the ledger up to it, part by part to the bit', async () => {
    const deep = (await at({})).layers;
    for (const limit of [0, 1, 3]) {
      const { layers } = await at({ all: limit });
      for (let b = 0; b < LEDGER_PLANES; b++) {
        const name = `bounce.${String(b).padStart(2, '0')}`;
        const plane_ = layers.layers.get(name)!.planes[0];
        if (b <= limit) expect(Array.from(plane_)).toEqual(Array.from(deep.layers.get(name)!.planes[0]));
        else expect(plane_.every((v) => v === 0)).toBe(true);
      }
    }
  });

  test('diffuse 0 leaves no light that came over a diffuse surface; transmission 0 no see-through', async () => {
    const { layers } = await at({ diffuse: 0 });
    expect(layers.layers.get('class.indirect_diffuse')!.planes[0].every((v) => v === 0)).toBe(true);
    const opaque = await at({ transmission: 0 });
    expect(opaque.layers.layers.get('class.indirect_transmission')!.planes[0].every((v) => v === 0)).toBe(true);
  });

  test('switching caustics off removes exactly that class', async () => {
    const [on, off] = [await at({}), await at({ caustics: false })];
    for (const c of ['direct_diffuse', 'indirect_diffuse', 'indirect_transmission', 'emission']) {
      expect(Array.from(off.layers.layers.get(`class.${c}`)!.planes[1])).toEqual(
        Array.from(on.layers.layers.get(`class.${c}`)!.planes[1]),
      );
    }
    expect(off.layers.layers.get('class.caustic')!.planes[1].every((v) => v === 0)).toBe(true);
    expect(on.layers.layers.get('class.caustic')!.planes[1].some((v) => v > 0)).toBe(true);
  });

  test('reach cuts continuation rays, not direct light', async () => {
    const [far, near] = [await at({}), await at({ reachMetres: 0.2 })];
    expect(Array.from(near.layers.layers.get('class.direct_diffuse')!.planes[0])).toEqual(
      Array.from(far.layers.layers.get('class.direct_diffuse')!.planes[0]),
    );
    const sum = (l: typeof far) => l.layers.layers.get('class.indirect_diffuse')!.planes[0].reduce((a, b) => a + b, 0);
    expect(sum(near)).toBeLessThan(sum(far));
  });
});

describe('the same bits', () => {
  const recipe = testRecipe(40, 10);
  test('on one thread and on three', async () => {
    const [one, three] = [await renderTest(scene, recipe, 1), await renderTest(scene, recipe, 3)];
    expect(filmHash(three.film)).toBe(filmHash(one.film));
  });

  test('stopped and gone on as in one go, also through a copy of the film', async () => {
    const whole = await renderTest(scene, recipe);
    const pool = new RenderPool(testKernel(), spawnInline, 2);
    await pool.load(scene);
    const abort = new AbortController();
    const camera = scene.document.cameras[0];
    const part = await pool.render(scene, recipe, camera, {
      signal: abort.signal,
      onSweep: (_, target) => {
        if (target >= 4) abort.abort();
      },
    });
    expect(part.finished).toBe(false);
    expect(part.film.samples.every((n) => n < 10)).toBe(true);
    const copy = new SharedArrayBuffer(filmBytes(part.film.spec));
    new Uint8Array(copy).set(new Uint8Array(part.film.buffer));
    const rest = await pool.render(scene, recipe, camera, { film: new Film(part.film.spec, copy) });
    pool.close();
    expect(rest.finished).toBe(true);
    expect(filmHash(rest.film)).toBe(filmHash(whole.film));
  });

  test('a region is that part of the frame', async () => {
    const frame = await renderTest(scene, recipe);
    const region = { x: 0.25, y: 0.4, w: 0.5, h: 0.3 };
    const part = await renderTest(scene, parseRecipe({ ...recipe, region }));
    const spec = part.film.spec.region;
    const [a, b] = [part.layers.layers.get('beauty')!.planes[0], frame.layers.layers.get('beauty')!.planes[0]];
    for (let y = 0; y < spec.height; y++)
      for (let x = 0; x < spec.width; x++) expect(a[y * spec.width + x]).toBe(b[(y + spec.y) * 40 + x + spec.x]);
  });
});

describe('statistics', () => {
  test('noise shares sum to one, and to the parts’ own noise', async () => {
    const { film } = await renderTest(scene, testRecipe(48, 32));
    const { shares, noise, rays } = measureFilm(film, 1);
    expect(shares!.groupClass.reduce((n, s) => n + s.share, 0)).toBeCloseTo(1, 6);
    expect(shares!.classBounce.reduce((n, s) => n + s.share, 0)).toBeCloseTo(1, 6);
    expect(noise!.rms).toBeGreaterThan(0);
    expect(rays.camera).toBe(48 * 48 * 32);
    expect(rays.total).toBe(rays.camera + rays.diffuse + rays.reflection + rays.transmission + rays.twin + rays.shadow);
  });

  test('noise from halves predicts the spread over seeds', async () => {
    const runs = await Promise.all(
      [1, 2, 3, 4, 5, 6].map((seed) => renderTest(scene, testRecipe(24, 8, { sampling: { seed } }))),
    );
    const size = 24 * 24;
    const beauty = runs.map((r) => r.layers.layers.get('beauty')!.planes[1]);
    let variance = 0;
    for (let i = 0; i < size; i++) {
      const mean = beauty.reduce((s, p) => s + p[i], 0) / beauty.length;
      variance += beauty.reduce((s, p) => s + (p[i] - mean) ** 2, 0) / (beauty.length - 1);
    }
    let predicted = 0;
    for (const r of runs) {
      const [a, b] = [r.layers.layers.get('half_a')!.planes[1], r.layers.layers.get('half_b')!.planes[1]];
      for (let i = 0; i < size; i++) predicted += (a[i] - b[i]) ** 2 / 4 / runs.length;
    }
    expect(predicted / variance).toBeGreaterThan(0.6);
    expect(predicted / variance).toBeLessThan(1.6);
  });

  test('noise shares are those of the spread over seeds', async () => {
    const t: TestScene = {
      meshes: { floor: plane(4, 4) },
      materials: { floor: { base_color: [0.7, 0.7, 0.7], specular_weight: 0 } },
      lights: [
        { kind: 'sphere', name: 'a', group: 'a', power: 6, position: [1, 1.2, 0], radius: 0.3, gains: { seen: 0 } },
        { kind: 'sphere', name: 'b', group: 'b', power: 2, position: [-1, 0.8, 0], radius: 0.4, gains: { seen: 0 } },
      ],
      environment: [0.15, 0.15, 0.15],
      camera: { position: [0, 3, 0.001], target: [0, 0, 0], up: [0, 0, -1] },
    };
    const groups = ['a', 'b', 'sky'];
    const seeds = 48;
    const runs: { y: Float32Array; parts: Float32Array[]; shares: number[] }[] = [];
    for (let seed = 0; seed < seeds; seed++) {
      const { film, layers } = await renderTest(testScene(t), testRecipe(16, 16, { sampling: { seed } }));
      const plane = (name: string) => layers.layers.get(name)!.planes[1];
      const { shares } = measureFilm(film, 1e-3);
      runs.push({
        y: plane('beauty'),
        parts: groups.map((g) => plane(`group.${g}`)),
        shares: groups.map((g) => shares!.groupClass.filter((s) => s.group === g).reduce((n, s) => n + s.share, 0)),
      });
    }
    const mean = (of: (r: (typeof runs)[number]) => number) => runs.reduce((n, r) => n + of(r), 0) / seeds;
    const covariances = [0, 0, 0];
    for (let i = 0; i < 256; i++) {
      const y = mean((r) => r.y[i]);
      groups.forEach((_, g) => {
        const p = mean((r) => r.parts[g][i]);
        covariances[g] += mean((r) => (r.parts[g][i] - p) * (r.y[i] - y));
      });
    }
    const whole = covariances.reduce((a, b) => a + b, 0);
    groups.forEach((_, g) => {
      expect(Math.abs(mean((r) => r.shares[g]) - covariances[g] / whole)).toBeLessThan(0.05);
    });
  });

  test('four times the samples at least halve the noise', async () => {
    const noise = async (n: number) =>
      measureFilm((await renderTest(scene, testRecipe(32, n))).film, exposureScale({ ev100: null, stops: 0 })).noise!
        .rms;
    expect((await noise(64)) / (await noise(16))).toBeLessThan(0.62);
  });

  test('a stop threshold spends fewer samples where it is quiet and stays unbiased', async () => {
    const even = await renderTest(scene, testRecipe(64, 64));
    const adaptive = await renderTest(scene, testRecipe(64, 64, { sampling: { cameraMin: 8, stopNoise: 3 } }));
    const counts = new Set(adaptive.film.samples);
    expect(Math.min(...counts)).toBeLessThan(64);
    expect(Math.min(...counts)).toBeGreaterThanOrEqual(8);
    expect(adaptive.film.sampleTotal()).toBeLessThan(even.film.sampleTotal());
    const mean = (r: typeof even) => r.layers.layers.get('beauty')!.planes[1].reduce((a, b) => a + b, 0) / 4096;
    expect(mean(adaptive) / mean(even)).toBeGreaterThan(0.97);
    expect(mean(adaptive) / mean(even)).toBeLessThan(1.03);
  });

  test('identical halves have no noise; a known difference has its closed form', () => {
    const flat = (v: number): Rgb => [
      new Float32Array(256).fill(v),
      new Float32Array(256).fill(v),
      new Float32Array(256).fill(v),
    ];
    expect(noiseOf(flat(0.2), flat(0.2), 16, 16, 1).rms).toBe(0);
    // Mean 0.001: the linear toe of sRGB, slope 12.92; half the difference is 0.0002.
    expect(noiseOf(flat(0.0012), flat(0.0008), 16, 16, 1).rms).toBeCloseTo(12.92 * 0.0002 * 100, 3);
  });
});

describe('pool', () => {
  test('sweeps end at the maximum, made even, and grow by 16 at most', () => {
    expect(sweepTargets(1, false)).toEqual([2]);
    expect(sweepTargets(7, false)).toEqual([2, 4, 8]);
    expect(sweepTargets(64, true)).toEqual([1, 2, 4, 8, 16, 32, 48, 64]);
  });

  test('tiles go from the middle outwards, each once', () => {
    const order = centreOut(5, 3);
    expect(order[0]).toBe(7);
    expect([...order].sort((a, b) => a - b)).toEqual(Array.from({ length: 15 }, (_, i) => i));
  });

  test('a thread that fails rejects the render with its words', async () => {
    const spawn = (): Tracer => {
      let listener: (m: FromTracer) => void = () => {};
      const real = spawnInline();
      return {
        post: (m: ToTracer) =>
          m.type === 'sweep' ? listener({ type: 'failed', message: 'out of memory' }) : real.post(m),
        listen: (onMessage, onFailure) => {
          listener = onMessage;
          real.listen(onMessage, onFailure);
        },
        terminate: () => {},
      };
    };
    const pool = new RenderPool(testKernel(), spawn, 2);
    await pool.load(scene);
    await expect(pool.render(scene, testRecipe(16, 2), scene.document.cameras[0])).rejects.toThrow('out of memory');
    await expect(pool.render(scene, testRecipe(16, 2), scene.document.cameras[0])).rejects.toThrow('out of memory');
  });

  test('threads have room for everything a film can hold', () => {
    const names = Array.from({ length: 16 }, (_, i) => `g${i}`);
    const full = testScene({
      lights: names.map((n) => ({ kind: 'point', name: n, group: n, power: 1, position: [0, 1, 0] })),
    });
    const pairs = names.map((group) => ({ group, class: 'caustic' }));
    const film = { ledger: 'all', lostLight: true, guides: true, features: [...FEATURE_NAMES], pairs };
    const { planes } = makeSpec(testRecipe(16, 2, { film }), full.document);
    expect(planes.count).toBeLessThanOrEqual(MAX_PLANES);
    expect(planes.count).toBeGreaterThan(MAX_PLANES - 16);
  });

  test('a film of the wrong size is refused', () => {
    const spec = makeSpec(testRecipe(16, 2), scene.document);
    expect(() => new Film(spec, new ArrayBuffer(12))).toThrow(/film of 12 bytes/);
  });
});
