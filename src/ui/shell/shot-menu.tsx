'use client';

import { ChevronDown } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useState } from 'react';
import { emptyShot, lightGroups } from '@/core/scene';
import { useImport } from '../import/import-store';
import { NameDialog } from '../parts/name-dialog';
import { api } from '../state/api';
import { saveDraftNow } from '../state/draft';
import { tell, useSession } from '../state/session';

/** Opens another shot, once what was changed of this one is saved. */
async function openShot(shot: string, name: string): Promise<void> {
  try {
    await saveDraftNow(shot);
    window.location.assign(`?shot=${encodeURIComponent(name)}`);
  } catch (error) {
    tell(error);
  }
}

/** A shot with a ball, a floor, a lamp and a camera, to begin from. */
async function newShot(shot: string, names: string[]): Promise<void> {
  try {
    await saveDraftNow(shot);
    let name = 'new shot';
    for (let n = 2; names.includes(name); n++) name = `new shot ${n}`;
    const { hash } = await api.putContent(new Uint8Array(0));
    const document = emptyShot(name);
    await api.addShot(name, { ...document, geometry: { ...document.geometry, hash } });
    window.location.assign(`?shot=${encodeURIComponent(name)}`);
  } catch (error) {
    tell(error);
  }
}

const ITEM =
  'cursor-pointer rounded-sm px-2 py-1 outline-none data-[highlighted]:bg-fill data-[highlighted]:text-pit data-[disabled]:opacity-45';

/** Gives the shot another name, and opens it under that. */
async function rename(shot: string, name: string): Promise<void> {
  try {
    await saveDraftNow(shot);
    const renamed = await api.editShot(shot, { name });
    window.location.assign(`?shot=${encodeURIComponent(renamed.name)}`);
  } catch (error) {
    tell(error);
  }
}

/** Takes a shot out of the list; another is opened. */
async function takeOut(shot: string, name: string, names: string[]): Promise<void> {
  try {
    await saveDraftNow(shot);
    await api.editShot(shot, { removed: true });
    window.location.assign(`?shot=${encodeURIComponent(names.find((n) => n !== name)!)}`);
  } catch (error) {
    tell(error);
  }
}

async function putBack(shot: string, { id, name }: { id: string; name: string }): Promise<void> {
  try {
    await api.editShot(id, { removed: false });
    await openShot(shot, name);
  } catch (error) {
    tell(error);
  }
}

/** The shots: open one, make or bring in another, rename this one, take it out of the list or put one back. */
export function ShotMenu() {
  const { data, document, shots, removedShots } = useSession();
  const [renaming, setRenaming] = useState(false);
  const { number } = data.revision;
  return (
    <>
      {renaming && (
        <NameDialog
          title="Name of the shot"
          label="name of the shot"
          action="Rename"
          initial={data.shot.name}
          most={120}
          onName={(name) => (name === data.shot.name ? setRenaming(false) : void rename(data.shot.id, name))}
          onClose={() => setRenaming(false)}
        />
      )}
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          data-testid="shot"
          className="flex items-center gap-1.5 rounded-sm px-1 py-0.5 hover:bg-raised"
        >
          <span className="text-dim">shot</span> <span className="num">{data.shot.name}</span>
          <ChevronDown size={12} aria-hidden="true" />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="start"
            className="z-40 min-w-40 rounded-sm border border-line bg-panel p-1 shadow-xl"
          >
            {shots.map((name) => (
              <DropdownMenu.Item
                key={name}
                onSelect={() => void openShot(data.shot.id, name)}
                className={`num ${ITEM}`}
              >
                {name}
              </DropdownMenu.Item>
            ))}
            <DropdownMenu.Separator className="my-1 h-px bg-line" />
            <DropdownMenu.Item onSelect={() => void useImport.getState().open()} className={ITEM}>
              Bring in a file…
            </DropdownMenu.Item>
            <DropdownMenu.Item onSelect={() => void newShot(data.shot.id, shots)} className={ITEM}>
              New shot
            </DropdownMenu.Item>
            <DropdownMenu.Item onSelect={() => setRenaming(true)} className={ITEM}>
              Rename…
            </DropdownMenu.Item>
            <DropdownMenu.Item
              disabled={shots.length < 2}
              onSelect={() => void takeOut(data.shot.id, data.shot.name, shots)}
              className={ITEM}
            >
              Take out of the list
            </DropdownMenu.Item>
            {removedShots.length > 0 && (
              <>
                <DropdownMenu.Separator className="my-1 h-px bg-line" />
                {removedShots.map((s) => (
                  <DropdownMenu.Item key={s.id} onSelect={() => void putBack(data.shot.id, s)} className={ITEM}>
                    Put back <span className="num">{s.name}</span>
                  </DropdownMenu.Item>
                ))}
              </>
            )}
            <p className="mt-1 border-t border-line px-2 pt-1.5 pb-1 text-[11px] text-dim">
              {`scene revision ${number} · ${document.objects.length} objects · ${lightGroups(document).length} light groups`}
            </p>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </>
  );
}
