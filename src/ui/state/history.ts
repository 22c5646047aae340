import { create } from 'zustand';

export type Subject = 'recipe' | 'scene';

interface History {
  /** What was changed, in order; the last first to be undone. */
  past: Subject[];
  future: Subject[];
  note: (subject: Subject) => void;
  /** Moves one step and says whose it was. */
  back: () => Subject | null;
  forth: () => Subject | null;
}

const MOST_STEPS = 400;

/** The one order of all undo steps, whichever store keeps them. */
export const useHistory = create<History>((set, get) => ({
  past: [],
  future: [],
  note: (subject) => set((s) => ({ past: [...s.past, subject].slice(-MOST_STEPS), future: [] })),
  back: () => {
    const { past, future } = get();
    const last = past.at(-1);
    if (!last) return null;
    set({ past: past.slice(0, -1), future: [last, ...future] });
    return last;
  },
  forth: () => {
    const { past, future } = get();
    const next = future[0];
    if (!next) return null;
    set({ past: [...past, next], future: future.slice(1) });
    return next;
  },
}));
