import { cutPart, inOnePart, layersInFile } from './cut';
import { readHeaders } from './read';
import { readPart } from './read-part';
import { fromBytes, type Part } from './types';
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
const cutOf = (p: Part, keep: boolean[], layer: string, depth: 'auto' | 'half' | 'float') =>
  cutPart(p, async () => p.planes, keep, layer, { depth, compression: 'none' });

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
