import { useEffect } from 'react';
import { toast } from 'sonner';
import type { ShotData } from '@/contract/shot';
import { parseMoods } from '@/core/moods';
import { parseOutputs } from '@/core/outputs';
import { type SceneDocument, sceneChanges, sceneSchema } from '@/core/scene';
import { ApiError, api, type DraftChange } from './api';
import { forget } from './history';
import { useMoods } from './moods-store';
import { useOutputs } from './outputs-store';
import { useRecipe } from './recipe-store';
import { useScene } from './scene-store';

import { keepUnsent, type Unsent, unsentOf } from './unsent';

/** This tab, told apart from others that save the same draft. */
export const TAB = Math.random().toString(36).slice(2, 10);

const SAVE_AFTER_MS = 500;
let saving: Promise<void> | null = null;

/** Puts this tab's edits on top of what another tab saved meanwhile, and says what both changed. */
function takeOver(newer: ShotData['draft'], revision: SceneDocument): void {
  useRecipe.setState({ version: newer.version });
  if (!useOutputs.getState().unsaved) useOutputs.getState().load(parseOutputs(newer.outputs));
  if (!useMoods.getState().unsaved) useMoods.getState().load(parseMoods(newer.moods));
  const theirs = newer.scene ? sceneSchema.parse(newer.scene) : revision;
  const scene = useScene.getState();
  if (!scene.unsaved) {
    scene.load(theirs);
    const isMore = useOutputs.getState().unsaved || useMoods.getState().unsaved;
    const own = isMore ? 'Recipe, outputs or moods were' : 'The recipe was';
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
  const [outputs, moods] = [useOutputs.getState(), useMoods.getState()];
  if (!recipe.recipe || !scene.document || !outputs.outputs || !moods.moods) return null;
  if (!recipe.unsaved && !scene.unsaved && !outputs.unsaved && !moods.unsaved) return null;
  return {
    recipe: recipe.unsaved ? recipe.recipe : undefined,
    scene: scene.unsaved ? scene.document : undefined,
    outputs: outputs.unsaved ? outputs.outputs : undefined,
    moods: moods.unsaved ? moods.moods : undefined,
  };
}

async function send(shot: string, version: number, change: DraftChange): Promise<void> {
  const { recipe, scene, outputs, moods } = change;
  const saved = await api.saveDraft(shot, version, { ...change, by: TAB });
  if (scene) useScene.getState().saved(scene);
  if (outputs) useOutputs.getState().saved(outputs);
  if (moods) useMoods.getState().saved(moods);
  const now = useRecipe.getState().recipe;
  useRecipe.getState().saved(saved.version, recipe ?? now!);
}

/** Takes up what the page could not send when it was left, if nobody has saved since. */
function takeUnsent(shot: string, version: number): void {
  const kept: Unsent | null = unsentOf(shot);
  if (!kept || kept.version !== version) return;
  const { recipe, scene, outputs, moods } = kept;
  if (moods) useMoods.getState().replace('what was not saved yet', moods);
  if (outputs) useOutputs.getState().replace('what was not saved yet', outputs);
  if (scene) useScene.getState().edit('what was not saved yet', () => scene);
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
  useEffect(() => {
    if (!data) return;
    const { draft, revision } = data;
    const own = useRecipe.getState();
    const scene = useScene.getState();
    const outputs = useOutputs.getState();
    const moods = useMoods.getState();
    const isUnsaved = own.unsaved || scene.unsaved || outputs.unsaved || moods.unsaved;
    const newer = draft.version > own.version && !isUnsaved;
    if (own.recipe && scene.document && outputs.outputs && moods.moods && !newer) return;
    const theirs = draft.scene ?? revision.document;
    if (scene.document && newer) toast.info('Taken over from another tab.', { id: 'taken-over' });
    if (!own.recipe || newer) own.load(draft.recipe, draft.version);
    if (!scene.document || newer) scene.load(theirs);
    if (!outputs.outputs || newer) outputs.load(parseOutputs(draft.outputs));
    if (!moods.moods || newer) moods.load(parseMoods(draft.moods));
    if (scene.document) return;
    forget();
    takeUnsent(data.shot.id, draft.version);
  }, [data]);
  useEffect(() => {
    if (!shot || !recipe || !document || !outputs || !moods) return;
    if (!unsaved && !sceneUnsaved && !outputsUnsaved && !moodsUnsaved) return;
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
  }, [shot, recipe, unsaved, document, sceneUnsaved, outputs, outputsUnsaved, moods, moodsUnsaved]);
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
