'use client';

import { ChevronDown, CircleHelp } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { emptyShot, lightGroups } from '@/core/scene';
import { useImport } from '../import/import-store';
import { Key, Tip } from '../parts/controls';
import { api } from '../state/api';
import { useDesk, type ViewName } from '../state/desk-store';
import { saveDraftNow } from '../state/draft';
import { bytes } from '../state/format';
import { tell, useSession } from '../state/session';

const VIEWS: { name: ViewName; key: string; label: string; tip: string }[] = [
  {
    name: 'setup',
    key: '1',
    label: 'Set-up',
    tip: 'Bring a scene in, place and match lights, expose, give surfaces, ask why it is dark.',
  },
  { name: 'tune', key: '2', label: 'Tune', tip: 'Set the recipe, log trials, compare noise and time.' },
  { name: 'split', key: '3', label: 'Split', tip: 'Look at every layer, check that parts add up, take them away.' },
  { name: 'balance', key: '4', label: 'Balance', tip: 'Relight a finished film by its light groups.' },
];

function Mark() {
  return (
    <svg
      viewBox="0 0 24 24"
      width="22"
      height="22"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.5"
      strokeLinecap="round"
      strokeLinejoin="round"
      aria-hidden="true"
    >
      <path d="M6 8.5 12 4l6 4.5M7.5 8.5h9v8h-9zM5 20h14M7 16.5 6 20M17 16.5l1 3.5" />
      <circle cx="12" cy="12.5" r="1.9" fill="var(--color-a)" stroke="none" />
    </svg>
  );
}

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

function ShotMenu() {
  const { data, document, shots } = useSession();
  const { number } = data.revision;
  return (
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
              className="num cursor-pointer rounded-sm px-2 py-1 outline-none data-[highlighted]:bg-fill data-[highlighted]:text-pit"
            >
              {name}
            </DropdownMenu.Item>
          ))}
          <DropdownMenu.Separator className="my-1 h-px bg-line" />
          <DropdownMenu.Item
            onSelect={() => void useImport.getState().open()}
            className="cursor-pointer rounded-sm px-2 py-1 outline-none data-[highlighted]:bg-fill data-[highlighted]:text-pit"
          >
            Bring in a file…
          </DropdownMenu.Item>
          <DropdownMenu.Item
            onSelect={() => void newShot(data.shot.id, shots)}
            className="cursor-pointer rounded-sm px-2 py-1 outline-none data-[highlighted]:bg-fill data-[highlighted]:text-pit"
          >
            New shot
          </DropdownMenu.Item>
          <p className="mt-1 border-t border-line px-2 pt-1.5 pb-1 text-[11px] text-dim">
            {`scene revision ${number} · ${document.objects.length} objects · ${lightGroups(document).length} light groups`}
          </p>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function CameraMenu() {
  const { document, camera } = useSession();
  const desk = useDesk();
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        data-testid="camera-menu"
        title={`${camera.focalLengthMm.toFixed(0)} mm${camera.fStop ? `, f/${camera.fStop}` : ''}, exposed by ${camera.exposure.stops} stops`}
        className="flex items-center gap-1.5 rounded-sm px-1 py-0.5 hover:bg-raised"
      >
        <span className="text-dim">camera</span> <span className="num max-w-28 truncate">{camera.name}</span>
        {document.cameras.length > 1 && <ChevronDown size={12} aria-hidden="true" />}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          className="z-40 min-w-40 rounded-sm border border-line bg-panel p-1 shadow-xl"
        >
          {document.cameras.map((c) => (
            <DropdownMenu.Item
              key={c.name}
              onSelect={() => desk.set({ camera: c.name })}
              className="num cursor-pointer rounded-sm px-2 py-1 outline-none data-[highlighted]:bg-fill data-[highlighted]:text-pit"
            >
              {c.name} <span className="opacity-60">{c.focalLengthMm.toFixed(0)} mm</span>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

/** The frame looked at, scrubbed or typed; shots of one frame have none. */
function FrameField() {
  const { document, frame } = useSession();
  const desk = useDesk();
  const { first, last, perSecond } = document.frames;
  if (first === last) return null;
  return (
    <Tip text={`Frames ${first} to ${last} at ${perSecond} a second.`} side="bottom">
      <label className="flex items-center gap-1.5">
        <span className="text-dim">frame</span>
        <input
          type="range"
          aria-label="frame"
          min={first}
          max={last}
          step={1}
          value={frame}
          onChange={(e) => desk.set({ frame: Number(e.target.value) })}
          className="h-1 w-20 accent-[#e8e8e8]"
        />
        <span className="num w-6" data-testid="frame">
          {frame}
        </span>
      </label>
    </Tip>
  );
}

/** Mark, shot and camera; the views; workers, disk, commands, help. */
export function TopBar() {
  const { data } = useSession();
  const desk = useDesk();
  return (
    <header className="flex h-11 shrink-0 items-center gap-6 border-b border-line px-3.5">
      <span className="flex items-center gap-2 font-semibold">
        <Mark /> Zealous Lantern
      </span>
      <ShotMenu />
      <CameraMenu />
      <FrameField />
      <nav className="mx-auto flex gap-1" aria-label="Views">
        {VIEWS.map((v) => (
          <Tip key={v.name} text={v.tip} side="bottom">
            <button
              type="button"
              aria-current={desk.view === v.name ? 'page' : undefined}
              className={`flex items-baseline gap-2 rounded-sm px-3 py-1 ${desk.view === v.name ? 'bg-fill font-semibold text-pit' : 'text-soft hover:text-ink'}`}
              onClick={() => desk.set({ view: v.name, overlay: 'none' })}
            >
              <span className="num text-[11px] opacity-70">{v.key}</span> {v.label}
            </button>
          </Tip>
        ))}
      </nav>
      <Tip text="Render workers heard from in the last half minute." side="bottom">
        <span className={data.workers === 0 ? 'text-ink underline' : 'text-soft'}>
          {data.workers} {data.workers === 1 ? 'worker' : 'workers'}
        </span>
      </Tip>
      <Tip text="Space that films take, of the budget." side="bottom">
        <span className="num text-soft">{bytes(data.storedBytes)} / 20 GB</span>
      </Tip>
      <button
        type="button"
        aria-label="commands"
        className="text-soft hover:text-ink"
        onClick={() => desk.set({ paletteOpen: true })}
      >
        <Key>Ctrl K</Key>
      </button>
      <button
        type="button"
        aria-label="keys"
        className="text-soft hover:text-ink"
        onClick={() => desk.set({ helpOpen: true })}
      >
        <CircleHelp size={16} />
      </button>
    </header>
  );
}
