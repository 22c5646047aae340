import { create } from 'zustand';
import { type Path, parseStack, type StackDocument, StackError, setAt } from '@/core/comp';
import { note, type Subject } from './history';

interface StackState {
  stack: StackDocument | null;
  /** Whether the draft holds changes the server does not have yet. */
  unsaved: boolean;
  load: (stack: StackDocument) => void;
  /** Puts another stack in the place of this; returns the fault in words when it is refused, and changes nothing then. */
  replace: (words: string, next: StackDocument, dragKey?: string) => string | null;
  /** Sets one value, at the frame where it is set at frames; edits of one drag are one step. */
  put: (words: string, path: Path, value: unknown, frame: number, dragKey?: string) => string | null;
  saved: (stack: StackDocument) => void;
}

const subject: Subject<StackDocument> = { put: (stack) => useStack.setState({ stack, unsaved: true }) };

/** The stack of the shot as this tab edits it. */
export const useStack = create<StackState>((set, get) => ({
  stack: null,
  unsaved: false,
  load: (stack) => set({ stack, unsaved: false }),
  replace: (words, next, dragKey) => {
    const { stack } = get();
    if (!stack || JSON.stringify(next) === JSON.stringify(stack)) return null;
    try {
      set({ stack: parseStack(next), unsaved: true });
      note(subject, words, stack, next, dragKey ?? null);
      return null;
    } catch (error) {
      if (error instanceof StackError) return error.fault;
      throw error;
    }
  },
  put: (words, path, value, frame, dragKey) => {
    const { stack, replace } = get();
    return stack && replace(words, setAt(stack, path, value, frame), dragKey);
  },
  saved: (stack) => set((s) => ({ unsaved: s.stack !== stack && s.unsaved })),
}));
