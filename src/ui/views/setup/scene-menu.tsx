'use client';

import { useQuery } from '@tanstack/react-query';
import { ChevronDown } from 'lucide-react';
import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import { sceneChanges, sceneSchema } from '@/core/scene';
import { Plain } from '../../parts/controls';
import { Dialog } from '../../parts/dialog';
import { Menu, MenuItem } from '../../parts/menu';
import { saveFile } from '../../parts/save-file';
import { api } from '../../state/api';
import { useClient } from '../../state/client';
import { saveDraftNow } from '../../state/draft';
import { useDocument } from '../../state/scene-now';
import { useScene } from '../../state/scene-store';
import { useShot } from '../../state/shot-store';
import { tell } from '../../state/tell';

/** The scene as a whole: saved where, revisions, out as a file. */
export function SceneMenu() {
  const scene = useDocument();
  const client = useClient();
  const { id, name: shot, revision: number } = useShot();
  const unsaved = useScene((s) => s.unsaved);
  const [open, setOpen] = useState(false);
  const from = useQuery({ queryKey: ['shot', id], queryFn: () => api.shot(id) }).data?.revision.document;
  const changes = useMemo(() => (from ? sceneChanges(from, scene) : []), [from, scene]);
  const exportGlb = async () => {
    try {
      const bytes = await client.ask('glb', { document: scene });
      saveFile(new Blob([bytes], { type: 'model/gltf-binary' }), `${shot}.glb`);
    } catch (error) {
      tell(error);
    }
  };
  return (
    <>
      <Menu
        width="min-w-56"
        trigger={
          <button
            type="button"
            className="flex items-center gap-1 rounded-sm px-1 py-0.5 hover:bg-raised"
            data-testid="scene-menu"
          >
            Scene
            <span className="num text-[11px] text-dim">
              revision {number}
              {changes.length > 0 ? ` + ${changes.length} ${changes.length === 1 ? 'change' : 'changes'}` : ''}
              {unsaved ? ' · saving' : ''}
            </span>
            <ChevronDown size={12} aria-hidden="true" />
          </button>
        }
      >
        <MenuItem onSelect={() => setOpen(true)}>Revisions</MenuItem>
        <MenuItem
          disabled={changes.length === 0}
          onSelect={() => from && useScene.getState().edit('back to the revision', () => from)}
        >
          Back to revision {number}
        </MenuItem>
        <MenuItem onSelect={() => void exportGlb()}>Take away as GLB</MenuItem>
      </Menu>
      {open && <Revisions changes={changes} onClose={() => setOpen(false)} />}
    </>
  );
}

function Revisions({ changes, onClose }: { changes: string[]; onClose: () => void }) {
  const { id: shotId, name: shot } = useShot();
  const list = useQuery({ queryKey: ['revisions', shotId], queryFn: () => api.revisions(shotId) });
  const goTo = async (id: string, number: number) => {
    try {
      await saveDraftNow(shotId);
      const { revision } = await api.revision(id);
      useScene.getState().edit(`revision ${number}`, () => sceneSchema.parse(revision.document));
      toast(`The scene is that of revision ${number}. Ctrl Z goes back.`);
      onClose();
    } catch (error) {
      tell(error);
    }
  };
  const compare = async (id: string, number: number) => {
    try {
      const { revision } = await api.revision(id);
      const words = sceneChanges(sceneSchema.parse(revision.document), useScene.getState().document!);
      toast(
        words.length === 0
          ? `The same as revision ${number}.`
          : `Since revision ${number}: ${words.slice(0, 8).join('; ')}`,
        {
          duration: 12000,
        },
      );
    } catch (error) {
      tell(error);
    }
  };
  return (
    <Dialog title={`Scene revisions of ${shot}`} place="form" onClose={onClose} className="flex max-h-[80vh] flex-col">
      <p className="text-dim">
        Logging a trial freezes the scene as a revision. Going back to one is one step of undo; nothing is lost.
      </p>
      <ol className="min-h-0 flex-1 overflow-y-auto py-3">
        {changes.length > 0 && (
          <li className="border-b border-line py-2">
            <span className="font-semibold">Draft</span>
            <p className="text-soft">
              {changes.slice(0, 6).join('; ')}
              {changes.length > 6 ? ` and ${changes.length - 6} more` : ''}
            </p>
          </li>
        )}
        {list.data?.revisions.map((r) => (
          <li key={r.id} className="flex items-start gap-3 border-b border-line py-2">
            <span className="num w-8 shrink-0 font-semibold">{r.number}</span>
            <span className="min-w-0 flex-1">
              <span className="text-soft">
                {r.words.length > 0 ? r.words.slice(0, 4).join('; ') : 'as it was brought in'}
              </span>
              {r.words.length > 4 && <span className="text-dim"> and {r.words.length - 4} more</span>}
              <br />
              <span className="num text-[11px] text-dim">
                {new Date(r.createdAt).toLocaleString('en-GB')} · {r.trials} {r.trials === 1 ? 'trial' : 'trials'}
              </span>
            </span>
            <Plain onClick={() => void compare(r.id, r.number)}>Compare</Plain>
            <Plain onClick={() => void goTo(r.id, r.number)}>Return to it</Plain>
          </li>
        ))}
      </ol>
    </Dialog>
  );
}
