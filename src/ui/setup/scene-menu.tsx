'use client';

import { useQuery } from '@tanstack/react-query';
import { ChevronDown } from 'lucide-react';
import { Dialog, DropdownMenu } from 'radix-ui';
import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import { sceneChanges, sceneSchema } from '@/core/scene';
import { Plain } from '../parts/controls';
import { api } from '../state/api';
import { saveDraftNow } from '../state/draft';
import { useScene } from '../state/scene-store';
import { tell, useSession } from '../state/session';

const ITEM = 'cursor-pointer rounded-sm px-2 py-1 outline-none data-[highlighted]:bg-fill data-[highlighted]:text-pit';

/** Brings a file to the user's disk. */
function save(bytes: Blob, name: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(bytes);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10000);
}

/** The scene as a whole: saved where, revisions, out as a file. */
export function SceneMenu() {
  const { data, document: scene, client } = useSession();
  const unsaved = useScene((s) => s.unsaved);
  const [open, setOpen] = useState(false);
  const from = data.revision.document;
  const changes = useMemo(() => sceneChanges(from, scene), [from, scene]);
  const exportGlb = async () => {
    try {
      const bytes = await client.measure<ArrayBuffer>({ type: 'measure', what: 'glb', document: scene });
      save(new Blob([bytes], { type: 'model/gltf-binary' }), `${data.shot.name}.glb`);
    } catch (error) {
      tell(error);
    }
  };
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          className="flex items-center gap-1 rounded-sm px-1 py-0.5 hover:bg-raised"
          data-testid="scene-menu"
        >
          Scene
          <span className="num text-[11px] text-dim">
            revision {data.revision.number}
            {changes.length > 0 ? ` + ${changes.length} ${changes.length === 1 ? 'change' : 'changes'}` : ''}
            {unsaved ? ' · saving' : ''}
          </span>
          <ChevronDown size={12} aria-hidden="true" />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="start"
            className="z-40 min-w-56 rounded-sm border border-line bg-panel p-1 shadow-xl"
          >
            <DropdownMenu.Item className={ITEM} onSelect={() => setOpen(true)}>
              Revisions…
            </DropdownMenu.Item>
            <DropdownMenu.Item
              className={ITEM}
              disabled={changes.length === 0}
              onSelect={() => useScene.getState().edit('back to the revision', () => data.revision.document)}
            >
              Back to revision {data.revision.number}
            </DropdownMenu.Item>
            <DropdownMenu.Item className={ITEM} onSelect={() => void exportGlb()}>
              Take away as GLB
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {open && <Revisions changes={changes} onClose={() => setOpen(false)} />}
    </>
  );
}

function Revisions({ changes, onClose }: { changes: string[]; onClose: () => void }) {
  const { data } = useSession();
  const list = useQuery({ queryKey: ['revisions', data.shot.id], queryFn: () => api.revisions(data.shot.id) });
  const goTo = async (id: string, number: number) => {
    try {
      await saveDraftNow(data.shot.id);
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
    <Dialog.Root open onOpenChange={(o) => !o && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/50" />
        <Dialog.Content className="fixed top-1/2 left-1/2 z-50 flex max-h-[80vh] w-[560px] -translate-x-1/2 -translate-y-1/2 flex-col rounded-sm border border-line bg-panel shadow-2xl">
          <Dialog.Title className="border-b border-line px-5 py-3 font-semibold">
            Scene revisions of {data.shot.name}
          </Dialog.Title>
          <Dialog.Description className="px-5 pt-3 text-dim">
            Logging a trial freezes the scene as a revision. Going back to one is one step of undo; nothing is lost.
          </Dialog.Description>
          <ol className="min-h-0 flex-1 overflow-y-auto px-5 py-3">
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
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
