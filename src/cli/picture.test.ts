import { existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readLayers, withExr } from './exr-files';
import { lantern } from './testing';

const folder = mkdtempSync(join(tmpdir(), 'lantern-pictures-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const at = (name: string) => join(folder, name);
const planesOf = (path: string, layer: string) =>
  withExr(path, async (source, file) => (await readLayers(source, file)).layers.get(layer)!.planes);
const mean = (planes: readonly ArrayLike<number>[]) =>
  Array.from(planes[0]).reduce((s, v) => s + v, 0) / planes[0].length;

const outputs = (name: string, variants: Record<string, object | null>) => {
  const list = Object.entries(variants).map(([id, variant]) => ({
    id,
    name: id,
    layers: ['beauty', 'alpha'],
    variant,
    names: [{ kind: 'output' }, { kind: 'text', text: '.' }, { kind: 'frame', digits: 4 }],
  }));
  writeFileSync(at(name), JSON.stringify({ list }));
  return at(name);
};
const lean = ['film.groups=false', 'film.classes=false', 'sampling.cameraMin=2', 'sampling.cameraMax=2'];
const render = (of: string, out: string, ...more: string[]) =>
  lantern(
    'render',
    'keepers-desk',
    '--recipe',
    'Sketch',
    '--size',
    '48x27',
    '--outputs',
    of,
    '--set',
    ...lean,
    '--out',
    at(out),
    ...more,
  );
const mug = [{ kind: 'like', name: '*mug*' }];

test('every variant of a launch is a film beside the shot’s own, and each is split by the outputs that are of it', async () => {
  const of = outputs('o.json', {
    parts: null,
    mug: { 'scope.receivers': mug, 'scope.sky': false },
    hole: { 'scope.receivers': mug, 'scope.sky': false, 'scope.others': 'holdout', 'clay.on': true },
  });
  const { code, out, err } = render(of, 'f.exr', '--json', '-');
  expect([code, err]).toEqual([0, '']);
  const stats = JSON.parse(out);
  expect([stats.film, ...stats.variants.map((v: { film: string }) => v.film)]).toEqual(
    ['f.exr', 'f.mug.exr', 'f.hole.exr'].map(at),
  );
  const alpha = async (name: string) => mean(await planesOf(at(name), 'alpha'));
  expect(await alpha('f.mug.exr')).toBeGreaterThan(0.001);
  expect(await alpha('f.mug.exr')).toBeLessThan(0.5 * (await alpha('f.exr')));
  expect(await alpha('f.hole.exr')).toBeLessThanOrEqual(await alpha('f.mug.exr'));
  for (const [film, files] of [
    ['f.exr', ['parts.0001.exr']],
    ['f.mug.exr', ['mug.0001.exr']],
  ] as const) {
    expect(lantern('split', at(film), '--outputs', of, '--dir', at(`${film}-files`)).code).toBe(0);
    expect(readdirSync(at(`${film}-files`))).toEqual(files);
  }
  const [whole, own] = [
    await planesOf(at('f.mug.exr'), 'beauty'),
    await planesOf(at('f.mug.exr-files/mug.0001.exr'), 'beauty'),
  ];
  expect(own).toEqual(whole);
  const alone = outputs('alone.json', { parts: null });
  const refused = lantern('split', at('f.mug.exr'), '--outputs', alone, '--dir', at('none'));
  expect([refused.code, refused.err]).toEqual([2, expect.stringContaining('it is a variant; no output')]);
});

test('what a variant names and the scene has not is told before anything is rendered', () => {
  const stranger = outputs('s.json', { parts: null, boat: { 'scope.receivers': [{ kind: 'object', name: 'boat' }] } });
  const { code, err } = render(stranger, 's.exr');
  expect([code, err]).toEqual([2, expect.stringContaining('output boat: the scene has no object boat')]);
  const wrong = outputs('w.json', { parts: null, big: { 'size.width': 10 } });
  expect(render(wrong, 's.exr').err).toContain('list.1.variant: size.width: no variant may differ in it');
  expect(existsSync(at('s.exr'))).toBe(false);
});
