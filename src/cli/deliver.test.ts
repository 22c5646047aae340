import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, unlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { manifestSchema } from '@/core/runs';
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

const small = ['--recipe', 'Sketch', '--size', '32x18', '--set', 'sampling.cameraMin=2', 'sampling.cameraMax=4'];
const frames = ['run', 'quay-dawn', '--outputs', OUTPUTS, '--frames', '1-3x2', ...small];

test('frames are delivered once, checked, and what is gone is rendered to the same bits', () => {
  const dir = at('delivered');
  const first = lantern(...frames, '--out', dir, '--json', '-');
  expect([first.code, JSON.parse(first.out)]).toMatchObject([0, { complete: true, rendered: 4, files: 4 }]);
  const names = ['dark', 'main'].flatMap((o) => [1, 3].map((f) => `quay-dawn_${o}_01.000${f}.exr`));
  expect(readdirSync(dir).sort()).toEqual(['manifest.json', ...names]);
  const manifest = manifestSchema.parse(JSON.parse(readFileSync(join(dir, 'manifest.json'), 'utf8')));
  expect(manifest).toMatchObject({ shot: 'quay-dawn', frames: '1,3', complete: true });
  expect(execFileSync('exrinfo', [join(dir, names[3])]).toString()).toContain('group.sun');
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
  const again = lantern(...frames, '--out', dir, '--missing', '--json', '-');
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
  expect(await run('--frames', '1-60')).toBe('--frames 1-60: the shot has frames 1 to 48');
  expect(await run('--frames', 'all')).toMatch(/^--frames all: a frame as 5/);
  expect(await run('--order', 'last')).toBe('--order last: must be ends or rising');
  expect(await run('--missing=yes')).toBe('--missing takes no value');
  writeFileSync(at('none.json'), '{"list": []}');
  expect(await refusal('run', 'quay-dawn', '--outputs', at('none.json'), '--out', dir)).toMatch(/no output is chosen/);
  const delivered = at('delivered');
  expect(await refusal(...frames, '--out', delivered)).toMatch(/0001.exr: it is there already; --missing/);
  expect(await refusal(...frames, '--out', delivered, '--missing', '--seed', '9')).toMatch(/of something else/);
  expect(await refusal('verify', folder)).toMatch(/manifest.json: no such file/);
});
