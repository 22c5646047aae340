import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { numbers } from '@/render/testing';
import { type FilmLayers, LAYER, type Layer } from '../film';
import { QuickFilter } from '.';

const wasm = new WebAssembly.Module(readFileSync(join(__dirname, '../../../public/wasm/denoise.wasm')));
const [width, height] = [70, 40];
type Of = (x: number, y: number) => number;
const plane = (of: Of) => Float32Array.from({ length: width * height }, (_, i) => of(i % width, Math.floor(i / width)));
const layer = (name: string, planes: Float32Array[], channels: string[]): [string, Layer] => [
  name,
  { name, channels, planes, kind: 'color' },
];
const RGB = ['R', 'G', 'B'];
const grey = (name: string, own: Float32Array) => layer(name, [own, own, own], RGB);

function filmOf(truth: Of, noise: number, extra: [string, Layer][] = []): FilmLayers {
  const next = numbers(5);
  const noisy = () => plane((x, y) => truth(x, y) + noise * (2 * next() - 1));
  const [a, b] = [noisy(), noisy()];
  const mean = a.map((v, i) => (v + b[i]) / 2);
  return {
    width,
    height,
    layers: new Map([grey('beauty', mean), grey(LAYER.half('a'), a), grey(LAYER.half('b'), b), ...extra]),
  };
}

const rms = (own: Float32Array, truth: Of) =>
  Math.sqrt(own.reduce((s, v, i) => s + (v - truth(i % width, Math.floor(i / width))) ** 2, 0) / own.length);

test('noise falls, what is even stays so, and an edge of what was hit stays sharp', () => {
  const filter = new QuickFilter(wasm);
  const flat = () => 0.5;
  expect(rms(filter.smooth(filmOf(flat, 0.2))![0], flat)).toBeLessThan(0.35 * 0.2 * Math.sqrt(1 / 6));
  expect(rms(filter.smooth(filmOf(flat, 0))![0], flat)).toBeLessThan(1e-6);
  const edge: Of = (x) => (x < 35 ? 0.2 : 0.8);
  const albedo = layer('albedo', [plane(edge), plane(edge), plane(edge)], RGB);
  const out = filter.smooth(filmOf(edge, 0.2, [albedo]))![1];
  const across = (x: number) => {
    let sum = 0;
    for (let y = 0; y < height; y++) sum += out[y * width + x] / height;
    return sum;
  };
  expect(across(35) - across(34)).toBeGreaterThan(0.5);
});

test('one that is far above all about it is cut, and a film without halves is left alone', () => {
  const film = filmOf(() => 0.5, 0.05);
  const at = 20 * width + 30;
  for (const p of film.layers.get('beauty')!.planes) p[at] = 90;
  expect(new QuickFilter(wasm).smooth(film)![0][at]).toBeLessThan(2);
  film.layers.delete(LAYER.half('b'));
  expect(new QuickFilter(wasm).smooth(film)).toBeNull();
});
