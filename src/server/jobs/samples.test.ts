import { parseRecipe } from '@/core/recipe';
import { SHOTS } from '@/core/shots';
import type { Sql } from '../db/connection';
import { draftOf, putShot } from '../db/shots';
import { editTrial, listTrials } from '../db/trials';
import { putBlob } from '../storage/blobs';
import { seedShot, testDatabase } from '../testing';
import { logSamples } from './samples';

let sql: Sql;
let close: () => Promise<void>;
let shipped: string;
let own: string;
const queued: string[] = [];
const add = async (_: Sql, id: string) => void queued.push(id);

beforeAll(async () => {
  ({ sql, close } = await testDatabase('lantern_test_samples'));
  own = (await seedShot(sql)).shot;
  const { document, geometry } = SHOTS['quay-dawn']();
  const hash = await putBlob(sql, geometry);
  const scene = { document: { ...document, geometry: { ...document.geometry, hash } }, geometry: hash, hash: 'h' };
  shipped = await putShot(sql, 'quay-dawn', 1, scene, parseRecipe({}));
});
afterAll(() => close());

test('a shot that ships has its samples once; one that was brought in has none', async () => {
  await logSamples(sql, add);
  const { trials } = await listTrials(sql, shipped, null, 50);
  expect(trials).toHaveLength(6);
  expect(trials.every((t) => t.sample && t.state === 'queued')).toBe(true);
  expect(new Set(queued)).toEqual(new Set(trials.map((t) => t.id)));
  expect((await listTrials(sql, own, null, 50)).trials).toEqual([]);
  // A ladder over the lens, each step of a scene of its own.
  const steps = trials.filter((t) => t.ladder !== null);
  expect(new Set(steps.map((t) => t.ladder!.id)).size).toBe(1);
  expect(new Set(steps.map((t) => t.revision)).size).toBe(3);
  expect((await draftOf(sql, shipped))!.moods.list.map((m) => m.name)).toHaveLength(2);
});

test('taken out, they never come back, and a shot that has trials of its own gets none', async () => {
  for (const id of [...queued]) await editTrial(sql, id, { removed: true }, add);
  const before = queued.length;
  await logSamples(sql, add);
  expect(queued).toHaveLength(before);
  await sql`update shot set sampled = false where id = ${shipped}`;
  await logSamples(sql, add);
  expect(queued).toHaveLength(before);
});
