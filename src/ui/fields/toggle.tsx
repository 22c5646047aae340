'use client';

import { Switch } from 'radix-ui';

/** On or off. */
export function Toggle({ label, on, onChange }: { label: string; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <Switch.Root
      aria-label={label}
      checked={on}
      onCheckedChange={onChange}
      className="relative h-[17px] w-[30px] shrink-0 rounded-full border border-dim bg-pit data-[state=checked]:border-fill data-[state=checked]:bg-fill"
    >
      <Switch.Thumb className="block h-[11px] w-[11px] translate-x-[2px] rounded-full bg-dim transition-transform data-[state=checked]:translate-x-[15px] data-[state=checked]:bg-pit" />
    </Switch.Root>
  );
}
