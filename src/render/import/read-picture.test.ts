import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decodeSrgb, encodePng } from '@/core/image';
import { type Plate, stillAt } from '@/core/scene';
import { nodeInflate } from '@/node/zlib';
import { numbers } from '../testing';
import { environmentValues, readPicture } from './read-picture';

const folder = mkdtempSync(join(tmpdir(), 'lantern-pictures-'));
const rgb = new Uint8Array([
  200, 30, 10, 20, 180, 40, 5, 60, 250, 255, 255, 255, 0, 0, 0, 128, 128, 128, 90, 10, 200, 1, 2, 3,
]);
const png = encodePng(4, 2, rgb, 3);
writeFileSync(join(folder, 'in.png'), png);
/** The same pixels as another library writes them. */
const by = (name: string, ...options: string[]) => {
  execFileSync('oiiotool', [join(folder, 'in.png'), ...options, '-o', join(folder, name)]);
  return new Uint8Array(readFileSync(join(folder, name)));
};
const read = (name: string, bytes: Uint8Array) => readPicture(name, bytes, nodeInflate);

test.each([
  ['a.png', [], 0],
  ['a.tif', [], 0],
  ['b.tif', ['-d', 'uint16'], 0],
  ['c.tif', ['--compression', 'lzw'], 0],
  ['a.jpg', ['--attrib', 'jpeg:subsampling', '4:4:4', '--quality', '100'], 4],
])('%s from another library has the pixels it was made of', async (name, options, slack) => {
  const p = await read(name, by(name, ...options));
  expect([p.width, p.height]).toEqual([4, 2]);
  for (let i = 0; i < 8; i++)
    for (let c = 0; c < 3; c++)
      expect(Math.abs(p.values[i * p.channels + c] - rgb[i * 3 + c])).toBeLessThanOrEqual(slack);
});

test.each(['a.exr', 'a.hdr', 'f.tif'])('%s is linear floats', async (name) => {
  const options = name === 'a.exr' ? ['-d', 'float', '--compression', 'zip'] : ['-d', 'float', '--compression', 'none'];
  const p = await read(name, by(name, '--colorconvert', 'sRGB', 'linear', ...options));
  expect(p.values).toBeInstanceOf(Float32Array);
  const lit = environmentValues(p, decodeSrgb);
  for (let i = 0; i < 24; i++) {
    const truth = decodeSrgb(rgb[i] / 255);
    expect(Math.abs(lit[i] - truth)).toBeLessThan(0.006 + 0.02 * truth);
  }
});

test('alpha is told apart as its file states it', async () => {
  const straight = encodePng(1, 1, new Uint8Array([255, 0, 0, 128]));
  expect((await read('s.png', straight)).alpha).toBe('straight');
  writeFileSync(join(folder, 'in.png'), straight);
  expect((await read('p.tif', by('p.tif'))).alpha).toBe('premultiplied');
  writeFileSync(join(folder, 'in.png'), png);
});

test('two hundred damaged pictures are read or refused by their file’s name', async () => {
  const files: [string, Uint8Array][] = [
    ['d.png', png],
    ['d.jpg', by('d.jpg')],
    ['d.tif', by('d.tif')],
    ['d.exr', by('d.exr', '-d', 'half', '--compression', 'zip')],
    ['d.hdr', by('d.hdr', '-d', 'float')],
  ];
  const next = numbers(5);
  let refused = 0;
  for (let i = 0; i < 200; i++) {
    const [name, whole] = files[i % files.length];
    const bytes = i % 2 === 0 ? whole.slice(0, Math.floor(next() * whole.length)) : whole.slice();
    if (i % 2 === 1) for (let k = 0; k < 4; k++) bytes[Math.floor(next() * bytes.length)] = Math.floor(next() * 256);
    try {
      const p = await read(name, bytes);
      expect(p.width * p.height).toBeGreaterThan(0);
    } catch (error) {
      expect((error as Error).message).toMatch(new RegExp(`^${name.replace('.', '\\.')}: .{3,}`));
      refused++;
    }
  }
  expect(refused).toBeGreaterThan(90);
});

test('sizes that no picture has are refused before anything is made of them', async () => {
  const huge = png.slice();
  new DataView(huge.buffer).setUint32(16, 2_000_000_000);
  await expect(read('huge.png', huge)).rejects.toThrow(/huge\.png: 2000000000×2 pixels are out of range/);
});

test('a plate’s still goes by its number; gaps hold the one before or are empty', () => {
  const plate: Plate = {
    name: 'sea',
    stills: [
      { number: 101, picture: 'a' },
      { number: 103, picture: 'b' },
    ],
    offset: -100,
    gaps: 'hold',
  };
  expect([0, 1, 2, 3, 9].map((f) => stillAt(plate, f))).toEqual(['a', 'a', 'a', 'b', 'b']);
  expect([0, 1, 2, 3].map((f) => stillAt({ ...plate, gaps: 'empty' }, f))).toEqual([null, 'a', null, 'b']);
});
