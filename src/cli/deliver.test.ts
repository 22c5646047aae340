import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, unlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { NO_MOODS } from '@/core/moods';
import { parseRecipe } from '@/core/recipe';
import { manifestSchema } from '@/core/runs';
import { emptyShot } from '@/core/scene';
import { sha256 } from '@/node/hash';
import { tarOf } from '@/node/package';
import { lantern, refusal } from './testing';

const folder = mkdtempSync(join(tmpdir(), 'lantern-deliver-'));
const at = (name: string) => join(folder, name);
const OUTPUTS = at('outputs.json');
writeFileSync(
  OUTPUTS,
  JSON.stringify({
    list: [
      { id: 'a', name: 'main', layers: ['beauty', 'alpha', 'group.*'] },
      { id: 'b', name: 'dark', layers: ['beauty'], variant: { 'scope.sky': false } },
    ],
  }),
);
afterAll(() => rmSync(folder, { recursive: true }));

const STACK = {
  schema: 1,
  films: { shown: 'A' },
  entries: [
    { kind: 'layer', name: 'beauty', source: { from: 'film', film: 'shown', layer: 'beauty', alpha: 'whole' } },
    { kind: 'operation', name: 'up', operation: { does: 'exposure', stops: 1 } },
  ],
};

/** A shot of its own with recipe, outputs and stack, as a server packs it. */
async function packedShot(path: string, more: object = {}): Promise<void> {
  const scene = { ...emptyShot('rock'), frames: { first: 1, last: 3, perSecond: 24 } };
  const shot = {
    schema: 1,
    program: 'test',
    name: 'rock',
    scene: { ...scene, geometry: { ...scene.geometry, hash: sha256(new Uint8Array(0)) } },
    recipe: parseRecipe({
      name: 'small',
      size: { width: 32, height: 18, scale: 100 },
      sampling: { cameraMin: 4, cameraMax: 4, adapt: 'even', stopNoise: 0 },
      denoise: { on: true, strength: 100 },
      film: { guides: true },
    }),
    outputs: { list: [{ id: 'a', name: 'main', layers: ['beauty'], depth: 'float' }] },
    moods: NO_MOODS,
    ...{ stack: STACK, ...more },
  };
  const text = Buffer.from(JSON.stringify(shot));
  const parts: Uint8Array[] = [];
  const files = [
    { name: 'shot.json', bytes: text.length, pieces: () => [text] },
    { name: `content/${sha256(new Uint8Array(0))}`, bytes: 0, pieces: () => [] },
  ];
  for await (const piece of tarOf(files)) parts.push(piece.slice());
  writeFileSync(path, Buffer.concat(parts));
}
const light = (film: string, way: string, opacity: number) => ({
  kind: 'layer',
  ...{ way, opacity },
  source: { from: 'film', film, layer: 'beauty', alpha: 'whole' },
});
beforeAll(async () => {
  await packedShot(at('rock.tar'));
  await packedShot(at('less.tar'), {
    outputs: {
      list: [
        { id: 'a', name: 'main', layers: ['beauty'], depth: 'float' },
        { id: 'b', name: 'few', layers: ['beauty'], depth: 'float', variant: { 'sampling.cameraMax': 2 } },
      ],
    },
    stack: {
      schema: 1,
      films: { shown: 'A', few: 'variant:few' },
      entries: [light('shown', 'over', 1), light('few', 'subtract', 1), light('few', 'add', 0.25)],
    },
  });
});

const small = ['--recipe', 'Sketch', '--size', '32x18', '--set', 'sampling.cameraMin=2', 'sampling.cameraMax=4'];
const frames = ['run', at('rock.tar'), '--outputs', OUTPUTS, '--frames', '1-3x2', ...small];

test('frames are delivered once, checked, and what is gone is rendered to the same bits', () => {
  const dir = at('delivered');
  const first = lantern(...frames, '--out', dir, '--json', '-');
  expect([first.code, JSON.parse(first.out)]).toMatchObject([0, { complete: true, rendered: 4, files: 4 }]);
  const names = ['dark', 'main'].flatMap((o) => [1, 3].map((f) => `rock_${o}_01.000${f}.exr`));
  expect(readdirSync(dir).sort()).toEqual(['manifest.json', ...names]);
  const manifest = manifestSchema.parse(JSON.parse(readFileSync(join(dir, 'manifest.json'), 'utf8')));
  expect(manifest).toMatchObject({ shot: 'rock', frames: '1,3', complete: true });
  expect(execFileSync('exrinfo', [join(dir, names[3])]).toString()).toContain('group.sky');
  expect(lantern('verify', dir).code).toBe(0);
  unlinkSync(join(dir, names[2]));
  writeFileSync(join(dir, names[0]), 'something else');
  const told = lantern('verify', dir, '--json', '-');
  expect([told.code, JSON.parse(told.out).faults]).toEqual([
    1,
    [
      { name: names[0], fault: `it has 14 bytes, not ${manifest.files[0].bytes}` },
      { name: names[2], fault: 'it is not there' },
    ],
  ]);
  // On a machine whose memory holds a part of a film: in bands, to the same bytes.
  process.env.LANTERN_FILM_BYTES = '90000';
  const again = lantern(...frames, '--out', dir, '--missing', '--json', '-');
  Reflect.deleteProperty(process.env, 'LANTERN_FILM_BYTES');
  expect([again.code, JSON.parse(again.out)]).toMatchObject([0, { complete: true, rendered: 2 }]);
  expect(lantern('verify', dir).code).toBe(0);
  const after = manifestSchema.parse(JSON.parse(readFileSync(join(dir, 'manifest.json'), 'utf8')));
  expect(after.files).toEqual(manifest.files);
});

test('what would be delivered by mistake is refused, or told', async () => {
  const dir = at('never');
  writeFileSync(at('taken.json'), '');
  const run = (...more: string[]) => refusal(...frames.slice(0, 4), '--out', dir, ...more);
  expect(await refusal('run', 'quay-dawn', '--out', dir)).toMatch(/needs --outputs/);
  expect(await run('--frames', '1-60')).toBe('--frames 1-60: the shot has frames 1 to 3');
  expect(await run('--frames', 'all')).toMatch(/^--frames all: a frame as 5/);
  expect(await run('--order', 'last')).toBe('--order last: must be ends or rising');
  expect(await run('--missing=yes')).toBe('--missing takes no value');
  process.env.LANTERN_FILM_BYTES = '90000';
  const dealt = ['--set', 'sampling.adapt=cheapest', 'sampling.stopNoise=2'];
  expect(await run(...small.slice(0, 4), ...dealt)).toMatch(/^sampling.adapt cheapest needs the whole frame at once/);
  Reflect.deleteProperty(process.env, 'LANTERN_FILM_BYTES');
  writeFileSync(at('none.json'), '{"list": []}');
  expect(await refusal('run', 'quay-dawn', '--outputs', at('none.json'), '--out', dir)).toMatch(/no output is chosen/);
  const delivered = at('delivered');
  expect(await refusal(...frames, '--out', delivered)).toMatch(/0001.exr: it is there already; --missing/);
  expect(await refusal(...frames, '--out', delivered, '--missing', '--seed', '9')).toMatch(/of something else/);
  expect(await refusal('verify', folder)).toMatch(/manifest.json: no such file/);
});

test('a packed shot is delivered by its own recipe and outputs, denoised, with what its stack makes', async () => {
  const dir = at('rock');
  const run = lantern('run', at('rock.tar'), '--frames', '1', '--comp', 'exr', '--out', dir, '--json', '-');
  expect([run.code, run.err]).toEqual([0, expect.any(String)]);
  expect(JSON.parse(run.out)).toMatchObject({ complete: true, rendered: 1, files: 2 });
  expect(readdirSync(dir).sort()).toEqual(['manifest.json', 'rock_comp_01.0001.exr', 'rock_main_01.0001.exr']);
  expect(execFileSync('exrheader', [join(dir, 'rock_main_01.0001.exr')]).toString()).toMatch(/lantern:denoised/);
  const mean = (name: string) => {
    const told = execFileSync('oiiotool', ['--stats', join(dir, name)]).toString();
    return Number(/Stats Avg: ([\d.e+-]+)/.exec(told)![1]);
  };
  const told = execFileSync('exrheader', [join(dir, 'rock_main_01.0001.exr')]).toString();
  const exposure = Number(/lantern:exposure \(type double\): (\S+)/.exec(told)![1]);
  // Twice the light, in display white.
  expect(mean('rock_comp_01.0001.exr') / (mean('rock_main_01.0001.exr') * exposure)).toBeCloseTo(2, 2);
  expect(lantern('verify', dir).code).toBe(0);
  const plain = lantern('render', at('rock.tar'), '--out', at('rock.exr'), '--json', '-');
  expect([plain.code, JSON.parse(plain.out).samples]).toEqual([0, 32 * 18 * 4]);
});

test('a stack that takes a variant is made of both pictures of a frame, alone again too', () => {
  const dir = at('less');
  const run = ['run', at('less.tar'), '--frames', '1-2', '--comp', 'exr', '--out', dir, '--json', '-'];
  const told = lantern(...run);
  expect([told.code, JSON.parse(told.out)]).toMatchObject([0, { complete: true, rendered: 4, files: 6 }]);
  const mean = (name: string) => {
    const said = execFileSync('oiiotool', ['--stats', join(dir, `rock_${name}_01.0002.exr`)]).toString();
    return Number(/Stats Avg: ([\d.e+-]+)/.exec(said)![1]);
  };
  const header = execFileSync('exrheader', [join(dir, 'rock_main_01.0002.exr')]).toString();
  const exposure = Number(/lantern:exposure \(type double\): (\S+)/.exec(header)![1]);
  const wanted = exposure * (mean('main') - 0.75 * mean('few'));
  expect(mean('comp') / wanted).toBeCloseTo(1, 3);
  const comp = join(dir, 'rock_comp_01.0002.exr');
  const before = sha256(readFileSync(comp));
  unlinkSync(comp);
  expect(JSON.parse(lantern(...run, '--missing').out)).toMatchObject({ complete: true, rendered: 1, files: 6 });
  expect(sha256(readFileSync(comp))).toBe(before);
});

test('frames that are joined with those beside them come out as three films that are denoised together, alone again too', async () => {
  const quay = ['quay-dawn', '--size', '48x27', '--recipe', 'Sketch'];
  const even = ['sampling.cameraMin=4', 'sampling.cameraMax=4', 'sampling.adapt=even', 'sampling.stopNoise=0'];
  const joined = ['film.guides=true', 'film.features=["alpha","depth","normal","albedo","motion"]', 'film.ledger=off'];
  const set = [...even, ...joined];
  writeFileSync(
    at('light.json'),
    JSON.stringify({ list: [{ id: 'a', name: 'main', layers: ['beauty'], depth: 'float' }] }),
  );
  const neighbours = ['denoise.on=true', 'denoise.neighbours=true'];
  const run = ['run', ...quay, '--outputs', at('light.json'), '--frames', '19-21', '--set', ...set, ...neighbours];
  const dir = at('joined');
  const told = lantern(...run, '--out', dir, '--json', '-');
  expect([told.code, JSON.parse(told.out)]).toMatchObject([0, { complete: true, rendered: 3, files: 3 }]);
  for (const frame of [19, 20, 21])
    lantern(
      'render',
      ...quay,
      '--frame',
      String(frame),
      '--depth',
      'float',
      '--set',
      ...set,
      '--out',
      at(`q${frame}.exr`),
    );
  const beside = ['--before', at('q19.exr'), '--after', at('q21.exr')];
  expect(lantern('denoise', at('q20.exr'), ...beside, '--out', at('clean.exr')).code).toBe(0);
  const middle = join(dir, 'quay-dawn_main_01.0020.exr');
  const isSame = (a: string, b: string) => execFileSync('oiiotool', [a, b, '--diff'], { encoding: 'utf8' });
  execFileSync('oiiotool', [at('clean.exr'), '--ch', 'R,G,B', '-o', at('own.exr')]);
  execFileSync('oiiotool', [middle, '--ch', 'R,G,B', '-o', at('delivered.exr')]);
  expect(isSame(at('own.exr'), at('delivered.exr'))).toMatch(/PASS/);
  // Gone, it takes the frames beside it once more, and comes to the same bytes.
  const before = sha256(readFileSync(middle));
  unlinkSync(middle);
  // Three films at once do not fit into this memory: they go in bands.
  process.env.LANTERN_FILM_BYTES = '300000';
  expect(JSON.parse(lantern(...run, '--out', dir, '--missing', '--json', '-').out)).toMatchObject({ rendered: 1 });
  Reflect.deleteProperty(process.env, 'LANTERN_FILM_BYTES');
  expect(sha256(readFileSync(middle))).toBe(before);
  expect(await refusal(...run, '--out', dir, '--job', at('never.json'))).toMatch(/denoise\.neighbours=false/);
  process.env.LANTERN_FILM_BYTES = '300000';
  const dealt = [...run, 'sampling.adapt=cheapest', 'sampling.stopNoise=2', '--out', at('never')];
  expect(await refusal(...dealt)).toMatch(/^sampling.adapt cheapest needs the whole frame at once/);
  Reflect.deleteProperty(process.env, 'LANTERN_FILM_BYTES');
});

test('a job for other queues: a task a frame beside each other, then one that gathers to what one process delivers', () => {
  const run = (...more: string[]) => lantern('run', at('rock.tar'), '--frames', '1-3x2', ...more);
  expect(run('--out', at('parted'), '--job', at('job.json')).code).toBe(0);
  const template = JSON.parse(readFileSync(at('job.json'), 'utf8'));
  expect(template).toMatchObject({
    specificationVersion: 'jobtemplate-2023-09',
    name: 'rock 1,3',
    parameterDefinitions: [
      { name: 'Program', type: 'STRING', default: 'lantern' },
      { name: 'Shot', type: 'PATH', objectType: 'FILE', dataFlow: 'IN', default: 'rock.tar' },
      { name: 'Folder', type: 'PATH', objectType: 'DIRECTORY', dataFlow: 'OUT', default: 'parted' },
    ],
    steps: [
      { name: 'Frames', parameterSpace: { taskParameterDefinitions: [{ name: 'Frame', type: 'INT', range: '1,3' }] } },
      { name: 'Manifest', dependencies: [{ dependsOn: 'Frames' }] },
    ],
  });
  // What a queue makes of an action.
  const called = (step: number, frame: number | null) => {
    const values: Record<string, string> = { 'Task.Param.Frame': String(frame) };
    for (const { name, type, default: value } of template.parameterDefinitions)
      values[`Param.${name}`] = type === 'PATH' ? at(value) : value;
    const { args } = template.steps[step].script.actions.onRun;
    return lantern(...args.map((a: string) => a.replace(/\{\{(.*?)\}\}/g, (_, key) => values[key])), '--json', '-');
  };
  const dir = at('parted');
  for (const frame of [3, 1]) expect(called(0, frame).code).toBe(0);
  const piece = 'manifest.1.json';
  expect(readdirSync(dir).sort()).toEqual([piece, 'manifest.3.json', 'rock_main_01.0001.exr', 'rock_main_01.0003.exr']);
  // A task that comes again renders nothing, and the last one what has gone.
  expect(JSON.parse(called(0, 1).out)).toMatchObject({ complete: true, rendered: 0, files: 1 });
  unlinkSync(join(dir, 'rock_main_01.0003.exr'));
  expect(JSON.parse(called(1, null).out)).toMatchObject({ complete: true, rendered: 1, files: 2 });
  // One that takes nothing of a piece together leaves it.
  mkdirSync(at('whole'));
  writeFileSync(join(at('whole'), 'manifest.2.json'), 'of another');
  expect(run('--out', at('whole')).code).toBe(0);
  unlinkSync(join(at('whole'), 'manifest.2.json'));
  const filesIn = (folder: string) =>
    manifestSchema.parse(JSON.parse(readFileSync(join(at(folder), 'manifest.json'), 'utf8'))).files;
  expect(readdirSync(dir).sort()).toEqual(readdirSync(at('whole')).sort());
  expect(filesIn('parted')).toEqual(filesIn('whole'));
});

test('what is no package, or has no stack, is refused by its name', async () => {
  writeFileSync(at('text.tar'), 'no tar');
  expect(await refusal('run', at('text.tar'), '--out', at('none'))).toMatch(/text\.tar: /);
  expect(await refusal('render', at('absent.tar'), '--out', at('x.exr'))).toMatch(/absent\.tar: /);
  expect(await refusal('run', 'quay-dawn', ...frames.slice(2), '--comp', 'exr', '--out', at('none'))).toMatch(
    /^--comp: only a package/,
  );
});
