import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { nodeDeflate, nodeInflate } from '@/node/zlib';
import { damaged, numbers } from '@/render/testing';
import { ExrError, fromBytes, isLossy, type Part, readHeaders, readPart, writeExr } from '.';

/** Tiled files as the OpenEXR library makes them of ours. */
const folder = mkdtempSync(join(tmpdir(), 'lantern-tiles-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const at = (name: string) => join(folder, name);

const [WIDTH, HEIGHT] = [101, 67];
const next = numbers(5);
const plane = (f: (i: number) => number) => Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => f(i));
const part: Part = {
  name: 'own',
  channels: [
    { name: 'B', type: 'half' },
    { name: 'G', type: 'half' },
    { name: 'R', type: 'half' },
    { name: 'depth.Z', type: 'float' },
    { name: 'id', type: 'uint' },
  ],
  compression: 'zip',
  dataWindow: { xMin: -7, yMin: 12, xMax: -7 + WIDTH - 1, yMax: 12 + HEIGHT - 1 },
  displayWindow: { xMin: 0, yMin: 0, xMax: 127, yMax: 95 },
  attributes: {},
  planes: [
    plane(() => Math.fround(Math.round(next() * 1024) / 1024)),
    plane((i) => (i % 64) / 64),
    plane(() => 0.5),
    plane(() => Math.fround(next() * 100)),
    Uint32Array.from({ length: WIDTH * HEIGHT }, (_, i) => i * 2654435761),
  ],
};

async function read(name: string) {
  const source = fromBytes(new Uint8Array(readFileSync(at(name))));
  const file = await readHeaders(source);
  const planes = [];
  for (let i = 0; i < file.parts.length; i++) planes.push(await readPart(source, file, i, nodeInflate));
  return { file, planes };
}

beforeAll(async () => {
  writeFileSync(at('own.exr'), (await writeExr([part], nodeDeflate)).bytes);
});

test.each(['none', 'rle', 'zip', 'piz'])('tiles packed by %s have the pixels of lines', async (compression) => {
  execFileSync('exrmaketiled', ['-o', '-t', '32', '24', '-z', compression, at('own.exr'), at('tiled.exr')]);
  const { file, planes } = await read('tiled.exr');
  expect(file.parts[0].tiles).toEqual({ width: 32, height: 24, levels: 'one', roundsUp: false });
  expect(file.chunks[0]).toHaveLength(4 * 3);
  expect(file.parts[0].channels.map((c) => c.name)).toEqual(part.channels.map((c) => c.name));
  expect(planes[0]).toEqual(part.planes);
});

test.each([
  ['mipmap', '-m', []],
  ['mipmap', '-m', ['-u']],
  ['ripmap', '-r', []],
  ['ripmap', '-r', ['-u']],
])('of a %s (%s %j) the whole picture is read, also where a part follows it', async (levels, kind, rounding) => {
  execFileSync('exrmaketiled', [kind, ...rounding, '-t', '16', '16', at('own.exr'), at('levels.exr')]);
  const { file, planes } = await read('levels.exr');
  expect(file.parts[0].tiles).toMatchObject({ levels, roundsUp: rounding.length > 0 });
  expect(planes[0]).toEqual(part.planes);
  execFileSync('exrmultipart', ['-combine', '-i', at('levels.exr'), at('own.exr'), '-o', at('both.exr')]);
  const both = await read('both.exr');
  expect(both.planes).toEqual([part.planes, part.planes]);
});

test('a damaged tiled file is read, or refused by a place in it', async () => {
  execFileSync('exrmaketiled', ['-m', '-t', '32', '24', '-z', 'zip', at('own.exr'), at('whole.exr')]);
  const bytes = new Uint8Array(readFileSync(at('whole.exr')));
  let refused = 0;
  for (let i = 0; i < 400; i++) {
    const source = fromBytes(damaged(bytes, next));
    try {
      const file = await readHeaders(source, { headerBytes: 1 << 20, partBytes: 1 << 22 });
      await readPart(source, file, 0, nodeInflate);
    } catch (error) {
      expect(error).toBeInstanceOf(ExrError);
      refused++;
    }
  }
  expect(refused).toBeGreaterThan(40);
});

test.each(['none', 'zip', 'b44', 'dwaa'] as const)(
  'tiles that we pack by %s have for the library the pixels of lines, alone and beside parts in lines',
  async (compression) => {
    const tiles = { width: 32, height: 16, levels: 'one' as const, roundsUp: false };
    const tiled = { ...part, name: 'tiled', compression, tiles };
    writeFileSync(at('alone.exr'), (await writeExr([tiled], nodeDeflate)).bytes);
    writeFileSync(at('many.exr'), (await writeExr([tiled, part], nodeDeflate)).bytes);
    const ours = await read('alone.exr');
    expect(ours.file.parts[0]).toMatchObject({ tiles, compression });
    expect(ours.file.chunks[0]).toHaveLength(4 * 5);
    if (!isLossy(compression)) expect(ours.planes[0]).toEqual(part.planes);
    expect((await read('many.exr')).planes).toEqual([ours.planes[0], part.planes]);
    // By the library, which knows of tiles what it needs to make lines of them.
    for (const name of ['alone', 'many']) {
      execFileSync('oiiotool', [
        at(`${name}.exr`),
        '--subimage',
        '0',
        '--ch',
        'B,G,R',
        '--scanline',
        '--compression',
        'none',
        '-o',
        at('lines.exr'),
      ]);
      const { planes } = await read('lines.exr');
      for (let c = 0; c < 3; c++) {
        const off = Array.from(planes[0][c], (v, i) => Math.abs(v - ours.planes[0][c][i]) / (Math.abs(v) + 0.02));
        expect(Math.max(...off)).toBeLessThan(5e-3);
      }
    }
  },
);

test('tiles with smaller pictures beside them are not written', async () => {
  const tiles = { width: 32, height: 16, levels: 'mipmap' as const, roundsUp: false };
  await expect(writeExr([{ ...part, tiles }], nodeDeflate)).rejects.toThrow('without smaller pictures');
});
