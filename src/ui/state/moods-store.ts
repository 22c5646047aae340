import { create } from 'zustand';
import { type Mix, type Moods, MoodsError, parseMoods, type Timed, withNow } from '@/core/moods';
import { note, type Subject } from './history';

interface MoodsState {
  moods: Moods | null;
  /** Whether the draft holds changes the server does not have yet. */
  unsaved: boolean;
  load: (moods: Moods) => void;
  /** Puts other moods in the place of these; returns the fault in words when they are refused, and changes nothing then. */
  replace: (words: string, next: Moods, dragKey?: string) => string | null;
  /** Another mix at hand, of a frame where it changes over them; edits of one drag are one step. */
  mix: (words: string, mix: Mix, frame: number, dragKey?: string) => string | null;
  /** The mix at hand with other keys. */
  key: (words: string, timed: Timed, dragKey?: string) => string | null;
  saved: (moods: Moods) => void;
}

const subject: Subject<Moods> = { put: (moods) => useMoods.setState({ moods, unsaved: true }) };

/** The moods of the shot, and the mix at hand, as this tab edits them. */
export const useMoods = create<MoodsState>((set, get) => ({
  moods: null,
  unsaved: false,
  load: (moods) => set({ moods, unsaved: false }),
  replace: (words, next, dragKey) => {
    const { moods } = get();
    if (!moods) return null;
    try {
      const parsed = parseMoods(next);
      if (JSON.stringify(parsed) === JSON.stringify(moods)) return null;
      set({ moods: parsed, unsaved: true });
      note(subject, words, moods, parsed, dragKey ?? null);
      return null;
    } catch (error) {
      if (error instanceof MoodsError) return error.fault;
      throw error;
    }
  },
  mix: (words, mix, frame, dragKey) => {
    const { moods, replace } = get();
    return moods && replace(words, withNow(moods, mix, frame), dragKey);
  },
  key: (words, { mix, keys }, dragKey) => {
    const { moods, replace } = get();
    return moods && replace(words, { ...moods, now: { ...moods.now, mix, keys } }, dragKey);
  },
  saved: (moods) => set((s) => ({ unsaved: s.moods !== moods && s.unsaved })),
}));
