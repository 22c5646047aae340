'use client';

import { ChevronDown, CircleHelp } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { Key, Tip } from '../parts/controls';
import { useDesk, type ViewName } from '../state/desk-store';
import { bytes } from '../state/format';
import { useSession } from '../state/session';
import { FrameField } from './frame-field';
import { ShotMenu } from './shot-menu';

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

/** Mark, shot and camera; the views; workers, disk, commands, help. */
export function TopBar() {
  const { data, document } = useSession();
  const desk = useDesk();
  const moving = document.frames.first !== document.frames.last;
  return (
    <header
      className={`flex h-11 shrink-0 items-center border-b border-line px-3.5 whitespace-nowrap ${moving ? 'gap-3' : 'gap-6'}`}
    >
      <span className="flex items-center gap-2 font-semibold">
        <Mark /> <span className={moving ? 'hidden 2xl:inline' : ''}>Zealous Lantern</span>
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
