'use client';

import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { Primary } from './controls';

/** Asks for a name; `onName` gets it trimmed, and never empty. */
export function NameDialog({
  title,
  label,
  action,
  initial,
  most,
  onName,
  onClose,
}: {
  title: string;
  label: string;
  action: string;
  initial: string;
  most: number;
  onName: (name: string) => void;
  onClose: () => void;
}) {
  const [name, setName] = useState(initial);
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/50" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-1/3 left-1/2 z-50 w-80 -translate-x-1/2 rounded-sm border border-line bg-panel p-4 shadow-xl"
        >
          <Dialog.Title className="font-semibold">{title}</Dialog.Title>
          <form
            className="mt-3 flex gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              if (name.trim()) onName(name.trim());
            }}
          >
            <input
              aria-label={label}
              className="min-w-0 flex-1 rounded-sm border border-line bg-pit px-2 py-1 outline-none focus:border-soft"
              value={name}
              maxLength={most}
              onChange={(e) => setName(e.target.value)}
            />
            <Primary type="submit">{action}</Primary>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
