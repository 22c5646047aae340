'use client';

import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { Tooltip } from 'radix-ui';
import { useEffect, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { Toaster } from 'sonner';
import { ImportDialog } from '../import/import-dialog';
import { droppedFiles, useImport } from '../import/import-store';
import { LadderDialog } from '../ladder/ladder-dialog';
import { SheetDialog } from '../ladder/sheet-dialog';
import { Picture } from '../picture/picture';
import { Rail } from '../picture/rail';
import { useDesk } from '../state/desk-store';
import { useShot } from '../state/shot-store';
import { viewNamed } from '../views/registry';
import { type Command, useCommands } from './commands';
import { Drawer } from './drawer';
import { OpenShot } from './open-shot';
import { Help, Palette } from './palette';
import { TopBar } from './top-bar';

/** The whole page: bar, picture, rail, drawer and the panel of the view. */
export function Workplace() {
  const [queries] = useState(
    () => new QueryClient({ defaultOptions: { queries: { retry: 2, refetchOnWindowFocus: false } } }),
  );
  return (
    <QueryClientProvider client={queries}>
      <Tooltip.Provider delayDuration={450}>
        <OpenShot waiting={(fault) => <Waiting fault={fault} />}>
          <Desk />
        </OpenShot>
        <Toaster
          theme="dark"
          position="bottom-left"
          toastOptions={{
            style: { borderRadius: 2, background: '#2e2e2e', border: '1px solid #383838', color: '#ececec' },
          }}
        />
      </Tooltip.Provider>
    </QueryClientProvider>
  );
}

function Waiting({ fault }: { fault: string | null }) {
  return (
    <main className="flex h-dvh items-center justify-center">
      <p role="status" className="text-soft">
        {fault ? `${fault}. Reload the page, or look at the console of npm start.` : 'Opening the shot'}
      </p>
    </main>
  );
}

function Hotkey({ command }: { command: Command }) {
  const sign = /^[?[\]]$/.test(command.keys ?? '');
  useHotkeys(
    command.keys!,
    (event) => {
      event.preventDefault();
      if (!command.held) command.run();
      else if (!event.repeat) command.held(event.type === 'keydown');
    },
    {
      enableOnFormTags: command.keys === 'mod+k' ? true : ['slider', 'radio'],
      // Signs lie on other keys on other keyboards: they go by what is typed, letters by where they lie.
      useKey: sign,
      ignoreModifiers: sign,
      // Esc that has closed a menu, a list or a popover stops no picture with it.
      ignoreEventWhen: (event) => command.keys === 'esc' && event.defaultPrevented,
      keydown: true,
      keyup: command.held !== undefined,
    },
    [command],
  );
  // A key that goes up in another window is not heard here.
  useEffect(() => {
    const { held } = command;
    if (!held) return;
    const leave = () => held(false);
    window.addEventListener('blur', leave);
    return () => window.removeEventListener('blur', leave);
  }, [command]);
  return null;
}

function Desk() {
  const { name, Panel, Below } = viewNamed(useDesk((s) => s.view));
  const shot = useShot((s) => s.id);
  const [over, setOver] = useState(false);
  const commands = useCommands();
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: files can be dropped anywhere; the menu opens them as well
    <div
      className="relative flex h-dvh flex-col"
      onDragOver={(e) => {
        if (!e.dataTransfer.types.includes('Files')) return;
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={(e) => e.currentTarget === e.target && setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        void droppedFiles(e.dataTransfer).then(useImport.getState().take);
      }}
    >
      {over && (
        <div className="pointer-events-none absolute inset-2 z-50 flex items-center justify-center border-2 border-dashed border-soft bg-pit/70">
          Drop a scene (.glb, .gltf with its files) or pictures
        </div>
      )}
      {commands
        .filter((c) => c.keys)
        .map((c) => (
          <Hotkey key={c.name} command={c} />
        ))}
      <TopBar />
      <div className="flex min-h-0 flex-1">
        <main className="flex min-w-0 flex-1 flex-col">
          <Picture />
          {Below && <Below />}
          <Rail />
          <Drawer />
        </main>
        <aside className="flex w-[400px] shrink-0 flex-col border-l border-line bg-panel" aria-label={name}>
          <Panel />
        </aside>
      </div>
      <ImportDialog shot={shot} />
      <LadderDialog />
      <SheetDialog />
      <Palette commands={commands} />
      <Help commands={commands} />
    </div>
  );
}
