import { execFile } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Document, WebIO } from '@gltf-transform/core';
import { box, sphere } from '@/core/scene';
import { readLayers, withExr } from './exr-files';
import { LANTERN, onOneThread, refusal } from './testing';

const folder = mkdtempSync(join(tmpdir(), 'lantern-cli-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const at = (name: string) => join(folder, name);

interface Run {
  code: number;
  out: string;
  err: string;
}

function run(command: string, args: string[]): Promise<Run> {
  return new Promise((resolve) => {
    execFile(command, args, { maxBuffer: 1 << 26 }, (error, out, err) =>
      resolve({ code: error ? Number(error.code ?? 1) : 0, out, err }),
    );
  });
}
const cli = (...args: string[]) => run(LANTERN, onOneThread(args));
const small = ['--size', '96x54', '--set', 'sampling.cameraMin=2', 'sampling.cameraMax=4', 'rayDepth.all=8'];

describe('render', () => {
  let stats: Record<string, never> & {
    hash: string;
    seconds: Record<string, number>;
    noise: { rms: number };
    rays: { total: number };
    samples: number;
  };
  beforeAll(async () => {
    const out = ['--threads', '2', '--out', at('a.exr'), '--json', '-'];
    const r = await cli('render', 'lantern-room', '--recipe', 'Sketch', ...small, ...out);
    expect(r.err).toBe('');
    expect(r.code).toBe(0);
    stats = JSON.parse(r.out);
  });

  test('tells what it measured', () => {
    expect(stats.samples).toBe(96 * 54 * 4);
    expect(stats.noise.rms).toBeGreaterThan(0);
    expect(stats.rays.total).toBeGreaterThan(stats.samples);
    for (const key of ['load', 'build', 'trace', 'calibrated', 'write']) expect(stats.seconds[key]).toBeGreaterThan(0);
  });

  test.each(['room.glb', 'room.json'])('a shot taken away as %s renders to the same bits', async (name) => {
    const r = await cli('export', 'lantern-room', '--out', at(name));
    expect([r.code, r.err, r.out]).toEqual([0, '', '']);
    // A document names its base beside it, or a shot.
    const again = await cli('render', at(name), '--recipe', 'Sketch', ...small, '--out', at('x.exr'), '--json', '-');
    expect(again.code).toBe(0);
    expect(JSON.parse(again.out).hash).toBe(stats.hash);
  });

  test.each([
    [['export'], /name one shot/],
    [['export', 'lantern-room'], /--out/],
    [['export', 'lantern-room', '--out', 'room.obj'], /must end in \.glb or \.json/],
    [['export', 'nowhere', '--out', 'a.glb'], /nowhere: neither a shot/],
  ])('%j is refused in one line', async (args, message) => {
    expect(await refusal(...args)).toMatch(message);
  });

  test('gives the same bits on one thread', async () => {
    const r = await cli(
      'render',
      'lantern-room',
      '--recipe',
      'Sketch',
      ...small,
      '--depth',
      'float',
      '--threads',
      '1',
      '--out',
      at('g.exr'),
      '--json',
      at('b.json'),
    );
    expect(r.code).toBe(0);
    expect(r.out).toBe('');
    expect(JSON.parse(readFileSync(at('b.json'), 'utf8')).hash).toBe(stats.hash);
  });

  test('compare tells how far a file is from another, from none to what noise makes', async () => {
    const same = JSON.parse((await cli('compare', at('a.exr'), at('a.exr'), '--json', '-')).out);
    expect(same).toMatchObject({ rmse: 0, psnr: null, ssim: 1, flip: 0, width: 96, height: 54 });
    const other = ['--set', 'sampling.seed=5', ...small.slice(2)];
    await cli('render', 'lantern-room', '--recipe', 'Sketch', '--size', '96x54', ...other, '--out', at('b.exr'));
    const far = await cli('compare', at('a.exr'), at('b.exr'), '--json', '-');
    expect(far.code).toBe(0);
    const errors = JSON.parse(far.out);
    expect(errors.rmse).toBeGreaterThan(0);
    expect(errors.psnr).toBeGreaterThan(5);
    expect(errors.ssim).toBeLessThan(1);
    expect(errors.flip).toBeGreaterThan(0);
    expect((await cli('compare', at('a.exr'), at('b.exr'))).out).toMatch(/^RMSE .* PSNR .* dB .* SSIM .* FLIP /);
  });

  test('compare refuses one file, and files of two sizes, by name', async () => {
    expect(await refusal('compare', at('a.exr'))).toBe('compare needs two .exr files: the reference, then the other');
    await run('oiiotool', ['--create', '64x36', '3', '-o', at('s.exr')]);
    const two = await refusal('compare', at('a.exr'), at('s.exr'));
    expect(two).toContain('64×36 pixels, but the reference has 96×54');
  });

  test('its file opens without a word in the OpenEXR library’s tools, which see the same pixels', async () => {
    const header = await run('exrheader', [at('a.exr')]);
    expect(header.code).toBe(0);
    expect(header.err).toBe('');
    expect(header.out).toContain('group.lamp');
    const float = await cli(
      'render',
      'lantern-room',
      '--recipe',
      'Sketch',
      ...small,
      '--depth',
      'float',
      '--layers',
      'beauty',
      '--out',
      at('f.exr'),
    );
    expect(float.code).toBe(0);
    const stats_ = await run('oiiotool', [at('f.exr'), '--printstats']);
    expect(stats_.err).toBe('');
    const numbers = (label: string) =>
      new RegExp(`Stats ${label}: ([-\\d.e+]+) ([-\\d.e+]+) ([-\\d.e+]+)`).exec(stats_.out)!.slice(1).map(Number);
    const { planes } = await withExr(at('f.exr'), (source, file) => readLayers(source, file)).then(
      (f) => f.layers.get('beauty')!,
    );
    const means = planes.map((p) => p.reduce((x, y) => x + y, 0) / p.length);
    numbers('Avg').forEach((v, c) => {
      expect(Math.abs(v / means[c] - 1)).toBeLessThan(1e-5);
    });
    numbers('Max').forEach((v, c) => {
      expect(v).toBeCloseTo(
        planes[c].reduce((x, y) => Math.max(x, y), 0),
        4,
      );
    });
    const mean = means[1];
    // And the other way: what the library packs anew, we read with the same bits.
    expect((await run('oiiotool', [at('f.exr'), '--compression', 'zips', '-o', at('z.exr')])).code).toBe(0);
    const again = await withExr(at('z.exr'), (source, file) => readLayers(source, file));
    again.layers.get('beauty')!.planes.forEach((p, c) => {
      expect(Array.from(p)).toEqual(Array.from(planes[c]));
    });
    const info = JSON.parse((await cli('measure', at('a.exr'), '--json', '-')).out);
    expect(info.noise.rms).toBeCloseTo(stats.noise.rms, 1);
    // The half file against the float one, pixel by pixel, by a reader that is not ours.
    const compare = await run('oiiotool', [at('f.exr'), at('a.exr'), '--subimage', '0', '--ch', 'R,G,B', '--diff']);
    const error = Number(/Mean error = ([-\d.e+]+)/.exec(compare.out)?.[1]);
    expect(error).toBeLessThan(mean * 1e-3);
  });

  test('parts tally: to 1e-5 as float, to rounding as half', async () => {
    const half = await cli('tally', at('a.exr'), '--json', '-');
    expect(half.code).toBe(0);
    expect(JSON.parse(half.out)).toMatchObject({ storage: 'half', addsUp: true });
    for (const parts of ['group', 'class']) {
      const float = await cli('tally', at('g.exr'), '--parts', parts, '--json', '-');
      expect(float.code).toBe(0);
      expect(JSON.parse(float.out).maxError).toBeLessThan(1e-5);
    }
  });

  test('a file whose parts do not add up ends with 1', async () => {
    await cli(
      'render',
      'lantern-room',
      '--recipe',
      'Sketch',
      ...small,
      '--layers',
      'beauty',
      'group.lamp',
      'group.night_sky',
      '--out',
      at('h.exr'),
    );
    const r = await cli('tally', at('h.exr'));
    expect(r.code).toBe(1);
    expect(r.out).toContain('does not add up');
  });

  test('info names parts and notes', async () => {
    const r = await cli('info', at('a.exr'));
    expect(r.code).toBe(0);
    expect(r.out).toContain('class.caustic');
    expect(r.out).toContain('lantern:seed = 1');
  });

  test('a GLB not of our making, under an HDR sky, on a region', async () => {
    const d = new Document();
    const buffer = d.createBuffer();
    const add = (name: string, mesh: ReturnType<typeof box>) => {
      const accessor = (type: 'VEC3' | 'SCALAR', array: Float32Array | Uint32Array) =>
        d
          .createAccessor()
          .setType(type)
          .setArray(array as Float32Array<ArrayBuffer>)
          .setBuffer(buffer);
      const p = d
        .createPrimitive()
        .setAttribute('POSITION', accessor('VEC3', mesh.positions))
        .setIndices(accessor('SCALAR', mesh.indices));
      return d
        .createNode(name)
        .setMesh(
          d
            .createMesh(name)
            .addPrimitive(
              p.setMaterial(d.createMaterial(name).setMetallicFactor(0).setBaseColorFactor([0.5, 0.2, 0.1, 1])),
            ),
        );
    };
    const eye = d
      .createNode('deck')
      .setCamera(
        d
          .createCamera('deck')
          .setType('perspective')
          .setYFov(0.8)
          .setAspectRatio(16 / 9),
      )
      .setTranslation([0, 0, 5]);
    d.createScene()
      .addChild(add('crate', box(1.5, 1.5, 1.5)))
      .addChild(add('float', sphere(0.6, 12)).setTranslation([1.2, 0, 1]))
      .addChild(eye);
    writeFileSync(at('crate.glb'), await new WebIO().writeBinary(d));
    writeFileSync(
      at('sky.hdr'),
      Buffer.concat([
        Buffer.from('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 2 +X 4\n'),
        Buffer.from(Array.from({ length: 8 }, () => [128, 128, 128, 129]).flat()),
      ]),
    );
    const r = await cli(
      'render',
      at('crate.glb'),
      '--env',
      at('sky.hdr'),
      ...small,
      '--region',
      '20,10,40,30',
      '--out',
      at('crate.exr'),
      '--json',
      '-',
    );
    expect(r.err).toBe('');
    expect(r.code).toBe(0);
    const dump = await run('oiiotool', ['--stats', '--subimage', '0', at('crate.exr')]);
    expect(dump.out).toContain('40 x   30');
    const average = Number(/Stats Avg: ([\d.]+)/.exec(dump.out)?.[1]);
    expect(average).toBeGreaterThan(0.2);
    expect(average).toBeLessThan(1.05);

    // A document beside the GLB gives it fog, a beam and a coated crate.
    const scene = {
      schema: 1,
      base: 'crate.glb',
      materials: [{ name: 'crate', coat_weight: 1, coat_ior: 'water' }],
      objects: [{ name: 'float', material: 'crate' }],
      lights: [
        {
          kind: 'spot',
          name: 'beam',
          group: 'beam',
          power: 400,
          position: [0, 5, 0],
          facing: [0, -1, 0],
          up: [0, 0, 1],
        },
      ],
      environment: { kind: 'sky', sun: { heightDegrees: -8 } },
      fog: { density: 0.1 },
    };
    writeFileSync(at('crate.json'), JSON.stringify(scene));
    const foggy = await cli('render', at('crate.json'), ...small, '--out', at('foggy.exr'), '--json', '-');
    expect(foggy.err).toBe('');
    const { rays } = JSON.parse(foggy.out);
    expect(rays.fog).toBeGreaterThan(0);
    expect(rays.shadowByGroup.beam).toBeGreaterThan(0);
    const { layers } = await withExr(at('foggy.exr'), readLayers);
    expect(Math.max(...layers.get('class.direct_fog')!.planes[1])).toBeGreaterThan(0);
  });
});

describe('bad input ends with 2, one line and no file', () => {
  writeFileSync(at('bad.json'), '{"sampling": {"cameraMax": 0}}');
  writeFileSync(at('words.json'), '{"schema": 1, "base": "lantern-room", "lamps": []}');
  writeFileSync(
    at('harbour.json'),
    '{"schema": 1, "base": "lantern-room", "lights": [{"name": "beam", "kind": "point", "position": [0, 0, 0]}]}',
  );
  writeFileSync(at('broken.json'), '{"sampling": ');
  writeFileSync(at('list.json'), '[]');
  writeFileSync(at('bad.glb'), 'not a scene at all, only words');
  writeFileSync(at('bad.hdr'), 'no picture');
  writeFileSync(at('cut.exr'), Buffer.from([0x76, 0x2f, 0x31, 0x01, 2, 0]));
  const out = ['--out', at('never.exr')];
  test.each<[string[], RegExp]>([
    [
      ['render', 'harbour', ...out],
      /harbour: neither a shot \(lantern-room, keepers-desk, quay-dawn\) nor a .glb, .json or .tar file/,
    ],
    [['render', at('harbour.json'), ...out], /harbour.json: lights.beam.power: Invalid input/],
    [['render', at('words.json'), ...out], /words.json: lamps: unknown key/],
    [['render', 'lantern-room'], /needs --out/],
    [['render', 'lantern-room', '--out', at('x.png')], /must end in .exr/],
    [['render', 'lantern-room', '--recipe', 'Best', ...out], /neither a recipe \(Sketch, Check, Final\)/],
    [['render', 'lantern-room', '--recipe', at('bad.json'), ...out], /sampling.cameraMax: too small, at least 1/],
    [['render', 'lantern-room', '--recipe', at('broken.json'), ...out], /broken.json/],
    [['render', 'lantern-room', '--recipe', at('list.json'), ...out], /must be of type object|JSON object/],
    [['render', 'lantern-room', '--set', 'sampling.noise=3', ...out], /sampling.noise: unknown setting/],
    [['render', 'lantern-room', '--set', 'rayDepth.all=99', ...out], /rayDepth.all: too large, at most 64/],
    [
      ['render', 'lantern-room', '--set', 'film.pairs=[{"group":"lmap","class":"direct_fog"}]', ...out],
      /film.pairs: the scene has no light group lmap, but lamp/,
    ],
    [['render', 'lantern-room', '--camera', 'roof', ...out], /the scene has gallery/],
    [['render', 'lantern-room', '--size', 'big', ...out], /must read WIDTHxHEIGHT/],
    [['render', 'lantern-room', '--region', '0,0,9999,9', ...out], /within 640x360/],
    [['render', 'lantern-room', '--threads', '0', ...out], /from 1 to 256/],
    [['render', 'lantern-room', '--colour', 'red', ...out], /--colour is not an option here/],
    [['render', at('bad.glb'), ...out], /must begin with glTF/],
    [['render', at('missing.glb'), ...out], /no such file/],
    [['render', 'lantern-room', '--env', at('bad.hdr'), ...out], /must begin with #\?/],
    [['info', at('cut.exr')], /header is cut short/],
    [['tally', at('missing.exr')], /no such file/],
    [['tally', at('cut.exr'), '--parts', 'lamp'], /must be group, class or bounce/],
    [['paint'], /no such verb/],
  ])('%j', async (args, message) => {
    expect(await refusal(...args)).toMatch(message);
    expect(existsSync(at('never.exr'))).toBe(false);
  });

  test('as the command line says it', async () => {
    const r = await cli('paint');
    expect([r.code, r.out]).toEqual([2, '']);
    expect(r.err).toMatch(/^lantern: paint: no such verb; .*\n$/);
  });
});
