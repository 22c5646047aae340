import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import type { CompKind, Order } from '@/core/runs';
import { patientStorage } from './patient-storage';

/** What a run that is put together is asked for, beside the draft. */
export interface NewRunChoice {
  /** Frames as they are typed; null = all of the shot. */
  frames: string | null;
  /** Folder as it is typed; empty = one of its own for each run. */
  folder: string;
  order: Order;
  keepsFilms: boolean;
  /** As which kind of file what the stack makes is delivered; null for not. */
  comp: CompKind | null;
  overwrites: boolean;
  title: string;
  /** When it is wanted; null, or not there, where nobody said. */
  wantedAt?: string | null;
}

interface NewRunState {
  byShot: Readonly<Record<string, NewRunChoice>>;
  set: (shot: string, change: Partial<NewRunChoice>) => void;
}

const AT_FIRST: NewRunChoice = {
  frames: null,
  folder: '',
  order: 'ends',
  keepsFilms: false,
  comp: null,
  overwrites: false,
  title: '',
};

/** What the next run of each shot is asked for; kept in the browser. */
export const useNewRun = create<NewRunState>()(
  persist(
    (set) => ({
      byShot: {},
      set: (shot, change) =>
        set(({ byShot }) => ({ byShot: { ...byShot, [shot]: { ...(byShot[shot] ?? AT_FIRST), ...change } } })),
    }),
    { name: 'lantern-new-run', storage: patientStorage(), partialize: ({ byShot }) => ({ byShot }) as NewRunState },
  ),
);

/** What the next run of a shot is asked for. */
export const choiceOf = ({ byShot }: Pick<NewRunState, 'byShot'>, shot: string): NewRunChoice =>
  byShot[shot] ?? AT_FIRST;
