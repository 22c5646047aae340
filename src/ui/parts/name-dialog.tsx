'use client';

import { useState } from 'react';
import { TextField } from '../fields/text-field';
import { Primary } from './controls';
import { Dialog } from './dialog';

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
    <Dialog title={title} place="question" onClose={onClose}>
      <form
        className="flex gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim()) onName(name.trim());
        }}
      >
        <TextField label={label} value={name} most={most} onChange={setName} className="min-w-0 flex-1" />
        <Primary type="submit">{action}</Primary>
      </form>
    </Dialog>
  );
}
