import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { lantern, refusal } from './testing';

const folder = mkdtempSync(join(tmpdir(), 'lantern-denoise-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const at = (name: string) => join(folder, name);
const render = (name: string, samples: number, seed: number) => {
  const even = ['sampling.adapt=even', 'sampling.stopNoise=0', 'rayDepth.all=8', 'film.guides=true', 'film.ledger=all'];
  const counts = [`sampling.cameraMin=${samples}`, `sampling.cameraMax=${samples}`];
  const options = ['--size', '96x36', '--seed', String(seed), '--depth', 'float', '--set', ...even, ...counts];
  const r = lantern('render', 'keepers-desk', '--recipe', 'Sketch', ...options, '--out', at(name));
  expect([r.code, r.out]).toEqual([0, '']);
};

beforeAll(() => {
  render('noisy.exr', 8, 1);
  render('long.exr', 160, 2);
});

test('a film is denoised to the same bits on one thread and on three, in fewer errors, and still adds up', () => {
  const files = ['1', '3'].map((threads) => {
    const r = lantern('denoise', at('noisy.exr'), '--threads', threads, '--out', at(`clean${threads}.exr`));
    expect([r.code, r.err]).toEqual([0, '']);
    expect(r.out).toMatch(/\d+ parts in [\d.]+ s/);
    return readFileSync(at(`clean${threads}.exr`));
  });
  expect(files[1].equals(files[0])).toBe(true);
  for (const parts of ['group', 'class', 'bounce'])
    expect(lantern('tally', at('clean1.exr'), '--parts', parts)).toMatchObject({ code: 0 });
  const psnrOf = (name: string) => JSON.parse(lantern('compare', at('long.exr'), at(name), '--json', '-').out).psnr;
  expect(psnrOf('clean1.exr') - psnrOf('noisy.exr')).toBeGreaterThan(4);
  const noiseOf = (name: string) => JSON.parse(lantern('measure', at(name), '--json', '-').out).noise.rms;
  expect(noiseOf('noisy.exr') / noiseOf('clean1.exr')).toBeGreaterThan(2);
  expect(execFileSync('oiiotool', ['--info', '-v', at('clean1.exr')]).toString()).toMatch(/lantern:denoised.*100 %/);
});

test('hot pixels are told by part; a strength of none gives the pixels of the film', () => {
  const r = lantern('denoise', at('noisy.exr'), '--strength', '0', '--out', at('same.exr'), '--json', '-');
  expect(r.code).toBe(0);
  const told = JSON.parse(r.out);
  expect(told.strength).toBe(0);
  expect(told.residual).toEqual(told.noise);
  expect(Object.keys(told.hot).sort()).toEqual(['group.dusk_sky', 'group.lamp', 'group.stove']);
  // Eight samples meet the lamp's light over mirrors and glass too rarely.
  expect(told.hot['group.lamp'].pixels).toBeGreaterThan(10);
  expect(told.hot['group.lamp'].share).toBeGreaterThan(0.01);
  expect(told.hot['group.lamp'].share).toBeLessThan(0.9);
  const differ = spawnSync('oiiotool', [at('noisy.exr'), at('same.exr'), '--diff'], { encoding: 'utf8' });
  expect(differ.stdout).toMatch(/PASS/);
});

test('render denoises what it rendered: the same bits as afterwards', () => {
  const even = ['sampling.cameraMin=8', 'sampling.cameraMax=8', 'sampling.adapt=even', 'sampling.stopNoise=0'];
  const options = ['--size', '96x36', '--seed', '1', '--depth', 'float', '--set', ...even];
  const both = ['rayDepth.all=8', 'film.ledger=all', '--denoise', '100', '--out', at('both.exr'), '--json', '-'];
  const r = lantern('render', 'keepers-desk', '--recipe', 'Sketch', ...options, ...both);
  expect(r.code).toBe(0);
  const { denoised } = JSON.parse(r.out);
  expect(denoised.residual.rms).toBeLessThan(denoised.noise.rms / 2);
  expect(lantern('denoise', at('noisy.exr'), '--out', at('after.exr')).code).toBe(0);
  const differ = spawnSync('oiiotool', [at('after.exr'), at('both.exr'), '--diff'], { encoding: 'utf8' });
  expect(differ.stdout).toMatch(/PASS/);
});

test.each([
  [[], /denoise needs one \.exr file/],
  [['noisy.exr'], /--out/],
  [['noisy.exr', '--out', 'x.png'], /must end in \.exr/],
  [['noisy.exr', '--out', 'x.exr', '--strength', '101'], /--strength 101: must be a whole number from 0 to 100/],
  [['bare.exr', '--out', 'x.exr'], /bare\.exr: it has no halves \(layers half_a and half_b\)/],
  [['cut.exr', '--out', 'x.exr'], /cut\.exr: .*cut short/],
  [['text.exr', '--out', 'x.exr'], /text\.exr: /],
])('%j is refused in one line', async (args, message) => {
  execFileSync('oiiotool', ['--create', '8x8', '3', '-o', at('bare.exr')]);
  writeFileSync(at('cut.exr'), readFileSync(at('noisy.exr')).subarray(0, 5000));
  writeFileSync(at('text.exr'), 'no picture');
  expect(await refusal('denoise', ...args.map((a) => (a.endsWith('.exr') || a.endsWith('.png') ? at(a) : a)))).toMatch(
    message,
  );
  expect(existsSync(at('x.exr'))).toBe(false);
});

test('frames of a sequence are joined by motion: less noise and less flicker, and what lacks motion says so', async () => {
  const frame = (number: number) => {
    const set = ['sampling.cameraMin=4', 'sampling.cameraMax=4', 'sampling.adapt=even', 'sampling.stopNoise=0'];
    const kept = ['film.guides=true', 'film.features=["alpha","depth","normal","albedo","motion"]'];
    const options = ['--size', '64x36', '--frame', String(number), '--seed', String(number), '--depth', 'float'];
    const r = lantern('render', 'quay-dawn', ...options, '--set', ...set, ...kept, '--out', at(`f${number}.exr`));
    expect([r.code, r.out]).toEqual([0, '']);
    return at(`f${number}.exr`);
  };
  const [before, own] = [19, 20].map(frame);
  const told = (...more: string[]) =>
    JSON.parse(lantern('denoise', own, ...more, '--out', at('c.exr'), '--json', '-').out);
  const alone = told();
  expect(alone.joined).toBeNull();
  const joined = told('--before', before);
  expect(joined.residual.rms).toBeLessThan(alone.residual.rms);
  expect(joined.joined).toMatchObject({ frames: 1 });
  const { rendered, alone: each, joined: both } = joined.joined.flicker;
  expect(each).toBeLessThan(rendered);
  expect(both).toBeLessThan(each);
  expect(lantern('tally', at('c.exr'), '--parts', 'group').code).toBe(0);
  const refused = (film: string) => refusal('denoise', film, '--after', at('long.exr'), '--out', at('d.exr'));
  expect(await refused(at('noisy.exr'))).toMatch(/keeps no motion/);
  expect(await refused(own)).toMatch(/long\.exr: is 96×36/);
});
