import type { RunFile } from '@/core/runs';
import type { FilmOrigin } from '@/render/node/film-exr';
import type { TracedFrame } from '@/render/node/rendered-frame';

/** A frame of one of a run's pictures that is to be traced; without files, for those beside it alone. */
export interface Task {
  frame: number;
  picture: number;
  files: readonly RunFile[];
}

/** Tasks in rising order of their frames, and beside those that are joined the frames before and after, as far as the run has them. */
export function withBeside(
  todo: readonly Task[],
  frames: readonly number[],
  joins: (picture: number) => boolean,
): readonly Task[] {
  if (!todo.some((t) => joins(t.picture))) return todo;
  const key = (t: Pick<Task, 'frame' | 'picture'>) => `${t.frame} ${t.picture}`;
  const tasks = new Map(todo.map((t) => [key(t), t]));
  for (const { frame, picture } of todo.filter((t) => joins(t.picture)))
    for (const other of [frame - 1, frame + 1]) {
      const task = { frame: other, picture, files: [] };
      if (frames.includes(other) && !tasks.has(key(task))) tasks.set(key(task), task);
    }
  return [...tasks.values()].sort((a, b) => a.frame - b.frame || a.picture - b.picture);
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
