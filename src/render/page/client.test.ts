import { FilmClient, type WorkerEnd, WorkerGone } from './client';
import type { ToFilm } from './protocol';
import type { FromFilm } from './told';

/** A worker that keeps what it is told, and says what the test has it say. */
class Puppet implements WorkerEnd {
  readonly told: ToFilm[] = [];
  ended = false;
  onmessage: WorkerEnd['onmessage'] = null;
  onerror: WorkerEnd['onerror'] = null;
  postMessage = (m: ToFilm) => void this.told.push(m);
  terminate = () => {
    this.ended = true;
  };
  say = (m: FromFilm) => this.onmessage?.({ data: m } as MessageEvent<FromFilm>);
  types = () => this.told.map((m) => (m.type === 'show' ? `show ${m.slot}` : m.type));
}

function made() {
  const workers: Puppet[] = [];
  const locks = new Map<string, () => void>();
  let time = 0;
  const client = new FilmClient(
    () => {
      workers.push(new Puppet());
      return workers.at(-1)!;
    },
    (lock, gone) => locks.set(lock, gone),
    () => time,
  );
  const faults: string[] = [];
  client.on('fault', ({ message }) => faults.push(message));
  return {
    client,
    workers,
    faults,
    /** The browser gives the lock of a worker back, as it does when the worker is gone. */
    kill: () => {
      const worker = workers.at(-1)!;
      worker.say({ type: 'alive', lock: `lock ${workers.length}` });
      locks.get(`lock ${workers.length}`)!();
    },
    later: (ms: number) => {
      time += ms;
    },
  };
}
const histogram = (worker: Puppet) => worker.told.find((m) => m.type === 'ask') as Extract<ToFilm, { type: 'ask' }>;

test('answers, refusals and steps reach who asked, whatever their order', async () => {
  const { client, workers } = made();
  const steps: number[] = [];
  const first = client.ask('histogram', { exposure: 1 }, { onStep: (s) => steps.push(s.done) });
  const second = client.ask('histogram', { exposure: 2 });
  const [a, b] = workers[0].told as Extract<ToFilm, { type: 'ask' }>[];
  expect([a.asked, b.asked]).toEqual([{ exposure: 1 }, { exposure: 2 }]);
  workers[0].say({ type: 'step', id: a.id, done: 3, of: 5, words: 'frames' });
  workers[0].say({ type: 'refused', id: b.id, message: 'the scene is still being opened' });
  workers[0].say({ type: 'answered', id: a.id, answer: null });
  await expect(second).rejects.toThrow('the scene is still being opened');
  await expect(first).resolves.toBeNull();
  expect(steps).toEqual([3]);
});

test('a question that is given up is cancelled once, and not after its answer', async () => {
  const { client, workers } = made();
  const abort = new AbortController();
  const asked = client.ask('histogram', { exposure: 1 }, { signal: abort.signal });
  const { id } = histogram(workers[0]);
  abort.abort();
  expect(workers[0].told.at(-1)).toEqual({ type: 'cancel', id });
  workers[0].say({ type: 'refused', id, message: 'stopped' });
  await expect(asked).rejects.toThrow('stopped');
  const late = new AbortController();
  const done = client.ask('histogram', { exposure: 1 }, { signal: late.signal });
  const second = workers[0].told.at(-1) as Extract<ToFilm, { type: 'ask' }>;
  workers[0].say({ type: 'answered', id: second.id, answer: null });
  await done;
  late.abort();
  expect(workers[0].types().filter((t) => t === 'cancel')).toHaveLength(1);
});

test('several hear of one thing, until they do not want to', () => {
  const { client, workers } = made();
  const heard: string[] = [];
  const off = client.on('reel', () => heard.push('one'));
  client.on('reel', () => heard.push('two'));
  workers[0].say({ type: 'reel', kept: [1], parted: [] });
  off();
  workers[0].say({ type: 'reel', kept: [1, 2], parted: [] });
  expect(heard).toEqual(['one', 'two', 'two']);
});

test('a worker that dies refuses what waits, is started again, and is told what it is to show', async () => {
  const { client, workers, faults, kill } = made();
  client.send({ type: 'open', threads: 1 });
  client.send({ type: 'show', slot: 'A', source: { kind: 'live' } });
  client.send({ type: 'show', slot: 'B', source: null });
  client.send({ type: 'live', document: {} as never, recipe: {} as never, camera: 'a', frame: 1 });
  client.send({ type: 'pause', on: true });
  client.send({ type: 'live', document: {} as never, recipe: {} as never, camera: 'b', frame: 2 });
  client.send({ type: 'probe', id: 0, x: 0.5, y: 0.5, look: null });
  const asked = client.ask('histogram', { exposure: 1 });
  kill();
  await expect(asked).rejects.toBeInstanceOf(WorkerGone);
  expect(workers).toHaveLength(2);
  expect(workers[0].ended).toBe(true);
  // What sets something, the last word of each; neither questions nor what has passed.
  expect(workers[1].types()).toEqual(['open', 'show A', 'show B', 'live', 'pause']);
  expect(workers[1].told[3]).toMatchObject({ camera: 'b', frame: 2 });
  expect(faults).toEqual(['the film worker ended; it was started again']);
  // The dead are not heard any more.
  let heard = 0;
  client.on('reel', () => heard++);
  workers[0].say({ type: 'reel', kept: [], parted: [] });
  workers[1].say({ type: 'reel', kept: [], parted: [] });
  expect(heard).toBe(1);
});

test('an error that nothing caught counts as its end; live off is told again as off', () => {
  const { client, workers, faults } = made();
  client.send({ type: 'live', document: {} as never, recipe: {} as never, camera: 'a', frame: 1 });
  client.send({ type: 'halt' });
  workers[0].onerror?.({ message: 'out of memory' } as ErrorEvent);
  expect(workers[1].types()).toEqual(['halt']);
  expect(faults[0]).toBe('out of memory; it was started again');
});

test('one that keeps dying is left, and says what to do; after a quiet minute it may die again', () => {
  const { workers, faults, kill, later } = made();
  for (let i = 0; i < 3; i++) kill();
  expect(workers).toHaveLength(4);
  kill();
  expect(workers).toHaveLength(4);
  expect(faults.at(-1)).toBe('the film worker ended: reload the page');
  const other = made();
  for (let i = 0; i < 6; i++) {
    other.kill();
    other.later(30000);
  }
  expect(other.workers).toHaveLength(7);
  later(0);
});

test('a client that is closed mourns nobody', () => {
  const { client, workers, faults, kill } = made();
  client.close();
  expect(workers[0].ended).toBe(true);
  kill();
  expect(workers).toHaveLength(1);
  expect(faults).toEqual([]);
});
