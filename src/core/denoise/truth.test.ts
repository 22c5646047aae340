import { numbers } from '@/render/testing';
import { type FilmLayers, LAYER, type Layer } from '../film';
import { TILE_SIZE } from '../kernel';
import { changedMap, choosePatches, PATCH_FLOATS, type Patches, trueError, unbent } from '.';

const [width, height] = [160, 96];
type Of = (x: number, y: number) => number;
const plane = (of: Of) => Float32Array.from({ length: width * height }, (_, i) => of(i % width, Math.floor(i / width)));
const grey = (name: string, own: Float32Array): [string, Layer] => [
  name,
  { name, channels: ['R', 'G', 'B'], planes: [own, own, own], kind: 'color' },
];

/** A grey picture with even noise of a standard deviation in either half. */
function filmOf(truth: Of, deviation: number, seed: number): FilmLayers {
  const next = numbers(seed);
  const noisy = () => plane((x, y) => truth(x, y) + deviation * Math.sqrt(3) * (2 * next() - 1));
  const [a, b] = [noisy(), noisy()];
  const mean = a.map((v, i) => (v + b[i]) / 2);
  return {
    width,
    height,
    layers: new Map([grey('beauty', mean), grey(LAYER.half('a'), a), grey(LAYER.half('b'), b)]),
  };
}

/** Patches of a truth as they would be rendered, with noise of their own. */
function rendered(chosen: Omit<Patches, 'samples' | 'seconds'>, truth: Of, deviation: number): Float32Array {
  const next = numbers(99);
  const columns = Math.ceil(width / TILE_SIZE);
  const out = new Float32Array(chosen.cells.length * PATCH_FLOATS);
  chosen.cells.forEach((cell, k) => {
    for (let half = 0; half < 4; half++)
      for (let i = 0; i < TILE_SIZE * TILE_SIZE; i++) {
        const x = (cell % columns) * TILE_SIZE + (i % TILE_SIZE);
        const y = Math.floor(cell / columns) * TILE_SIZE + Math.floor(i / TILE_SIZE);
        const v = truth(x, y) + deviation * Math.sqrt(3) * (2 * next() - 1);
        for (let c = 0; c < 3; c++) out[k * PATCH_FLOATS + (half * 3 + c) * TILE_SIZE * TILE_SIZE + i] = v;
      }
  });
  return out;
}

const truth: Of = (x, y) => 0.3 + (x > 80 && (x + y) % 2 === 0 ? 0.1 : 0);
/** What a filter leaves that smears the texture and keeps a little noise. */
const smeared: Of = (x) => 0.35 - (x > 80 ? 0 : 0.05);
/** Displayed as it is: the square of light against light. */
const display = 1;

test('the true error is told without bias, and what of it is no noise, each within its interval', () => {
  const plain = filmOf(truth, 0.06, 1);
  const made = filmOf(smeared, 0.01, 2);
  const chosen = choosePatches(plain, made, display);
  const patches: Patches = { ...chosen, samples: 8, seconds: 1 };
  expect(chosen.weight.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 6);
  expect(new Set(chosen.cells).size).toBe(chosen.cells.length);
  const told = trueError(patches, rendered(chosen, truth, 0.02), plain, made, display);
  // As displayed: half of the picture is off by ±0.05 of 0.35 in linear light.
  const f = (v: number) => (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055);
  const off = ((f(0.4) - f(0.35)) ** 2 + (f(0.35) - f(0.3)) ** 2) / 2;
  const [columns, right] = [width, width - 81];
  const bias = 100 * Math.sqrt((off * right) / columns);
  expect(told.changed.low).toBeLessThan(bias * 1.05);
  expect(told.changed.high).toBeGreaterThan(bias * 0.95);
  expect(told.changed.value / bias).toBeCloseTo(1, 0);
  expect(told.error.value).toBeGreaterThan(told.changed.value);
  expect(told.plain.value).toBeGreaterThan(told.error.value);
});

test('a film without fault has none, and its noise is not told as change', () => {
  const plain = filmOf(truth, 0.06, 1);
  const made = filmOf(truth, 0.02, 2);
  const chosen = choosePatches(plain, made, display);
  const told = trueError({ ...chosen, samples: 8, seconds: 1 }, rendered(chosen, truth, 0.005), plain, made, display);
  expect(told.changed.value).toBeLessThan(0.35 * told.error.value);
  expect(told.changed.low).toBeLessThan(0.2);
});

test('what the display shows of the truth is told without its bend, however noisy the halves', () => {
  const next = numbers(3);
  const f = (v: number) => Math.sqrt(v);
  // Halves of a mean of 0.2, each the mean of eight pixels lit by chance.
  const half = () => Array.from({ length: 8 }, () => (next() < 0.2 ? 1 : 0)).reduce<number>((a, v) => a + v, 0) / 8;
  let [plainly, told] = [0, 0];
  const n = 20000;
  for (let i = 0; i < n; i++) {
    const [a, b] = [half(), half()];
    plainly += (f(a) + f(b)) / 2 / n;
    told += unbent(f, a, b) / n;
  }
  expect(Math.abs(told - f(0.2))).toBeLessThan(Math.abs(plainly - f(0.2)) / 4);
});

test('the map shows an edge that was smeared and hardly anything where noise alone was taken', () => {
  const edge: Of = (x) => (x < 80 ? 0.2 : 0.5);
  const soft: Of = (x) => 0.2 + 0.3 * Math.min(1, Math.max(0, (x - 72) / 16));
  const map = changedMap(filmOf(edge, 0.03, 1), filmOf(soft, 0.001, 2), display);
  const mean = (from: number, to: number) => {
    let [sum, n] = [0, 0];
    map.forEach((v, i) => {
      if (i % width < from || i % width >= to) return;
      sum += v;
      n++;
    });
    return sum / n;
  };
  expect(mean(74, 79)).toBeGreaterThan(0.05);
  expect(mean(0, 60)).toBeLessThan(0.004);
  expect(mean(100, 160)).toBeLessThan(0.004);
});
