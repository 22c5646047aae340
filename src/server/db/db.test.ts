import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { logbookPageSchema } from '@/contract/trial';
import { NO_STACK, parseStack } from '@/core/comp';
import { NO_MOODS, parseMoods } from '@/core/moods';
import { FIRST_OUTPUTS, parseOutputs } from '@/core/outputs';
import { canonicalJson } from '@/core/recipe';
import { seedShot, smallRecipe, smallScene, testDatabase } from '../testing';
import { isAway } from './away';
import { missingBlobs } from './blobs';
import type { Sql } from './connection';
import { keepDesk, lastDesk } from './desk';
import { isId, newId } from './ids';
import { dropOwnOutput, keepOwnOutput, listOwnOutputs } from './own-outputs';
import { dropRecipe, keepRecipe, listRecipes } from './recipes';
import {
  addShot,
  draftOf,
  firstMoods,
  freezeDraft,
  freezeVariant,
  latestRevision,
  listRevisions,
  listShots,
  putShot,
  removeShot,
  renameShot,
  revisionById,
  saveDraft,
  setBaseline,
  shotById,
} from './shots';
import {
  beginTrial,
  failTrial,
  giveBack,
  goOn,
  MOST_ATTEMPTS,
  noteKept,
  noteProgress,
  noteStoring,
  requestStop,
} from './trial-life';
import { addTrial, editTrial, listTrials, type NewTrialRow, purgeRemoved, trialById } from './trials';

let sql: Sql;
let close: () => Promise<void>;
let shot: string;
let revision: string;
beforeAll(async () => {
  ({ sql, close } = await testDatabase('lantern_test_db'));
  ({ shot, revision } = await seedShot(sql));
});
afterAll(() => close());

const unqueued = async () => {};
const add = (trial: NewTrialRow) => addTrial(sql, trial, unqueued);
const newTrial = (title = 'one', key: string | null = null) =>
  add({
    shot,
    revision,
    recipe: smallRecipe(4),
    recipeHash: canonicalJson(smallRecipe(4)).slice(0, 60),
    camera: 'cam',
    parent: null,
    title,
    key,
  });

test('ids sort by time and carry version 7', () => {
  const [a, b] = [newId(1000), newId(2000)];
  expect(a < b).toBe(true);
  expect(isId(a)).toBe(true);
  expect(a[14]).toBe('7');
  expect('89ab').toContain(a[19]);
  expect(isId('x')).toBe(false);
});

test('the same scene makes no new revision, a changed one does', async () => {
  const scene = smallScene();
  const row = (await latestRevision(sql, shot))!;
  await putShot(sql, 'test-shot', 0, { document: scene.document, geometry: row.geometry, hash: 'x' }, smallRecipe(4));
  expect((await latestRevision(sql, shot))!.number).toBe(1);
  await putShot(sql, 'test-shot', 0, { document: scene.document, geometry: row.geometry, hash: 'y' }, smallRecipe(4));
  expect((await latestRevision(sql, shot))!.number).toBe(2);
});

test('a draft is saved against its version only', async () => {
  const draft = (await draftOf(sql, shot))!;
  expect(await saveDraft(sql, shot, draft.version, { recipe: smallRecipe(8) })).toBe(draft.version + 1);
  expect(await saveDraft(sql, shot, draft.version, { recipe: smallRecipe(16) })).toBeNull();
  expect((await draftOf(sql, shot))!.recipe.sampling.cameraMax).toBe(8);
});

test('an edited scene is a draft until it is frozen, which says what changed; the same scene is no revision', async () => {
  const hashOf = () => 'h';
  const draft = (await draftOf(sql, shot))!;
  const from = (await revisionById(sql, draft.revision))!;
  expect((await freezeDraft(sql, shot, hashOf)).id).toBe(from.id);
  const [camera] = from.document.cameras;
  const scene = { ...from.document, cameras: [{ ...camera, focalLengthMm: 77 }] };
  const version = (await saveDraft(sql, shot, draft.version, { scene }))!;
  expect(await saveDraft(sql, shot, draft.version, { scene: from.document })).toBeNull();
  expect(await draftOf(sql, shot)).toMatchObject({ version, scene: { cameras: [{ focalLengthMm: 77 }] } });
  const frozen = await freezeDraft(sql, shot, hashOf);
  expect(frozen.number).toBe(from.number + 1);
  expect((await draftOf(sql, shot))!).toMatchObject({ revision: frozen.id, scene: null, recipe: draft.recipe });
  const [line] = await listRevisions(sql, shot);
  expect(line).toMatchObject({ number: frozen.number, words: [expect.stringContaining('focal length mm')], trials: 0 });
  expect((await freezeDraft(sql, shot, hashOf)).id).toBe(frozen.id);
});

test('shots are added once a name; content that was never sent is told', async () => {
  const row = (await latestRevision(sql, shot))!;
  const scene = { document: row.document, geometry: row.geometry, hash: 'z' };
  const id = (await addShot(sql, 'pier', scene, smallRecipe(4)))!;
  expect(await addShot(sql, 'pier', scene, smallRecipe(4))).toBeNull();
  expect((await shotById(sql, id))!.name).toBe('pier');
  expect(await missingBlobs(sql, [row.geometry, 'f'.repeat(64)])).toEqual(['f'.repeat(64)]);
});

test('trials are numbered within their shot, also when logged at once', async () => {
  const made = await Promise.all([newTrial('a'), newTrial('b'), newTrial('c')]);
  expect(made.map((m) => m.number).sort()).toEqual([1, 2, 3]);
  const page = await listTrials(sql, shot, null, 2);
  expect(page.trials.map((t) => t.number)).toEqual([3, 2]);
  expect(page.total).toBe(3);
  expect((await listTrials(sql, shot, 2, 2)).trials.map((t) => t.number)).toEqual([1]);
  // What is listed is what a page may read.
  expect(logbookPageSchema.parse(JSON.parse(JSON.stringify(page)))).toEqual(page);
});

test('a trial goes its way: begun, stopped, edited, removed and brought back', async () => {
  const { id } = await newTrial();
  const holder = newId();
  expect(await beginTrial(sql, id, holder)).toBe(1);
  expect(await noteProgress(sql, id, holder, 0.5, 1000)).toBe('on');
  expect(await requestStop(sql, id)).toBe(true);
  expect(await noteProgress(sql, id, holder, 0.6, 900)).toBe('stop');
  await sql`update trial set state = 'done' where id = ${id}`;
  expect(await beginTrial(sql, id, newId())).toBeNull();
  expect(await requestStop(sql, id)).toBe(false);
  await editTrial(sql, id, { note: 'too dark by the stair', starred: true }, unqueued);
  expect(await trialById(sql, id)).toMatchObject({ note: 'too dark by the stair', starred: true, title: 'one' });
  await editTrial(sql, id, { removed: true }, unqueued);
  expect(await trialById(sql, id)).toBeNull();
  await editTrial(sql, id, { removed: false }, unqueued);
  expect((await trialById(sql, id))?.note).toBe('too dark by the stair');
});

test('who was given up for dead may not write any more', async () => {
  const { id } = await newTrial();
  const [first, second] = [newId(), newId()];
  await beginTrial(sql, id, first);
  await beginTrial(sql, id, second);
  expect(await noteProgress(sql, id, first, 0.9, 1)).toBe('lost');
  await noteStoring(sql, id, first);
  await failTrial(sql, id, first, 'late');
  await giveBack(sql, id, first);
  expect(await trialById(sql, id)).toMatchObject({ state: 'rendering', fault: null, fraction: 0 });
  expect(await noteProgress(sql, id, second, 0.1, 9)).toBe('on');
});

test('a trial whose workers keep dying fails in words, and can be tried again; orders and what was kept cost no attempt', async () => {
  const { id } = await newTrial();
  for (let i = 0; i < 3 * MOST_ATTEMPTS; i++) {
    const holder = newId();
    expect(await beginTrial(sql, id, holder)).toEqual(expect.any(Number));
    await (i % 2 ? giveBack(sql, id, holder) : noteKept(sql, id, holder));
  }
  let last: number | string | null = 0;
  let deaths = 0;
  for (; typeof last === 'number'; deaths++) last = await beginTrial(sql, id, newId());
  expect(last).toBe('spent');
  expect(deaths).toBeLessThanOrEqual(MOST_ATTEMPTS);
  expect(await trialById(sql, id)).toMatchObject({
    state: 'failed',
    fault: expect.stringMatching(/worker ended \d+ times/),
  });
  expect(await beginTrial(sql, id, newId())).toBeNull();
  expect(await goOn(sql, id, unqueued)).toBe(true);
  expect(await trialById(sql, id)).toMatchObject({ state: 'queued', fault: null });
  expect(await goOn(sql, id, unqueued)).toBe(false);
  expect(await beginTrial(sql, id, newId())).toBe(1);
});

test('what is sent twice under one key is logged once', async () => {
  const key = newId();
  const first = await newTrial('once', key);
  expect(await newTrial('once', key)).toEqual(first);
  expect((await newTrial('other', newId())).id).not.toBe(first.id);
});

test('films of trials that have been out of the logbook for a while are deleted, others kept', async () => {
  const made = await Promise.all([newTrial('gone'), newTrial('just gone'), newTrial('kept')]);
  const hashes = ['1', '2', '3'].map((c) => c.repeat(64));
  for (const [i, { id }] of made.entries()) {
    await sql`insert into blob (hash, bytes) values (${hashes[i]}, 5) on conflict do nothing`;
    await sql`update trial set film = ${hashes[i]}, state = 'done' where id = ${id}`;
  }
  for (const { id } of made.slice(0, 2)) await editTrial(sql, id, { removed: true }, unqueued);
  await sql`update trial set removed_at = now() - interval '2 hours' where id = ${made[0].id}`;
  expect(await purgeRemoved(sql, 60)).toBe(1);
  expect(await purgeRemoved(sql, 60)).toBe(0);
  const left = await sql<{ hash: string }[]>`select hash from blob where hash in ${sql(hashes)} order by hash`;
  expect(left.map((r) => r.hash)).toEqual(hashes.slice(1));
  await editTrial(sql, made[1].id, { removed: false }, unqueued);
  expect((await trialById(sql, made[1].id))!.film).toBe(hashes[1]);
});

test('a step of a ladder says which, and a variant of the scene leaves the draft where it is', async () => {
  const from = (await revisionById(sql, (await draftOf(sql, shot))!.revision))!;
  const document = { ...from.document, look: { ...from.document.look, contrast: 1.2 } };
  const variant = await freezeVariant(sql, from, document, 'variant');
  expect(variant.number).toBeGreaterThan(from.number);
  expect((await freezeVariant(sql, from, document, 'variant')).id).toBe(variant.id);
  expect((await draftOf(sql, shot))!.revision).toBe(from.id);
  const ladder = { id: newId(), at: [{ label: 'look: contrast', value: 1.2 }] };
  const { id } = await add({
    shot,
    revision: variant.id,
    recipe: smallRecipe(4),
    recipeHash: canonicalJson(smallRecipe(4)).slice(0, 60),
    camera: 'cam',
    parent: null,
    title: 'step',
    ladder,
  });
  expect((await trialById(sql, id))!.ladder).toEqual(ladder);
});

test('a sample that is put in again leaves a scene that was edited and frozen as it is', async () => {
  const draft = (await draftOf(sql, shot))!;
  const scene = { ...(await revisionById(sql, draft.revision))!.document, name: 'mine' };
  await saveDraft(sql, shot, draft.version, { scene });
  const mine = await freezeDraft(sql, shot, () => 'mine');
  const again = { document: smallScene().document, geometry: mine.geometry };
  await putShot(sql, 'test-shot', 0, { ...again, hash: 'x' }, smallRecipe(4));
  await putShot(sql, 'test-shot', 0, { ...again, hash: 'newer sample' }, smallRecipe(4));
  expect((await draftOf(sql, shot))!.revision).toBe(mine.id);
});

test('moods are none until some are saved; samples give way to them; a baseline is by trial', async () => {
  const draft = (await draftOf(sql, shot))!;
  expect(draft.moods).toEqual(NO_MOODS);
  const mix = { bulb: { stops: 1.5, on: true, color: { kind: 'tint', rgb: [1, 0.9, 0.8] } } };
  const moods = parseMoods({ now: { mix, mood: 'a' }, list: [{ id: 'a', name: 'Night watch', mix }] });
  expect(await saveDraft(sql, shot, draft.version, { moods })).toBe(draft.version + 1);
  await firstMoods(sql, shot, NO_MOODS);
  expect(await draftOf(sql, shot)).toMatchObject({ moods, outputs: draft.outputs });
  const { id } = await newTrial();
  await setBaseline(sql, shot, id);
  expect((await shotById(sql, shot))?.baseline).toBe(id);
});

test('a stack is that of A alone until one is saved, whole, and a broken one is refused', async () => {
  const draft = (await draftOf(sql, shot))!;
  expect(draft.stack).toEqual(NO_STACK);
  const opacity = {
    keys: [
      { frame: 1, value: 0 },
      { frame: 12, value: 1 },
    ],
    ease: true,
  };
  const source = { from: 'film', film: 'shown', layer: 'beauty' };
  const stack = parseStack({ ...NO_STACK, entries: [{ kind: 'layer', source, opacity }] });
  expect(await saveDraft(sql, shot, draft.version, { stack })).toBe(draft.version + 1);
  expect(await draftOf(sql, shot)).toMatchObject({ stack, moods: draft.moods, outputs: draft.outputs });
  expect(() => parseStack({ ...stack, entries: [{ kind: 'layer', source, opacity: 2 }] })).toThrow('entries.0.opacity');
});

test('outputs are those a shot begins with until others are saved; a trial keeps what they were', async () => {
  const draft = (await draftOf(sql, shot))!;
  expect(draft.outputs).toEqual(FIRST_OUTPUTS);
  const outputs = parseOutputs({ list: [{ id: 'a', name: 'comp', layers: ['beauty', 'uv'], compression: 'rle' }] });
  expect(await saveDraft(sql, shot, draft.version, { outputs })).toBe(draft.version + 1);
  expect(await draftOf(sql, shot)).toMatchObject({ outputs, recipe: draft.recipe, scene: draft.scene });
  const row = { shot, revision, recipe: smallRecipe(4), recipeHash: 'h', camera: 'cam', parent: null };
  const [kept, none] = [await add({ ...row, title: 'kept', outputs }), await add({ ...row, title: 'none' })];
  await saveDraft(sql, shot, draft.version + 1, { outputs: FIRST_OUTPUTS });
  expect((await trialById(sql, kept.id))!.outputs).toEqual(outputs);
  expect((await trialById(sql, none.id))!.outputs).toBeNull();
  for (const { id } of [kept, none]) {
    await sql`update trial set state = 'failed' where id = ${id}`;
    await editTrial(sql, id, { removed: true }, unqueued);
  }
});

test('a lost database is told from a wrong query', async () => {
  const wrong = await sql`select * from nothing_there`.catch((e) => e);
  expect(isAway(wrong)).toBe(false);
  expect(isAway({ code: 'ECONNREFUSED' })).toBe(true);
  expect(isAway({ code: 'CONNECT_TIMEOUT' })).toBe(true);
});

test('what was stored before settings existed is read with their defaults', async () => {
  const old = structuredClone(smallRecipe(4)) as unknown as {
    sampling: { splits: { fog?: number } };
    rayDepth: { fog?: number };
  };
  delete old.sampling.splits.fog;
  delete old.rayDepth.fog;
  const draft = (await draftOf(sql, shot))!;
  await saveDraft(sql, shot, draft.version, old as never);
  const { id } = await add({
    shot,
    revision,
    recipe: old as never,
    recipeHash: 'old',
    camera: 'cam',
    parent: null,
    title: 'old',
  });
  for (const recipe of [(await draftOf(sql, shot))!.recipe, (await trialById(sql, id))!.recipe]) {
    expect(recipe.sampling.splits.fog).toBe(1);
    expect(recipe.rayDepth.fog).toBe(1);
  }
  await sql`update trial set state = 'failed' where id = ${id}`;
  await editTrial(sql, id, { removed: true }, unqueued);
});

test('a scene stored before documents told of frames and rules is read with their defaults', async () => {
  await sql`update scene_revision set document = document - 'frames' - 'setRules' where id = ${revision}`;
  for (const found of [await latestRevision(sql, shot), await revisionById(sql, revision)]) {
    expect(found!.document.frames).toEqual({ first: 1, last: 1, perSecond: 24 });
    expect(found!.document.setRules).toEqual({});
  }
});

test('lights that stated a luminance state a power', async () => {
  const text = readFileSync(join(__dirname, 'migrations/002_light_power.sql'), 'utf8');
  const row = (await latestRevision(sql, shot))!;
  const lights = [
    { kind: 'sphere', name: 'bulb', luminance: 30 },
    { kind: 'point', name: 'spark', power: 2 },
  ];
  const id = newId();
  await sql`insert into scene_revision (id, shot_id, number, hash, document, geometry)
    values (${id}, ${shot}, 99, 'old', ${sql.json({ lights })}, ${row.geometry})`;
  await sql.unsafe(text);
  const [{ document }] = await sql<
    { document: { lights: unknown } }[]
  >`select document from scene_revision where id = ${id}`;
  expect(document.lights).toEqual([
    { kind: 'sphere', name: 'bulb', power: 30 },
    { kind: 'point', name: 'spark', power: 2 },
  ]);
  await sql`delete from scene_revision where id = ${id}`;
});

test('moods that were kept with trials go to their shots, with groups off that were silent beside one alone', async () => {
  const text = readFileSync(join(__dirname, 'migrations/016_moods.sql'), 'utf8');
  const own = { stops: 0, color: [1, 1, 1], on: true, solo: false };
  const [room, rock, first, second] = [newId(), newId(), newId(), newId()];
  const moods = await sql.begin(async (tx) => {
    // As it was before: tables of the same names, with what the migration reads of them.
    await tx.unsafe(`create schema before; set local search_path to before;
      create table draft (shot_id uuid);
      create table trial (id uuid, shot_id uuid, number integer, spec jsonb);
      create table mood (id uuid, trial_id uuid, name text, balance jsonb, created_at timestamptz);`);
    await tx`insert into draft values (${room}), (${rock})`;
    const spec = tx.json({ groups: ['lamp', 'sky'] });
    await tx`insert into trial values (${first}, ${room}, 1, ${spec}), (${second}, ${room}, 2, null)`;
    const add = (trial: string, name: string, balance: object, at: number) =>
      tx`insert into mood values (${newId()}, ${trial}, ${name}, ${tx.json(balance as never)}, ${new Date(at)})`;
    await add(first, 'Night', { lamp: { ...own, solo: true } }, 1000);
    await add(second, 'Night', { lamp: { ...own, stops: 1.5, color: [1, 0.5, 0.25] } }, 2000);
    await add(first, 'Plain', {}, 3000);
    await tx.unsafe(text);
    const rows = await tx<{ shot_id: string; moods: unknown }[]>`select shot_id, moods from draft`;
    await tx`drop schema before cascade`;
    return new Map(rows.map((r) => [r.shot_id, r.moods]));
  });
  expect(moods.get(rock)).toBeNull();
  const { list, now } = parseMoods(moods.get(room));
  expect(now).toEqual({ mix: {}, keys: [], mood: null });
  const plain = { stops: 0, on: true, color: { kind: 'own' } };
  expect(list.map((m) => [m.name, m.mix])).toEqual([
    ['Night (1)', { lamp: plain, sky: { ...plain, on: false } }],
    ['Night (2)', { lamp: { stops: 1.5, on: true, color: { kind: 'tint', rgb: [1, 0.5, 0.25] } } }],
    ['Plain', { lamp: plain, sky: plain }],
  ]);
});

test('a shot is renamed unless the name is taken, put away and put back; a name put away is free', async () => {
  const [{ document, geometry }] = await sql<{ document: never; geometry: string }[]>`
    select document, geometry from scene_revision limit 1`;
  const make = (name: string) => addShot(sql, name, { document, geometry, hash: name }, smallRecipe(4));
  const quay = (await make('quay'))!;
  const rock = (await make('rock'))!;
  expect(await renameShot(sql, rock, 'quay')).toBe(false);
  expect(await renameShot(sql, rock, 'skerry')).toBe(true);
  const names = async (removed = false) => (await listShots(sql, removed)).map((s) => s.name);
  await removeShot(sql, quay, true);
  expect(await names()).not.toContain('quay');
  expect(await names(true)).toEqual(['quay']);
  // Another may take its name; what was put away keeps a name of its own.
  expect(await renameShot(sql, rock, 'quay')).toBe(true);
  expect((await names(true))[0]).toMatch(/^quay /);
  await removeShot(sql, quay, false);
  expect(await names(true)).toEqual([]);
  expect(await make('quay')).toBeNull();
});

test('what was last looked at is one, whoever looked', async () => {
  expect(await lastDesk(sql)).toBeNull();
  const desk = { shot: 'test-shot', view: 'tune', a: { kind: 'live' }, b: null } as const;
  await keepDesk(sql, desk);
  await keepDesk(sql, { ...desk, view: 'setup' });
  expect(await lastDesk(sql)).toEqual({ ...desk, view: 'setup' });
});

test('own outputs are kept by name, replaced and forgotten', async () => {
  const [first] = FIRST_OUTPUTS.list;
  await keepOwnOutput(sql, first);
  await keepOwnOutput(sql, { ...first, depth: 'float' });
  await keepOwnOutput(sql, { ...first, id: 'b', name: 'masks' });
  expect((await listOwnOutputs(sql)).map((o) => [o.name, o.depth])).toEqual([
    ['masks', 'auto'],
    ['parts', 'float'],
  ]);
  expect(await dropOwnOutput(sql, 'parts')).toBe(true);
  expect(await dropOwnOutput(sql, 'parts')).toBe(false);
});

test('own recipes are kept by name, replaced and forgotten', async () => {
  const own = { ...smallRecipe(8), name: 'dusk' };
  await keepRecipe(sql, own);
  await keepRecipe(sql, { ...own, rayDepth: { ...own.rayDepth, diffuse: 1 } });
  const [kept, ...more] = await listRecipes(sql);
  expect(more).toEqual([]);
  expect(kept).toMatchObject({ name: 'dusk', rayDepth: { diffuse: 1 } });
  expect(await dropRecipe(sql, 'dusk')).toBe(true);
  expect(await dropRecipe(sql, 'dusk')).toBe(false);
});

test('what a trial was predicted to come to is kept with it', async () => {
  const interval = { value: 2, low: 1.8, high: 2.3 };
  const predicted = { noise: interval, seconds: interval };
  const common = {
    shot,
    revision,
    recipe: smallRecipe(4),
    recipeHash: 'predicted',
    camera: 'cam',
    parent: null,
    title: 't',
  };
  const told = await add({ ...common, predicted });
  expect((await trialById(sql, told.id))!.predicted).toEqual(predicted);
  const plain = await add(common);
  expect((await trialById(sql, plain.id))!.predicted).toBeNull();
});
