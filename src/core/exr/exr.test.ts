import { promisify } from 'node:util';
import { deflate, inflate } from 'node:zlib';
import fc from 'fast-check';
import {
  COMPRESSIONS,
  type Compression,
  ExrError,
  fromBytes,
  fromHalf,
  halfIsSafe,
  isLossy,
  maskBits,
  maskHex,
  murmur3,
  type Part,
  readHeaders,
  readPart,
  toHalf,
  writeExr,
} from '.';

const pack = async (b: Uint8Array) => new Uint8Array(await promisify(deflate)(b));
const unpack = async (b: Uint8Array, most: number) =>
  new Uint8Array((await promisify(inflate)(b, { maxOutputLength: most } as never)) as unknown as Buffer);

describe('half floats', () => {
  test('every half value goes there and back', () => {
    const all = Array.from({ length: 65536 }, (_, bits) => bits);
    const returns = (bits: number) => {
      const v = fromHalf(bits);
      return Number.isNaN(v) ? Number.isNaN(fromHalf(toHalf(v))) : toHalf(v) === bits;
    };
    expect(all.filter((bits) => !returns(bits))).toEqual([]);
  });

  test('rounds to nearest, ties to even, and overflows to infinity', () => {
    expect(fromHalf(toHalf(2049))).toBe(2048);
    expect(fromHalf(toHalf(2051))).toBe(2052);
    expect(fromHalf(toHalf(65519))).toBe(65504);
    expect(fromHalf(toHalf(65520))).toBe(Infinity);
    expect(fromHalf(toHalf(2 ** -25))).toBe(0);
    expect(fromHalf(toHalf(2 ** -25 * 1.5))).toBe(2 ** -24);
    fc.assert(
      fc.property(
        fc.double({ min: -60000, max: 60000, noNaN: true }),
        (v) => Math.abs(fromHalf(toHalf(v)) - Math.fround(v)) <= Math.max(Math.abs(v) * 2 ** -11, 2 ** -25),
      ),
      { seed: 1 },
    );
  });

  test('a plane beyond the range or too fine is not safe', () => {
    expect(halfIsSafe(Float32Array.of(1, 2, 3))).toBe(true);
    expect(halfIsSafe(Float32Array.of(1, 70000))).toBe(false);
    expect(halfIsSafe(Float32Array.of(1e-8, 2e-8))).toBe(false);
    expect(halfIsSafe(Float32Array.of(Infinity, 1))).toBe(true);
  });
});

test('MurmurHash3 and identifiers match published vectors', () => {
  expect(murmur3('')).toBe(0);
  expect(murmur3('', 1)).toBe(0x514e28b7);
  expect(murmur3('hello')).toBe(0x248bfa47);
  expect(murmur3('hello, world')).toBe(0x149bbb7f);
  expect(murmur3('The quick brown fox jumps over the lazy dog')).toBe(0x2e4ff723);
  for (const name of ['prisms', 'handrail', 'window panes', 'é']) {
    const exponent = (maskBits(name) >>> 23) & 255;
    expect(exponent).toBeGreaterThan(0);
    expect(exponent).toBeLessThan(255);
    expect(maskHex(name)).toMatch(/^[0-9a-f]{8}$/);
  }
});

const LOSSLESS = (Object.keys(COMPRESSIONS) as Compression[]).filter((c) => !isLossy(c));

const partArbitrary = fc
  .record({
    w: fc.integer({ min: 1, max: 40 }),
    h: fc.integer({ min: 1, max: 40 }),
    x: fc.integer({ min: -5, max: 50 }),
    compression: fc.constantFrom(...LOSSLESS),
    types: fc.uniqueArray(
      fc.record({
        name: fc.stringMatching(/^[a-z][a-z0-9_]{0,40}(\.[RGBA])?$/),
        type: fc.constantFrom('half' as const, 'float' as const, 'uint' as const),
      }),
      { selector: (c) => c.name, minLength: 1, maxLength: 4 },
    ),
    seed: fc.integer({ min: 0, max: 1e6 }),
  })
  .map(({ w, h, x, compression, types, seed }): Part => {
    const planes = types.map((t, k) => {
      const value = (i: number) => Math.sin(seed + i * 1.7 + k) * 40;
      if (t.type === 'uint') return Uint32Array.from({ length: w * h }, (_, i) => (seed + i * 2654435761) >>> 0);
      return Float32Array.from({ length: w * h }, (_, i) =>
        t.type === 'half' ? fromHalf(toHalf(value(i))) : value(i),
      );
    });
    const window = { xMin: x, yMin: 3, xMax: x + w - 1, yMax: h + 2 };
    return {
      name: `part${seed}`,
      channels: types,
      planes,
      compression,
      dataWindow: window,
      displayWindow: window,
      attributes: { note: { type: 'string', value: 'Skerrow' }, n: { type: 'double', value: seed } },
    };
  });

async function readBack(bytes: Uint8Array) {
  const source = fromBytes(bytes);
  const file = await readHeaders(source);
  const planes = [];
  for (let i = 0; i < file.parts.length; i++) planes.push(await readPart(source, file, i, unpack));
  return { file, planes };
}

test('what is written is read back, one part or many', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.uniqueArray(partArbitrary, { selector: (p) => p.name, minLength: 1, maxLength: 3 }),
      async (parts) => {
        const { bytes } = await writeExr(parts, pack);
        const { file, planes } = await readBack(bytes);
        expect(file.parts.length).toBe(parts.length);
        parts.forEach((part, p) => {
          expect(file.parts[p].dataWindow).toEqual(part.dataWindow);
          expect(file.parts[p].attributes.note).toEqual({ type: 'string', value: 'Skerrow' });
          part.channels.forEach((c, k) => {
            const at = file.parts[p].channels.findIndex((d) => d.name === c.name);
            expect(Array.from(planes[p][at])).toEqual(Array.from(part.planes[k]));
          });
        });
      },
    ),
    { seed: 3, numRuns: 60 },
  );
});

test.each((Object.keys(COMPRESSIONS) as Compression[]).filter(isLossy))(
  'pictures of any size, from one pixel on, come back from %s: ids and coverage with every bit',
  async (compression) => {
    for (let w = 1; w <= 9; w++)
      for (const h of [1, 3, 9]) {
        const window = { xMin: 0, yMin: 0, xMax: w - 1, yMax: h - 1 };
        const channels: Part['channels'] = [
          { name: 'A', type: 'half' },
          { name: 'R', type: 'half' },
          { name: 'Y', type: 'float' },
          { name: 'id', type: 'uint' },
        ];
        const light = Float32Array.from({ length: w * h }, (_, i) => 0.5 + (i % 7) / 14);
        const ids = Uint32Array.from({ length: w * h }, (_, i) => Math.imul(i + 1, 2654435761) >>> 0);
        const planes = [new Float32Array(w * h).fill(1), light, light, ids];
        const part: Part = {
          name: '',
          channels,
          planes,
          compression,
          dataWindow: window,
          displayWindow: window,
          attributes: {},
        };
        const back = (await readBack((await writeExr([part], pack)).bytes)).planes[0];
        expect([w, h, back[0], back[3]]).toEqual([w, h, planes[0], ids]);
        for (const c of [1, 2])
          expect(Math.max(...Array.from(back[c], (v, i) => Math.abs(v - light[i])))).toBeLessThan(0.07);
      }
  },
);

test('a part that was read is written again with what it says, laid out anew', async () => {
  const window = { xMin: 0, yMin: 0, xMax: 3, yMax: 39 };
  const part = (name: string): Part => ({
    name,
    channels: [{ name: `${name}.Y`, type: 'float' }],
    planes: [new Float32Array(160)],
    compression: 'zips',
    dataWindow: window,
    displayWindow: window,
    attributes: { pixelAspectRatio: { type: 'float', value: 2 }, shot: { type: 'string', value: 'quay' } },
  });
  const first = await readBack((await writeExr([part('a'), part('b')], pack)).bytes);
  const again = first.file.parts.map((p, i) => ({ ...p, compression: 'piz' as const, planes: first.planes[i] }));
  const { bytes } = await writeExr(again, pack);
  const text = new TextDecoder('latin1').decode(bytes);
  // Two parts, each with one of every kind.
  for (const name of ['chunkCount', 'pixelAspectRatio', 'screenWindowWidth', 'shot'])
    expect([name, text.split(`${name}\0`).length - 1]).toEqual([name, 2]);
  const { file } = await readBack(bytes);
  expect(file.chunks[0]).toHaveLength(2);
  expect(file.parts[1].attributes.pixelAspectRatio).toEqual({ type: 'float', value: 2 });
});

test('one part can be read by its extent alone', async () => {
  const part = (name: string, v: number): Part => {
    const window = { xMin: 0, yMin: 0, xMax: 7, yMax: 19 };
    return {
      name,
      channels: [{ name: `${name}.Y`, type: 'float' }],
      planes: [new Float32Array(160).fill(v)],
      compression: 'zip',
      dataWindow: window,
      displayWindow: window,
      attributes: {},
    };
  };
  const { bytes, extents } = await writeExr([part('one', 1), part('two', 2)], pack);
  let read = 0;
  const source = fromBytes(bytes);
  const file = await readHeaders(source);
  const watched = {
    size: source.size,
    read: (o: number, n: number) => {
      read += n;
      return o >= extents[1].offset ? source.read(o, n) : Promise.reject(new Error('outside'));
    },
  };
  const [plane] = await readPart(watched, file, 1, unpack);
  expect(plane[0]).toBe(2);
  expect(read).toBe(extents[1].bytes);
});

/** Damaged files of each packing; 10,000 take a minute. */
const MUTATIONS = Number(process.env.LANTERN_MUTATIONS ?? 1000);

test.each(Object.keys(COMPRESSIONS) as Compression[])(
  'damaged files packed by %s end in a clear error or a picture, never in anything else',
  async (compression) => {
    const window = { xMin: 0, yMin: 0, xMax: 15, yMax: 33 };
    const channels: Part['channels'] = [
      { name: 'A', type: 'half' },
      { name: 'B', type: 'half' },
      { name: 'G', type: 'half' },
      { name: 'R', type: 'half' },
      { name: 'Y', type: 'float' },
      { name: 'Z', type: 'float' },
    ];
    const value = (i: number, k: number) => (k === 0 ? 1 : Math.round(Math.cos(i / 9 + k) * 64) / 64);
    const base: Part = {
      name: 'a',
      channels,
      compression,
      dataWindow: window,
      displayWindow: window,
      attributes: {},
      planes: channels.map((_, k) => Float32Array.from({ length: 16 * 34 }, (_, i) => value(i, k))),
    };
    const files = [
      (await writeExr([base], pack)).bytes,
      (await writeExr([base, { ...base, compression: 'none', name: 'b' }], pack)).bytes,
    ];
    let errors = 0;
    await fc.assert(
      fc.asyncProperty(
        fc.nat(1),
        fc.array(fc.tuple(fc.nat(), fc.nat(255)), { minLength: 1, maxLength: 6 }),
        fc.option(fc.double({ min: 0, max: 1, noNaN: true })),
        async (which, changes, cut) => {
          let bytes = files[which].slice();
          for (const [at, v] of changes) bytes[at % bytes.length] = v;
          if (cut !== null) bytes = bytes.slice(0, Math.floor(cut * bytes.length));
          const source = fromBytes(bytes);
          try {
            const file = await readHeaders(source, { headerBytes: 1 << 20, partBytes: 1 << 24 });
            for (let i = 0; i < file.parts.length; i++) await readPart(source, file, i, unpack);
          } catch (error) {
            errors++;
            if (!(error instanceof ExrError)) throw error;
            expect(error.message).toMatch(/^OpenEXR: .+ \(byte \d+\)$/);
          }
        },
      ),
      { seed: 4, numRuns: MUTATIONS },
    );
    expect(errors).toBeGreaterThan(MUTATIONS * 0.3);
  },
);

test('a writer is told of wrong sizes and repeated names', async () => {
  const window = { xMin: 0, yMin: 0, xMax: 1, yMax: 1 };
  const part: Part = {
    name: 'p',
    channels: [{ name: 'R', type: 'half' }],
    planes: [new Float32Array(3)],
    compression: 'none',
    dataWindow: window,
    displayWindow: window,
    attributes: {},
  };
  await expect(writeExr([part], pack)).rejects.toThrow(/has 3 values, expected 4/);
  const good = { ...part, planes: [new Float32Array(4)] };
  await expect(writeExr([good, good], pack)).rejects.toThrow(/names repeat/);
  await expect(writeExr([], pack)).rejects.toThrow(/at least one part/);
});

test('a file whose table gives one chunk twice is refused, not read with lines missing', async () => {
  const window = { xMin: 0, yMin: 0, xMax: 3, yMax: 39 };
  const values = Float32Array.from({ length: 160 }, (_, i) => i);
  const part: Part = {
    name: '',
    channels: [{ name: 'Y', type: 'float' }],
    planes: [values],
    compression: 'zip',
    dataWindow: window,
    displayWindow: window,
    attributes: {},
  };
  const { bytes } = await writeExr([part], pack);
  const file = await readHeaders(fromBytes(bytes));
  const [first, second] = file.chunks[0];
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const at = Array.from({ length: bytes.length - 8 }, (_, i) => i).find(
    (i) => view.getBigUint64(i, true) === BigInt(second),
  )!;
  view.setBigUint64(at, BigInt(first), true);
  const broken = await readHeaders(fromBytes(bytes));
  await expect(readPart(fromBytes(bytes), broken, 0, unpack)).rejects.toThrow('the chunk of line 0 comes twice');
});
