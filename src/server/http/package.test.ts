import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { newTrialSchema } from '@/contract/trial';
import { parseStack } from '@/core/comp';
import { parseOutputs } from '@/core/outputs';
import { tarOf } from '@/node/package';
import type { Sql } from '../db/connection';
import { draftOf, revisionById, saveDraft, shotById } from '../db/shots';
import { addTrial, trialById } from '../db/trials';
import { storedLayer, testRunner } from '../jobs/testing';
import { seedShot, smallRecipe, smallScene, testDatabase } from '../testing';
import { packageOf, takePackage } from './package';
import { sentTrial } from './sent-trial';

/** Two machines, each with a database of its own. */
let here: Sql;
let there: Sql;
let shot: string;
const closing: (() => Promise<void>)[] = [];
const folder = mkdtempSync(join(tmpdir(), 'lantern-package-'));
beforeAll(async () => {
  for (const name of ['here', 'there']) {
    const { sql, close } = await testDatabase(`lantern_test_package_${name}`);
    closing.push(close);
    if (name === 'here') here = sql;
    else there = sql;
  }
  ({ shot } = await seedShot(here, smallScene()));
  const { version } = (await draftOf(here, shot))!;
  await saveDraft(here, shot, version, {
    recipe: smallRecipe(6, 24),
    outputs: parseOutputs({ list: [{ id: 'a', name: 'main', layers: ['beauty'] }] }),
    stack: parseStack({
      schema: 1,
      entries: [{ kind: 'operation', name: 'up', operation: { does: 'exposure', stops: 1 } }],
    }),
  });
});
afterAll(async () => {
  rmSync(folder, { recursive: true });
  for (const close of closing) await close();
});

async function packed(): Promise<Buffer> {
  const parts: Uint8Array[] = [];
  for await (const piece of await packageOf(here, (await shotById(here, shot))!, 'test')) parts.push(piece.slice());
  return Buffer.concat(parts);
}

const pieces = async function* (bytes: Uint8Array, size = 1000) {
  for (let i = 0; i < bytes.length; i += size) yield bytes.subarray(i, i + size);
};

/** Every float of the beauty that a shot's draft renders to. */
async function film(sql: Sql, id: string): Promise<string> {
  (globalThis as { lanternSql?: Sql }).lanternSql = sql;
  const draft = (await draftOf(sql, id))!;
  const { document } = (await revisionById(sql, draft.revision))!;
  const asked = newTrialSchema.parse({ shot: id, camera: document.cameras[0].name, recipe: draft.recipe });
  const trial = await addTrial(sql, await sentTrial(sql, asked), async () => {});
  await testRunner(sql).run(trial.id, new AbortController().signal);
  expect((await trialById(sql, trial.id))!.state).toBe('done');
  return JSON.stringify((await storedLayer(sql, trial.id, 'beauty')).map((p) => Array.from(p)));
}

test('a shot goes to another machine with all of its content, and renders there to what it renders to here', async () => {
  const tar = await packed();
  expect(await packed()).toEqual(tar);
  writeFileSync(join(folder, 'shot.tar'), tar);
  const names = execFileSync('tar', ['-tf', join(folder, 'shot.tar')])
    .toString()
    .trim()
    .split('\n');
  expect(names[0]).toBe('shot.json');
  expect(names.slice(1).every((n) => /^content\/[0-9a-f]{64}$/.test(n))).toBe(true);
  const { id, name } = await takePackage(there, pieces(tar));
  expect(name).toBe('test-shot');
  const [own, other] = [(await draftOf(here, shot))!, (await draftOf(there, id))!];
  for (const key of ['recipe', 'outputs', 'moods', 'stack'] as const) expect(other[key]).toEqual(own[key]);
  expect(await film(there, id)).toBe(await film(here, shot));
  // Once more it stands beside the first.
  expect((await takePackage(there, pieces(tar, 77777))).name).toBe('test-shot 2');
});

test('what is no package is refused in words, and adds no shot', async () => {
  const tar = await packed();
  const text = readFileSync(join(folder, 'shot.tar'));
  const refused = (bytes: Uint8Array) => takePackage(there, pieces(bytes)).catch((e: Error) => e.message);
  expect(await refused(Buffer.from('no tar at all'.repeat(99)))).toMatch(/^no package of a shot: /);
  expect(await refused(tar.subarray(0, tar.length / 2))).toMatch(/^no package of a shot: /);
  expect(await refused(new Uint8Array(1024))).toMatch(/shot\.json is not in it/);
  const only = async (files: Record<string, string>) => {
    const parts: Uint8Array[] = [];
    const list = Object.entries(files).map(([name, body]) => ({
      name,
      bytes: body.length,
      pieces: () => [Buffer.from(body)],
    }));
    for await (const piece of tarOf(list)) parts.push(piece.slice());
    return refused(Buffer.concat(parts));
  };
  expect(await only({ 'shot.json': '{' })).toMatch(/shot\.json is no JSON/);
  expect(await only({ 'shot.json': '{"schema":1}' })).toMatch(/^no package of a shot: /);
  expect(await only({ '../evil': 'x' })).toMatch(/\.\.\/evil is none of its files/);
  expect(await only({ [`content/${'0'.repeat(64)}`]: 'x' })).toMatch(/not what its name says/);
  // Its scene without the geometry that it names.
  const shotText = execFileSync('tar', ['-xOf', join(folder, 'shot.tar'), 'shot.json']).toString();
  const scene = shotText.replace(/"hash": "[0-9a-f]{64}"/, `"hash": "${'f'.repeat(64)}"`);
  expect(scene).not.toBe(shotText);
  expect(await only({ 'shot.json': scene })).toMatch(/content f{12} is not in the package/);
  expect(text.equals(tar)).toBe(true);
  const [{ count }] = await there<{ count: number }[]>`select count(*)::int as count from shot`;
  expect(count).toBe(2);
});
