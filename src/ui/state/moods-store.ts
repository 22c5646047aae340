import { create } from 'zustand';
import { type GroupMix, type Mix, type Moods, MoodsError, mixOf, parseMoods, withNow } from '@/core/moods';
import { note, type Subject } from './history';

interface MoodsState {
  moods: Moods | null;
  /** Whether the draft holds changes the server does not have yet. */
  unsaved: boolean;
  load: (moods: Moods) => void;
  /** Puts other moods in the place of these; returns the fault in words when they are refused, and changes nothing then. */
  replace: (words: string, next: Moods, dragKey?: string) => string | null;
  /** Another mix at hand; edits of one drag are one step. */
  mix: (words: string, mix: Mix, dragKey?: string) => string | null;
  /** Changes what the mix at hand does to a group. */
  mixGroup: (words: string, group: string, change: Partial<GroupMix>, dragKey?: string) => string | null;
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
  mix: (words, mix, dragKey) => {
    const { moods, replace } = get();
    return moods && replace(words, withNow(moods, mix), dragKey);
  },
  mixGroup: (words, group, change, dragKey) => {
    const { moods, mix } = get();
    if (!moods) return null;
    const now = moods.now.mix;
    return mix(words, { ...now, [group]: { ...mixOf(now, group), ...change } }, dragKey);
  },
  saved: (moods) => set((s) => ({ unsaved: s.moods !== moods && s.unsaved })),
}));
