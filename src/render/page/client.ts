import type { Answered, Asked, QuestionName } from '../questions';
import type { ToFilm } from './protocol';
import type { FromFilm, Slot } from './told';

type Told = FromFilm['type'];
type Of<T extends Told> = Extract<FromFilm, { type: T }>;
/** What the page hears of the film worker without having asked. */
export type Heard = Exclude<Told, 'answered' | 'refused' | 'step' | 'alive'>;
export type Picture = Of<'picture'>;
/** How far long work has come. */
export type Step = Pick<Of<'step'>, 'done' | 'of' | 'words'>;

interface Waiting {
  resolve: (value: unknown) => void;
  reject: (error: Error) => void;
  onStep?: (step: Step) => void;
}

/** A worker as the client sees it. */
export interface WorkerEnd {
  postMessage: (message: ToFilm) => void;
  terminate: () => void;
  onmessage: ((event: MessageEvent<FromFilm>) => void) | null;
  onerror: ((event: ErrorEvent) => void) | null;
}

/** Tells when the holder of a lock is gone. `navigator.locks` gives a lock back as soon as its worker has ended, however it did. */
export type Mourn = (lock: string, gone: () => void) => void;

export const spawnFilmWorker = (): WorkerEnd =>
  new Worker(new URL('./film.worker.ts', import.meta.url), { type: 'module' });

export const mournByLock: Mourn = (lock, gone) => {
  navigator.locks?.request(lock, gone).catch(() => {});
};

/** A question was not answered, since the film worker ended. */
export class WorkerGone extends Error {}

/** A worker that ends this often within a minute is not started again. */
const MOST_DEATHS = 3;
const WITHIN_MS = 60000;

/**
 * The page's end of the film worker. A worker that ends is started again and told once more what it is to show; what waits
 * for it is refused.
 */
export class FilmClient {
  private worker: WorkerEnd;
  private closed = false;
  private readonly hearers = new Map<Heard, Set<(message: never) => void>>();
  private readonly waiting = new Map<number, Waiting>();
  /** The last message of each kind that sets what the worker does, in the order in which they were first sent. */
  private readonly standing = new Map<string, ToFilm>();
  private readonly deaths: number[] = [];
  private nextId = 1;

  constructor(
    private readonly spawn: () => WorkerEnd = spawnFilmWorker,
    private readonly mourn: Mourn = mournByLock,
    private readonly now: () => number = () => performance.now(),
  ) {
    this.worker = this.start();
  }

  private start(): WorkerEnd {
    const worker = this.spawn();
    worker.onmessage = ({ data }) => {
      if (worker !== this.worker) return;
      if (data.type === 'alive') this.mourn(data.lock, () => this.died(worker, 'the film worker ended'));
      else this.receive(data);
    };
    worker.onerror = (event) => this.died(worker, event.message || 'the film worker failed');
    return worker;
  }

  /** Refuses what waits, and starts another worker in its place. */
  private died(worker: WorkerEnd, words: string): void {
    if (this.closed || worker !== this.worker) return;
    worker.terminate();
    const waiting = [...this.waiting.values()];
    this.waiting.clear();
    const now = this.now();
    this.deaths.push(now);
    const again = this.deaths.filter((t) => now - t < WITHIN_MS).length <= MOST_DEATHS;
    if (again) {
      this.worker = this.start();
      for (const message of this.standing.values()) this.worker.postMessage(message);
    }
    for (const w of waiting) w.reject(new WorkerGone(words));
    this.tell({ type: 'fault', message: again ? `${words}; it was started again` : `${words}: reload the page` });
  }

  /** Hears of something until the function that is returned is called. */
  on<T extends Heard>(type: T, hear: (message: Of<T>) => void): () => void {
    const hearers = this.hearers.get(type) ?? new Set();
    this.hearers.set(type, hearers);
    hearers.add(hear as (message: never) => void);
    return () => hearers.delete(hear as (message: never) => void);
  }

  private tell(message: FromFilm): void {
    for (const hear of this.hearers.get(message.type as Heard) ?? []) (hear as (m: FromFilm) => void)(message);
  }

  send(message: ToFilm): void {
    const key = standingKey(message);
    if (key) this.standing.set(key, message);
    this.worker.postMessage(message);
  }

  /** Asks a question; rejects with the fault in words, with `WorkerGone` when the worker ends meanwhile. */
  ask<K extends QuestionName>(
    what: K,
    asked: Asked<K>,
    { onStep, signal }: { onStep?: (step: Step) => void; signal?: AbortSignal } = {},
  ): Promise<Answered<K>> {
    const id = this.nextId++;
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve: resolve as (value: unknown) => void, reject, onStep });
      signal?.addEventListener('abort', () => this.waiting.has(id) && this.worker.postMessage({ type: 'cancel', id }));
      this.worker.postMessage({ type: 'ask', id, what, asked } as ToFilm);
    });
  }

  private receive(m: FromFilm): void {
    if (m.type === 'step') this.waiting.get(m.id)?.onStep?.(m);
    else if (m.type === 'answered' || m.type === 'refused') {
      const waiting = this.waiting.get(m.id);
      this.waiting.delete(m.id);
      if (m.type === 'answered') waiting?.resolve(m.answer);
      else waiting?.reject(new Error(m.message));
    } else this.tell(m);
  }

  close(): void {
    this.closed = true;
    this.worker.terminate();
  }
}

/** What a message that sets something sets: of each the last one is told to a worker that takes another's place. */
function standingKey(message: ToFilm): string | null {
  switch (message.type) {
    case 'open':
    case 'pause':
    case 'view':
      return message.type;
    case 'live':
    case 'halt':
      return 'live';
    case 'show':
      return `show ${message.slot satisfies Slot}`;
    default:
      return null;
  }
}
