import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { crc32, deflateSync } from 'node:zlib';
import { decodeSrgb, encodePng, whiteOf } from '@/core/image';
import { type Plate, stillAt } from '@/core/scene';
import { nodeInflate } from '@/node/zlib';
import { damaged, numbers } from '../testing';
import { environmentValues, readPicture } from './read-picture';

const folder = mkdtempSync(join(tmpdir(), 'lantern-pictures-'));
const rgb = new Uint8Array([
  200, 30, 10, 20, 180, 40, 5, 60, 250, 255, 255, 255, 0, 0, 0, 128, 128, 128, 90, 10, 200, 1, 2, 3,
]);
const png = encodePng(4, 2, rgb, 3);
writeFileSync(join(folder, 'in.png'), png);
/** The same pixels as another library writes them: the same bytes whenever and wherever this runs. */
const by = (name: string, ...options: string[]) => {
  const fixed = ['--nosoftwareattrib', '--attrib', 'DateTime', '2026:01:01 00:00:00'];
  execFileSync('oiiotool', [join(folder, 'in.png'), ...fixed, ...options, '-o', join(folder, name)]);
  return new Uint8Array(readFileSync(join(folder, name)));
};
const chunk = (type: string, data: Uint8Array) => {
  const body = Buffer.concat([Buffer.from(type), data]);
  const ends = Buffer.alloc(8);
  ends.writeUInt32BE(data.length, 0);
  ends.writeUInt32BE(crc32(body), 4);
  return Buffer.concat([ends.subarray(0, 4), body, ends.subarray(4)]);
};
/** A PNG of raw rows, each after the byte of its filter. */
function rawPng(
  width: number,
  height: number,
  depth: number,
  colour: number,
  rows: ArrayLike<number>,
  palette?: number[],
) {
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  head.set([depth, colour], 8);
  const plte = palette ? [chunk('PLTE', Uint8Array.from(palette))] : [];
  const data = deflateSync(rows instanceof Uint8Array ? rows : Uint8Array.from(rows));
  const parts = [
    Buffer.from(png.subarray(0, 8)),
    chunk('IHDR', head),
    ...plte,
    chunk('IDAT', data),
    chunk('IEND', Buffer.alloc(0)),
  ];
  return new Uint8Array(Buffer.concat(parts));
}
const read = (name: string, bytes: Uint8Array) => readPicture(name, bytes, nodeInflate);

test.each([
  ['a.png', [], 0],
  ['a.tif', [], 0],
  ['b.tif', ['-d', 'uint16'], 0],
  ['c.tif', ['--compression', 'lzw'], 0],
  ['d.tif', ['--tile', '16', '16', '--compression', 'lzw'], 0],
  ['e.tif', ['--tile', '16', '16', '--compression', 'zip', '-d', 'uint16'], 0],
  ['a.jpg', ['--attrib', 'jpeg:subsampling', '4:4:4', '--quality', '100'], 4],
])('%s from another library has the pixels it was made of', async (name, options, slack) => {
  const p = await read(name, by(name, ...options));
  expect([p.width, p.height]).toEqual([4, 2]);
  for (let i = 0; i < 8; i++)
    for (let c = 0; c < 3; c++)
      expect(Math.abs((p.values[i * p.channels + c] * 255) / whiteOf(p.values) - rgb[i * 3 + c])).toBeLessThanOrEqual(
        slack,
      );
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
  // Red under half an alpha, as the file holds it: multiplied.
  const multiplied = await read('p.tif', by('p.tif'));
  expect(multiplied.alpha).toBe('premultiplied');
  expect([...multiplied.values]).toEqual([128, 0, 0, 128]);
  const words = await read('w.tif', by('w.tif', '-d', 'uint16'));
  expect([...words.values]).toEqual([128 * 257, 0, 0, 128 * 257]);
  writeFileSync(join(folder, 'in.png'), png);
});

test('sixteen bits stay sixteen bits', async () => {
  const values = Uint16Array.from({ length: 24 }, (_, i) => (i * 7919 + 3) & 0xffff);
  const words = encodePng(4, 2, values, 3);
  expect((await read('w.png', words)).values).toEqual(values);
  writeFileSync(join(folder, 'in.png'), words);
  const tiff = await read('v.tif', by('v.tif', '-d', 'uint16', '--compression', 'lzw'));
  expect(tiff.values).toEqual(values);
  writeFileSync(join(folder, 'in.png'), png);
});

test.each([1, 2, 4, 8] as const)(
  'a PNG of %i bits, grey and with a palette, has the values it states',
  async (depth) => {
    const width = 5;
    const most = 2 ** depth - 1;
    const indices = Array.from({ length: width * 3 }, (_, i) => (i * 3) % (most + 1));
    const rows: number[] = [];
    for (let y = 0; y < 3; y++) {
      rows.push(0);
      const row = new Uint8Array(Math.ceil((width * depth) / 8));
      for (let x = 0; x < width; x++)
        row[(x * depth) >> 3] |= indices[y * width + x] << (8 - depth - ((x * depth) & 7));
      rows.push(...row);
    }
    const palette = Array.from({ length: most + 1 }, (_, i) => [i, 255 - i, (i * 7) & 255]);
    const grey = await read('g.png', rawPng(width, 3, depth, 0, rows));
    expect([...grey.values]).toEqual(indices.map((v) => Math.round((v * 255) / most)));
    const coloured = await read('p.png', rawPng(width, 3, depth, 3, rows, palette.flat()));
    expect([...coloured.values]).toEqual(indices.flatMap((v) => [...palette[v], 255]));
  },
);

test('8192×4096 pixels are read whole', async () => {
  const [width, height] = [8192, 4096];
  const big = await read('big.png', encodePng(width, height, new Uint8Array(width * height).fill(7), 1));
  expect([big.width, big.height, big.values.length, big.values.at(-1)]).toEqual([width, height, width * height, 7]);
});

test('what promises more than its bytes hold, or inflates to it, is refused by its size', async () => {
  const huge = png.slice();
  new DataView(huge.buffer).setUint32(16, 2_000_000_000);
  await expect(read('huge.png', huge)).rejects.toThrow(/huge\.png: 2000000000×2 pixels are out of range/);
  await expect(read('h.png', rawPng(16000, 16000, 16, 6, [0]))).rejects.toThrow(
    /h\.png: 16000×16000 pixels take 1954 MiB/,
  );
  await expect(read('i.png', rawPng(8000, 8000, 8, 2, [0]))).rejects.toThrow(
    /promises 8000×8000 pixels, more than its \d+ bytes/,
  );
  const bomb = rawPng(2, 1, 8, 2, new Uint8Array(400e6));
  await expect(read('bomb.png', bomb)).rejects.toThrow(/bomb\.png: its data inflate to more than the 7 bytes/);
  const jpeg = by('j.jpg');
  const at = jpeg.findIndex((v, i) => v === 0xff && jpeg[i + 1] === 0xc0);
  jpeg.set([0x3e, 0x80, 0x3e, 0x80], at + 5);
  await expect(read('j.jpg', jpeg)).rejects.toThrow(/j\.jpg: it promises 16000×16000 pixels/);
  const exr = by('x.exr', '-d', 'half', '--compression', 'zip');
  const window = Buffer.from(exr).indexOf('dataWindow\0box2i\0') + 'dataWindow\0box2i\0'.length + 4;
  new DataView(exr.buffer, exr.byteOffset).setInt32(window + 8, 999_999, true);
  await expect(read('x.exr', exr)).rejects.toThrow(/x\.exr: 1000000×2 pixels are out of range/);
});

/** Words of an engine about itself, which tell nobody what is wrong with a file. */
const ENGINE = /undefined|null|not a function|DataView|Invalid array|Maximum call|is not iterable|offset is out/i;

test.each([
  ['d.png', () => png],
  ['d.jpg', () => by('d.jpg')],
  ['p.jpg', () => by('p.jpg', '--attrib', 'jpeg:progressive', '1')],
  ['d.tif', () => by('d.tif')],
  ['t.tif', () => by('t.tif', '--tile', '16', '16', '--compression', 'lzw')],
  ['d.exr', () => by('d.exr', '-d', 'half', '--compression', 'zip')],
  ['d.hdr', () => by('d.hdr', '-d', 'float')],
])('many damaged copies of %s are read, or refused by its name in words', async (name, make) => {
  const whole = make();
  const next = numbers(5);
  let refused = 0;
  for (let i = 0; i < 160; i++) {
    const bytes = damaged(whole, next);
    try {
      const p = await read(name, bytes);
      expect(p.values.length).toBe(p.width * p.height * p.channels);
    } catch (error) {
      const { message } = error as Error;
      expect(message).toMatch(new RegExp(`^${name.replace('.', '\\.')}: .{3,}`));
      expect(message).not.toMatch(ENGINE);
      expect(message).not.toContain('\n');
      refused++;
    }
  }
  expect(refused).toBeGreaterThan(40);
});

test('tiles of any number are put together', async () => {
  const [width, height] = [70, 41];
  const values = Uint8Array.from({ length: width * height * 3 }, (_, i) => (i * 37 + (i >> 6)) & 255);
  writeFileSync(join(folder, 'wide.png'), encodePng(width, height, values, 3));
  const options = ['--tile', '32', '16', '--compression', 'zip', '-o', join(folder, 'wide.tif')];
  execFileSync('oiiotool', [join(folder, 'wide.png'), ...options]);
  const p = await read('wide.tif', new Uint8Array(readFileSync(join(folder, 'wide.tif'))));
  expect([p.width, p.height, p.channels]).toEqual([width, height, 3]);
  expect(Buffer.from(p.values as Uint8Array).equals(Buffer.from(values))).toBe(true);
});

test('tiles or strips that are not those the picture needs are refused at once', async () => {
  const broken = (name: string, options: string[], tag: number, change: (view: DataView, at: number) => void) => {
    const bytes = by(name, ...options);
    const view = new DataView(bytes.buffer, bytes.byteOffset);
    let at = view.getUint32(4, true) + 2;
    while (view.getUint16(at, true) !== tag) at += 12;
    change(view, at);
    return read(name, bytes);
  };
  const tiled = ['--tile', '16', '16'];
  const asFloat = (view: DataView, at: number) => view.setUint16(at + 2, 11, true);
  await expect(broken('w.tif', tiled, 322, asFloat)).rejects.toThrow(/w\.tif: tiles of .*×16 pixels are out of range/);
  const one = (view: DataView, at: number) => view.setUint32(at + 8, 1, true);
  await expect(broken('n.tif', tiled, 322, one)).rejects.toThrow(/n\.tif: it has 1 tiles and 1 sizes; 4 are due/);
  await expect(broken('r.tif', [], 278, one)).rejects.toThrow(/r\.tif: it has 1 strips and 1 sizes; 2 are due/);
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
