import { numbers } from '@/render/testing';
import { inArena } from '../arena';
import type { Picture } from '../picture';
import { fill } from './fill';
import { focus } from './focus';
import { type Lens, sharpBetween } from './lens';

const [WIDTH, HEIGHT] = [96, 64];
const SIZE = WIDTH * HEIGHT;
const LENS: Lens = { metres: 5, fStop: 1.4, focalMm: 200, sensorMm: 24, blades: 0, bladesDegrees: 0 };
const filledWith = (v: number) => new Float32Array(SIZE).fill(v);
const grey = (plane: Float32Array): Picture => ({
  width: WIDTH,
  height: HEIGHT,
  planes: [plane, plane.map((v) => v / 2), plane.map((v) => v * 2), filledWith(1)],
});
const sum = (p: Float32Array) => p.reduce((s, v) => s + v, 0);

/** Radius in pixels of the circle of confusion of a thin lens: the light of a point at z, brought together behind the sensor at z₀'s image, crosses it so wide. */
function confusion(z: number, { metres, fStop, focalMm, sensorMm }: Lens, height: number): number {
  const f = focalMm / 1000;
  const image = (of: number) => (of === Number.POSITIVE_INFINITY ? f : 1 / (1 / f - 1 / of));
  const sensor = image(metres);
  const aperture = f / fStop!;
  return ((aperture * Math.abs(image(z) - sensor)) / image(z) / 2) * (height / (sensorMm / 1000));
}

test('things are sharp between the distances at which their circle is a pixel wide', () => {
  const [near, far] = sharpBetween(LENS, 720);
  expect(near).toBeLessThan(LENS.metres);
  expect(far).toBeGreaterThan(LENS.metres);
  for (const z of [near, far]) expect(confusion(z, LENS, 720)).toBeCloseTo(0.5, 9);
  // Focused at the hyperfocal distance it is sharp from half of that to the end of the world.
  const wide = { ...LENS, focalMm: 20, fStop: 11 };
  expect(sharpBetween(wide, 720)[1]).toBe(Number.POSITIVE_INFINITY);
  expect(sharpBetween({ ...LENS, fStop: null }, 720)).toEqual([0, Number.POSITIVE_INFINITY]);
});

test('what is in focus stays bit for bit, and so does everything through a pinhole', () => {
  const next = numbers(3);
  const p = grey(Float32Array.from({ length: SIZE }, () => next() * 3));
  expect(focus(p, LENS, filledWith(5))).toBe(p);
  const depth = Float32Array.from({ length: SIZE }, (_, i) => (i % WIDTH < 48 ? 5 : 50));
  const out = focus(p, LENS, depth);
  for (let c = 0; c < 4; c++) expect(p.planes[c].every((v, i) => i % WIDTH >= 48 || out.planes[c][i] === v)).toBe(true);
  expect(focus(p, { ...LENS, fStop: null }, depth)).toBe(p);
});

test('light is kept: a point spreads over its disk, whose radius is that of its depth', () => {
  for (const z of [3, 9, 80, Number.POSITIVE_INFINITY]) {
    const plane = filledWith(0);
    plane[32 * WIDTH + 48] = 1000;
    const out = focus(grey(plane), LENS, filledWith(z)).planes[0];
    expect(Math.abs(sum(out) / 1000 - 1)).toBeLessThan(0.01);
    const far = (i: number) => Math.hypot((i % WIDTH) - 48, Math.floor(i / WIDTH) - 32);
    const radius = confusion(z, LENS, HEIGHT);
    // Of a disk the mean square of the way from its middle is half its radius squared.
    const square = out.reduce((s, v, i) => s + v * far(i) ** 2, 0) / sum(out);
    expect(Math.abs(Math.sqrt(2 * square) / radius - 1)).toBeLessThan(0.12);
    const within = out.reduce((s, v, i) => s + (far(i) < radius + 1.5 ? v : 0), 0);
    expect(within / sum(out)).toBeGreaterThan(0.95);
  }
});

test('through an aperture with edges a point becomes that polygon: behind as it is, before upside down', () => {
  const lens = { ...LENS, blades: 3, bladesDegrees: 90 };
  const from = (z: number) => {
    const plane = filledWith(0);
    plane[32 * WIDTH + 48] = 1000;
    return focus(grey(plane), lens, filledWith(z)).planes[0];
  };
  // A corner up: the middle of its light is where the point was, its widest row a half of the radius below.
  const [behind, before] = [from(Number.POSITIVE_INFINITY), from(2.65)];
  for (const [out, sign, z] of [
    [behind, 1, Number.POSITIVE_INFINITY],
    [before, -1, 2.65],
  ] as const) {
    const radius = confusion(z, lens, HEIGHT);
    expect(Math.abs(sum(out) / 1000 - 1)).toBeLessThan(0.01);
    const rows = Array.from({ length: HEIGHT }, (_, y) => sum(out.slice(y * WIDTH, (y + 1) * WIDTH)));
    const mean = rows.reduce((s, v, y) => s + v * (y - 32), 0) / 1000;
    // Weighed by light, the third moment tells on which side the corner is; a triangle so high has a 135th of the cube of that.
    const skew = rows.reduce((s, v, y) => s + v * (y - 32 - mean) ** 3, 0) / 1000;
    expect(Math.abs(mean)).toBeLessThan(0.2 * radius);
    const cube = (1.5 * radius) ** 3 / 135;
    expect((-sign * skew) / cube).toBeGreaterThan(0.6);
    expect((-sign * skew) / cube).toBeLessThan(1.6);
    const variance = rows.reduce((s, v, y) => s + v * (y - 32 - mean) ** 2, 0) / 1000;
    // Height 1.5 radius: a triangle has an eighteenth of its square.
    expect(Math.sqrt(variance) / Math.sqrt((1.5 * radius) ** 2 / 18)).toBeCloseTo(1, 0);
  }
});

test('even light stays even, to the edges of the picture and at all depths', () => {
  const depth = Float32Array.from({ length: SIZE }, (_, i) => 2 + (i % WIDTH) / 4 + (i > SIZE / 2 ? 20 : 0));
  const out = focus(grey(filledWith(0.7)), LENS, depth);
  expect(out.planes[0].every((v) => Math.abs(v - 0.7) < 5e-5)).toBe(true);
  expect(out.planes[3].every((v) => Math.abs(v - 1) < 5e-5)).toBe(true);
});

test('no halo at edges: behind a sharp thing the background goes on, and a blurred thing spreads over it', () => {
  const left = (i: number) => i % WIDTH < 48;
  const light = Float32Array.from({ length: SIZE }, (_, i) => (left(i) ? 0 : 1));
  const row = (p: Picture) => Array.from({ length: 96 }, (_, x) => p.planes[0][32 * WIDTH + x]);
  // Black and sharp before white and far: white up to the edge.
  const sharp = row(
    focus(
      grey(light),
      LENS,
      Float32Array.from({ length: SIZE }, (_, i) => (left(i) ? 5 : 80)),
    ),
  );
  expect(sharp.slice(0, 48).every((v) => v === 0)).toBe(true);
  for (const v of sharp.slice(48)) expect(v).toBeCloseTo(1, 3);
  // Black and near before white in focus: a soft edge to both sides, half in the middle, that never turns back.
  const near = row(
    focus(
      grey(light),
      LENS,
      Float32Array.from({ length: SIZE }, (_, i) => (left(i) ? 3 : 5)),
    ),
  );
  expect((near[47] + near[48]) / 2).toBeCloseTo(0.5, 1);
  expect(near[44]).toBeGreaterThan(0.02);
  expect(near[51]).toBeLessThan(0.98);
  near.slice(1).forEach((v, i) => {
    expect(v).toBeGreaterThanOrEqual(near[i] - 1e-4);
  });
});

const filled = (plane: Float32Array, known: Float32Array) =>
  inArena((arena) => {
    const [at, its] = [plane, known].map((values) => {
      const place = arena.floats(SIZE);
      arena.view(place, SIZE).set(values);
      return place;
    });
    fill(arena, [at], its, WIDTH, HEIGHT);
    return arena.view(at, SIZE).slice();
  });

test('holes are filled from about them, and what is known stays', () => {
  const known = Float32Array.from({ length: SIZE }, (_, i) => (Math.abs((i % WIDTH) - 40) < 6 ? 0 : 1));
  const plane = Float32Array.from({ length: SIZE }, (_, i) => known[i] * (i % WIDTH < 40 ? 2 : 4));
  const out = filled(plane, known);
  out.forEach((v, i) => {
    if (known[i] === 1) expect(v).toBe(plane[i]);
    else {
      expect(v).toBeGreaterThan(1.9);
      expect(v).toBeLessThan(4.1);
    }
  });
  expect(filled(filledWith(0), filledWith(0)).every((v) => v === 0)).toBe(true);
});
