import { create } from 'zustand';
import { type Output, type Outputs, OutputsError, parseOutputs } from '@/core/outputs';
import { useDesk } from './desk-store';
import { note, type Subject } from './history';

interface OutputsState {
  outputs: Outputs | null;
  /** The output that is edited, by its id; null means the first. */
  picked: string | null;
  /** Whether the draft holds changes the server does not have yet. */
  unsaved: boolean;
  load: (outputs: Outputs) => void;
  /** Puts other outputs in the place of these; returns the fault in words when they are refused, and changes nothing then. */
  replace: (words: string, next: Outputs, picked?: string, dragKey?: string) => string | null;
  /** Edits one output; edits of one drag are one step. */
  edit: (words: string, id: string, change: (output: Output) => Output, dragKey?: string) => string | null;
  saved: (outputs: Outputs) => void;
}

const subject: Subject<Outputs> = { put: (outputs) => useOutputs.setState({ outputs, unsaved: true }) };

/** The outputs of the shot as this tab edits them. */
export const useOutputs = create<OutputsState>((set, get) => ({
  outputs: null,
  picked: null,
  unsaved: false,
  // A reload goes on with the output that was edited.
  load: (outputs) => set({ outputs, unsaved: false, picked: useDesk.getState().output }),
  replace: (words, next, picked, dragKey) => {
    const { outputs } = get();
    if (!outputs) return null;
    try {
      const parsed = parseOutputs(next);
      if (JSON.stringify(parsed) === JSON.stringify(outputs)) return null;
      set({ outputs: parsed, unsaved: true, picked: picked ?? get().picked });
      note(subject, words, outputs, parsed, dragKey ?? null);
      return null;
    } catch (error) {
      if (error instanceof OutputsError) return error.fault;
      throw error;
    }
  },
  edit: (words, id, change, dragKey) => {
    const { outputs, replace } = get();
    if (!outputs) return null;
    const list = outputs.list.map((o) => (o.id === id ? change(o) : o));
    return replace(words, { ...outputs, list }, undefined, dragKey);
  },
  saved: (outputs) => set((s) => ({ unsaved: s.outputs !== outputs && s.unsaved })),
}));

useOutputs.subscribe(({ picked }, before) => {
  if (picked !== before.picked) useDesk.getState().set({ output: picked });
});

/** The output that is edited; null where a shot has none. */
export const pickedOutput = ({ outputs, picked }: Pick<OutputsState, 'outputs' | 'picked'>): Output | null =>
  outputs?.list.find((o) => o.id === picked) ?? outputs?.list[0] ?? null;

const NOTHING: readonly string[] = [];
/** Layers that the output which is edited writes, by name or family. */
export const writtenLayers = (state: Pick<OutputsState, 'outputs' | 'picked'>): readonly string[] =>
  pickedOutput(state)?.layers ?? NOTHING;
