import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decodePng, encodePng } from '@/core/image';
import { comp } from './comp';
import { readLayers, withExr } from './exr-files';
import { LANTERN, refusal } from './testing';

const folder = mkdtempSync(join(tmpdir(), 'lantern-comp-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const at = (name: string) => join(folder, name);
const [WIDTH, HEIGHT] = [64, 36];
const film = (layer: string, alpha = 'whole') => ({ from: 'film', film: 'quay', layer, alpha });
const stack = (name: string, entries: object[], more: object = {}) => {
  writeFileSync(at(name), JSON.stringify({ films: { quay: 'quay.exr' }, entries, ...more }));
  return at(name);
};
const layersOf = (name: string) => withExr(at(name), readLayers);

beforeAll(() => {
  const set = ['sampling.cameraMin=8', 'sampling.cameraMax=8', 'rayDepth.all=4'];
  const options = ['--recipe', 'Sketch', '--size', `${WIDTH}x${HEIGHT}`, '--depth', 'float', '--set', ...set];
  execFileSync(LANTERN, ['render', 'quay-dawn', ...options, '--out', at('quay.exr')]);
  const grey = new Uint16Array(WIDTH * HEIGHT * 3).fill(30000);
  writeFileSync(at('plate.png'), encodePng(WIDTH, HEIGHT, grey, 3));
  writeFileSync(at('dusk.cube'), 'LUT_1D_SIZE 2\n0 0 0\n1 0.5 1\n');
});

test('light groups added up are the beauty at its exposure, as other tools read it; its noise is that of the film', async () => {
  const groups = ['sky', 'sun'].map((g) => ({ kind: 'layer', source: film(`group.${g}`) }));
  expect(await comp([stack('sum.json', groups, { name: 'Sum' }), '--out', at('sum.exr')])).toBe(0);
  expect(await comp([stack('whole.json', [{ kind: 'layer', source: film('beauty') }]), '--out', at('whole.exr')])).toBe(
    0,
  );
  const [sum, whole, plain] = [await layersOf('sum.exr'), await layersOf('whole.exr'), await layersOf('quay.exr')];
  const [a, b, own] = [sum, whole, plain].map((f) => f.layers.get('beauty')!.planes[1]);
  const most = b.reduce((m, v) => Math.max(m, v), 0);
  expect(a.every((v, i) => Math.abs(v - b[i]) < 1e-5 * most)).toBe(true);
  const header = execFileSync('exrheader', [at('quay.exr')], { encoding: 'utf8' });
  const exposure = Number(/lantern:exposure \(type double\): (\S+)/.exec(header)![1]);
  expect(b[700] / own[700]).toBeCloseTo(exposure, 6);
  expect(execFileSync('exrheader', [at('sum.exr')], { encoding: 'utf8' })).toMatch(/lantern:stack.*"Sum"/);
  const measure = execFileSync(LANTERN, ['measure', at('quay.exr'), '--json', '-'], { encoding: 'utf8' });
  const told = execFileSync(LANTERN, ['comp', at('whole.json'), '--out', at('w.exr'), '--json', '-'], {
    encoding: 'utf8',
  });
  expect(JSON.parse(told).written[0].noise).toBeCloseTo(JSON.parse(measure).noise.rms, 3);
});

test('over a plate with a mask, a table and a number at frames; as PNG of 16 bits and as one file a frame', async () => {
  const keyed = {
    keys: [
      { frame: 1, value: 0 },
      { frame: 3, value: 1 },
    ],
  };
  const entries = [
    { kind: 'layer', source: { from: 'picture', picture: 'plate' } },
    { kind: 'layer', source: film('beauty', 'of the film'), opacity: keyed },
    { kind: 'operation', operation: { does: 'table', table: 'dusk', encoding: 'srgb' }, mask: 'low' },
  ];
  const masks = { low: { of: [{ kind: 'gradient', from: [0, 0.5], to: [0, 0.5001] }] } };
  const more = { masks, pictures: { plate: { file: 'plate.png' } }, tables: { dusk: 'dusk.cube' } };
  const path = stack('plate.json', entries, more);
  expect(await comp([path, '--frames', '1-3', '--out', at('f.####.png')])).toBe(0);
  const info = execFileSync('oiiotool', ['--info', '--stats', at('f.0001.png')], { encoding: 'utf8' });
  expect(info).toMatch(/64 x\s+36, 3 channel, uint16 png/);
  const pixel = (frame: string, y: number) => {
    const { values, channels } = decodePng(readFileSync(at(`f.${frame}.png`)));
    return [...values.slice((y * WIDTH + 10) * channels, (y * WIDTH + 10) * channels + 3)];
  };
  // Nothing of the film yet: the plate, whose words are the same under the display's shoulder; green is halved where the mask is.
  const [r, g] = pixel('0001', 3);
  expect([r, g]).toEqual([30000, 30000]);
  const [lowR, lowG] = pixel('0001', 30);
  expect(lowG / lowR).toBeCloseTo(0.5, 2);
  expect(pixel('0003', 3)).not.toEqual(pixel('0001', 3));
});

test('the picture in a mood is its light groups as the mood has them', async () => {
  writeFileSync(at('night.json'), JSON.stringify({ name: 'Night', mix: { sun: { on: false }, sky: { stops: 1 } } }));
  const moods = { Night: 'night.json' };
  const beauty = { kind: 'layer', source: { ...film('beauty'), mood: 'Night' } };
  expect(await comp([stack('mood.json', [beauty], { moods }), '--out', at('mood.exr')])).toBe(0);
  const twice = { does: 'exposure', stops: 1 };
  const sky = { kind: 'layer', source: film('group.sky'), operations: [twice] };
  expect(await comp([stack('sky.json', [sky]), '--out', at('sky.exr')])).toBe(0);
  const [a, b] = [await layersOf('mood.exr'), await layersOf('sky.exr')].map((f) => f.layers.get('beauty')!.planes[0]);
  expect(a.every((v, i) => Math.abs(v - b[i]) <= 1e-5 * Math.max(1, b[i]))).toBe(true);
  const wrong = stack('wrong.json', [{ kind: 'layer', source: { ...film('class.caustic'), mood: 'Night' } }], {
    moods,
  });
  expect(await refusal('comp', wrong, '--out', at('w.exr'))).toMatch(/source\.mood: a mood holds for the picture/);
});

test.each([
  [[], /comp needs one stack/],
  [['plain.json'], /--out/],
  [['plain.json', '--out', 'x.jpg'], /file\.exr, file\.png, file\.tif or file\.cube/],
  [['none.json', '--out', 'x.exr'], /none\.json: no such file/],
  [['data.json', '--out', 'x.exr'], /data\.json: entries\.0\.source: data never shows/],
  [['lost.json', '--out', 'x.exr'], /films\.quay: it has no layer group\.moon/],
  [['key.json', '--out', 'x.exr'], /key\.json: entries\.0\.opacity: /],
  [['plain.json', '--out', 'x.exr', '--frames', '3-1'], /the last comes before the first/],
  [['plain.json', '--out', 'x.exr', '--frames', '1-3'], /####/],
])('%j is refused in one line', async (args, message) => {
  stack('plain.json', [{ kind: 'layer', source: film('beauty') }]);
  stack('data.json', [{ kind: 'layer', source: film('depth') }]);
  stack('lost.json', [{ kind: 'layer', source: film('group.moon') }]);
  stack('key.json', [{ kind: 'layer', source: film('beauty'), opacity: 3 }]);
  expect(await refusal('comp', ...args.map((a) => (/\.(json|exr|jpg)$/.test(a) ? at(a) : a)))).toMatch(message);
});

test('the grade of a stack leaves as a .cube, which grades as the stack does; what is not in it is told', async () => {
  const [base, grade] = [
    { kind: 'layer', source: film('beauty', 'whole') },
    { kind: 'operation', name: 'up', operation: { does: 'exposure', stops: 0.5 } },
  ];
  const shine = { kind: 'operation', name: 'shine', operation: { does: 'glow', amount: 0.5 } };
  const path = stack('graded.json', [base, grade, shine]);
  const told = spawnSync(LANTERN, ['comp', path, '--out', at('up.cube'), '--most', '16'], { encoding: 'utf8' });
  expect([told.status, told.stderr]).toEqual([0, 'warning: not in the table: shine\n']);
  const tabled = { kind: 'operation', operation: { does: 'table', table: 'up', encoding: 'srgb' } };
  await comp([stack('by-table.json', [base, tabled], { tables: { up: 'up.cube' } }), '--out', at('by-table.exr')]);
  await comp([stack('by-grade.json', [base, grade]), '--out', at('by-grade.exr')]);
  const [a, b] = [await layersOf('by-table.exr'), await layersOf('by-grade.exr')].map((l) => l.layers.get('beauty')!);
  for (let c = 0; c < 3; c++)
    a.planes[c].forEach((v, i) => {
      expect(Math.abs(v - b.planes[c][i])).toBeLessThan(0.02 * Math.max(0.1, b.planes[c][i]));
    });
  expect(await refusal('comp', stack('bare.json', [base]), '--out', at('none.cube'))).toMatch(/^nothing grades/);
});
