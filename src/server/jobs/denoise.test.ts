import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { layersOf as filmLayersOf, fromBytes, readHeaders, readPart } from '@/core/exr';
import { canonicalJson, parseRecipe, type Recipe } from '@/core/recipe';
import { sha256 } from '@/node/hash';
import { nodeInflate } from '@/node/zlib';
import { spawnInline } from '@/render/pool/spawn-inline';
import type { Sql } from '../db/connection';
import { askDenoised, denoisedOf, patchPixels, stopDenoised, strandedDenoised } from '../db/denoised';
import { addTrial, editTrial, layersOf, purgeRemoved, trialById, trialLine } from '../db/trials';
import { cutFilm } from '../films/cut';
import { tooLarge } from '../films/denoised';
import { readLayers } from '../films/open';
import { changeStrengths, madeOf, wholeOf } from '../http/denoised';
import { seedShot, smallRecipe, testDatabase } from '../testing';
import { DenoiseRunner } from './denoise-film';
import { TrialQueue } from './queue';
import type { Studio } from './studio';
import { testRunner, testStudio } from './testing';
import { TrialRunner } from './trial';

const filter = new WebAssembly.Module(readFileSync(join(__dirname, '../../../public/wasm/denoise.wasm')));

let sql: Sql;
let close: () => Promise<void>;
let queue: TrialQueue;
let shot: string;
let revision: string;
beforeAll(async () => {
  ({ sql, close } = await testDatabase('lantern_test_denoise'));
  ({ shot, revision } = await seedShot(sql));
  queue = await TrialQueue.open(sql, false);
});
afterAll(async () => {
  await queue.close();
  await close();
});
beforeEach(async () => {
  await sql`delete from queue.job`;
});

const never = new AbortController().signal;
const runner = () => new DenoiseRunner(sql, testStudio(sql), { module: filter, spawn: spawnInline, threads: 1 });
const nothing = async () => {};
const all = { all: 1, groups: {} };

async function logged(recipe: Recipe = smallRecipe(4), frame?: number): Promise<string> {
  const row = {
    shot,
    revision,
    recipe,
    recipeHash: sha256(canonicalJson(recipe)),
    camera: 'cam',
    frame,
    parent: null,
    title: 't',
  };
  return (await addTrial(sql, row, nothing)).id;
}

async function rendered(): Promise<string> {
  const id = await logged();
  await testRunner(sql).run(id, never);
  return id;
}

test('a film is denoised beside itself: less noise, its sums kept, held against patches, told with the trial', async () => {
  const id = await rendered();
  const before = (await trialById(sql, id))!.film;
  expect(await askDenoised(sql, id, { first: null, strengths: all }, queue.addDenoising)).toBe(true);
  expect(await askDenoised(sql, id, { first: null, strengths: all }, queue.addDenoising)).toBe(false);
  expect((await queue.take())!.data).toEqual({ denoise: id });
  await runner().run(id, never);
  const line = (await trialLine(sql, id))!;
  expect(line.denoised).toMatchObject({ state: 'done', fault: null, strengths: all });
  expect(line.denoised!.residual!.rms).toBeLessThan(0.7 * line.noise!.rms);
  expect((await trialById(sql, id))!.film).toBe(before);
  const made = (await denoisedOf(sql, id))!;
  expect(made.patches!.cells.length * 256 * 12 * 4).toBe((await patchPixels(sql, id))!.length);
  const film = (await readLayers(sql, made.result!, () => true))!;
  const names = [...film.layers.keys()];
  for (const family of ['group.', 'class.']) {
    const parts = names.filter((n) => n.startsWith(family));
    expect(parts.length).toBeGreaterThan(1);
    const sum = (i: number) => parts.reduce((s, n) => s + film.layers.get(n)!.planes[0][i], 0);
    const beauty = film.layers.get('beauty')!.planes[0];
    expect(beauty.every((v, i) => Math.abs(sum(i) - v) <= 1e-5 * Math.max(1, v))).toBe(true);
  }
});

test('other strengths are taken without filtering again: at none the noise is the film’s own', async () => {
  const id = await rendered();
  await askDenoised(sql, id, { first: null, strengths: all }, nothing);
  await runner().run(id, never);
  const full = (await trialLine(sql, id))!;
  const at = async (strengths: { all: number; groups: Record<string, number> }) =>
    (await changeStrengths(sql, (await trialById(sql, id))!, strengths)).rms;
  expect(await at({ all: 0, groups: {} })).toBeCloseTo(full.noise!.rms, 5);
  const half = await at({ all: 0.5, groups: {} });
  expect(half).toBeLessThan(full.noise!.rms);
  expect(half).toBeGreaterThan(full.denoised!.residual!.rms);
  expect(await at({ all: 1, groups: { bulb: 0 } })).toBeGreaterThan(full.denoised!.residual!.rms);
  await expect(at({ all: 1, groups: { moon: 0 } })).rejects.toThrow('no light group moon');
  expect((await denoisedOf(sql, id))!.strengths).toEqual({ all: 1, groups: { bulb: 0 } });
});

test('denoised parts are taken away in place of the plain ones or beside them, and the header says so', async () => {
  const id = await rendered();
  await askDenoised(sql, id, { first: null, strengths: { all: 0.5, groups: {} } }, nothing);
  await runner().run(id, never);
  const trial = (await trialById(sql, id))!;
  const taken = async (denoised: 'no' | 'instead' | 'beside') => {
    const how = {
      layers: ['beauty', 'group.bulb', 'alpha'],
      depth: 'float',
      compression: 'none',
      parting: 'many',
    } as const;
    const { bytes } = (await cutFilm(sql, trial.film!, { ...how, denoised }, await madeOf(sql, id)))!;
    const chunks: Uint8Array[] = [];
    for await (const chunk of bytes) chunks.push(chunk);
    const source = fromBytes(Buffer.concat(chunks));
    const file = await readHeaders(source);
    const parts = await Promise.all(
      file.parts.map(async (p, i) => ({
        ...p,
        planes: await readPart(source, file, i, nodeInflate),
        width: 48,
        height: 48,
      })),
    );
    return { file, layers: filmLayersOf(parts).layers };
  };
  const [plain, instead, beside] = [await taken('no'), await taken('instead'), await taken('beside')];
  expect(instead.file.parts[0].attributes['lantern:denoised']).toEqual({ type: 'string', value: '50 %' });
  expect([...beside.layers.keys()].sort()).toEqual([
    'alpha',
    'beauty',
    'denoised',
    'denoised.group.bulb',
    'group.bulb',
  ]);
  expect(beside.layers.get('group.bulb')!.planes).toEqual(plain.layers.get('group.bulb')!.planes);
  expect(beside.layers.get('denoised.group.bulb')!.planes).toEqual(instead.layers.get('group.bulb')!.planes);
  expect(instead.layers.get('group.bulb')!.planes).not.toEqual(plain.layers.get('group.bulb')!.planes);
  expect(instead.layers.get('alpha')!.planes).toEqual(plain.layers.get('alpha')!.planes);
});

test('a recipe that wants it has its trial denoised, with guides of its own', async () => {
  const recipe = parseRecipe({ ...smallRecipe(4), denoise: { on: true, strength: 60 } });
  const id = await logged(recipe);
  await new TrialRunner(sql, testStudio(sql), queue.addDenoising).run(id, never);
  expect((await layersOf(sql, id)).map((l) => l.name)).toContain('guides_a');
  expect((await queue.take())!.data).toEqual({ denoise: id });
  await runner().run(id, never);
  expect(await denoisedOf(sql, id)).toMatchObject({ strengths: { all: 0.6 }, figures: { guided: true } });
});

test('a frame is joined with those about it, as its recipe says or when it is asked for, also after it was denoised alone', async () => {
  const recipe = (seed: number, more: object) =>
    parseRecipe({ ...smallRecipe(4), sampling: { cameraMin: 4, cameraMax: 4, adapt: 'even', seed }, ...more });
  const frame = async (number: number, neighbours = true) => {
    const id = await logged(recipe(number, { denoise: { on: true, neighbours } }), number);
    await new TrialRunner(sql, testStudio(sql), queue.addDenoising).run(id, never);
    return id;
  };
  const [before, after, apart] = [await frame(1), await frame(3), await frame(4, false)];
  const own = await frame(2);
  expect((await layersOf(sql, own)).map((l) => l.name)).toEqual(
    expect.arrayContaining(['motion', 'albedo', 'N', 'alpha']),
  );
  await runner().run(own, never);
  const numberOf = async (id: string) => (await trialById(sql, id))!.number;
  const joined = (await denoisedOf(sql, own))!.figures!.joined!;
  expect(joined.frames).toEqual([
    { number: await numberOf(after), frame: 3 },
    { number: await numberOf(before), frame: 1 },
  ]);
  expect(joined.share).toBeGreaterThan(0.3);
  expect(joined.flicker.joined!).toBeLessThan(joined.flicker.alone!);
  expect(joined.flicker.alone!).toBeLessThan(joined.flicker.rendered!);
  // Frame 4 keeps no motion, and frame 3 has nothing else to be joined with but frame 2.
  await runner().run(apart, never);
  expect((await denoisedOf(sql, apart))!.figures).not.toHaveProperty('joined');
  expect((await wholeOf(sql, apart))!.about).toEqual([]);
  expect((await wholeOf(sql, own))!.about).toHaveLength(2);
  const film = { guides: true, features: ['motion', 'albedo', 'normal', 'alpha'] };
  const alone = await logged(recipe(9, { film }), 2);
  await new TrialRunner(sql, testStudio(sql), nothing).run(alone, never);
  await askDenoised(sql, alone, { first: null, strengths: all }, nothing);
  await runner().run(alone, never);
  const first = (await wholeOf(sql, alone))!;
  expect(await askDenoised(sql, alone, { first: null, strengths: all, joins: true }, nothing)).toBe(true);
  await runner().run(alone, never);
  const again = (await wholeOf(sql, alone))!;
  expect(again).toMatchObject({ state: 'done', figures: { joined: { frames: joined.frames } } });
  expect(again.mark).not.toBe(first.mark);
  expect(again.residual!.rms).toBeLessThan(first.residual!.rms);
  // One that had nothing to be joined with when it was made is joined once there is.
  const early = await frame(6);
  await runner().run(early, never);
  expect((await wholeOf(sql, early))!.figures!.joined).toBeNull();
  const next = await frame(7);
  const ask = () => askDenoised(sql, early, { first: null, strengths: all, joins: true }, nothing);
  expect(await ask()).toBe(true);
  // One that cannot be made anew is as it was.
  const { mark } = (await wholeOf(sql, early))!;
  await sql`update film_layer set name = 'gone' where trial_id = ${early} and name = 'half_b'`;
  await runner().run(early, never);
  expect(await wholeOf(sql, early)).toMatchObject({ state: 'done', mark, fault: expect.stringContaining('no halves') });
  await sql`update film_layer set name = 'half_b' where trial_id = ${early} and name = 'gone'`;
  expect(await ask()).toBe(true);
  await runner().run(early, never);
  expect((await wholeOf(sql, early))!.figures!.joined!.frames).toEqual([{ number: await numberOf(next), frame: 7 }]);
  await sql`delete from denoised where state = 'queued'`;
});

test('stopped, the film is left as it was and can be denoised again; a closing worker gives it back', async () => {
  const id = await rendered();
  await askDenoised(sql, id, { first: null, strengths: all }, nothing);
  expect(await strandedDenoised(sql)).toEqual([id]);
  const closing = new AbortController();
  closing.abort();
  await expect(runner().run(id, closing.signal)).rejects.toThrow('closing');
  expect((await denoisedOf(sql, id))!.state).toBe('queued');
  expect(await stopDenoised(sql, id)).toBe(true);
  await runner().run(id, never);
  const state = (await denoisedOf(sql, id))!.state;
  expect(['stopped', 'done']).toContain(state);
  if (state === 'stopped') expect(await askDenoised(sql, id, { first: null, strengths: all }, nothing)).toBe(true);
});

test('what a dead worker had filtered is taken up, and stays where nothing can be rendered to hold it against', async () => {
  const id = await rendered();
  await askDenoised(sql, id, { first: null, strengths: all }, nothing);
  await runner().run(id, never);
  const { result } = (await denoisedOf(sql, id))!;
  const died = () => sql`update denoised set state = 'judging', patches = null, pixels = null where trial_id = ${id}`;
  await died();
  await runner().run(id, never);
  expect(await denoisedOf(sql, id)).toMatchObject({ state: 'done', result, fault: null });
  expect((await denoisedOf(sql, id))!.patches!.looks.length).toBeGreaterThan(0);
  await died();
  const open = async () => {
    throw new Error('content a1b2 is not there');
  };
  const studio = { version: 'test', close: () => {}, open } as unknown as Studio;
  await new DenoiseRunner(sql, studio, { module: filter, spawn: spawnInline, threads: 1 }).run(id, never);
  expect(await denoisedOf(sql, id)).toMatchObject({ state: 'done', result, fault: 'content a1b2 is not there' });
});

test('a film without halves fails in words', async () => {
  const id = await rendered();
  await sql`delete from film_layer where trial_id = ${id} and name = 'half_b'`;
  await askDenoised(sql, id, { first: null, strengths: all }, nothing);
  await runner().run(id, never);
  expect(await denoisedOf(sql, id)).toMatchObject({ state: 'failed' });
  expect((await denoisedOf(sql, id))!.fault).toMatch(/no halves/);
});

test('a film too large to be held in memory is refused in words', () => {
  const layer = (name: string, bytes: number) => ({ name, bytes });
  expect(tooLarge([layer('beauty', 1e9), layer('samples', 5e9)])).toBeNull();
  expect(tooLarge([layer('beauty', 1e9), layer('class.caustic', 1e9)])).toMatch(/2\.0 GB, and at most 1\.5 GB/);
});

test('what was denoised goes with a trial that is taken out of the logbook', async () => {
  const id = await rendered();
  await askDenoised(sql, id, { first: null, strengths: all }, nothing);
  await runner().run(id, never);
  const { result } = (await denoisedOf(sql, id))!;
  await sql`delete from trial where id <> ${id}`;
  await editTrial(sql, id, { removed: true }, nothing);
  expect(await purgeRemoved(sql, 0)).toBe(1);
  expect(await sql`select 1 from blob where hash = ${result}`).toHaveLength(0);
});
