import { create } from 'zustand';

/** What can be taken back: a document that is edited. Each is told to put another state of it in the place of its own. */
export interface Subject<T> {
  put: (value: T) => void;
}

interface Step {
  subject: Subject<unknown>;
  /** What was changed, in words. */
  words: string;
  before: unknown;
  after: unknown;
  /** Steps that share it one after another are one: a drag. */
  dragKey: string | null;
}

interface History {
  /** What was changed, in order; the last is taken back first. */
  past: readonly Step[];
  future: readonly Step[];
}

const MOST_STEPS = 200;

/** The one list of what was changed, of recipe, scene and whatever else is edited. */
export const useHistory = create<History>(() => ({ past: [], future: [] }));

/** Notes a change that was made. */
export function note<T>(subject: Subject<T>, words: string, before: T, after: T, dragKey: string | null = null): void {
  const { past } = useHistory.getState();
  const last = past.at(-1);
  const goesOn = dragKey !== null && last?.dragKey === dragKey && last.subject === subject;
  const step: Step = {
    subject: subject as Subject<unknown>,
    words,
    before: goesOn ? last.before : before,
    after,
    dragKey,
  };
  useHistory.setState({ past: [...(goesOn ? past.slice(0, -1) : past), step].slice(-MOST_STEPS), future: [] });
}

/** Makes all that `change` changes one step. */
export function together<T>(words: string, change: () => T): T {
  const last = useHistory.getState().past.at(-1);
  const out = change();
  const { past } = useHistory.getState();
  const from = last === undefined ? 0 : past.lastIndexOf(last) + 1;
  const steps = past.slice(from);
  if (steps.length < 2) return out;
  const all: Subject<unknown[]> = {
    put: (values) => {
      steps.forEach((s, i) => {
        s.subject.put(values[i]);
      });
    },
  };
  const step: Step = {
    subject: all as Subject<unknown>,
    words,
    // Of a subject that was changed more than once, what it was before the first and after the last.
    before: steps.map((s) => steps.find((t) => t.subject === s.subject)!.before),
    after: steps.map((s) => steps.findLast((t) => t.subject === s.subject)!.after),
    dragKey: null,
  };
  useHistory.setState({ past: [...past.slice(0, from), step] });
  return out;
}

/** Ends a drag: the next change is a step of its own. */
export function settle(): void {
  const { past } = useHistory.getState();
  const last = past.at(-1);
  if (last && last.dragKey !== null) useHistory.setState({ past: [...past.slice(0, -1), { ...last, dragKey: null }] });
}

/** Takes the last changes back, one or more of them. */
export function undo(steps = 1): void {
  for (let n = 0; n < steps; n++) {
    const { past, future } = useHistory.getState();
    const last = past.at(-1);
    if (!last) return;
    useHistory.setState({ past: past.slice(0, -1), future: [{ ...last, dragKey: null }, ...future] });
    last.subject.put(last.before);
  }
}

/** Makes again what was taken back last, one or more of it. */
export function redo(steps = 1): void {
  for (let n = 0; n < steps; n++) {
    const { past, future } = useHistory.getState();
    const next = future[0];
    if (!next) return;
    useHistory.setState({ past: [...past, next], future: future.slice(1) });
    next.subject.put(next.after);
  }
}

export const forget = (): void => useHistory.setState({ past: [], future: [] });
