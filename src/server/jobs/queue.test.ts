import { randomBytes } from 'node:crypto';
import { makeLayers } from '@/core/film';
import { canonicalJson } from '@/core/recipe';
import { sha256 } from '@/node/hash';
import { patiently } from '../db/away';
import { connect, type Sql } from '../db/connection';
import { newId } from '../db/ids';
import { transaction } from '../db/transaction';
import { beginTrial, noteProgress, strandedTrials } from '../db/trial-life';
import { addTrial, editTrial, trialById } from '../db/trials';
import {
  isDelivering,
  leaveWorker,
  listWorkers,
  liveWorkers,
  MachinePlace,
  noteDoing,
  noteHouse,
  seeWorker,
  setMachine,
} from '../db/workers';
import { putStream } from '../storage/blobs';
import { CHUNK_BYTES } from '../storage/chunks';
import { cuttableLine, seedShot, smallRecipe, testDatabase } from '../testing';
import { type TrialJob, TrialQueue } from './queue';
import { storedLayer, straight, testRunner } from './testing';
import { serve } from './work';

let sql: Sql;
let url: string;
let close: () => Promise<void>;
let queue: TrialQueue;
let shot: string;
let revision: string;
beforeAll(async () => {
  ({ sql, url, close } = await testDatabase('lantern_test_queue'));
  ({ shot, revision } = await seedShot(sql));
  queue = await TrialQueue.open(sql, false);
});
afterAll(async () => {
  await queue.close();
  await close();
});
/** Nothing waits that an earlier test has left. */
beforeEach(async () => {
  await sql`delete from queue.job`;
  await sql`update trial set state = 'done'`;
});

const recipe = smallRecipe(4);
const row = (r = recipe) => ({
  shot,
  revision,
  recipe: r,
  recipeHash: sha256(canonicalJson(r)),
  camera: 'cam',
  parent: null,
  title: 't',
});
const log = async (add = queue.add) => (await addTrial(sql, row(), add)).id;
const forgotten = async () => {};
const trialOf = ({ data }: TrialJob) => ('trial' in data ? data.trial : null);
async function until(is: () => Promise<boolean>): Promise<void> {
  for (const end = Date.now() + 5000; Date.now() < end && !(await is()); ) await new Promise((r) => setTimeout(r, 20));
}

test('several processes may open the queue of an empty database at once', async () => {
  const fresh = await testDatabase('lantern_test_queue_fresh');
  const open = await Promise.all([1, 2, 3].map(() => TrialQueue.open(fresh.sql, false)));
  expect(await open[0].take()).toBeNull();
  await Promise.all(open.map((q) => q.close()));
  await fresh.close();
});

test('a trial and its job are there both or not at all', async () => {
  const failing = async (tx: Sql, id: string) => {
    await queue.add(tx, id);
    throw new Error('and then the line went dead');
  };
  const [{ before }] = await sql`select count(*)::int as before from trial`;
  await expect(log(failing)).rejects.toThrow('line went dead');
  const [{ after }] = await sql`select count(*)::int as after from trial`;
  expect(after).toBe(before);
  expect(await queue.take()).toBeNull();
  const id = await log();
  const job = (await queue.take())!;
  expect(trialOf(job)).toBe(id);
  await queue.giveBack(job, 'told to end');
  expect(trialOf((await queue.take())!)).toBe(id);
});

test('trials that the queue knows nothing of are found, each once', async () => {
  const known = await log();
  const stranded = [await log(forgotten), await log(forgotten)];
  await sql`update trial set state = 'rendering' where id = ${stranded[1]}`;
  expect(await strandedTrials(sql)).toEqual(stranded);
  expect(await queue.adopt()).toBe(2);
  expect(await queue.adopt()).toBe(0);
  const taken = [await queue.take(), await queue.take(), await queue.take()].map((j) => trialOf(j!));
  expect(taken.sort()).toEqual([known, ...stranded].sort());
});

test('a trial that was removed while it waited waits again when it is brought back', async () => {
  const id = await log();
  await editTrial(sql, id, { removed: true }, queue.add);
  const job = (await queue.take())!;
  expect(await beginTrial(sql, id, newId())).toBeNull();
  await queue.done(job);
  expect(await queue.take()).toBeNull();
  await editTrial(sql, id, { removed: false }, queue.add);
  expect(trialOf((await queue.take())!)).toBe(id);
  const holder = newId();
  expect(await beginTrial(sql, id, holder)).toBe(1);
  // The stop that came with the removal went with it.
  expect(await noteProgress(sql, id, holder, 0.1, null)).toBe('on');
});

test('one worker has a machine’s place; the next takes it when that one ends or loses the database', async () => {
  const [first, second] = [new MachinePlace(sql, 'pier'), new MachinePlace(sql, 'pier')];
  const elsewhere = new MachinePlace(sql, 'gallery');
  expect(await first.take()).toBe(true);
  expect(await second.take()).toBe(false);
  expect(await elsewhere.take()).toBe(true);
  await sql`select pg_terminate_backend(pid) from pg_locks where locktype = 'advisory' and classid >= 731199 and granted`;
  await until(() => second.take());
  expect(await second.take()).toBe(true);
  // The first hears of its loss a moment later.
  await until(async () => !(await first.take()));
  expect(await first.take()).toBe(false);
  await second.close();
  expect(await first.take()).toBe(true);
  await Promise.all([first.close(), elsewhere.close()]);
});

test('workers of a machine share its cores: as many threads render as there are, and no more', async () => {
  const [first, second, third] = [1, 2, 3].map(() => new MachinePlace(sql, 'mole', 2, 1));
  expect([await first.take(), await second.take(), await third.take()]).toEqual([true, true, false]);
  await second.resize(2);
  // It waits for both cores, and holds none meanwhile.
  expect([await second.take(), await third.take(), await first.take()]).toEqual([false, true, true]);
  await Promise.all([first.close(), third.close()]);
  await until(() => second.take());
  expect(await second.take()).toBe(true);
  await second.close();
});

test('a page sets threads of a machine and drains it; workers of another build are told apart', async () => {
  const note = { id: newId(), machine: 'skerry', cores: 4, threads: 4, mark: 'a'.repeat(64), delivers: false };
  expect(await seeWorker(sql, note)).toEqual({ threads: null, drained: false, mark: null });
  await noteHouse(sql, note.mark);
  await seeWorker(sql, { ...note, id: newId(), machine: 'holm', mark: 'b'.repeat(64) });
  expect([await liveWorkers(sql), await isDelivering(sql)]).toEqual([1, false]);
  await seeWorker(sql, { ...note, id: newId(), delivers: true });
  expect(await isDelivering(sql)).toBe(true);
  expect(await setMachine(sql, 'skerry', { threads: 2, drained: true })).toBe(true);
  expect(await setMachine(sql, 'nowhere', { drained: true })).toBe(false);
  expect(await seeWorker(sql, note)).toEqual({ threads: 2, drained: true, mark: note.mark });
  const id = await log(forgotten);
  await noteDoing(sql, note.id, id);
  const [holm, ...of] = await listWorkers(sql);
  const skerry = of.find((w) => w.id === note.id);
  expect(holm).toMatchObject({ machine: 'holm', isOther: true, doing: null });
  expect(skerry).toMatchObject({
    isOther: false,
    drained: true,
    wantedThreads: 2,
    gone: false,
    doing: { shot: 'test-shot' },
  });
  await sql`update worker set seen_at = now() - interval '1 minute' where machine = 'skerry'`;
  expect((await listWorkers(sql)).filter((w) => w.machine === 'skerry').map((w) => w.gone)).toEqual([true, true]);
  expect([await liveWorkers(sql), await isDelivering(sql)]).toEqual([0, false]);
  await leaveWorker(sql, note.id);
  expect(await listWorkers(sql)).toHaveLength(2);
});

test('a worker takes one trial after another, gives back what broke off, and ends when told', async () => {
  const place = new MachinePlace(sql, 'quay');
  const closing = new AbortController();
  const seen: string[] = [];
  const run = async (asked: TrialJob['data']) => {
    const id = 'trial' in asked ? asked.trial : '';
    seen.push(id);
    if (seen.length === 1) throw new Error('the worker is closing');
    await sql`update trial set state = 'done' where id = ${id}`;
    if (seen.length === 4) closing.abort();
  };
  const ids = [await log(), await log(forgotten)];
  const work = serve({ sql, queue, place, run, signal: closing.signal });
  while (seen.length < 3) await new Promise((r) => setTimeout(r, 20));
  ids.push(await log());
  await work;
  expect(seen[0]).toBe(seen.find((id, i) => i > 0 && id === seen[0]));
  expect([...new Set(seen)].sort()).toEqual([...ids].sort());
  expect(seen.length).toBe(4);
  await place.close();
});

test('connections that are lost in the middle of transactions end in an error each, and the next ones work', async () => {
  const own = connect(url, { max: 3 });
  for (let i = 0; i < 8; i++) {
    const broken = transaction(own, async (tx) => {
      const [{ pid }] = await tx`select pg_backend_pid() as pid`;
      await sql`select pg_terminate_backend(${pid})`;
      await new Promise((r) => setTimeout(r, i % 2 ? 50 : 0));
      await tx`update trial set note = 'never' where shot_id = ${shot}`;
    });
    await expect(broken).rejects.toMatchObject({ code: expect.stringMatching(/^(57P01|CONNECTION_)/) });
  }
  const lost = putStream(
    own,
    (async function* () {
      yield randomBytes(CHUNK_BYTES * 2);
      await sql`select pg_terminate_backend(pid) from pg_stat_activity where query like 'insert into blob_chunk%' and datname = current_database()`;
      yield randomBytes(CHUNK_BYTES * 2);
    })(),
  );
  await expect(lost).rejects.toMatchObject({ code: expect.stringMatching(/^(57P01|CONNECTION_)/) });
  // Idle connections whose last statement put a chunk were ended too, and may tell of it only when they are next asked.
  const kept = patiently(new AbortController().signal, () =>
    transaction(own, async (tx) => (await tx`select count(*)::int as n from trial where note = 'never'`)[0].n),
  );
  expect(await kept).toBe(0);
  await own.end({ timeout: 1 });
});

test('a database that is away for seconds, again and again, costs no sample: the trial ends with the same film', async () => {
  const line = await cuttableLine(url);
  const far = connect(line.url, { max: 4, connect_timeout: 5 });
  const long = smallRecipe(900, 64);
  const { id } = await addTrial(sql, row(long), forgotten);
  let over = false;
  const work = testRunner(far)
    .run(id, new AbortController().signal)
    .finally(() => {
      over = true;
    });
  while (((await trialById(sql, id))?.fraction ?? 0) === 0) await new Promise((r) => setTimeout(r, 20));
  // Away until long after the last sample, back for a moment, and away while the film is being stored.
  line.cut();
  await new Promise((r) => setTimeout(r, 4000));
  expect(over).toBe(false);
  line.mend();
  for (let i = 0; i < 3 && !over; i++) {
    await new Promise((r) => setTimeout(r, 300));
    line.cut();
    await new Promise((r) => setTimeout(r, 300));
    line.mend();
  }
  await work;
  const done = (await trialById(sql, id))!;
  expect(done).toMatchObject({ state: 'done', fault: null, fraction: 1 });
  expect(done.figures!.sampleRange).toEqual([900, 900]);
  const film = makeLayers(await straight(long)).layers.get('beauty')!;
  expect((await storedLayer(sql, id, 'beauty')).map((p) => Array.from(p))).toEqual(
    film.planes.map((p) => Array.from(p)),
  );
  await far.end({ timeout: 1 });
  line.close();
}, 60000);
