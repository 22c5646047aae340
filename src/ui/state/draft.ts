import { useEffect } from 'react';
import { toast } from 'sonner';
import type { ShotData } from '@/contract/shot';
import { parseStack } from '@/core/comp';
import { parseMoods } from '@/core/moods';
import { parseOutputs } from '@/core/outputs';
import { type SceneDocument, sceneChanges, sceneSchema } from '@/core/scene';
import { ApiError, api, type DraftChange } from './api';
import { forget } from './history';
import { useMoods } from './moods-store';
import { useOutputs } from './outputs-store';
import { useRecipe } from './recipe-store';
import { useScene } from './scene-store';
import { useStack } from './stack-store';
import { keepUnsent, type Unsent, unsentOf } from './unsent';

/** This tab, told apart from others that save the same draft. */
export const TAB = Math.random().toString(36).slice(2, 10);

const SAVE_AFTER_MS = 500;

/** A document of the shot beside its recipe and scene, as the draft has it. */
interface Beside {
  key: 'outputs' | 'moods' | 'stack';
  /** What this tab has of it; null before it is loaded. */
  own: () => unknown;
  isUnsaved: () => boolean;
  load: (value: unknown) => void;
  /** Puts another in its place, as a step. */
  replace: (value: unknown) => void;
  saved: (value: never) => void;
}
const NOT_SAVED = 'what was not saved yet';
const BESIDE: readonly Beside[] = [
  {
    key: 'outputs',
    own: () => useOutputs.getState().outputs,
    isUnsaved: () => useOutputs.getState().unsaved,
    load: (value) => useOutputs.getState().load(parseOutputs(value)),
    replace: (value) => useOutputs.getState().replace(NOT_SAVED, parseOutputs(value)),
    saved: (value) => useOutputs.getState().saved(value),
  },
  {
    key: 'moods',
    own: () => useMoods.getState().moods,
    isUnsaved: () => useMoods.getState().unsaved,
    load: (value) => useMoods.getState().load(parseMoods(value)),
    replace: (value) => useMoods.getState().replace(NOT_SAVED, parseMoods(value)),
    saved: (value) => useMoods.getState().saved(value),
  },
  {
    key: 'stack',
    own: () => useStack.getState().stack,
    isUnsaved: () => useStack.getState().unsaved,
    load: (value) => useStack.getState().load(parseStack(value)),
    replace: (value) => useStack.getState().replace(NOT_SAVED, parseStack(value)),
    saved: (value) => useStack.getState().saved(value),
  },
];

let saving: Promise<void> | null = null;

/** Puts this tab's edits on top of what another tab saved meanwhile, and says what both changed. */
function takeOver(newer: ShotData['draft'], revision: SceneDocument): void {
  useRecipe.setState({ version: newer.version });
  for (const b of BESIDE) if (!b.isUnsaved()) b.load(newer[b.key]);
  const theirs = newer.scene ? sceneSchema.parse(newer.scene) : revision;
  const scene = useScene.getState();
  if (!scene.unsaved) {
    scene.load(theirs);
    const own = BESIDE.some((b) => b.isUnsaved()) ? 'Recipe, outputs, moods or stack were' : 'The recipe was';
    toast.info(`${own} changed in another tab too; this tab’s are kept. Undo goes back.`);
    return;
  }
  const mine = scene.document!;
  // What this tab sent when it was last left may arrive after it has been opened again.
  if (sceneChanges(theirs, mine).length === 0) {
    scene.load(theirs);
    return;
  }
  const clashes = scene.rebase(theirs);
  if (clashes.length === 0) {
    toast.info('Another tab changed the scene too; both sets of changes are in.');
    return;
  }
  toast.warning(`Another tab changed ${clashes.slice(0, 3).join(', ')} too. This tab’s values are kept.`, {
    duration: 20000,
    action: {
      label: 'Take the other tab’s',
      onClick: () => useScene.getState().edit('take the other tab’s scene', (d) => (d === mine ? d : theirs)),
    },
  });
}

/** Saves what the server does not have yet; resolves when all of it is there. */
export async function saveDraftNow(shot: string): Promise<void> {
  await saving?.catch(() => {});
  for (let turn = 0; turn < 4; turn++) {
    const { version } = useRecipe.getState();
    const change = unsavedChange();
    if (!change) return;
    try {
      saving = send(shot, version, change);
      await saving;
      return;
    } catch (error) {
      if (!(error instanceof ApiError) || error.status !== 409) throw error;
      const newer = error.limits as ShotData['draft'];
      const { revision } = await api.revision(newer.revision);
      takeOver(newer, sceneSchema.parse(revision.document));
    } finally {
      saving = null;
    }
  }
}

/** What the server does not have yet; null where it has all. */
function unsavedChange(): DraftChange | null {
  const [recipe, scene] = [useRecipe.getState(), useScene.getState()];
  if (!recipe.recipe || !scene.document || BESIDE.some((b) => b.own() === null)) return null;
  const beside = BESIDE.filter((b) => b.isUnsaved());
  if (!recipe.unsaved && !scene.unsaved && beside.length === 0) return null;
  return {
    recipe: recipe.unsaved ? recipe.recipe : undefined,
    scene: scene.unsaved ? scene.document : undefined,
    ...Object.fromEntries(beside.map((b) => [b.key, b.own()])),
  };
}

async function send(shot: string, version: number, change: DraftChange): Promise<void> {
  const { recipe, scene } = change;
  const saved = await api.saveDraft(shot, version, { ...change, by: TAB });
  if (scene) useScene.getState().saved(scene);
  for (const b of BESIDE) if (change[b.key] !== undefined) b.saved(change[b.key] as never);
  const now = useRecipe.getState().recipe;
  useRecipe.getState().saved(saved.version, recipe ?? now!);
}

/** Takes up what the page could not send when it was left, if nobody has saved since. */
function takeUnsent(shot: string, version: number): void {
  const kept: Unsent | null = unsentOf(shot);
  if (!kept || kept.version !== version) return;
  const { recipe, scene } = kept;
  for (const b of BESIDE) if (kept[b.key] !== undefined) b.replace(kept[b.key]);
  if (scene) useScene.getState().edit(NOT_SAVED, () => scene);
  if (recipe) useRecipe.getState().replace(recipe);
}

/** Loads the draft when it is newer than what this tab has, and saves this tab's edits a moment after each. */
export function useDraft(shot: string | undefined, data: ShotData | undefined): void {
  const recipe = useRecipe((s) => s.recipe);
  const unsaved = useRecipe((s) => s.unsaved);
  const document = useScene((s) => s.document);
  const sceneUnsaved = useScene((s) => s.unsaved);
  const outputs = useOutputs((s) => s.outputs);
  const outputsUnsaved = useOutputs((s) => s.unsaved);
  const moods = useMoods((s) => s.moods);
  const moodsUnsaved = useMoods((s) => s.unsaved);
  const stack = useStack((s) => s.stack);
  const stackUnsaved = useStack((s) => s.unsaved);
  useEffect(() => {
    if (!data) return;
    const { draft, revision } = data;
    const own = useRecipe.getState();
    const scene = useScene.getState();
    const isUnsaved = own.unsaved || scene.unsaved || BESIDE.some((b) => b.isUnsaved());
    const newer = draft.version > own.version && !isUnsaved;
    if (own.recipe && scene.document && BESIDE.every((b) => b.own() !== null) && !newer) return;
    const theirs = draft.scene ?? revision.document;
    if (scene.document && newer) toast.info('Taken over from another tab.', { id: 'taken-over' });
    if (!own.recipe || newer) own.load(draft.recipe, draft.version);
    if (!scene.document || newer) scene.load(theirs);
    for (const b of BESIDE) if (b.own() === null || newer) b.load(draft[b.key]);
    if (scene.document) return;
    forget();
    takeUnsent(data.shot.id, draft.version);
  }, [data]);
  useEffect(() => {
    if (!shot || !recipe || !document || !outputs || !moods || !stack) return;
    if (!unsaved && !sceneUnsaved && !outputsUnsaved && !moodsUnsaved && !stackUnsaved) return;
    let again: ReturnType<typeof setTimeout> | undefined;
    const save = () =>
      saveDraftNow(shot).catch((error) => {
        // A server that is away for a while gets it later.
        if (error instanceof ApiError && (error.status === 0 || error.status === 503)) again = setTimeout(save, 3000);
        else toast.error((error as Error).message);
      });
    const timer = setTimeout(save, SAVE_AFTER_MS);
    return () => {
      clearTimeout(timer);
      clearTimeout(again);
    };
  }, [
    shot,
    recipe,
    unsaved,
    document,
    sceneUnsaved,
    outputs,
    outputsUnsaved,
    moods,
    moodsUnsaved,
    stack,
    stackUnsaved,
  ]);
  useEffect(() => {
    if (!shot) return;
    // What is not saved when the page goes is sent by the browser on its own.
    const leave = () => {
      const { version } = useRecipe.getState();
      const change = unsavedChange();
      if (!change) return;
      // Browsers send no more than 64 kB on the way out; the shot opened again takes it from what is kept here.
      keepUnsent({ shot, version, ...change });
      void fetch(`/api/shots/${shot}/draft`, {
        method: 'PATCH',
        keepalive: true,
        headers: { 'content-type': 'application/json', 'if-match': String(version) },
        body: JSON.stringify({ ...change, by: TAB }),
      }).catch(() => {});
    };
    window.addEventListener('pagehide', leave);
    return () => window.removeEventListener('pagehide', leave);
  }, [shot]);
}
