import { numbers } from '@/render/testing';
import { type FilmLayers, LAYER, type Layer } from '../film';
import { flicker, joinNeighbours, movedTo, NeighbourError } from '.';

const [width, height] = [64, 48];
/** Pixels that everything moves to the right a frame. */
const STEP = 3;
type Of = (x: number, y: number) => number;
const plane = (of: Of) => Float32Array.from({ length: width * height }, (_, i) => of(i % width, Math.floor(i / width)));
const layer = (name: string, planes: Float32Array[], channels: string[]): [string, Layer] => [
  name,
  { name, channels, planes, kind: 'color' },
];
const RGB = ['R', 'G', 'B'];
const grey = (name: string, own: Float32Array) => layer(name, [own, own.slice(), own.slice()], RGB);

/** A frame of a pattern that moves, of one group and two classes, with noise of its own. */
function frameOf(number: number, noise: number, lit: Of = () => 1): FilmLayers {
  const next = numbers(11 + number);
  const pattern: Of = (x, y) => 0.4 + 0.2 * Math.sin((x - STEP * number) / 5) * Math.cos(y / 7);
  const noisy = () => plane((x, y) => pattern(x, y) * lit(x, y) + noise * (2 * next() - 1));
  const [a, b] = [noisy(), noisy()];
  const mean = a.map((v, i) => (v + b[i]) / 2);
  return {
    width,
    height,
    layers: new Map([
      grey('beauty', mean),
      grey(LAYER.half('a'), a),
      grey(LAYER.half('b'), b),
      grey('group.lamp', mean.slice()),
      grey(LAYER.half('a', 'lamp'), a.slice()),
      grey(LAYER.half('b', 'lamp'), b.slice()),
      grey(
        'class.emission',
        mean.map((v) => v * 0.3),
      ),
      grey(
        'class.caustic',
        mean.map((v) => v * 0.7),
      ),
      grey('albedo', plane(pattern)),
      layer('motion', [plane(() => STEP), plane(() => 0)], ['X', 'Y']),
    ]),
  };
}

const truth: Of = (x, y) => 0.4 + 0.2 * Math.sin(x / 5) * Math.cos(y / 7);
const red = (film: FilmLayers, name: string) => film.layers.get(name)!.planes[0];
function rms(film: FilmLayers, of: Of): number {
  let [sum, n] = [0, 0];
  red(film, 'beauty').forEach((v, i) => {
    const x = i % width;
    if (x < 8 || x >= width - 8) return;
    sum += (v - of(x, Math.floor(i / width))) ** 2;
    n++;
  });
  return Math.sqrt(sum / n);
}

const all = (noise: number) => [-1, 0, 1].map((k) => frameOf(k, noise));
const joined = ([before, own, after]: FilmLayers[]) =>
  joinNeighbours(own, [
    { frame: before, isAfter: false },
    { frame: after, isAfter: true },
  ]);

test('frames that move are joined where they lie: noise falls by the number of frames, and flicker with it', () => {
  const frames = all(0.05);
  const { film, share } = joined(frames);
  expect(share).toBeGreaterThan(0.6);
  expect(rms(film, truth) / rms(frames[1], truth)).toBeLessThan(0.7);
  const next = joinNeighbours(frames[2], [{ frame: frames[1], isAfter: false }]).film;
  const moved = movedTo(frames[1], frames[2], true);
  const before = flicker(frames[1], frames[2], moved, 1)!;
  expect(flicker(film, next, moved, 1)!).toBeLessThan(0.75 * before);
});

test('without noise a moving pattern stays as sharp as it was', () => {
  const { film } = joined(all(0));
  expect(rms(film, truth)).toBeLessThan(1e-3);
});

test('parts still sum to the beauty, and halves to their group', () => {
  const { film } = joined(all(0.05));
  red(film, 'beauty').forEach((v, i) => {
    expect(red(film, 'class.emission')[i] + red(film, 'class.caustic')[i]).toBeCloseTo(v, 5);
    expect(red(film, 'group.lamp')[i]).toBeCloseTo(v, 5);
    expect((red(film, 'half_a')[i] + red(film, 'half_b')[i]) / 2).toBeCloseTo(v, 5);
  });
});

test('where a shadow moves or something was hidden, the neighbour has no say', () => {
  // In the frames about it the left is in shadow.
  const dark: Of = (x) => (x < 40 ? 0.3 : 1);
  const frames = [frameOf(-1, 0.01, dark), frameOf(0, 0.01), frameOf(1, 0.01, dark)];
  expect(rms(joined(frames).film, truth)).toBeLessThan(0.02);
  const covered = frameOf(1, 0.01);
  covered.layers.set(
    ...grey(
      'albedo',
      plane(() => 0.95),
    ),
  );
  const moved = movedTo(frames[1], covered, true);
  expect(Math.max(...moved.alike)).toBeLessThan(0.1);
});

test('a film without motion says what it needs', () => {
  const frames = all(0.05);
  frames[1].layers.delete('motion');
  expect(() => joined(frames)).toThrow(NeighbourError);
});
