import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { numbers } from '@/render/testing';
import { type FilmLayers, LAYER, type Layer } from '../film';
import {
  DenoiseError,
  denoisedLayers,
  denoiseSquare,
  prepare,
  readyLead,
  readyWhole,
  SquareFilter,
  squaresOf,
} from '.';
import { coolHotPixels } from './hot';
import { reconcile } from './reconcile';

const wasm = new WebAssembly.Module(readFileSync(join(__dirname, '../../../public/wasm/denoise.wasm')));

const [width, height] = [150, 40];
type Of = (x: number, y: number, channel: number) => number;
const planes = (of: Of, channels = 3) =>
  Array.from({ length: channels }, (_, c) =>
    Float32Array.from({ length: width * height }, (_, i) => of(i % width, Math.floor(i / width), c)),
  );
const layer = (name: string, own: Float32Array[], channels = ['R', 'G', 'B']): [string, Layer] => [
  name,
  { name, channels, planes: own, kind: 'color' },
];

/** A film of groups, each the truth with even noise of ± `noise` in either half; beauty is their sum. */
function filmOf(groups: Record<string, Of>, noise: number, extra: [string, Layer][] = []): FilmLayers {
  const next = numbers(7);
  const layers: [string, Layer][] = [];
  const sums = { a: planes(() => 0), b: planes(() => 0) };
  for (const [group, of] of Object.entries(groups)) {
    const halves = { a: planes(() => 0), b: planes(() => 0) };
    for (const half of ['a', 'b'] as const) {
      halves[half] = planes((x, y, c) => of(x, y, c) + noise * (2 * next() - 1));
      halves[half].forEach((p, c) => {
        for (let i = 0; i < p.length; i++) sums[half][c][i] += p[i];
      });
      layers.push(layer(LAYER.half(half, group), halves[half]));
    }
    layers.push(
      layer(
        LAYER.group(group),
        halves.a.map((p, c) => p.map((v, i) => (v + halves.b[c][i]) / 2)),
      ),
    );
  }
  layers.push(layer(LAYER.half('a'), sums.a), layer(LAYER.half('b'), sums.b));
  layers.push(
    layer(
      'beauty',
      sums.a.map((p, c) => p.map((v, i) => (v + sums.b[c][i]) / 2)),
    ),
  );
  return { width, height, layers: new Map([...layers, ...extra]) };
}

/** The whole film denoised on this thread. */
function denoised(film: FilmLayers, strength = 1): FilmLayers {
  const prepared = prepare(film, 1, (size) => new Float32Array(size));
  const { picture, results } = prepared;
  for (const lead of picture.leads) readyLead(lead, picture.size);
  readyWhole(picture);
  const filter = new SquareFilter(wasm);
  for (const { x, y } of squaresOf(picture.size)) denoiseSquare(filter, picture, x, y, results);
  return denoisedLayers(film, prepared, strength);
}

const beauty = (film: FilmLayers) => film.layers.get('beauty')!.planes;
function rms(film: FilmLayers, truth: Of, inside = (_x: number, _y: number) => true): number {
  let [sum, count] = [0, 0];
  beauty(film).forEach((p, c) => {
    p.forEach((v, i) => {
      const [x, y] = [i % width, Math.floor(i / width)];
      if (!inside(x, y)) return;
      sum += (v - truth(x, y, c)) ** 2;
      count++;
    });
  });
  return Math.sqrt(sum / count);
}
const lightOf = (film: FilmLayers) => beauty(film).reduce((n, p) => n + p.reduce((a, b) => a + b, 0), 0);

test('what has no noise stays as it is: a constant, and a ramp', () => {
  for (const truth of [() => 0.5, (x: number) => 0.1 + x / 100] as Of[])
    expect(rms(denoised(filmOf({ key: truth }, 0)), truth)).toBeLessThan(2e-4);
});

test('even noise on a constant and on a ramp falls to less than an eighth, and light stays', () => {
  for (const truth of [() => 0.5, (x: number, _y: number, c: number) => 0.3 + (c * x) / 400] as Of[]) {
    const film = filmOf({ key: truth }, 0.1);
    const clean = denoised(film);
    expect(rms(film, truth) / rms(clean, truth)).toBeGreaterThan(8);
    expect(Math.abs(lightOf(clean) / lightOf(film) - 1)).toBeLessThan(2e-3);
  }
});

test('an edge that guides tell stays sharp under noise that hides it', () => {
  const truth: Of = (x) => (x < 73 ? 0.3 : 0.5);
  const albedo = layer(
    'albedo',
    planes((x) => (x < 73 ? 0.2 : 0.6)),
  );
  const clean = denoised(filmOf({ key: truth }, 0.2, [albedo]));
  expect(rms(clean, truth, (x) => x >= 71 && x < 75)).toBeLessThan(0.03);
});

test('a dim group keeps its own edges beside one a hundred times as bright', () => {
  const dim: Of = (x) => (x < 60 ? 0.002 : 0.006);
  const film = filmOf({ sun: () => 0.5, lamp: dim }, 0.0005);
  const lamp = denoised(film).layers.get(LAYER.group('lamp'))!.planes[0];
  for (const y of [5, 20, 35]) {
    expect(lamp[y * width + 57]).toBeCloseTo(0.002, 3);
    expect(lamp[y * width + 62]).toBeCloseTo(0.006, 3);
  }
});

test('groups, classes and bounces sum to the beauty denoised, pairs to their group, whatever they were', () => {
  const next = numbers(3);
  const groups = { sun: (x: number) => 0.2 + x / 300, sky: (_x: number, y: number) => 0.1 + y / 100 };
  const film = filmOf(groups, 0.2);
  const whole = beauty(film);
  const split = (names: string[], of: readonly Float32Array[]) => {
    const shares = names.map(() => Float32Array.from({ length: width * height }, () => next()));
    return names.map((name, j) =>
      layer(
        name,
        of.map((p) => p.map((v, i) => (v * shares[j][i]) / shares.reduce((s, q) => s + q[i], 0))),
      ),
    );
  };
  const parts = [
    [LAYER.class('direct_diffuse'), LAYER.class('emission'), LAYER.class('caustic')],
    [LAYER.bounce(0), LAYER.bounce(1)],
  ];
  for (const family of parts) for (const [name, l] of split(family, whole)) film.layers.set(name, l);
  const pairs = [LAYER.pair('sun', 'direct_diffuse'), LAYER.pair('sun', 'caustic')];
  const sun = film.layers.get(LAYER.group('sun'))!.planes as Float32Array[];
  for (const [name, l] of split(pairs, sun)) film.layers.set(name, l);
  const clean = denoised(film);
  const farthest = (family: string[], of: readonly ArrayLike<number>[]) =>
    Math.max(
      ...of.map((p, c) => {
        const sums = family.map((name) => clean.layers.get(name)!.planes[c]);
        return Array.from(p).reduce(
          (most, v, i) => Math.max(most, Math.abs(sums.reduce((s, q) => s + q[i], 0) - v) / Math.max(1, v)),
          0,
        );
      }),
    );
  for (const family of [...parts, ['sun', 'sky'].map(LAYER.group)])
    expect(farthest(family, beauty(clean))).toBeLessThanOrEqual(1e-5);
  expect(farthest(pairs, clean.layers.get(LAYER.group('sun'))!.planes)).toBeLessThanOrEqual(1e-5);
});

test('where a group or a class is missing, the beauty is denoised by itself and all keep their light', () => {
  const film = filmOf({ sun: () => 0.5, lamp: () => 0.2 }, 0.1);
  for (const name of [LAYER.group('lamp'), LAYER.half('a', 'lamp'), LAYER.half('b', 'lamp')]) film.layers.delete(name);
  const third = beauty(film).map((p) => p.map((v) => v / 3));
  film.layers.set(LAYER.class('emission'), layer(LAYER.class('emission'), third)[1]);
  const clean = denoised(film);
  expect(rms(clean, () => 0.7)).toBeLessThan(0.02);
  const mean = (name: string) => clean.layers.get(name)!.planes[0].reduce((a, b) => a + b, 0) / (width * height);
  expect(Math.abs(mean(LAYER.group('sun')) - 0.5)).toBeLessThan(2e-3);
  expect(Math.abs(mean(LAYER.class('emission')) - 0.7 / 3)).toBeLessThan(2e-3);
});

test('strength blends in linear light; none gives the film’s own bytes', () => {
  const film = filmOf({ key: () => 0.5 }, 0.2);
  expect(denoised(film, 0)).toBe(film);
  const [half, full] = [denoised(film, 0.5), denoised(film)];
  beauty(half).forEach((p, c) => {
    for (let i = 0; i < p.length; i += 97) expect(p[i]).toBeCloseTo((beauty(film)[c][i] + beauty(full)[c][i]) / 2, 5);
  });
});

test('a square has the same bits alone as among all', () => {
  const film = filmOf({ key: (x) => x / 100 }, 0.3);
  const prepared = prepare(film, 1, (size) => new Float32Array(size));
  for (const lead of prepared.picture.leads) readyLead(lead, prepared.picture.size);
  const last = squaresOf(prepared.picture.size).at(-1)!;
  denoiseSquare(new SquareFilter(wasm), prepared.picture, last.x, last.y, prepared.results);
  const alone = denoisedLayers(film, prepared).layers.get('beauty')!.planes[0];
  const all = beauty(denoised(film))[0];
  for (let y = last.y; y < height; y++)
    for (let x = last.x; x < width; x++) expect(alone[y * width + x]).toBe(all[y * width + x]);
});

test('a pixel hot in one half alone is cooled, its light kept and counted; one hot in both stays', () => {
  const size = { width, height };
  const at = 20 * width + 30;
  const [a, b] = [planes(() => 0.1), planes(() => 0.1)];
  for (const p of a) p[at] = 50;
  const before = a[0].reduce((s, v) => s + v, 0);
  const steer = a.map((p) => p.slice());
  const hot = coolHotPixels(a, b, size, steer);
  expect(hot.pixels).toBe(1);
  expect(hot.share).toBeCloseTo((50 - 0.6) / before, 3);
  expect(a[0][at]).toBeLessThan(2);
  expect(a[0].reduce((s, v) => s + v, 0) / before).toBeCloseTo(1, 5);
  // What was spread is not to be taken for a thing: what steers lacks it.
  expect(steer[0][at]).toBeLessThan(1);
  expect(steer[0][at + 1]).toBeCloseTo(0.1, 6);
  const both = [planes(() => 0.1), planes(() => 0.1)];
  for (const half of both) for (const p of half) p[at] = 50;
  expect(
    coolHotPixels(
      both[0],
      both[1],
      size,
      both[0].map((p) => p.slice()),
    ).pixels,
  ).toBe(0);
});

test('one odd pixel leaves what is about it as smooth as the rest', () => {
  const odd = (x: number, y: number) => (x === 75 && y === 20 ? 8 : 0.5);
  const film = filmOf({ key: odd }, 0.2);
  const near = (x: number, y: number) => Math.max(Math.abs(x - 75), Math.abs(y - 20)) <= 4 && !(x === 75 && y === 20);
  const far = (x: number) => x < 55 || x > 95;
  const out = denoised(film);
  expect(rms(out, odd, near)).toBeLessThan(3 * rms(out, odd, far) + 0.01);
  expect(beauty(out)[0][20 * width + 75]).toBeGreaterThan(4);
});

test('parts that are reconciled sum to the whole, none is negative, and one without noise gives way least', () => {
  const value = fc.double({ min: 0, max: 100, noNaN: true });
  fc.assert(
    fc.property(fc.array(fc.tuple(value, value), { minLength: 1, maxLength: 12 }), value, (parts, total) => {
      const planes = parts.map(([p]) => Float32Array.of(p));
      reconcile(
        planes,
        parts.map(([, v]) => Float32Array.of(v)),
        Float32Array.of(total),
      );
      const sum = planes.reduce((s, p) => s + p[0], 0);
      for (const p of planes) expect(p[0]).toBeGreaterThanOrEqual(0);
      expect(Math.abs(sum - total)).toBeLessThanOrEqual(1e-5 * Math.max(1, total));
    }),
  );
  const [sure, noisy] = [Float32Array.of(1), Float32Array.of(1)];
  reconcile([sure, noisy], [Float32Array.of(0), Float32Array.of(1)], Float32Array.of(3));
  expect(sure[0]).toBeCloseTo(1, 3);
});

test('a film without halves says what it needs', () => {
  const film: FilmLayers = {
    width,
    height,
    layers: new Map([
      layer(
        'beauty',
        planes(() => 1),
      ),
    ]),
  };
  expect(() => prepare(film, 1, (size) => new Float32Array(size))).toThrow(DenoiseError);
  expect(() => prepare(film, 1, (size) => new Float32Array(size))).toThrow(/half_a and half_b/);
});
