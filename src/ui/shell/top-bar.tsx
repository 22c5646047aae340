'use client';

import { ChevronDown, CircleHelp } from 'lucide-react';
import { bytes } from '@/core/words';
import { Key, Tip } from '../parts/controls';
import { Menu, MenuItem } from '../parts/menu';
import { useDesk } from '../state/desk-store';
import { useHouse } from '../state/house';
import { useCamera, useDocument } from '../state/scene-now';
import { VIEWS, viewNamed } from '../views/registry';
import { FrameField } from './frame-field';
import { ShotMenu } from './shot-menu';

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
  const document = useDocument();
  const camera = useCamera();
  return (
    <Menu
      trigger={
        <button
          type="button"
          data-testid="camera-menu"
          className="flex items-center gap-1.5 rounded-sm px-1 py-0.5 hover:bg-raised"
        >
          <span className="text-dim">camera</span> <span className="num max-w-36 truncate">{camera.name}</span>
          {document.cameras.length > 1 && <ChevronDown size={12} aria-hidden="true" />}
        </button>
      }
    >
      {document.cameras.map((c) => (
        <MenuItem key={c.name} className="num" onSelect={() => useDesk.getState().set({ camera: c.name })}>
          {c.name}
          <span className="opacity-60">
            {c.focalLengthMm.toFixed(0)} mm{c.fStop ? `, f/${c.fStop}` : ''}
          </span>
        </MenuItem>
      ))}
    </Menu>
  );
}

/** Workers that were heard from lately, and the space that films take. */
function House() {
  const house = useHouse();
  if (!house) return null;
  return (
    <>
      <Tip text="Render workers heard from in the last half minute." side="bottom">
        <span className={house.workers === 0 ? 'text-ink underline' : 'text-soft'}>
          {house.workers} {house.workers === 1 ? 'worker' : 'workers'}
        </span>
      </Tip>
      <Tip text="Space that films take, of the budget." side="bottom">
        <span className="num text-soft">{bytes(house.storedBytes)} / 20 GB</span>
      </Tip>
    </>
  );
}

/** Mark, shot and camera; the views; workers, disk, commands, help. */
export function TopBar() {
  const frames = useDocument().frames;
  const view = viewNamed(useDesk((s) => s.view)).name;
  const { set } = useDesk.getState();
  const moving = frames.first !== frames.last;
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
              aria-current={view === v.name ? 'page' : undefined}
              className={`flex items-baseline gap-2 rounded-sm px-3 py-1 ${view === v.name ? 'bg-fill font-semibold text-pit' : 'text-soft hover:text-ink'}`}
              onClick={() => set({ view: v.name, overlay: 'none' })}
            >
              <span className="num text-[11px] opacity-70">{v.key}</span> {v.label}
            </button>
          </Tip>
        ))}
      </nav>
      <House />
      <button
        type="button"
        aria-label="commands"
        className="text-soft hover:text-ink"
        onClick={() => set({ paletteOpen: true })}
      >
        <Key>Ctrl K</Key>
      </button>
      <button
        type="button"
        aria-label="keys"
        className="text-soft hover:text-ink"
        onClick={() => set({ helpOpen: true })}
      >
        <CircleHelp size={16} />
      </button>
    </header>
  );
}
