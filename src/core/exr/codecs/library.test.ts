import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { nodeDeflate, nodeInflate } from '@/node/zlib';
import { numbers } from '@/render/testing';
import {
  type Channel,
  type Compression,
  fromBytes,
  fromHalf,
  type Part,
  readHeaders,
  readPart,
  toHalf,
  writeExr,
} from '..';

/** What we pack read by the OpenEXR library, and what it packs read by us, of every packing with loss. */
const folder = mkdtempSync(join(tmpdir(), 'lantern-codecs-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const at = (name: string) => join(folder, name);

const [WIDTH, HEIGHT] = [93, 75];

/** A picture with a slope, grain, a lamp far above white, shadow below zero, an even part, and what none of them holds. */
function part(type: 'half' | 'float', compression: Compression, change: Partial<Channel> = {}): Part {
  const next = numbers(11);
  const channels: Channel[] = [
    ...['A', 'B', 'G', 'R', 'key.B', 'key.G', 'key.R', 'key.Y', 'spread.X'].map((name) => ({ name, type, ...change })),
    { name: 'id', type: 'uint' },
  ];
  const value = (c: number, x: number, y: number): number => {
    if (channels[c].name === 'A') return x < 40 ? 1 : x < 50 ? (50 - x) / 10 : 0;
    if (x > 60 && y > 50) return 0.25;
    const lamp = Math.hypot(x - 30, y - 20) < 5 ? 400 * (c + 1) : 0;
    return (x / WIDTH) * (c + 1) * 0.3 + Math.sin(y / 7 + c) * 0.2 + next() * 0.05 + lamp;
  };
  const planes = channels.map((c, k) =>
    c.type === 'uint'
      ? Uint32Array.from({ length: WIDTH * HEIGHT }, (_, i) => Math.imul(i, 2654435761) >>> 0)
      : Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => {
          const v = value(k, i % WIDTH, Math.floor(i / WIDTH));
          return type === 'half' ? fromHalf(toHalf(v)) : v;
        }),
  );
  const dataWindow = { xMin: 4, yMin: -3, xMax: WIDTH + 3, yMax: HEIGHT - 4 };
  return { name: 'own', channels, planes, compression, dataWindow, displayWindow: dataWindow, attributes: {} };
}

async function read(name: string): Promise<Map<string, Float32Array | Uint32Array>> {
  const source = fromBytes(new Uint8Array(readFileSync(at(name))));
  const file = await readHeaders(source);
  const planes = await readPart(source, file, 0, nodeInflate);
  return new Map(file.parts[0].channels.map((c, i) => [c.name, planes[i]]));
}

const write = async (name: string, p: Part) => writeFileSync(at(name), (await writeExr([p], nodeDeflate)).bytes);
const tiled = (from: string, packing: string, to: string) =>
  execFileSync('exrmaketiled', ['-o', '-t', '61', '37', '-z', packing, at(from), at(to)]);
const lines = (from: string, packing: string, to: string) =>
  execFileSync('oiiotool', [at(from), '-d', 'half', '--compression', packing, '--scanline', '-o', at(to)]);

/** A number as DWA packs it: bent to what the eye sees. */
const bent = (v: number): number =>
  Math.sign(v) * (Math.abs(v) <= 1 ? Math.abs(v) ** (1 / 2.2) : Math.log(Math.abs(v)) / 2.2 + 1);

/** What a sum of cosines in another order may differ by beside a lamp: bent, and as it is. */
const [SUMMED, SUMMED_LINEAR] = [3e-5, 2e-2];

/** Largest distance of two planes in steps of half, of their numbers bent. */
function stepsApart(a: ArrayLike<number>, b: ArrayLike<number>, isBent = true): number {
  const place = (v: number) => {
    const h = toHalf(v);
    return h & 0x8000 ? -(h & 0x7fff) : h;
  };
  return Array.from(a).reduce((most, v, i) => {
    if (v === b[i]) return most;
    const [p, q] = isBent ? [bent(v), bent(b[i])] : [v, b[i]];
    return Math.abs(p - q) < (isBent ? SUMMED : SUMMED_LINEAR)
      ? Math.max(most, 1)
      : Math.max(most, Math.abs(place(p) - place(q)));
  }, 0);
}

/** Channels that a packing changes. */
const LOSSY: Record<string, (name: string, type: string) => boolean> = {
  pxr24: (name, type) => type === 'float' && name !== 'id',
  b44: (name, type) => type === 'half' && name !== 'id',
  b44a: (name, type) => type === 'half' && name !== 'id',
  dwaa: (name) => /(^|\.)[RGBY]$/.test(name),
  dwab: (name) => /(^|\.)[RGBY]$/.test(name),
};

describe.each(['pxr24', 'b44', 'b44a', 'dwaa', 'dwab'] as const)('%s', (packing) => {
  // Cosines are summed in another order there, and what rounds otherwise is unbent by a table.
  const steps = packing.startsWith('dwa') ? 2 : 0;

  test.each(['half', 'float'] as const)('of %s is what the library makes of it', async (type) => {
    const own = part(type, packing);
    await write('ours.exr', own);
    tiled('ours.exr', 'none', 'unpacked.exr');
    const [ours, theirs] = [await read('ours.exr'), await read('unpacked.exr')];
    for (const [k, { name }] of own.channels.entries()) {
      expect([name, stepsApart(ours.get(name)!, theirs.get(name)!) <= steps]).toEqual([name, true]);
      if (!LOSSY[packing](name, type)) expect([name, ours.get(name)]).toEqual([name, own.planes[k]]);
    }
  });

  test.each([
    ['half', 'lines', lines],
    ['float', 'tiles', tiled],
  ] as const)('of %s that the library packed in %s is read', async (type, _, make) => {
    await write('whole.exr', part(type, 'none'));
    make('whole.exr', packing, 'theirs.exr');
    expect(execFileSync('exrinfo', ['-a', at('theirs.exr')]).toString()).toContain(`compression '${packing}'`);
    make('theirs.exr', 'none', 'plain.exr');
    const [ours, plain] = [await read('theirs.exr'), await read('plain.exr')];
    for (const [name, plane] of plain)
      expect([name, stepsApart(ours.get(name)!, plane) <= steps]).toEqual([name, true]);
  });
});

test.each(['b44', 'dwaa'] as const)('%s takes channels that are linear to the eye as they are', async (packing) => {
  const own = part('half', packing, { isPerceptual: true });
  const planes = own.planes.map((p) => Float32Array.from(p, Math.abs));
  await write('ours.exr', {
    ...own,
    planes: own.channels.map((c, k) => (c.type === 'uint' ? own.planes[k] : planes[k])),
  });
  expect(execFileSync('exrheader', [at('ours.exr')]).toString()).toContain('plinear');
  tiled('ours.exr', 'none', 'unpacked.exr');
  const [ours, theirs] = [await read('ours.exr'), await read('unpacked.exr')];
  // Colours are bent all the same.
  for (const { name } of own.channels)
    expect([name, stepsApart(ours.get(name)!, theirs.get(name)!, name !== 'key.Y') <= 2]).toEqual([name, true]);
});

test('cosines of the first version, without rules of its own, are what the library makes of them', async () => {
  const own = part('half', 'dwab');
  const { bytes } = await writeExr([own], nodeDeflate);
  const file = await readHeaders(fromBytes(bytes));
  const [offset] = file.chunks[0];
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  expect(file.chunks[0]).toHaveLength(1);
  const [chunk, rules] = [offset + 8, view.getUint16(offset + 8 + 88, true)];
  const old = new Uint8Array(bytes.length - rules);
  old.set(bytes.subarray(0, chunk + 88));
  old.set(bytes.subarray(chunk + 88 + rules), chunk + 88);
  const head = new DataView(old.buffer);
  head.setInt32(offset + 4, view.getInt32(offset + 4, true) - rules, true);
  head.setBigUint64(chunk, 1n, true);
  writeFileSync(at('old.exr'), old);
  await write('new.exr', own);
  expect(await read('old.exr')).toEqual(await read('new.exr'));
  tiled('old.exr', 'none', 'unpacked.exr');
  const [ours, theirs] = [await read('old.exr'), await read('unpacked.exr')];
  for (const { name } of own.channels)
    expect([name, stepsApart(ours.get(name)!, theirs.get(name)!) <= 2]).toEqual([name, true]);
});
