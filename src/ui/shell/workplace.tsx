'use client';

import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { Tooltip } from 'radix-ui';
import { useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { Toaster } from 'sonner';
import { BalancePanel } from '../balance/balance-panel';
import { NoiseTime } from '../charts/noise-time';
import { Logbook } from '../logbook/logbook';
import { Picture } from '../picture/picture';
import { Rail } from '../picture/rail';
import { SplitPanel } from '../split/split-panel';
import { useDesk } from '../state/desk-store';
import { SessionProvider } from '../state/session';
import { TunePanel } from '../tune/tune-panel';
import { type Command, useCommands } from './commands';
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
        <SessionProvider waiting={(fault) => <Waiting fault={fault} />}>
          <Desk />
        </SessionProvider>
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
        {fault ? `${fault}. Reload the page, or look at the console of npm start.` : 'Opening the shot…'}
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
      command.run();
    },
    {
      enableOnFormTags: command.keys === 'mod+k' ? true : ['slider', 'radio'],
      // Signs lie on other keys on other keyboards: they go by what is typed, letters by where they lie.
      useKey: sign,
      ignoreModifiers: sign,
    },
    [command],
  );
  return null;
}

function Desk() {
  const view = useDesk((s) => s.view);
  const commands = useCommands();
  return (
    <div className="flex h-dvh flex-col">
      {commands
        .filter((c) => c.keys)
        .map((c) => (
          <Hotkey key={c.name} command={c} />
        ))}
      <TopBar />
      <div className="flex min-h-0 flex-1">
        <main className="flex min-w-0 flex-1 flex-col">
          <Picture />
          <Rail />
          <div className="flex h-[208px] shrink-0">
            <Logbook />
            <NoiseTime />
          </div>
        </main>
        <aside className="flex w-[400px] shrink-0 flex-col border-l border-line bg-panel" aria-label={view}>
          {view === 'tune' ? <TunePanel /> : view === 'split' ? <SplitPanel /> : <BalancePanel />}
        </aside>
      </div>
      <Palette commands={commands} />
      <Help commands={commands} />
    </div>
  );
}
