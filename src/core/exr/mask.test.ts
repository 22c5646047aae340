import fc from 'fast-check';
import { renderTest, testRecipe, testScene } from '@/render/testing';
import { sphere } from '../scene';
import { maskBits, maskId } from './cryptomatte';
import { coverageOf, masksInFile, ranksOf, readManifest } from './mask';
import type { PartHeader } from './types';

const floats = (...values: number[]) => Float32Array.from(values);

test('ranks are pairs by number in memory, and by the channels of Cryptomatte in files, whatever their order', () => {
  const planes = [floats(1), floats(0.5), floats(2), floats(0.25)];
  expect(ranksOf(['id0', 'share0', 'id1', 'share1'], planes)).toEqual({
    numbered: true,
    ranks: [
      { id: planes[0], share: planes[1] },
      { id: planes[2], share: planes[3] },
    ],
  });
  const shuffled = ranksOf(['m00.A', 'm00.B', 'm00.green', 'm00.red'], planes);
  expect(shuffled.ranks.map((r) => [r.id[0], r.share[0]])).toEqual([
    [0.25, 2],
    [0.5, 1],
  ]);
});

test('coverage is the sum of what is picked, in memory and in files alike', () => {
  const names = fc.uniqueArray(fc.string({ minLength: 1, maxLength: 12, unit: 'grapheme' }), {
    minLength: 3,
    maxLength: 6,
  });
  fc.assert(
    fc.property(names, fc.array(fc.boolean(), { minLength: 6, maxLength: 6 }), (objects, chosen) => {
      const numbers = objects.flatMap((_, i) => (chosen[i] ? [i + 1] : []));
      const picked = { numbers, names: numbers.map((n) => objects[n - 1]) };
      const shares = objects.map((_, i) => 2 ** -(i + 1));
      const memory = {
        channels: objects.flatMap((_, r) => [`id${r}`, `share${r}`]),
        planes: objects.flatMap((_, i) => [floats(i + 1), floats(shares[i])]),
      };
      const file = {
        channels: objects.flatMap((_, r) =>
          (r % 2 ? ['B', 'A'] : ['R', 'G']).map((c) => `mask_object${String(r >> 1).padStart(2, '0')}.${c}`),
        ),
        planes: objects.flatMap((o, i) => [floats(maskId(o)), floats(shares[i])]),
      };
      const truth = numbers.reduce((sum, n) => sum + shares[n - 1], 0);
      expect(coverageOf(memory, picked)[0]).toBe(truth);
      expect(coverageOf(file, picked)[0]).toBe(truth);
    }),
    { numRuns: 100 },
  );
});

test('one moving ball out of focus: its mask is the alpha to a hundredth, at every edge', async () => {
  const scene = testScene({
    meshes: { ball: sphere(1, 48) },
    camera: { fStop: 1.4, focusMetres: 3, focalLengthMm: 80 },
  });
  const at = (x: number) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, 0, 0, 1];
  scene.document.objects[0].motion = [
    { frame: 0, transform: at(-1) },
    { frame: 2, transform: at(1) },
  ];
  const recipe = testRecipe(48, 64, { film: { features: ['alpha', 'coverage'] } });
  const { layers } = (await renderTest(scene, recipe)).layers;
  const alpha = layers.get('alpha')!.planes[0];
  const own = coverageOf(layers.get('coverage')!, { names: ['ball'], numbers: [1] });
  const soft = alpha.filter((a) => a > 0.05 && a < 0.95).length;
  expect(soft).toBeGreaterThan(alpha.length / 10);
  expect(Math.max(...own.map((v, i) => Math.abs(v - alpha[i])))).toBeLessThan(0.01);
});

const box = { xMin: 0, yMin: 0, xMax: 0, yMax: 0 };
const part = (name: string, channels: string[], attributes: Record<string, string> = {}): PartHeader => ({
  name,
  compression: 'zip',
  dataWindow: box,
  displayWindow: box,
  channels: channels.map((c) => ({ name: c, type: 'float' })),
  attributes: Object.fromEntries(
    Object.entries(attributes).map(([k, value]) => [k, { type: 'string' as const, value }]),
  ),
});
const said = (more: Record<string, string> = {}) => ({
  'cryptomatte/abcdef1/name': 'things',
  'cryptomatte/abcdef1/hash': 'MurmurHash3_32',
  'cryptomatte/abcdef1/conversion': 'uint32_to_float32',
  'cryptomatte/abcdef1/manifest': `{"hull":"${maskBits('hull').toString(16)}"}`,
  ...more,
});

test('masks of other files: their channels are found in one part or in several, bare or named, by rank', () => {
  const [one] = masksInFile([
    part('rgba', ['A', 'B', 'G', 'R', 'things00.A', 'things00.B', 'things00.G', 'things00.R', 'other00.R'], said()),
  ]);
  expect(one.channels.map((c) => c.name)).toEqual(['things00.R', 'things00.G', 'things00.B', 'things00.A']);
  expect([...one.manifest!]).toEqual([['hull', maskBits('hull')]]);
  const [several] = masksInFile([
    part('beauty', ['R', 'G', 'B'], said()),
    part('things01', ['A', 'B', 'G', 'R'], said()),
    part('things00', ['A', 'B', 'G', 'R'], said()),
  ]);
  expect(several.channels.map((c) => [c.part, c.channel])).toEqual([
    [2, 3],
    [2, 2],
    [2, 1],
    [2, 0],
    [1, 3],
    [1, 2],
    [1, 1],
    [1, 0],
  ]);
});

test.each([
  ['{', 'the manifest is no JSON'],
  ['[1]', 'the manifest is no list of names'],
  ['{"hull":"xyz"}', 'the identifier of hull is no hexadecimal number'],
  ['{"hull":7}', 'the identifier of hull is no hexadecimal number'],
])('a manifest of %s is refused in words', (text, fault) => {
  expect(() => readManifest(text, 'mask things')).toThrow(`OpenEXR: mask things: ${fault}`);
});

test('hashes that nobody has agreed on are refused; names in a file beside are named', () => {
  expect(() => masksInFile([part('', ['R'], said({ 'cryptomatte/abcdef1/hash': 'own' }))])).toThrow(/own with/);
  const { 'cryptomatte/abcdef1/manifest': _own, ...bare } = said({ 'cryptomatte/abcdef1/manif_file': 'names.json' });
  expect(masksInFile([part('', ['things00.R', 'things00.G'], bare)])[0]).toMatchObject({
    manifest: null,
    manifestFile: 'names.json',
  });
});
