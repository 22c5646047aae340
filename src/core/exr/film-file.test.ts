import { deflateSync, inflateSync } from 'node:zlib';
import type { FilmLayers, Layer } from '../film';
import { maskId } from './cryptomatte';
import { type FilmFileOptions, filmParts, layersOf, pixelTypeOf } from './film-file';
import { readHeaders } from './read';
import { readPart } from './read-part';
import { fromBytes, height, width } from './types';
import { writeExr } from './write';

const W = 5;
const H = 3;
const box = { xMin: 2, yMin: 1, xMax: W + 1, yMax: H };
const plane = (f: (i: number) => number) => Float32Array.from({ length: W * H }, (_, i) => f(i));
const layer = (name: string, planes: Float32Array[], channels = ['R', 'G', 'B']): [string, Layer] => [
  name,
  { name, planes, channels, kind: 'color' },
];
const film: FilmLayers = {
  width: W,
  height: H,
  layers: new Map([
    layer('beauty', [plane((i) => i / 8), plane((i) => i / 4), plane((i) => i / 2)]),
    layer('alpha', [plane((i) => (i % 2 ? 1 : 0.5))], ['A']),
    layer('group.lamp', [plane((i) => i), plane(() => 1), plane(() => 2)]),
    layer('depth', [plane((i) => (i === 0 ? Infinity : 1 + i / 3))], ['Z']),
    layer('N', [plane(() => 0), plane(() => 1), plane((i) => -i / 16)], ['X', 'Y', 'Z']),
    layer(
      'coverage',
      Array.from({ length: 12 }, (_, k) => plane((i) => (k === 0 ? 1 + (i % 2) : k === 1 ? 1 : 0))),
      Array.from({ length: 12 }, (_, k) => `${k % 2 ? 'share' : 'id'}${k >> 1}`),
    ),
  ]),
};
const options: FilmFileOptions = {
  layers: [...film.layers.keys()],
  depth: 'auto',
  compression: 'zip',
  multiPart: true,
  dataWindow: box,
  displayWindow: { xMin: 0, yMin: 0, xMax: 9, yMax: 9 },
  attributes: { 'lantern:seed': { type: 'int', value: 7 } },
  maskNames: { coverage: ['Mug', 'Rope coil'], coverage_material: [], coverage_set: [] },
};

async function roundTrip(o: FilmFileOptions) {
  const { bytes } = await writeExr(filmParts(film, o), async (b) => deflateSync(b));
  const source = fromBytes(bytes);
  const file = await readHeaders(source);
  const parts = await Promise.all(
    file.parts.map(async (p, i) => ({
      name: p.name,
      channels: p.channels,
      planes: await readPart(source, file, i, async (b, most) => inflateSync(b, { maxOutputLength: most })),
      width: width(p.dataWindow),
      height: height(p.dataWindow),
    })),
  );
  return { file, layers: layersOf(parts) };
}

test.each([true, false])('a film goes into a file and comes back (multi-part: %s)', async (multiPart) => {
  const { file, layers } = await roundTrip({ ...options, multiPart });
  expect(file.parts).toHaveLength(multiPart ? 5 : 1);
  for (const p of file.parts) expect(p.dataWindow).toEqual(box);
  for (const name of ['beauty', 'group.lamp', 'N', 'depth', 'alpha']) {
    const back = layers.layers.get(name)!;
    const want = film.layers.get(name)!;
    expect(back.channels).toEqual(want.channels);
    back.planes.forEach((p, c) => {
      expect(p).toEqual(want.planes[c]);
    });
  }
});

test('half only where it is safe; data keeps every bit', () => {
  const get = (name: string) => film.layers.get(name)!;
  expect(pixelTypeOf(get('beauty'), 'auto')).toBe('half');
  expect(pixelTypeOf(get('beauty'), 'float')).toBe('float');
  expect(pixelTypeOf(get('depth'), 'half')).toBe('float');
  expect(pixelTypeOf(get('coverage'), 'half')).toBe('float');
  const bright: Layer = { ...get('beauty'), planes: [plane(() => 70000), plane(() => 0), plane(() => 0)] };
  expect(pixelTypeOf(bright, 'auto')).toBe('float');
});

test('masks carry the names’ hashes, and the manifest says which is which', async () => {
  const { file, layers } = await roundTrip(options);
  const part = file.parts.find((p) => p.name === 'mask_object')!;
  const manifest = Object.entries(part.attributes).find(([k]) => k.endsWith('/manifest'))!;
  const names = JSON.parse((manifest[1] as { value: string }).value) as Record<string, string>;
  expect(Object.keys(names)).toEqual(['Mug', 'Rope coil']);
  const ids = layers.layers.get('mask_object00')!;
  const id = ids.planes[ids.channels.indexOf('R')];
  expect(id[0]).toBe(Math.fround(maskId('Mug')));
  expect(id[1]).toBe(Math.fround(maskId('Rope coil')));
  const bits = new Uint32Array(Float32Array.of(id[1]).buffer)[0];
  expect(bits.toString(16).padStart(8, '0')).toBe(names['Rope coil']);
});

test('a layer the film lacks is named', () => {
  expect(() => filmParts(film, { ...options, layers: ['beauty', 'class.caustic'] })).toThrow('class.caustic');
});

const foreignPart = (name: string, channels: string[], size = 2, value = 1) => ({
  name,
  channels: channels.map((c) => ({ name: c })),
  planes: channels.map(() => new Float32Array(size * size).fill(value)),
  width: size,
  height: size,
});

test('bare channels of several parts are layers of their own, named by their parts', () => {
  const { layers, leftOut } = layersOf([
    foreignPart('key', ['B', 'G', 'R'], 2, 2),
    foreignPart('beauty', ['A', 'B', 'G', 'R', 'Z'], 2, 5),
    foreignPart('depth', ['Z']),
    foreignPart('fill', ['fill.B', 'fill.G', 'fill.R']),
    foreignPart('small', ['R', 'G', 'B'], 1),
  ]);
  expect([...layers.keys()].sort()).toEqual(['Z', 'alpha', 'beauty', 'depth', 'fill', 'key']);
  expect(layers.get('key')).toMatchObject({ channels: ['R', 'G', 'B'], kind: 'color' });
  expect(layers.get('beauty')!.planes.map((p) => p[0])).toEqual([5, 5, 5]);
  expect(leftOut).toEqual(['part small is 1×1, not 2×2']);
});

test('where no part is the beauty’s by name, none of several is taken for it', () => {
  const several = layersOf([foreignPart('key', ['R', 'G', 'B']), foreignPart('fill', ['R', 'G', 'B'])]);
  expect([...several.layers.keys()]).toEqual(['key', 'fill']);
  expect(layersOf([foreignPart('whatever', ['R', 'G', 'B'])]).layers.has('beauty')).toBe(true);
});
