'use client';

import { Tabs as Radix } from 'radix-ui';
import type { ReactNode } from 'react';
import { Tip } from './controls';

interface Tab {
  name: string;
  label: string;
  tip: string;
  disabled?: boolean;
}

/** Words of which one is chosen, with its body below: arrow keys go from one to the next. */
export function Tabs({
  label,
  tabs,
  value,
  onChange,
  beside,
  before,
  listClass = '',
  children,
}: {
  /** What the words are of. */
  label: string;
  tabs: readonly Tab[];
  value: string;
  onChange: (name: string) => void;
  /** At the left and right end of the row of words. */
  before?: ReactNode;
  beside?: ReactNode;
  listClass?: string;
  /** The body of the one that is chosen. */
  children: ReactNode;
}) {
  return (
    <Radix.Root
      value={value}
      onValueChange={onChange}
      className="flex min-h-0 flex-1 flex-col"
      activationMode="automatic"
    >
      <div className={`flex shrink-0 items-center ${listClass}`}>
        {before}
        <Radix.List className="flex gap-0.5" aria-label={label}>
          {tabs.map((t) => (
            <Tip key={t.name} text={t.tip}>
              <Radix.Trigger
                value={t.name}
                disabled={t.disabled}
                className="rounded-sm px-1.5 py-0.5 text-soft hover:text-ink aria-selected:bg-fill aria-selected:text-pit disabled:opacity-45"
              >
                {t.label}
              </Radix.Trigger>
            </Tip>
          ))}
        </Radix.List>
        {beside}
      </div>
      <Radix.Content value={value} tabIndex={-1} className="flex min-h-0 flex-1 flex-col outline-none">
        {children}
      </Radix.Content>
    </Radix.Root>
  );
}
