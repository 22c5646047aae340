import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { prefixed, writeExr } from '@/core/exr';
import type { Film, FilmLayers, Layer } from '@/core/film';
import type { PACKINGS } from '@/core/outputs';
import { box } from '@/core/scene';
import { nodeDeflate } from '@/node/zlib';
import { writeFilm } from '@/render/node/film-exr';
import { renderTest, testRecipe, testScene } from '@/render/testing';
import { readLayers, readParts, withExr } from './exr-files';
import { tallyVerb } from './inspect';

const folder = mkdtempSync(join(tmpdir(), 'lantern-tally-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const at = (name: string) => join(folder, name);

/** A lamp that is seen, a coloured light and a sky over a box. */
const scene = testScene({
  meshes: { floor: box(6, 0.2, 6), block: box(1, 1, 1) },
  materials: { floor: { base_color: [0.6, 0.5, 0.4] }, block: { base_color: [0.3, 0.5, 0.7] } },
  environment: [0.4, 0.5, 0.7],
  lights: [
    {
      name: 'lamp',
      kind: 'sphere',
      group: 'lamp',
      position: [1.2, 1, 0.6],
      radius: 0.25,
      color: [1, 0.6, 0.3],
      power: 60,
    },
    { name: 'key', kind: 'sphere', group: 'key', position: [-3, 3, 2], radius: 0.3, color: [0.4, 1, 0.5], power: 200 },
  ],
});

let film: Film;
let layers: FilmLayers;
let groups: string[];
beforeAll(async () => {
  ({ film, layers } = await renderTest(scene, testRecipe(72, 8)));
  groups = [...layers.layers.keys()].filter((n) => n.startsWith('group.'));
  await write('own.exr', {});
});

type How = {
  change?: Record<string, Float32Array[]>;
  names?: string[];
  depth?: 'half' | 'float';
  compression?: (typeof PACKINGS)[number];
};

/** The film as a file, some of its layers changed. */
async function write(
  name: string,
  { change = {}, names = ['beauty', ...groups], depth = 'float', compression = 'zip' }: How,
) {
  const all = new Map<string, Layer>(layers.layers);
  for (const [n, planes] of Object.entries(change))
    all.set(n, { name: n, channels: ['R', 'G', 'B'], planes, kind: 'color' });
  const how = { depth, compression, multiPart: true, layers: names };
  writeFileSync(at(name), (await writeFilm({ ...layers, layers: all }, film.spec, {}, how)).bytes);
}

/** What the verb says of a file. */
async function tally(
  name: string,
): Promise<{ code: number; said: { addsUp: boolean; why: string[]; storage: string } }> {
  let out = '';
  const spy = jest.spyOn(process.stdout, 'write').mockImplementation((text) => {
    out += text;
    return true;
  });
  const code = await tallyVerb([at(name), '--json', '-']);
  spy.mockRestore();
  return { code, said: JSON.parse(out) };
}

/** A layer as another program's work on it leaves it. */
async function worked(layer: string, ...work: string[]): Promise<Float32Array[]> {
  await write('one.exr', { names: ['beauty'], change: { beauty: layers.layers.get(layer)!.planes } });
  execFileSync('oiiotool', [at('one.exr'), ...work, '-o', at('worked.exr')]);
  return withExr(
    at('worked.exr'),
    async (source, file) => (await readLayers(source, file)).layers.get('beauty')!.planes,
  );
}

test('fifty clean files add up, however they are packed without loss', async () => {
  let files = 0;
  for (let seed = 1; seed <= 5; seed++) {
    ({ film, layers } = await renderTest(scene, testRecipe(24, 4, { sampling: { seed } })));
    for (const compression of ['none', 'rle', 'zips', 'zip', 'piz'] as const)
      for (const depth of ['half', 'float'] as const) {
        await write('clean.exr', { depth, compression });
        expect([seed, compression, depth, await tally('clean.exr')]).toMatchObject([
          seed,
          compression,
          depth,
          { code: 0, said: { addsUp: true, why: [] } },
        ]);
        files++;
      }
  }
  expect(files).toBe(50);
  ({ film, layers } = await renderTest(scene, testRecipe(72, 8)));
});

const ACESCG = '--ccmatrix:transpose=1 0.6131,0.3395,0.0474,0.0702,0.9164,0.0134,0.0206,0.1096,0.8698'.split(' ');

test.each([
  [
    'in another colour space',
    'beauty',
    ACESCG,
    'colours of beauty went through a constant matrix, that from Rec.709 to ACEScg',
  ],
  [
    'a part of it in another',
    'group.key',
    ACESCG,
    'colours of group.key went through a constant matrix, that from Rec.709 to ACEScg',
  ],
  ['with a part twice as bright', 'group.lamp', ['--mulc', '2'], 'group.lamp is 2 times'],
  ['cut at white', 'beauty', ['--clamp:max=1'], 'beauty is cut at 1,'],
  [
    'with a curve for displays',
    'beauty',
    ['--colorconvert', 'linear', 'sRGB'],
    'the beauty carries a curve for displays, sRGB',
  ],
  [
    'glowing',
    'beauty',
    ['--dup', '--blur', '21x21', '--mulc', '0.15', '--add'],
    'the beauty has a glow around what is bright',
  ],
  [
    'of eight bits',
    'beauty',
    ['--clamp:max=1', '-d', 'uint8', '-o', join(folder, 'eight.tif'), join(folder, 'eight.tif')],
    'beauty holds nothing but steps of eight bits',
  ],
  [
    'with infinite values',
    'group.lamp',
    ['--mulc', '1e6', '-d', 'half', '-o', join(folder, 'half.exr'), join(folder, 'half.exr')],
    'group.lamp ends at the largest value of half',
  ],
])('a file %s is told so', async (_, layer, work, words) => {
  await write('foreign.exr', { change: { [layer]: await worked(layer, ...work) } });
  const { code, said } = await tally('foreign.exr');
  expect([code, said.addsUp]).toEqual([1, false]);
  expect(said.why.join('\n')).toContain(words);
});

test('a light that is left out is told with its share, or found where it has no name of a part', async () => {
  const names = ['beauty', ...groups.filter((g) => g !== 'group.key')];
  await write('less.exr', { names });
  expect((await tally('less.exr')).said.why).toEqual([
    expect.stringMatching(/^\d+\.\d\d % of the light is in no part$/),
  ]);
  await write('named.exr', {
    names: [...names, 'key_light'],
    change: { key_light: layers.layers.get('group.key')!.planes },
  });
  expect((await tally('named.exr')).said.why).toEqual([
    'what is missing is the layer key_light, which is not named as a part; give it a part’s name',
  ]);
});

test('twelve layers as half by DWAA: the packing is the cause, and by ZIP they add up', async () => {
  const classes = [...layers.layers.keys()].filter((n) => n.startsWith('class.'));
  const names = ['beauty', ...groups, ...classes].slice(0, 12);
  expect(names).toHaveLength(12);
  await write('dwaa.exr', { names, depth: 'half', compression: 'dwaa' });
  const { code, said } = await tally('dwaa.exr');
  expect([code, said.why]).toEqual([1, ['packed by DWAA, which loses; pack by ZIP']]);
  await write('zip.exr', { names, depth: 'half', compression: 'zip' });
  expect((await tally('zip.exr')).code).toBe(0);
});

test('how parts are stored is told by their layers, whatever their names begin with', async () => {
  await write('whole.exr', {});
  const parts = await withExr(at('whole.exr'), readParts);
  const named = parts.map((p) => {
    const type = p.name === 'rgba' ? ('float' as const) : ('half' as const);
    const { width: _w, height: _h, ...own } = { ...p, channels: p.channels.map((c) => ({ ...c, type })) };
    return { ...prefixed({ ...own, planes: async () => p.planes }, 'quay_'), planes: p.planes };
  });
  expect(named.map((p) => p.name)).toContain(`quay_${groups[0]}`);
  writeFileSync(at('named.exr'), (await writeExr(named, nodeDeflate)).bytes);
  // A beauty of floats beside groups of halves, which round.
  expect(await tally('named.exr')).toMatchObject({ code: 0, said: { addsUp: true, storage: 'half' } });
});
