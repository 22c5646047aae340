import type { RunFile } from '@/core/runs';
import type { FilmOrigin } from '@/render/node/film-exr';
import type { TracedFrame } from '@/render/node/rendered-frame';

/** A frame of one of a run's pictures that is to be traced; without files, for others alone. */
export interface Task {
  frame: number;
  picture: number;
  files: readonly RunFile[];
}

/**
 * Tasks with those that they are made of too, as far as the run has them: pictures that the stack takes (`taken`) before the shot's
 * own, and beside frames that are joined those before and after, in rising order.
 */
export function withOthers(
  todo: readonly Task[],
  frames: readonly number[],
  joins: (picture: number) => boolean,
  taken: readonly number[],
): readonly Task[] {
  const tasks = new Map<string, Task>();
  const add = (task: Task) => {
    const key = `${task.frame} ${task.picture}`;
    if (frames.includes(task.frame) && !tasks.has(key)) tasks.set(key, task);
  };
  for (const task of todo) add(task);
  for (const { frame, picture } of todo)
    if (picture === 0) for (const other of taken) add({ frame, picture: other, files: [] });
  const all = [...tasks.values()];
  const joined = all.filter((t) => joins(t.picture));
  for (const { frame, picture } of joined)
    for (const other of [frame - 1, frame + 1]) add({ frame: other, picture, files: [] });
  const inTurn = [...new Set(todo.map((t) => t.frame))];
  const turn = ({ frame }: Task) => (joined.length > 0 ? frame : inTurn.indexOf(frame));
  const within = ({ picture }: Task) => (taken.length > 0 && picture === 0 ? Number.POSITIVE_INFINITY : picture);
  return [...tasks.values()].sort((a, b) => turn(a) - turn(b) || within(a) - within(b));
}

/** A frame that was traced, and what its files say of it. */
export interface Traced {
  task: Task;
  traced: TracedFrame;
  origin: FilmOrigin;
}

/** A frame whose files can be made, and the frames that it is joined with. */
export interface Ready extends Traced {
  before: TracedFrame | null;
  after: TracedFrame | null;
  /** Frames that nobody waits for once its files are made. */
  over: readonly TracedFrame[];
}

/** Frames of one picture on their way from tracing to files, in rising order: those that are joined wait for the frame after them. */
export class Waiting {
  private readonly held = new Map<number, Traced>();
  private readonly frames: Set<number>;

  constructor(
    tasks: readonly Task[],
    picture: number,
    private readonly joins: boolean,
  ) {
    this.frames = new Set(tasks.filter((t) => t.picture === picture).map((t) => t.frame));
  }

  /** Takes a frame that was traced, and gives those that are ready by it. */
  add(one: Traced): Ready[] {
    if (!this.joins) return [{ ...one, before: null, after: null, over: [one.traced] }];
    const { frame } = one.task;
    this.held.set(frame, one);
    const at = (f: number) => this.held.get(f)?.traced ?? null;
    return [frame - 1, frame].flatMap((f): Ready[] => {
      const own = this.held.get(f);
      if (!own || (f === frame && this.frames.has(f + 1))) return [];
      // Of what is in line only the frame after it is still to see it.
      const over = [f - 1, ...(this.frames.has(f + 1) ? [] : [f])].flatMap((n) => at(n) ?? []);
      const ready = { ...own, before: at(f - 1), after: at(f + 1), over };
      this.held.delete(f - 1);
      return [ready];
    });
  }
}
