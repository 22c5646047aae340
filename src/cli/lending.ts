import type { TakenFilm } from '@/render/node/comp-frame';
import type { TracedFrame } from '@/render/node/rendered-frame';
import type { Ready, Task } from './beside';

/** The film of a variant, and the frame that holds it. */
interface Lent {
  film: TakenFilm;
  traced: TracedFrame;
}

/** Frames of variants that the stack over the shot's own picture takes: held until that picture is made of them. */
export class Lending {
  private readonly lent = new Map<number, Map<number, Lent>>();
  private readonly waiting = new Map<number, Ready>();
  private readonly over = new Set<TracedFrame>();
  /** Frames at which the stack's picture is delivered. */
  private readonly frames: ReadonlySet<number>;

  constructor(
    todo: readonly Task[],
    /** Pictures that the stack takes, by where it says that they are. */
    private readonly taken: ReadonlyMap<string, number>,
  ) {
    this.frames = new Set(todo.filter((t) => t.picture === 0).map((t) => t.frame));
  }

  /** Whether the stack waits for the film of a frame. */
  isLent({ frame, picture }: Task): boolean {
    return this.frames.has(frame) && [...this.taken.values()].includes(picture);
  }

  /** Lends the film of a frame, and gives the frame of the shot's own picture that is ready by it. */
  lend({ task: { frame, picture }, traced }: Ready, film: TakenFilm): Ready | null {
    const own = this.lent.get(frame) ?? new Map<number, Lent>();
    own.set(picture, { film, traced });
    this.lent.set(frame, own);
    const waiting = this.waiting.get(frame);
    return waiting && this.isWhole(frame) ? waiting : null;
  }

  private isWhole(frame: number): boolean {
    const own = this.lent.get(frame);
    return [...this.taken.values()].every((picture) => own?.has(picture));
  }

  /** Whether a frame can be made; one of the shot's own picture waits for what the stack takes. */
  isReady(ready: Ready): boolean {
    const { frame, picture, files } = ready.task;
    if (picture !== 0 || files.length === 0 || this.isWhole(frame)) return true;
    this.waiting.set(frame, ready);
    return false;
  }

  /** Films that the stack takes at a frame, by where it says that they are. */
  at(frame: number): Map<string, TakenFilm> {
    const own = this.lent.get(frame);
    return new Map(
      [...this.taken].flatMap(([where, picture]) => (own ? [[where, own.get(picture)!.film] as const] : [])),
    );
  }

  /** Lets go of frames that nobody waits for once another is made, as soon as none of them is lent. */
  end(frames: readonly TracedFrame[], made: Task): void {
    for (const f of frames) this.over.add(f);
    if (made.picture === 0) this.lent.delete(made.frame);
    const held = new Set([...this.lent.values()].flatMap((own) => [...own.values()].map((l) => l.traced)));
    for (const f of this.over)
      if (!held.has(f)) {
        f.end();
        this.over.delete(f);
      }
  }
}
