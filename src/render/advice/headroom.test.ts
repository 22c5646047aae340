import { type FilmLayers, type Layer, relight } from '@/core/film';
import { noiseOf } from '@/core/stats';
import { MOST_STOPS } from './bounds';
import { headroom } from './headroom';

const [WIDTH, HEIGHT] = [32, 32];

/** A film with two groups of even light and grain that alternates from pixel to pixel. */
function film(grain: { lamp: number; sky: number }): FilmLayers {
  const layers = new Map<string, Layer>();
  const put = (name: string, level: number, g: number) => {
    const plane = Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => level + g * ((i % 2) * 2 - 1));
    layers.set(name, { name, channels: ['R', 'G', 'B'], planes: [plane, plane, plane], kind: 'color' });
  };
  put('half_a.lamp', 0.05, grain.lamp);
  put('half_b.lamp', 0.05, -grain.lamp);
  put('half_a.sky', 0.05, grain.sky);
  put('half_b.sky', 0.05, -grain.sky);
  return { width: WIDTH, height: HEIGHT, layers };
}
const noise = (f: FilmLayers, group: string, stops: number) => {
  const k = 2 ** stops;
  const factors = { [group]: [k, k, k] as const };
  const half = (h: 'a' | 'b') => relight(f, ['lamp', 'sky'], factors, h)!;
  return noiseOf(half('a'), half('b'), WIDTH, HEIGHT, 1).rms;
};

test('lifted by its headroom a group brings the picture to the target, and the noisier one has less', async () => {
  const f = film({ lamp: 0.004, sky: 0.001 });
  const target = noise(f, 'lamp', 1.5);
  const found = (await headroom(f, ['lamp', 'sky'], {}, target, 1))!;
  expect(found.lamp).toBeCloseTo(1.5, 1);
  expect(found.sky).toBeGreaterThan(found.lamp);
  expect(noise(f, 'sky', found.sky)).toBeLessThanOrEqual(target);
});

test('lifted from where a mix has it, a group has so much less', async () => {
  const f = film({ lamp: 0.004, sky: 0.001 });
  const target = noise(f, 'lamp', 1.5);
  const mixed = (await headroom(f, ['lamp', 'sky'], { lamp: [2, 2, 2] }, target, 1))!;
  expect(mixed.lamp).toBeCloseTo(0.5, 1);
  const off = (await headroom(f, ['lamp', 'sky'], { lamp: [0, 0, 0] }, target, 1))!;
  expect(off.lamp).toBe(MOST_STOPS);
  expect(off.sky).toBeLessThanOrEqual(mixed.sky);
});

test('none where the target is broken already, and at most what is asked about', async () => {
  const f = film({ lamp: 0.004, sky: 0 });
  expect(await headroom(f, ['lamp', 'sky'], {}, noise(f, 'lamp', 0) / 2, 1)).toEqual({ lamp: 0, sky: 0 });
  expect((await headroom(film({ lamp: 0, sky: 0 }), ['lamp', 'sky'], {}, 1, 1))!.lamp).toBe(MOST_STOPS);
});

test('a film without halves by group tells nothing, and pauses are taken', async () => {
  expect(await headroom({ width: 4, height: 4, layers: new Map() }, ['lamp'], {}, 1, 1)).toBeNull();
  let pauses = 0;
  await headroom(film({ lamp: 0.004, sky: 0.001 }), ['lamp', 'sky'], {}, 2, 1, async () => {
    pauses++;
  });
  expect(pauses).toBeGreaterThan(1);
});
