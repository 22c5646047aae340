import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readLayers, withExr } from './exr-files';
import { lantern, refusal } from './testing';

const folder = mkdtempSync(join(tmpdir(), 'lantern-split-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const at = (name: string) => join(folder, name);
const layersOf = (path: string) => withExr(path, async (source, file) => (await readLayers(source, file)).layers);

const names = [
  { kind: 'shot' },
  { kind: 'text', text: '_' },
  { kind: 'layer' },
  { kind: 'text', text: '.' },
  { kind: 'frame', digits: 4 },
];
const parts = {
  id: 'a',
  name: 'parts',
  layers: ['beauty', 'alpha', 'group.*', 'depth', 'coverage', 'pair.lamp.direct_diffuse'],
  compression: 'rle',
  grouping: 'family',
  names,
};
const data = {
  id: 'b',
  name: 'data',
  layers: ['beauty', 'motion', 'uv'],
  parts: 'one',
  depth: 'half',
  compression: 'piz',
};
const outputs = (name: string, ...list: object[]) => {
  writeFileSync(at(name), JSON.stringify({ list }));
  return at(name);
};

beforeAll(() => {
  const o = outputs('o.json', parts, data);
  const lean = [
    'film.groups=false',
    'film.classes=false',
    'film.features=[]',
    'sampling.cameraMin=2',
    'sampling.cameraMax=4',
  ];
  const r = lantern(
    'render',
    'keepers-desk',
    '--recipe',
    'Sketch',
    '--size',
    '48x27',
    '--depth',
    'float',
    '--set',
    ...lean,
    '--outputs',
    o,
    '--out',
    at('f.exr'),
  );
  expect([r.code, r.out]).toEqual([0, '']);
});

test('a film keeps what outputs write, and they are written under the names they were given', async () => {
  const r = lantern(
    'split',
    at('f.exr'),
    '--outputs',
    at('o.json'),
    '--dir',
    at('out'),
    '--shot',
    'desk',
    '--trial',
    '7',
    '--json',
    '-',
  );
  expect([r.code, r.err]).toEqual([0, '']);
  const { written } = JSON.parse(r.out) as { written: { file: string; layers: string[] }[] };
  const expected = [
    'desk_beauty.0001.exr',
    'desk_data.0001.exr',
    'desk_data_07.0001.exr',
    'desk_groups.0001.exr',
    'desk_pairs.0001.exr',
  ];
  expect(readdirSync(at('out')).sort()).toEqual(expected);
  expect(written.map((w) => w.file).sort()).toEqual(expected.map((f) => join(at('out'), f)));
  expect(written[1].layers).toEqual(['group.lamp', 'group.stove', 'group.dusk_sky']);
});

test('RLE and PIZ are what the library reads, and what it packs so we read: the same bits, data as float, masks with their names', async () => {
  const [film, groups] = [await layersOf(at('f.exr')), at('out/desk_groups.0001.exr')];
  expect(execFileSync('exrinfo', ['-a', groups]).toString()).toContain("compression 'rle'");
  execFileSync('oiiotool', [groups, '-a', '--compression', 'zip', '-o', at('theirs.exr')]);
  execFileSync('oiiotool', [at('theirs.exr'), '-a', '--compression', 'rle', '-o', at('again.exr')]);
  execFileSync('oiiotool', [groups, '-a', '--compression', 'piz', '-o', at('piz.exr')]);
  const own = await layersOf(groups);
  for (const path of ['theirs.exr', 'again.exr', 'piz.exr']) {
    const theirs = await layersOf(at(path));
    for (const [name, { planes }] of own) expect([name, theirs.get(name)?.planes]).toEqual([name, planes]);
  }
  for (const [name, { planes }] of own)
    planes.forEach((p, c) => {
      const most = film.get(name)!.planes[c];
      expect(p.every((v, i) => Math.abs(v - most[i]) <= most[i] * 1e-3 + 1e-6)).toBe(true);
    });
  const masks = execFileSync('exrinfo', ['-a', at('out/desk_data.0001.exr')]).toString();
  expect(masks).toMatch(/'depth.Z': float/);
  expect(masks).toMatch(/'mask_object02.A': float/);
  expect(masks).toMatch(/cryptomatte\/.*manifest/);
  const motion = execFileSync('exrinfo', ['-a', at('out/desk_data_07.0001.exr')]).toString();
  expect(motion).toMatch(/parts: 1[\s\S]*'motion.X': float[\s\S]*'uv.U': float/);
  // Our PIZ, read by the library and packed otherwise.
  expect(motion).toContain("compression 'piz'");
  execFileSync('oiiotool', [at('out/desk_data_07.0001.exr'), '--compression', 'none', '-o', at('plain.exr')]);
  const [ours, plain] = [await layersOf(at('out/desk_data_07.0001.exr')), await layersOf(at('plain.exr'))];
  for (const [name, { planes }] of ours) expect([name, plain.get(name)?.planes]).toEqual([name, planes]);
  expect(ours.get('uv')!.planes).toEqual(film.get('uv')!.planes);
});

test('PXR24 is what the library makes of it, bit for bit, both ways; depth and ids keep every bit', async () => {
  const lossy = {
    ...parts,
    layers: ['beauty', 'group.lamp', 'depth'],
    depth: 'float',
    compression: 'pxr24',
    grouping: 'one',
  };
  expect(
    lantern('split', at('f.exr'), '--outputs', outputs('lossy.json', lossy), '--dir', at('lossy'), '--shot', 'desk')
      .code,
  ).toBe(0);
  const ours = at('lossy/desk_all.0001.exr');
  expect(execFileSync('exrinfo', ['-a', ours]).toString()).toMatch(/compression 'pxr24'[\s\S]*compression 'zip'/);
  // Our file unpacked by the library, and the library's packing of the same pixels unpacked by us.
  execFileSync('oiiotool', [ours, '-a', '--compression', 'none', '-o', at('unpacked.exr')]);
  execFileSync('oiiotool', [at('f.exr'), '-a', '-d', 'float', '--compression', 'none', '-o', at('whole.exr')]);
  execFileSync('oiiotool', [at('whole.exr'), '-a', '--compression', 'pxr24', '-o', at('theirs24.exr')]);
  const [own, theirs, packed, film] = await Promise.all(
    [ours, at('unpacked.exr'), at('theirs24.exr'), at('f.exr')].map(layersOf),
  );
  for (const name of ['beauty', 'group.lamp']) {
    expect([name, theirs.get(name)!.planes]).toEqual([name, own.get(name)!.planes]);
    expect([name, packed.get(name)!.planes]).toEqual([name, own.get(name)!.planes]);
  }
  expect(own.get('depth')!.planes).toEqual(film.get('depth')!.planes);
});

test.each<[string, object[], string]>([
  ['a layer that the film has not', [{ ...data, layers: ['roughness'] }], 'output data writes roughness'],
  ['names that clash', [{ ...data, grouping: 'layer' }], 'add the part “layer”'],
  ['outputs of the same names', [{ ...parts, names: data }, { ...parts }], 'list.0.names'],
  ['an unknown key', [{ ...data, bits: 3 }], 'bits'],
])('%s is one clear line, and nothing is written', async (_, list, fault) => {
  const bad = outputs('bad.json', ...list);
  expect(await refusal('split', at('f.exr'), '--outputs', bad, '--dir', at('none'))).toContain(fault);
  expect(readdirSync(folder)).not.toContain('none');
});

const sketch = ['render', 'keepers-desk', '--recipe', 'Sketch'];
const masked = (name: string, of: object[]) => {
  writeFileSync(
    at(name),
    JSON.stringify({ list: [{ ...data, layers: ['mask.glass'] }], masks: [{ name: 'glass', of }] }),
  );
  return at(name);
};

test('a mask of a set is written as a plane, the same as picked by the names of its objects', async () => {
  const glass = masked('glass.json', [{ kind: 'set', name: 'glass' }]);
  expect(lantern('split', at('f.exr'), '--outputs', glass, '--dir', at('glass'), '--shot', 'desk')).toMatchObject({
    code: 0,
    err: '',
  });
  const own = (await layersOf(at('glass/desk_data_00.0001.exr'))).get('mask.glass')!.planes[0];
  const picks = ['lamp shade', 'dome', 'window pane', 'tea'];
  const r = lantern('mask', at('f.exr'), '--pick', ...picks, '--out', at('m.exr'), '--json', '-');
  expect([r.code, r.err]).toEqual([0, '']);
  expect(JSON.parse(r.out)).toMatchObject({ mask: 'mask_object', picked: expect.arrayContaining(picks) });
  const [plane] = [...(await layersOf(at('m.exr'))).values()].map((l) => l.planes[0]);
  expect(Math.max(...plane)).toBeGreaterThan(0.9);
  expect(own).toEqual(plane);
  // As 16 bits for what reads no floats: the library agrees on the mean.
  expect(lantern('mask', at('f.exr'), '--pick', ...picks, '--out', at('m.png')).code).toBe(0);
  const told = execFileSync('oiiotool', ['--stats', at('m.png')]).toString();
  const mean = Number(/Stats Avg: ([\d.]+)/.exec(told)?.[1]) / 65535;
  expect(mean).toBeCloseTo(plane.reduce((s, v) => s + v, 0) / plane.length, 3);
});

test.each<[string, string[], string]>([
  ['a name that is not there', ['mask', 'f.exr', '--pick', 'anchor', '--out', 'a.exr'], 'no mask has anchor'],
  ['another kind of file', ['mask', 'f.exr', '--pick', 'dome', '--out', 'a.tga'], 'written as .exr or .png'],
  ['a pick without a file', ['mask', 'f.exr', '--pick', 'dome'], 'go together'],
])('a mask of %s is one clear line', async (_, args, fault) => {
  expect(await refusal(...args.map((a) => (/^[af]\./.test(a) ? at(a) : a)))).toContain(fault);
});

test('a mask of what the film has not is one clear line', async () => {
  const sail = masked('sail.json', [{ kind: 'set', name: 'sail' }]);
  expect(await refusal('split', at('f.exr'), '--outputs', sail, '--dir', at('none'))).toContain(
    'mask glass: the film has no set sail',
  );
});

test('masks, remainders and openness are no layers that a film keeps, and are asked for before the render', async () => {
  const bad = masked('nosail.json', [{ kind: 'set', name: 'sail' }]);
  expect(await refusal(...sketch, '--outputs', bad, '--out', at('t.exr'))).toContain(
    'mask glass: the scene has no set sail',
  );
  const list = [
    { ...data, layers: ['rest.group', 'occlusion', 'mask.near'], compression: 'dwaa', tilePx: 32, parts: 'many' },
  ];
  const near = { name: 'near', ramp: { layer: 'depth', channel: 'Z', from: 4, to: 1 } };
  const made = at('made.json');
  writeFileSync(made, JSON.stringify({ list, masks: [near] }));
  const lean = [
    'film.groups=false',
    'film.classes=false',
    'film.features=[]',
    'sampling.cameraMin=2',
    'sampling.cameraMax=2',
  ];
  const options = ['--recipe', 'Sketch', '--size', '32x18', '--outputs', made, '--set', ...lean];
  expect(lantern('render', 'keepers-desk', ...options, '--out', at('made.exr'))).toMatchObject({ code: 0, err: '' });
  expect(lantern('split', at('made.exr'), '--outputs', made, '--dir', at('made'), '--shot', 'desk')).toMatchObject({
    code: 0,
  });
  const told = execFileSync('exrinfo', ['-a', at('made/desk_data_00.0001.exr')]).toString();
  // In tiles, light with loss, data of ramps without.
  expect(told).toContain('occlusion.Y');
  expect(told.match(/tiles: tiledesc size 32 x 32/g)).toHaveLength(3);
  expect(told.match(/compression: compression '\w+'/g)).toEqual(
    ['zip', 'dwaa', 'dwaa'].map((c) => `compression: compression '${c}'`),
  );
  const [mask, depth] = [await layersOf(at('made/desk_data_00.0001.exr')), await layersOf(at('made.exr'))].map(
    (layers, i) => layers.get(['mask.near', 'depth'][i])!.planes[0],
  );
  mask.forEach((v, i) => {
    expect(v).toBeCloseTo(Math.min(1, Math.max(0, (4 - depth[i]) / 3)), 5);
  });
});

test('a light group that the scene has not is told before anything is rendered', async () => {
  const bad = outputs('torch.json', { ...data, layers: ['group.torch'] });
  expect(await refusal(...sketch, '--outputs', bad, '--out', at('t.exr'))).toContain('output data writes group.torch');
});

test('a light that was left out is named by the tally with its share', async () => {
  const layers = ['beauty', 'group.lamp', 'group.stove'];
  const some = outputs('some.json', { ...parts, layers, grouping: 'one', prefix: 'desk_' });
  expect(lantern('split', at('f.exr'), '--outputs', some, '--dir', at('some'), '--shot', 'desk').code).toBe(0);
  const r = lantern('tally', at('some/desk_all.0001.exr'));
  expect(lantern('info', at('some/desk_all.0001.exr')).out).toContain('desk_group.lamp.R');
  expect(r.code).toBe(1);
  const share = Number(/left out: light group dusk_sky; ([\d.]+) % of the light/.exec(r.out)?.[1]);
  const film = await layersOf(at('f.exr'));
  const meanOf = (name: string) => {
    const [red, green, blue] = film.get(name)!.planes;
    return red.reduce((s, v, i) => s + 0.2126 * v + 0.7152 * green[i] + 0.0722 * blue[i], 0);
  };
  expect(share / 100).toBeCloseTo(meanOf('group.dusk_sky') / meanOf('beauty'), 2);
  expect(lantern('tally', at('f.exr'))).toMatchObject({ code: 0, err: '' });
  // Written as one layer, what was left out is there again.
  const whole = outputs('whole.json', {
    ...parts,
    layers: ['beauty', 'group.lamp', 'group.stove', 'rest.group'],
    depth: 'float',
    grouping: 'one',
  });
  expect(lantern('split', at('f.exr'), '--outputs', whole, '--dir', at('whole'), '--shot', 'desk').code).toBe(0);
  expect(lantern('tally', at('whole/desk_all.0001.exr'))).toMatchObject({ code: 0, err: '' });
  const rest = (await layersOf(at('whole/desk_all.0001.exr'))).get('rest.group')!.planes[0];
  const sky = film.get('group.dusk_sky')!.planes[0];
  expect(Math.max(...rest.map((v, i) => Math.abs(v - sky[i])))).toBeLessThan(1e-4 * Math.max(...sky));
});
