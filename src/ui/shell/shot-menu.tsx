'use client';

import { useQuery } from '@tanstack/react-query';
import { ChevronDown } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { emptyShot } from '@/core/scene';
import { bytes } from '@/core/words';
import { useImport } from '../import/import-store';
import { Menu, MenuItem, MenuLine } from '../parts/menu';
import { NameDialog } from '../parts/name-dialog';
import { takeFile } from '../parts/save-file';
import { api } from '../state/api';
import { saveDraftNow } from '../state/draft';
import { useDocument, useSceneGroups } from '../state/scene-now';
import { useShot } from '../state/shot-store';
import { tell } from '../state/tell';

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

/** Takes the shot along as one file: with all of its content, as it is now. */
async function takeAlong(shot: string): Promise<void> {
  try {
    await saveDraftNow(shot);
    takeFile(`/api/shots/${shot}/package.tar`);
  } catch (error) {
    tell(error);
  }
}

/** Asks for a packed shot, brings it in, and opens it. */
function bringShot(shot: string): void {
  const input = Object.assign(document.createElement('input'), { type: 'file', accept: '.tar' });
  input.onchange = async () => {
    const [tar] = input.files ?? [];
    if (!tar) return;
    const telling = toast.loading(`Bringing in ${tar.name}, ${bytes(tar.size)}`);
    try {
      await saveDraftNow(shot);
      const { name } = await api.bringShot(tar);
      window.location.assign(`?shot=${encodeURIComponent(name)}`);
    } catch (error) {
      tell(error);
    } finally {
      toast.dismiss(telling);
    }
  };
  input.click();
}

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
  const { id, name, revision } = useShot();
  const [renaming, setRenaming] = useState(false);
  return (
    <>
      {renaming && (
        <NameDialog
          title="Name of the shot"
          label="name of the shot"
          action="Rename"
          initial={name}
          most={120}
          onName={(n) => (n === name ? setRenaming(false) : void rename(id, n))}
          onClose={() => setRenaming(false)}
        />
      )}
      <Menu
        trigger={
          <button
            type="button"
            data-testid="shot"
            className="flex items-center gap-1.5 rounded-sm px-1 py-0.5 hover:bg-raised"
          >
            <span className="text-dim">shot</span> <span className="num">{name}</span>
            <ChevronDown size={12} aria-hidden="true" />
          </button>
        }
      >
        <Shots id={id} name={name} onRename={() => setRenaming(true)} />
        <About revision={revision} />
      </Menu>
    </>
  );
}

function Shots({ id, name, onRename }: { id: string; name: string; onRename: () => void }) {
  const { data } = useQuery({ queryKey: ['shots'], queryFn: api.shots });
  const names = data?.shots.map((s) => s.name) ?? [];
  return (
    <>
      {names.map((n) => (
        <MenuItem key={n} className="num" onSelect={() => void openShot(id, n)}>
          {n}
        </MenuItem>
      ))}
      <MenuLine />
      <MenuItem onSelect={() => void useImport.getState().open()}>Bring in a file</MenuItem>
      <MenuItem onSelect={() => bringShot(id)}>Bring in a packed shot (.tar)</MenuItem>
      <MenuItem onSelect={() => void newShot(id, names)}>New shot</MenuItem>
      <MenuItem onSelect={() => void takeAlong(id)}>Take the shot along (.tar)</MenuItem>
      <MenuItem onSelect={onRename}>Rename</MenuItem>
      <MenuItem disabled={names.length < 2} onSelect={() => void takeOut(id, name, names)}>
        Take out of the list
      </MenuItem>
      {data && data.removed.length > 0 && <MenuLine />}
      {data?.removed.map((s) => (
        <MenuItem key={s.id} onSelect={() => void putBack(id, s)}>
          <span>
            Put back <span className="num">{s.name}</span>
          </span>
        </MenuItem>
      ))}
    </>
  );
}

function About({ revision }: { revision: number }) {
  const objects = useDocument().objects.length;
  const groups = useSceneGroups().length;
  return (
    <p className="mt-1 border-t border-line px-2 pt-1.5 pb-1 text-[11px] text-dim">
      {`scene revision ${revision} · ${objects} objects · ${groups} light groups`}
    </p>
  );
}
