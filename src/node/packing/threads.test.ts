import { pathToFileURL } from 'node:url';
import { type Block, fromBytes, type Part, readHeaders, readPart, writeExr } from '@/core/exr';
import { deflateHere, inflateHere } from '../zlib';
import { packingThreads } from './threads';

const script = pathToFileURL('build/packing.mjs');
const SIZE = { width: 61, height: 90 };

function part(compression: Part['compression']): Part {
  const box = { xMin: 0, yMin: 0, xMax: SIZE.width - 1, yMax: SIZE.height - 1 };
  const names = ['B', 'G', 'R'];
  return {
    name: 'beauty',
    channels: names.map((name) => ({ name, type: 'half' })),
    compression,
    dataWindow: box,
    displayWindow: box,
    attributes: {},
    planes: names.map((_, c) =>
      Float32Array.from({ length: SIZE.width * SIZE.height }, (_, i) => Math.abs(Math.sin(i * (c + 1)))),
    ),
  };
}

test('threads pack and unpack to the same bytes as this thread does', async () => {
  const own = packingThreads(script);
  const threads = () => own;
  const deflate = Object.assign((b: Uint8Array) => deflateHere(b), { threads });
  const inflate = Object.assign((b: Uint8Array, most: number) => inflateHere(b, most), { threads });
  for (const compression of ['piz', 'b44', 'dwaa'] as const) {
    const { bytes } = await writeExr([part(compression)], deflate);
    expect(bytes).toEqual((await writeExr([part(compression)], deflateHere)).bytes);
    // A host's buffer is left as it is, though chunks are handed over.
    const source = fromBytes(Buffer.from(bytes));
    const file = await readHeaders(source);
    const here = await readPart(source, file, 0, inflateHere);
    expect(await readPart(source, file, 0, inflate)).toEqual(here);
    expect(await readPart(source, file, 0, inflate)).toEqual(here);
  }
});

test('what is no chunk is a fault in words, and the thread goes on', async () => {
  const threads = packingThreads(script);
  const block: Block = { names: ['Y'], types: ['half'], isPerceptual: [false], words: [1], width: 8, rows: 8 };
  await expect(threads.unpack('piz', new Uint8Array(4), 128, block)).rejects.toThrow('the chunk is cut short');
  const raw = new Uint8Array(128);
  const packed = await threads.pack('b44', raw.slice(), block);
  expect(await threads.unpack('b44', packed, 128, block)).toEqual(raw);
});

test('a thread that cannot start is a fault of the chunk', async () => {
  const threads = packingThreads(pathToFileURL('build/no-such-script.mjs'));
  const block: Block = { names: ['Y'], types: ['half'], isPerceptual: [false], words: [1], width: 8, rows: 8 };
  await expect(threads.pack('piz', new Uint8Array(128), block)).rejects.toThrow(/no-such-script/);
});
