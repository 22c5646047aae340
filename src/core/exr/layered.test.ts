import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { nodeDeflate, nodeInflate } from '@/node/zlib';
import { coverageOf, layeredIn, maskBits, readHeaders, readLayered, writeExr } from '.';
import { maskId, maskKey } from './cryptomatte';
import { fromBytes } from './types';

const folder = mkdtempSync(join(tmpdir(), 'lantern-layered-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const at = (name: string) => join(folder, name);
const oiio = (...args: string[]) => execFileSync('oiiotool', args, { encoding: 'utf8' });

async function opened(path: string) {
  const source = fromBytes(new Uint8Array(readFileSync(path)));
  const file = await readHeaders(source);
  return { told: layeredIn(file), read: (...names: string[]) => readLayered(source, file, names, nodeInflate) };
}

test('layers of a file that another program wrote, tiled and packed, by whatever its channels are called', async () => {
  const names = 'R,G,B,A,key_light.red,key_light.green,key_light.blue,fill.r,fill.g,fill.b,depth.Z,wet.Y';
  const values = [0.1, 0.2, 0.3, 0.5, 1, 2, 3, 0.25, 0.5, 0.75, 7, 0.125];
  oiio(
    ...['--create', '70x50', '12', `--fill:color=${values.join(',')}`, '70x50', '--chnames', names],
    ...['-d', 'float', '--tile', '32', '32', '--compression', 'zip', '-o', at('tiled.exr')],
  );
  const { told, read } = await opened(at('tiled.exr'));
  expect(told).toMatchObject({ width: 70, height: 50, things: [] });
  expect(told.layers.map((l) => l.name).sort()).toEqual(['alpha', 'beauty', 'depth', 'fill', 'key_light', 'wet']);
  const film = await read('beauty', 'alpha', 'key_light', 'fill', 'depth', 'wet', 'nothing');
  const of = (name: string) => film.layers.get(name)!;
  expect(of('key_light')).toMatchObject({ channels: ['R', 'G', 'B'], kind: 'color' });
  expect(of('fill').channels).toEqual(['R', 'G', 'B']);
  expect(of('depth')).toMatchObject({ channels: ['Z'], kind: 'data' });
  expect(film.layers.has('nothing')).toBe(false);
  const all = ['beauty', 'alpha', 'key_light', 'fill', 'depth', 'wet'].flatMap((n) => of(n).planes);
  expect(all.map((p) => p[1234])).toEqual(values.map(Math.fround));
});

test('data that do not fill the frame lie where they are; beyond them is nothing, and depth without end', async () => {
  oiio('--create', '20x10', '4', '--fill:color=1,2,3,4', '20x10', '--chnames', 'R,G,B,Z', '-o', at('whole.exr'));
  oiio(at('whole.exr'), '--cut', '8x4+6+3', '--origin', '+6+3', '--fullsize', '20x10+0+0', '-o', at('part.exr'));
  const { told, read } = await opened(at('part.exr'));
  expect(told).toMatchObject({ width: 20, height: 10 });
  const film = await read('beauty', 'Z');
  const [red] = film.layers.get('beauty')!.planes;
  const [z] = film.layers.get('Z')!.planes;
  for (let y = 0; y < 10; y++)
    for (let x = 0; x < 20; x++) {
      const isIn = x >= 6 && x < 14 && y >= 3 && y < 7;
      expect(red[y * 20 + x]).toBe(isIn ? 1 : 0);
      expect(z[y * 20 + x]).toBe(isIn ? 4 : Number.POSITIVE_INFINITY);
    }
});

test('the first Cryptomatte of a file, whatever it is called, tells its things apart', async () => {
  const [w, h] = [4, 2];
  const plane = (...v: number[]) => Float32Array.from(v);
  const key = maskKey('thing');
  const said = (value: string) => ({ type: 'string' as const, value });
  const manifest = { hull: maskBits('hull').toString(16), mast: maskBits('mast').toString(16) };
  const box = { xMin: 0, yMin: 0, xMax: w - 1, yMax: h - 1 };
  const ids = (a: string, b: string) => plane(...Array.from({ length: 8 }, (_, i) => maskId(i < 4 ? a : b)));
  const even = (v: number) => new Float32Array(8).fill(v);
  const { bytes } = await writeExr(
    [
      {
        name: '',
        channels: ['R', 'thing00.R', 'thing00.G', 'thing00.B', 'thing00.A'].map((name) => ({ name, type: 'float' })),
        compression: 'zip',
        dataWindow: box,
        displayWindow: box,
        attributes: {
          [`${key}/name`]: said('thing'),
          [`${key}/hash`]: said('MurmurHash3_32'),
          [`${key}/conversion`]: said('uint32_to_float32'),
          [`${key}/manifest`]: said(JSON.stringify(manifest)),
        },
        planes: [even(1), ids('hull', 'mast'), even(0.75), ids('mast', 'hull'), even(0.25)],
      },
    ],
    nodeDeflate,
  );
  writeFileSync(at('things.exr'), bytes);
  const { told, read } = await opened(at('things.exr'));
  expect(told.things).toEqual(['hull', 'mast']);
  expect(told.layers.map((l) => l.name)).toEqual(['beauty', 'coverage']);
  const coverage = (await read('coverage')).layers.get('coverage')!;
  const hull = coverageOf(coverage, { names: ['hull'], numbers: [] });
  expect([...hull]).toEqual([0.75, 0.75, 0.75, 0.75, 0.25, 0.25, 0.25, 0.25]);
});
