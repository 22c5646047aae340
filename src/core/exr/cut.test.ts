import { cutPart, inOnePart, layersInFile, prefixed } from './cut';
import { layersOf } from './film-file';
import { readHeaders } from './read';
import { readPart } from './read-part';
import { type Compression, fromBytes, type Part } from './types';
import { writeExr } from './write';

const window = { xMin: 0, yMin: 0, xMax: 3, yMax: 1 };
const part = (name: string, channels: string[], value: (c: number, i: number) => number): Part => ({
  name,
  channels: channels.map((c) => ({ name: c, type: 'float' })),
  planes: channels.map((_, c) => Float32Array.from({ length: 8 }, (_, i) => value(c, i))),
  compression: 'none',
  dataWindow: window,
  displayWindow: window,
  attributes: {},
});
const same = async (bytes: Uint8Array) => bytes;
const cutOf = (
  p: Part,
  keep: boolean[],
  layer: string,
  depth: 'auto' | 'half' | 'float',
  compression: Compression = 'none',
) => cutPart(p, async () => p.planes, keep, layer, { depth, compression });

test('layers are found by their channels; ranks of a mask are one, bare channels are the beauty or their part', () => {
  const parts = [
    part('rgba', ['R', 'G', 'B', 'A'], () => 0),
    part('mask_object', ['mask_object00.R', 'mask_object00.G', 'mask_object01.R'], () => 0),
    part('fog', ['R', 'G', 'B'], () => 0),
  ];
  expect(layersInFile(parts)).toEqual([
    { name: 'beauty', part: 0, channels: [0, 1, 2] },
    { name: 'alpha', part: 0, channels: [3] },
    { name: 'coverage', part: 1, channels: [0, 1, 2] },
    { name: 'fog', part: 2, channels: [0, 1, 2] },
  ]);
});

test('a value that half would make infinite keeps its layer in float, whatever was asked for', async () => {
  const bright = part('group.lamp', ['group.lamp.R'], (_, i) => (i === 3 ? 1e5 : 0.5));
  for (const depth of ['half', 'auto'] as const) {
    const own = await cutOf(bright, [true], 'group.lamp', depth);
    expect(own.channels).toEqual([{ name: 'group.lamp.R', type: 'float' }]);
    const { bytes } = await writeExr([{ ...own, planes: [...(await own.planes())] }], same);
    const source = fromBytes(bytes);
    expect((await readPart(source, await readHeaders(source), 0, same))[0][3]).toBe(1e5);
  }
  const dim = part('group.lamp', ['group.lamp.R'], () => 65504);
  expect((await cutOf(dim, [true], 'group.lamp', 'half')).channels[0].type).toBe('half');
});

test('a part keeps what is chosen of it; several become one with all their channels', async () => {
  const rgba = part('rgba', ['R', 'G', 'B', 'A'], (c) => c);
  const colour = await cutOf(rgba, [true, true, true, false], 'beauty', 'float');
  expect(colour.channels.map((c) => c.name)).toEqual(['R', 'G', 'B']);
  const depth = await cutOf(
    part('depth', ['depth.Z'], () => 7),
    [true],
    'depth',
    'half',
  );
  expect(depth.channels[0].type).toBe('float');
  const one = inOnePart([colour, depth]);
  expect(one.channels.map((c) => c.name)).toEqual(['R', 'G', 'B', 'depth.Z']);
  expect((await one.planes()).map((p) => p[0])).toEqual([0, 1, 2, 7]);
});

test('packings that lose leave exact layers alone, also in one part with others, and light that half does not hold', async () => {
  const lamp = part('group.lamp', ['group.lamp.R'], (_, i) => (i === 3 ? 1e5 : 0.5));
  const dim = part('group.lamp', ['group.lamp.R'], () => 0.5);
  const packed = (p: Part, depth: 'half' | 'float', compression: Compression) =>
    cutOf(p, [true], p.name, depth, compression);
  for (const depth of ['half', 'float'] as const) {
    // What takes floats through half.
    expect((await packed(lamp, depth, 'dwaa')).compression).toBe('zip');
    expect((await packed(lamp, depth, 'pxr24')).compression).toBe('pxr24');
    expect((await packed(dim, depth, 'dwab')).compression).toBe('dwab');
  }
  const exact = part('depth', ['depth.Z'], (_, i) => i / 3);
  for (const compression of ['pxr24', 'b44', 'b44a', 'dwaa', 'dwab'] as const) {
    const [light, depth] = [await packed(dim, 'half', compression), await packed(exact, 'half', compression)];
    expect([light.compression, depth.compression]).toEqual([compression, 'zip']);
    expect(inOnePart([light, depth]).compression).toBe('zip');
    expect(inOnePart([light]).compression).toBe(compression);
  }
});

test('names of layers begin as an output says, but for the beauty and ids; read again they are the layers they were', async () => {
  const named = async (p: Part, prefix: string): Promise<Part> => {
    const own = prefixed({ ...p, planes: async () => p.planes }, prefix);
    return { ...own, planes: [...(await own.planes())] };
  };
  const lamp = part('group.lamp', ['group.lamp.R', 'group.lamp.G', 'group.lamp.B'], (c) => c);
  const ids = {
    ...part('mask_object', ['mask_object00.R'], () => 1),
    attributes: { 'cryptomatte/abc/name': { type: 'string' as const, value: 'mask_object' } },
  };
  const parts = [part('rgba', ['R', 'G', 'B', 'A'], (c) => c), lamp, ids, part('depth', ['depth.Z'], () => 7)];
  const all = await Promise.all(parts.map((p) => named(p, 'quay_')));
  expect(all.map((p) => p.name)).toEqual(['rgba', 'quay_group.lamp', 'mask_object', 'quay_depth']);
  expect(all[1].channels[0].name).toBe('quay_group.lamp.R');
  expect(await named(lamp, '')).toEqual(lamp);
  const source = fromBytes((await writeExr(all, same)).bytes);
  const file = await readHeaders(source);
  expect(layersInFile(file.parts).map((l) => l.name)).toEqual(['alpha', 'beauty', 'group.lamp', 'coverage', 'depth']);
  const read = await Promise.all(
    file.parts.map(async (p, i) => ({ ...p, planes: await readPart(source, file, i, same), width: 4, height: 2 })),
  );
  expect([...layersOf(read).layers.keys()]).toEqual(['alpha', 'beauty', 'group.lamp', 'mask_object00', 'depth']);
});
