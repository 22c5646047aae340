import type { FromFilm, LiveStatus, ProbeValue, Slot, ToFilm } from '@/render/film-protocol';

export type Picture = Extract<FromFilm, { type: 'picture' }>;

interface Handlers {
  picture: (p: Picture) => void;
  absent: (slot: Slot, reason: string) => void;
  status: (s: LiveStatus) => void;
  probed: (a: ProbeValue | null, b: ProbeValue | null, depth: number | null) => void;
  fault: (message: string) => void;
  reel: (kept: number[]) => void;
  played: (frame: number) => void;
}

type Measure = ToFilm & { type: 'measure' };
/** How far a measurement has come. */
export type Step = Extract<FromFilm, { type: 'step' }>;
type WithoutId<T> = T extends { id: number } ? Omit<T, 'id'> : never;

/** The page's end of the film worker. */
export class FilmClient {
  private readonly worker: Worker;
  private handlers: Partial<Handlers> = {};
  private readonly waiting = new Map<
    number,
    { resolve: (value: unknown) => void; reject: (error: Error) => void; onStep?: (s: Step) => void }
  >();
  private nextId = 1;

  constructor() {
    this.worker = new Worker(new URL('../../render/film.worker.ts', import.meta.url), { type: 'module' });
    this.worker.onmessage = (event: MessageEvent<FromFilm>) => this.receive(event.data);
    this.worker.onerror = (event) => this.handlers.fault?.(event.message || 'the film worker failed');
  }

  on(handlers: Partial<Handlers>): void {
    this.handlers = { ...this.handlers, ...handlers };
  }

  send(message: ToFilm): void {
    this.worker.postMessage(message);
  }

  /** Asks for a measurement of a film or of the live scene; rejects with the fault in words. */
  measure<T>(
    message: WithoutId<Measure>,
    { onStep, signal }: { onStep?: (s: Step) => void; signal?: AbortSignal } = {},
  ): Promise<T> {
    const id = this.nextId++;
    return new Promise<T>((resolve, reject) => {
      this.waiting.set(id, { resolve: resolve as (value: unknown) => void, reject, onStep });
      signal?.addEventListener('abort', () => this.send({ type: 'cancel', id }));
      this.send({ ...message, id } as ToFilm);
    });
  }

  private receive(m: FromFilm): void {
    if (m.type === 'picture') this.handlers.picture?.(m);
    else if (m.type === 'absent') this.handlers.absent?.(m.slot, m.reason);
    else if (m.type === 'status') this.handlers.status?.(m.status);
    else if (m.type === 'probed') this.handlers.probed?.(m.a, m.b, m.depth);
    else if (m.type === 'fault') this.handlers.fault?.(m.message);
    else if (m.type === 'reel') this.handlers.reel?.(m.kept);
    else if (m.type === 'played') this.handlers.played?.(m.frame);
    else if (m.type === 'step') this.waiting.get(m.id)?.onStep?.(m);
    else {
      const waiting = this.waiting.get(m.id);
      this.waiting.delete(m.id);
      if (m.type === 'measured') waiting?.resolve(m.result);
      else waiting?.reject(new Error(m.message));
    }
  }

  close(): void {
    this.worker.terminate();
  }
}
