import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { newRunSchema } from '@/contract/run';
import { parseOutputs } from '@/core/outputs';
import { canonicalJson, parseRecipe, type Recipe, withSetting } from '@/core/recipe';
import { percent } from '@/core/words';
import { sha256 } from '@/node/hash';
import type { Sql } from '../db/connection';
import { framesOfRun, runById } from '../db/runs';
import { draftOf, saveDraft, shotById } from '../db/shots';
import { addTrial, editTrial, trialById } from '../db/trials';
import { startRun } from '../http/runs';
import { sendingQueue } from '../jobs/queue';
import { testRunner } from '../jobs/testing';
import { seedShot, smallRecipe, smallScene, testDatabase } from '../testing';
import { runReport } from './run';
import { trialReport } from './trial';
import { askedReport } from './verb';

let sql: Sql;
let close: () => Promise<void>;
let shot: string;
let revision: string;
let folder: string;
const never = new AbortController().signal;
beforeAll(async () => {
  ({ sql, close } = await testDatabase('lantern_test_report'));
  const scene = smallScene();
  scene.document.frames = { first: 1, last: 12, perSecond: 24 };
  ({ shot, revision } = await seedShot(sql, scene));
  folder = await mkdtemp(join(tmpdir(), 'lantern-report-'));
});
afterAll(async () => {
  await rm(folder, { recursive: true });
  await close();
});

async function rendered(recipe: Recipe, title: string): Promise<string> {
  const recipeHash = sha256(canonicalJson(recipe));
  const { id } = await addTrial(
    sql,
    { shot, revision, recipe, recipeHash, camera: 'cam', parent: null, title },
    async () => {},
  );
  await testRunner(sql).run(id, never);
  return id;
}

/** Text of a document's cells, a row each. */
const rowsOf = (html: string) =>
  [...html.matchAll(/<tr>(.*?)<\/tr>/g)].map(([, row]) =>
    [...row.matchAll(/<t[dh][^>]*>(.*?)<\/t[dh]>/g)].map(([, cell]) => cell),
  );

test('a trial against another: what was measured of both, by which settings they differ, and how far apart they are', async () => {
  const recipe = { ...smallRecipe(4, 24), name: 'Draft' };
  const first = await rendered(recipe, 'as it was');
  const second = await rendered(parseRecipe(withSetting(recipe, 'sampling.cameraMax', 16)), 'four times');
  await editTrial(sql, second, { note: 'for <b>Holm</b> & co' }, async () => {});
  const [a, b] = [(await trialById(sql, first))!, (await trialById(sql, second))!];
  const { html, name } = await trialReport(sql, b, a, '0.0');
  expect(name).toBe('test-shot-02-against-01-report.html');
  const rows = rowsOf(html);
  expect(rows).toContainEqual(['noise', percent(b.noise!.rms), percent(a.noise!.rms)]);
  expect(rows).toContainEqual(['camera samples', '4', '16', expect.anything()]);
  expect(rows.find(([r]) => r === 'FLIP')?.[1]).toMatch(/^0\.\d{4}$/);
  expect(rows.find(([r]) => r.endsWith('by group'))?.[1]).toMatch(/e-\d+$/);
  expect(rows.filter(([r]) => /^0[12] (?!.* against )/.test(r)).map(([r]) => r)).toEqual([
    '02 four times',
    '01 as it was',
  ]);
  expect(html.match(/<img /g)).toHaveLength(3);
  expect(html).toContain('for &lt;b&gt;Holm&lt;/b&gt; &amp; co');
  const asWords = await askedReport(sql, ['test-shot', '2', '1'], '0.0');
  expect(asWords.html.replace(/made .* UTC/, '')).toBe(html.replace(/made .* UTC/, ''));
  await expect(askedReport(sql, ['test-shot', '9'], '0.0')).rejects.toThrow('the shot has no trial 9');
  await expect(askedReport(sql, ['nowhere', '1'], '0.0')).rejects.toThrow(
    'there is no shot nowhere; there are test-shot',
  );
  await expect(askedReport(sql, ['test-shot'], '0.0')).rejects.toThrow(/^report needs a shot and a trial/);
  // The shares of the noise are those that were measured, the largest first.
  const shares = b.figures!.shares!.groupClass.map((g) => g.share).sort((x, y) => y - x);
  expect(html).toContain(`${(shares[0] * 100).toFixed(1)} %`);
});

test('a ladder: every step with its value, noise, time and picture, and where more stops paying', async () => {
  const recipe = { ...smallRecipe(2, 24), name: 'Draft' };
  const id = '6f9d5f7a-30f5-4d3c-9d9a-0a4cf8a3c001';
  const values = [2, 4, 8];
  const made: string[] = [];
  for (const value of values) {
    const step = parseRecipe(withSetting(recipe, 'sampling.cameraMax', value));
    const trial = await rendered(step, `${value} samples`);
    const at = [{ label: 'camera samples', value }];
    await sql`update trial set ladder = ${sql.json({ id, at })} where id = ${trial}`;
    made.push(trial);
  }
  const [first, , last] = await Promise.all(made.map((t) => trialById(sql, t)));
  const { html, name } = await askedReport(sql, ['test-shot', 'ladder', String(last!.number)], '0.0');
  expect(name).toBe(`test-shot-ladder-from-0${first!.number}-report.html`);
  const rows = rowsOf(html).filter(([r]) => / samples$/.test(r));
  expect(rows.map((r) => r[1])).toEqual(['2', '4', '8']);
  expect(rows[2][2]).toBe(percent(last!.noise!.rms));
  expect(html.match(/<img /g)).toHaveLength(3);
  expect(html).toMatch(/camera samples: (no knee|\d+ is)/);
  expect(html).toContain(`camera samples 8: ${last!.noise!.rms.toFixed(2)} %`);
  await expect(askedReport(sql, ['test-shot', 'ladder', '1'], '0.0')).rejects.toThrow('trial 1 is no step of a ladder');
});

test('a run: every frame with its noise and time, what was delivered, and what failed', async () => {
  process.env.LANTERN_DELIVERED = folder;
  const queue = await sendingQueue(sql);
  const { version } = (await draftOf(sql, shot))!;
  const outputs = parseOutputs({ list: [{ id: 'a', name: 'main', layers: ['beauty', 'group.*'] }] });
  await saveDraft(sql, shot, version, { recipe: smallRecipe(4, 24), outputs });
  const wanted = newRunSchema.parse({ frames: '1-4', camera: 'cam', order: 'rising' });
  const id = await startRun(sql, (await shotById(sql, shot))!, wanted);
  for (let n = 0; n < 3; n++) {
    const job = (await queue.take())!;
    await testRunner(sql).run((job.data as { trial: string }).trial, never);
    await queue.done(job);
  }
  await sql`update trial set state = 'failed', fault = 'the disk is full' where run_id = ${id} and frame = 4`;
  const { html, name } = await runReport(sql, (await runById(sql, id))!, '0.0');
  expect(name).toBe('test-shot-run01-report.html');
  const rows = rowsOf(html);
  for (const f of (await framesOfRun(sql, id)).slice(0, 3))
    expect(rows.filter(([r, noise]) => r === String(f.frame) && noise === percent(f.noise))).toHaveLength(1);
  // The second has both neighbours, so that it is known how far it stands out.
  const steps = (await framesOfRun(sql, id)).map((f) => f.step);
  expect([steps[0], steps[2], steps[3]]).toEqual([null, null, null]);
  expect(steps[1]).toBeGreaterThan(0);
  expect(rows.find(([r]) => r === '4')?.at(-1)).toBe('failed: the disk is full');
  expect(rows.find(([r]) => r === 'main')?.slice(0, 2)).toEqual(['main', '3']);
  expect(html).toContain('3 of 4 done, 1 failed');
  expect((await askedReport(sql, ['test-shot', 'run', '1'], '0.0')).name).toBe(name);
  await queue.close();
});
