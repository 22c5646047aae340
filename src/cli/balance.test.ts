import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { lantern, refusal } from './testing';

const folder = mkdtempSync(join(tmpdir(), 'lantern-balance-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const at = (name: string) => join(folder, name);
const NIGHT = {
  name: 'Night',
  mix: { lamp: { stops: 1, color: { kind: 'kelvin', kelvin: 6500 } }, dusk_sky: { on: false }, moon: { stops: 1 } },
};

beforeAll(() => {
  const set = ['sampling.cameraMin=4', 'sampling.cameraMax=4', 'rayDepth.all=4'];
  const options = ['--recipe', 'Sketch', '--size', '64x36', '--depth', 'float', '--set', ...set];
  const r = lantern('render', 'keepers-desk', ...options, '--out', at('film.exr'));
  expect([r.code, r.out]).toEqual([0, '']);
  writeFileSync(at('night.json'), JSON.stringify(NIGHT));
});

test('a film in a mood adds up, says what it is, and has the noise that was measured of the mood', () => {
  const r = lantern('balance', at('film.exr'), '--mood', at('night.json'), '--out', at('night.exr'), '--json', '-');
  expect(r.code).toBe(0);
  expect(r.err).toContain('Night: left alone: moon');
  const told = JSON.parse(r.out);
  expect(told.groups).toEqual(['lamp', 'stove', 'dusk_sky']);
  expect(told.factors.dusk_sky).toEqual([0, 0, 0]);
  expect(told.leftOut.every((n: string) => n.startsWith('class.'))).toBe(true);
  const tally = JSON.parse(lantern('tally', at('night.exr'), '--json', '-').out);
  expect(tally).toMatchObject({ addsUp: true, storage: 'float' });
  const noise = (file: string, ...more: string[]) =>
    JSON.parse(lantern('measure', at(file), ...more, '--json', '-').out).noise.rms;
  const inMood = noise('film.exr', '--mood', at('night.json'));
  expect(noise('night.exr')).toBeCloseTo(inMood, 6);
  expect(inMood).not.toBeCloseTo(noise('film.exr'), 2);
  const header = execFileSync('exrheader', [at('night.exr')], { encoding: 'utf8' });
  expect(header).toMatch(/lantern:mood.*"Night"/);
  expect(header).toContain('kelvin');
  // What it emits now is what another mood is reckoned from.
  const [, color] = /lantern:emits\.lamp \(type string\): "([^"]+)"/.exec(header)!;
  expect(Math.max(...color.split(' ').map(Number)) - 1).toBeLessThan(0.06);
});

test('the same mood twice, its colour absolute, lifts the lamp twice and colours it once', () => {
  const again = { name: 'Again', mix: { lamp: { stops: 1, color: { kind: 'kelvin', kelvin: 6500 } } } };
  writeFileSync(at('again.json'), JSON.stringify(again));
  const r = lantern('balance', at('night.exr'), '--mood', at('again.json'), '--out', at('twice.exr'), '--json', '-');
  for (const k of JSON.parse(r.out).factors.lamp) expect(k).toBeCloseTo(2, 3);
});

test('a mood that changes over frames is taken at the frame of the film', () => {
  const key = (frame: number, stops: number) => ({ frame, mix: { lamp: { stops } } });
  writeFileSync(at('over.json'), JSON.stringify({ name: 'Over', mix: {}, keys: [key(-1, -1), key(3, 3)] }));
  const r = lantern('balance', at('film.exr'), '--mood', at('over.json'), '--out', at('over.exr'), '--json', '-');
  // The film is of frame 1.
  expect(JSON.parse(r.out).factors.lamp).toEqual([2, 2, 2]);
});

test.each([
  [[], /balance needs one \.exr file/],
  [['film.exr'], /--mood/],
  [['film.exr', '--mood', 'night.json'], /--out/],
  [['film.exr', '--mood', 'night.json', '--out', 'x.png'], /must end in \.exr/],
  [['film.exr', '--mood', 'gone.json', '--out', 'x.exr'], /gone\.json: no such file/],
  [['film.exr', '--mood', 'bad.json', '--out', 'x.exr'], /bad\.json: mix\.lamp\.stops: /],
  [['film.exr', '--mood', 'text.json', '--out', 'x.exr'], /text\.json: it is no JSON/],
  [['bare.exr', '--mood', 'night.json', '--out', 'x.exr'], /bare\.exr: it holds no light groups/],
])('%j is refused in one line', async (args, message) => {
  execFileSync('oiiotool', ['--create', '8x8', '3', '-o', at('bare.exr')]);
  writeFileSync(at('bad.json'), '{"name": "x", "mix": {"lamp": {"stops": 99}}}');
  writeFileSync(at('text.json'), 'no mood');
  expect(await refusal('balance', ...args.map((a) => (/\.(exr|png|json)$/.test(a) ? at(a) : a)))).toMatch(message);
  expect(existsSync(at('x.exr'))).toBe(false);
});
