import { create } from 'zustand';
import {
  type FieldOwner,
  type ItemRef,
  mergeScenes,
  namesOf,
  type SceneDocument,
  sceneSchema,
  withField,
} from '@/core/scene';
import { useHistory } from './history';

interface Step {
  document: SceneDocument;
  /** What the edit that followed was, in words. */
  label: string;
}

interface SceneState {
  document: SceneDocument | null;
  /** The document as the server has it. */
  base: SceneDocument | null;
  unsaved: boolean;
  past: Step[];
  future: Step[];
  chosen: ItemRef[];
  /** Edits that share this key one after another are one step of undo: a drag. */
  dragKey: string | null;
  load: (document: SceneDocument) => void;
  /** Returns the fault in words when the edit is refused, and changes nothing then. */
  edit: (label: string, change: (d: SceneDocument) => SceneDocument, dragKey?: string) => string | null;
  setField: (owners: readonly FieldOwner[], path: string, value: unknown, dragKey?: string) => string | null;
  /** Ends a drag: the next edit is a step of its own. */
  settle: () => void;
  undo: () => void;
  redo: () => void;
  saved: (document: SceneDocument) => void;
  /** Takes in what another tab saved; names what both changed. */
  rebase: (theirs: SceneDocument) => string[];
  choose: (items: ItemRef[]) => void;
}

const MOST_STEPS = 200;

/** What of a selection is still there. */
function present(document: SceneDocument, chosen: ItemRef[]): ItemRef[] {
  const kept = chosen.filter((c) => namesOf(document, c.kind).includes(c.name));
  return kept.length === chosen.length ? chosen : kept;
}

/** The draft scene of this tab, with its own undo. */
export const useScene = create<SceneState>((set, get) => ({
  document: null,
  base: null,
  unsaved: false,
  past: [],
  future: [],
  chosen: [],
  dragKey: null,
  load: (document) =>
    set((s) => ({ document, base: document, unsaved: false, chosen: present(document, s.chosen), dragKey: null })),
  edit: (label, change, dragKey) => {
    const { document, past, dragKey: going } = get();
    if (!document) return 'no shot is open';
    let next: SceneDocument;
    try {
      next = change(document);
    } catch (error) {
      return (error as Error).message;
    }
    if (next === document) return null;
    const goesOn = dragKey !== undefined && dragKey === going;
    if (!goesOn) useHistory.getState().note('scene');
    set((s) => ({
      document: next,
      past: goesOn ? past : [...past, { document, label }].slice(-MOST_STEPS),
      future: [],
      unsaved: true,
      chosen: present(next, s.chosen),
      dragKey: dragKey ?? null,
    }));
    return null;
  },
  setField: (owners, path, value, dragKey) => {
    const what = owners.length === 1 ? owners[0].name : `${owners.length} items`;
    return get().edit(
      `${what}: ${path}`,
      (d) => owners.reduce((doc, owner) => withField(doc, owner, path, value), d),
      dragKey,
    );
  },
  settle: () => set({ dragKey: null }),
  undo: () => {
    const { document, past, future } = get();
    const before = past.at(-1);
    if (!document || !before) return;
    set((s) => ({
      document: before.document,
      past: past.slice(0, -1),
      future: [{ document, label: before.label }, ...future],
      unsaved: true,
      chosen: present(before.document, s.chosen),
      dragKey: null,
    }));
  },
  redo: () => {
    const { document, past, future } = get();
    const next = future[0];
    if (!document || !next) return;
    set((s) => ({
      document: next.document,
      past: [...past, { document, label: next.label }],
      future: future.slice(1),
      unsaved: true,
      chosen: present(next.document, s.chosen),
      dragKey: null,
    }));
  },
  saved: (sent) => set((s) => ({ base: sent, unsaved: s.document !== sent && s.unsaved })),
  rebase: (theirs) => {
    const { document, base } = get();
    if (!document || !base) return [];
    const { document: merged, clashes } = mergeScenes(base, document, theirs);
    const valid = sceneSchema.safeParse(merged);
    // Two edits that do not fit together: this tab's own stays, whole.
    set({ document: valid.success ? merged : document, base: theirs, unsaved: true, dragKey: null });
    return valid.success ? clashes : ['the whole scene'];
  },
  choose: (chosen) => set({ chosen }),
}));
