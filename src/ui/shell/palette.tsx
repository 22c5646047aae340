'use client';

import { Command as Cmdk } from 'cmdk';
import { Key } from '../parts/controls';
import { Dialog } from '../parts/dialog';
import { useDesk } from '../state/desk-store';
import { type Command, SECTIONS } from './commands';

/** Every command by name. */
export function Palette({ commands }: { commands: Command[] }) {
  const open = useDesk((s) => s.paletteOpen);
  const { set } = useDesk.getState();
  return (
    <Dialog title="Commands" place="list" header={null} open={open} onClose={() => set({ paletteOpen: false })}>
      <Cmdk label="Commands">
        <Cmdk.Input
          placeholder="What to do"
          className="w-full border-b border-line bg-transparent px-3.5 py-2.5 text-[14px] outline-none placeholder:text-dim"
        />
        <Cmdk.List className="max-h-80 overflow-y-auto p-1">
          <Cmdk.Empty className="px-3 py-3 text-soft">No command of that name.</Cmdk.Empty>
          {SECTIONS.map((s) => (
            <Cmdk.Group
              key={s}
              heading={s}
              className="[&_[cmdk-group-heading]]:px-2.5 [&_[cmdk-group-heading]]:pt-1.5 [&_[cmdk-group-heading]]:text-dim"
            >
              {commands
                .filter((c) => c.section === s)
                .map((c) => (
                  <Cmdk.Item
                    key={c.name}
                    value={c.name}
                    className="flex cursor-pointer justify-between rounded-sm px-2.5 py-1 data-[selected=true]:bg-fill data-[selected=true]:text-pit"
                    onSelect={() => {
                      set({ paletteOpen: false });
                      c.run();
                    }}
                  >
                    <span>
                      {c.name}
                      {c.detail && <span className="opacity-70"> · {c.detail}</span>}
                    </span>
                    {c.shown && <Key>{c.shown}</Key>}
                  </Cmdk.Item>
                ))}
            </Cmdk.Group>
          ))}
        </Cmdk.List>
      </Cmdk>
    </Dialog>
  );
}

/** All keys. */
export function Help({ commands }: { commands: Command[] }) {
  const open = useDesk((s) => s.helpOpen);
  return (
    <Dialog title="Keys" place="page" open={open} onClose={() => useDesk.getState().set({ helpOpen: false })}>
      <div className="columns-2 gap-8">
        {SECTIONS.map((s) => (
          <section key={s} className="break-inside-avoid pb-3">
            <h3 className="text-dim">{s}</h3>
            {commands
              .filter((c) => c.section === s && c.shown)
              .map((c) => (
                <p key={c.name} className="flex justify-between py-0.5">
                  {c.name} <Key>{c.shown}</Key>
                </p>
              ))}
          </section>
        ))}
      </div>
      <p className="border-t border-line pt-3 text-soft">
        In a number: ↑ ↓ step by one, with Shift they double and halve. In the logbook: a click shows a trial in A, with
        Alt in B; a double click takes its recipe. The wheel zooms, dragging moves the picture.
      </p>
    </Dialog>
  );
}
