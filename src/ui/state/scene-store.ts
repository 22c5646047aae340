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
import { note, type Subject } from './history';

interface SceneState {
  document: SceneDocument | null;
  /** The document as the server has it. */
  base: SceneDocument | null;
  unsaved: boolean;
  chosen: ItemRef[];
  load: (document: SceneDocument) => void;
  /** Returns the fault in words when the edit is refused, and changes nothing then. Edits that share a key are one drag. */
  edit: (words: string, change: (d: SceneDocument) => SceneDocument, dragKey?: string) => string | null;
  setField: (owners: readonly FieldOwner[], path: string, value: unknown, dragKey?: string) => string | null;
  saved: (document: SceneDocument) => void;
  /** Takes in what another tab saved; names what both changed. */
  rebase: (theirs: SceneDocument) => string[];
  choose: (items: ItemRef[]) => void;
}

/** What of a selection is still there. */
function present(document: SceneDocument, chosen: ItemRef[]): ItemRef[] {
  const kept = chosen.filter((c) => namesOf(document, c.kind).includes(c.name));
  return kept.length === chosen.length ? chosen : kept;
}

const subject: Subject<SceneDocument> = {
  put: (document) => useScene.setState((s) => ({ document, unsaved: true, chosen: present(document, s.chosen) })),
};

/** The draft scene of this tab. */
export const useScene = create<SceneState>((set, get) => ({
  document: null,
  base: null,
  unsaved: false,
  chosen: [],
  load: (document) => set((s) => ({ document, base: document, unsaved: false, chosen: present(document, s.chosen) })),
  edit: (words, change, dragKey) => {
    const { document } = get();
    if (!document) return 'no shot is open';
    let next: SceneDocument;
    try {
      next = change(document);
    } catch (error) {
      return (error as Error).message;
    }
    if (next === document) return null;
    subject.put(next);
    note(subject, words, document, next, dragKey ?? null);
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
  saved: (sent) => set((s) => ({ base: sent, unsaved: s.document !== sent && s.unsaved })),
  rebase: (theirs) => {
    const { document, base } = get();
    if (!document || !base) return [];
    const { document: merged, clashes } = mergeScenes(base, document, theirs);
    const valid = sceneSchema.safeParse(merged);
    // Two edits that do not fit together: this tab's own stays, whole.
    set({ document: valid.success ? merged : document, base: theirs, unsaved: true });
    return valid.success ? clashes : ['the whole scene'];
  },
  choose: (chosen) => set({ chosen }),
}));
