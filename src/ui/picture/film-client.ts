import type { FromFilm, LiveStatus, ProbeValue, Slot, ToFilm } from '@/render/film-protocol';

export type Picture = Extract<FromFilm, { type: 'picture' }>;

interface Handlers {
  picture: (p: Picture) => void;
  absent: (slot: Slot, reason: string) => void;
  status: (s: LiveStatus) => void;
  probed: (a: ProbeValue | null, b: ProbeValue | null) => void;
  fault: (message: string) => void;
}

type Measure = ToFilm & { type: 'measure' };
type WithoutId<T> = T extends { id: number } ? Omit<T, 'id'> : never;

/** The page's end of the film worker. */
export class FilmClient {
  private readonly worker: Worker;
  private handlers: Partial<Handlers> = {};
  private readonly waiting = new Map<number, (value: unknown) => void>();
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

  /** Asks for a measurement of a film. */
  measure<T>(message: WithoutId<Measure>): Promise<T> {
    const id = this.nextId++;
    return new Promise<T>((resolve) => {
      this.waiting.set(id, resolve as (value: unknown) => void);
      this.send({ ...message, id } as ToFilm);
    });
  }

  private receive(m: FromFilm): void {
    if (m.type === 'picture') this.handlers.picture?.(m);
    else if (m.type === 'absent') this.handlers.absent?.(m.slot, m.reason);
    else if (m.type === 'status') this.handlers.status?.(m.status);
    else if (m.type === 'probed') this.handlers.probed?.(m.a, m.b);
    else if (m.type === 'fault') this.handlers.fault?.(m.message);
    else {
      this.waiting.get(m.id)?.(m.result);
      this.waiting.delete(m.id);
    }
  }

  close(): void {
    this.worker.terminate();
  }
}
