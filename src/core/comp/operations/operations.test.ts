import { numbers } from '@/render/testing';
import { luminance } from '../../image';
import type { Picture } from '../picture';
import { haze, vignette } from '../reference/space';
import { contrast, exposure, ranges, saturation, shoulder, white } from '../reference/tone';
import { blurred, sharpen, soften } from './blur';
import { glow } from './glow';
import { rangeWeights } from './tone';

const [WIDTH, HEIGHT] = [48, 32];
const next = numbers(7);
const noise = (): Picture => {
  const plane = (most: number) => Float32Array.from({ length: WIDTH * HEIGHT }, () => next() * most);
  const a = plane(1);
  const of = () => plane(4).map((v, i) => v * a[i]);
  return { width: WIDTH, height: HEIGHT, planes: [of(), of(), of(), a] };
};
const one = (r: number, g: number, b: number, a = 1): Picture => ({
  width: 1,
  height: 1,
  planes: [r, g, b, a].map((v) => Float32Array.of(v)) as unknown as Picture['planes'],
});
const rgb = (p: Picture) => [0, 1, 2].map((c) => p.planes[c][0]);
const near = (got: readonly number[], want: readonly number[], digits = 5) =>
  want.forEach((v, c) => {
    expect(got[c]).toBeCloseTo(v, digits);
  });
const sum = (p: Float32Array) => p.reduce((s, v) => s + v, 0);
/** The same colours behind glass of half its alpha. */
const thin = ({ planes, ...p }: Picture): Picture => ({
  ...p,
  planes: planes.map((v) => v.map((x) => x / 2)) as unknown as Picture['planes'],
});

test('exposure and tint are factors; white turns the colour that was picked grey and keeps its luminance', () => {
  near(rgb(exposure(one(1, 2, -1), { stops: 1, tint: [1, 0.5, 2] })), [2, 2, -4]);
  const picked = [0.6, 0.4, 0.2] as const;
  const grey = rgb(white(one(...picked), { rgb: picked }, 'Rec.709'));
  near(grey, Array(3).fill(luminance(...picked)));
});

test('contrast turns about its pivot, by stops', () => {
  near(rgb(contrast(one(0.18, 0.72, 0), { amount: 1.5, pivot: 0.18 })), [0.18, 0.18 * 8, 0]);
  near(rgb(contrast(one(-1, 0.09, 0.18), { amount: 2, pivot: 0.18 })), [-1, 0.045, 0.18]);
});

test('saturation keeps luminance, and takes all colour at none', () => {
  const out = rgb(saturation(one(1, 0.2, 0), { amount: 2 }, 'Rec.709')) as [number, number, number];
  expect(luminance(...out)).toBeCloseTo(luminance(1, 0.2, 0), 6);
  const grey = rgb(saturation(one(1, 0.2, 0), { amount: 0 }, 'Rec.709'));
  near(grey, Array(3).fill(luminance(1, 0.2, 0)));
});

test('dark, middle and light part at two levels, and are everything together', () => {
  const levels = { low: 0.05, high: 0.8, widthStops: 2 };
  for (let s = -12; s < 8; s += 0.25) {
    const w = rangeWeights(2 ** s, levels);
    expect(w[0] + w[1] + w[2]).toBeCloseTo(1, 9);
    for (const v of w) expect(v).toBeGreaterThanOrEqual(0);
  }
  near(rangeWeights(1e-4, levels), [1, 0, 0]);
  near(rangeWeights(0.2, levels), [0, 1, 0]);
  near(rangeWeights(100, levels), [0, 0, 1]);
  expect(rangeWeights(0.05, levels)[0]).toBeCloseTo(0.5, 9);
  const plain = { stops: 0, tint: [1, 1, 1] as const };
  const lifted = { ...levels, shadows: { stops: 2, tint: [1, 1, 1] as const }, middle: plain, lights: plain };
  near(rgb(ranges(one(0.001, 0.001, 0.001), lifted, 'Rec.709')), [0.004, 0.004, 0.004]);
  near(rgb(ranges(one(5, 5, 5), lifted, 'Rec.709')), [5, 5, 5]);
});

test('the shoulder leaves what is below it, meets without a step in slope, and never reaches white', () => {
  const rolled = (v: number) => rgb(shoulder(one(v, v, v), { from: 0.6 }))[0];
  expect(rolled(0.5)).toBeCloseTo(0.5, 7);
  expect((rolled(0.601) - rolled(0.599)) / 0.002).toBeCloseTo(1, 2);
  expect(rolled(1000)).toBeLessThan(1);
  expect(rolled(1000)).toBeGreaterThan(0.99);
});

test('grades see colours, not how much of the pixel they cover', () => {
  const p = noise();
  const range = {
    low: 0.05,
    high: 0.8,
    widthStops: 2,
    shadows: { stops: 1, tint: [1, 0.5, 1] as const },
    middle: { stops: 0, tint: [1, 1, 1] as const },
    lights: { stops: -1, tint: [1, 1, 1] as const },
  };
  for (const to of [
    (q: Picture) => contrast(q, { amount: 1.4, pivot: 0.3 }),
    (q: Picture) => saturation(q, { amount: 1.3 }, 'Rec.709'),
    (q: Picture) => shoulder(q, { from: 0.5 }),
    (q: Picture) => ranges(q, range, 'Rec.709'),
    (q: Picture) => haze(q, { rgb: [0.2, 0.3, 0.4], perMetre: 0.1 }, new Float32Array(WIDTH * HEIGHT).fill(7)),
  ]) {
    const [whole, half] = [to(p), to(thin(p))];
    for (let c = 0; c < 3; c++)
      expect(
        half.planes[c].every((v, i) => Math.abs(v * 2 - whole.planes[c][i]) < 1e-6 * Math.max(1, whole.planes[c][i])),
      ).toBe(true);
  }
});

test('a blur keeps even light everywhere, and all light away from the edges', () => {
  const even = one(3, 3, 3);
  const flat: Picture = {
    width: WIDTH,
    height: HEIGHT,
    planes: even.planes.map((v) => new Float32Array(WIDTH * HEIGHT).fill(v[0])) as unknown as Picture['planes'],
  };
  for (const p of [soften(flat, { radius: 0.2 }), sharpen(flat, { radius: 0.05, amount: 3 })])
    p.planes.forEach((plane, c) => {
      expect(plane.every((v) => Math.abs(v - (c < 3 ? 3 : 1)) < 5e-5)).toBe(true);
    });
  const spot = new Float32Array(WIDTH * HEIGHT);
  spot[16 * WIDTH + 24] = 100;
  const soft = blurred(spot, WIDTH, HEIGHT, [{ sigma: 2.5, share: 1 }], 'nothing');
  expect(sum(soft)).toBeCloseTo(100, 3);
  // The second moment of what was a point is the variance of the Gauss.
  const moment = soft.reduce((s, v, i) => s + v * ((i % WIDTH) - 24) ** 2, 0) / 100;
  expect(moment).toBeCloseTo(2.5 ** 2, 1);
});

test('sharpening adds what a blur takes, and leaves alpha', () => {
  const p = noise();
  const [sharp, soft] = [sharpen(p, { radius: 0.05, amount: 2 }), soften(p, { radius: 0.05 })];
  expect(p.planes[0].every((v, i) => Math.abs(sharp.planes[0][i] - (v + 2 * (v - soft.planes[0][i]))) < 5e-5)).toBe(
    true,
  );
  expect(sharp.planes[3]).toBe(p.planes[3]);
});

test('glow is linear in light, has the energy that it says, and takes none from what glows', () => {
  const spot = (v: number): Picture => {
    const plane = new Float32Array(128 * 128);
    plane[64 * 128 + 64] = v;
    return { width: 128, height: 128, planes: [plane, plane, plane, new Float32Array(128 * 128)] };
  };
  const settings = { amount: 0.3, radius: 0.03, above: 0 };
  const [once, twice] = [glow(spot(10), settings), glow(spot(20), settings)];
  expect(once.planes[0].every((v, i) => Math.abs(twice.planes[0][i] - 2 * v) <= 1e-5 * Math.max(1e-3, v))).toBe(true);
  expect(sum(once.planes[0]) / 10).toBeCloseTo(1.3, 2);
  expect(once.planes[0][64 * 128 + 64]).toBeGreaterThan(10);
  // Of what is above a level only that spreads.
  expect(sum(glow(spot(10), { ...settings, above: 8 }).planes[0])).toBeCloseTo(10 + 0.3 * 2, 1);
});

test('a vignette leaves the middle and darkens the corners by its share; haze goes by e to the way, and far is fog', () => {
  const flat: Picture = {
    width: 64,
    height: 64,
    planes: [1, 1, 1, 1].map((v) => new Float32Array(64 * 64).fill(v)) as unknown as Picture['planes'],
  };
  const dark = vignette(flat, { amount: 0.5, from: 0.4 }).planes[0];
  expect(dark[32 * 64 + 32]).toBe(1);
  expect(dark[0]).toBeCloseTo(0.5, 1);
  const depth = Float32Array.from({ length: 64 * 64 }, (_, i) => (i === 0 ? Number.POSITIVE_INFINITY : 10));
  const fog = haze(flat, { rgb: [0.2, 0.4, 0.8], perMetre: 0.1 }, depth);
  expect(fog.planes[2][0]).toBeCloseTo(0.8, 6);
  expect(fog.planes[0][1]).toBeCloseTo(Math.exp(-1) + 0.2 * (1 - Math.exp(-1)), 6);
});
