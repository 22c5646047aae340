'use client';

import { useState } from 'react';
import { toast } from 'sonner';
import { isKept, kept, type Moods } from '@/core/moods';
import { TextField } from '../../fields/text-field';
import { Plain, Primary } from '../../parts/controls';
import { Popover } from '../../parts/popover';
import { useMoods } from '../../state/moods-store';
import { newMoodId } from './actions';

/** Keeps the mix at hand under a name: a new mood, or another mix of one. */
export function KeepMood({ moods, disabled }: { moods: Moods; disabled: boolean }) {
  const mood = moods.list.find((m) => m.id === moods.now.mood);
  const [open, setOpen] = useState(false);
  const [name, setName] = useState('');
  const known = moods.list.find((m) => m.name === name.trim());
  const keep = () => {
    const own = name.trim();
    const fault = useMoods
      .getState()
      .replace(known ? `another mix of ${own}` : `mood ${own}`, kept(moods, own, newMoodId()));
    if (fault) toast.error(fault);
    else setOpen(false);
  };
  return (
    <Popover
      side="top"
      width="w-64"
      open={open}
      onOpenChange={(next) => {
        setName(mood && !isKept(moods) ? mood.name : '');
        setOpen(next);
      }}
      trigger={<Plain disabled={disabled}>Keep as a mood</Plain>}
    >
      <form
        onSubmit={(e) => {
          e.preventDefault();
          keep();
        }}
      >
        <TextField label="Name of the mood" value={name} most={60} onChange={setName} placeholder="Night watch" />
        <p className="my-2 text-dim">
          {known
            ? `${known.name} gets this mix; what it was before stays with it.`
            : 'It stays with the shot, whatever is rendered next.'}
        </p>
        <Primary type="submit" disabled={!name.trim()}>
          {known ? 'Change the mood' : 'Keep the mood'}
        </Primary>
      </form>
    </Popover>
  );
}
