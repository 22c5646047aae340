'use client';

import { Check, ChevronDown } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useState } from 'react';

/** Several names out of many. */
export function NamesField({
  label,
  none,
  value,
  mixed,
  options,
  onChange,
}: {
  label: string;
  /** Written when no name is chosen. */
  none: string;
  value: string[];
  mixed?: boolean;
  options: string[];
  onChange: (value: string[]) => void;
}) {
  const [search, setSearch] = useState('');
  const found = options.filter((o) => o.toLowerCase().includes(search.toLowerCase())).slice(0, 200);
  const toggle = (name: string) => onChange(value.includes(name) ? value.filter((v) => v !== name) : [...value, name]);
  return (
    <Popover.Root>
      <Popover.Trigger
        aria-label={label}
        className="flex w-[196px] items-center gap-1 rounded-sm border border-line bg-pit px-1.5 py-[3px] text-left hover:border-soft"
      >
        <span className={`min-w-0 flex-1 truncate ${value.length === 0 ? 'text-dim' : ''}`}>
          {mixed ? '≠ differ' : value.length === 0 ? none : value.join(', ')}
        </span>
        <ChevronDown size={12} aria-hidden="true" />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          className="z-40 w-60 rounded-sm border border-line bg-panel p-1 shadow-xl"
          onKeyDown={(e) => e.stopPropagation()}
        >
          <input
            aria-label={`search ${label}`}
            placeholder="Search"
            value={search}
            onChange={(e) => setSearch(e.target.value)}
            className="mb-1 w-full rounded-sm border border-line bg-pit px-2 py-1 outline-none focus:border-soft"
          />
          <div className="max-h-64 overflow-y-auto" role="listbox" aria-label={label} aria-multiselectable="true">
            {found.map((name) => (
              <button
                key={name}
                type="button"
                role="option"
                aria-selected={value.includes(name)}
                onClick={() => toggle(name)}
                className="flex w-full items-center gap-2 rounded-sm px-2 py-1 text-left hover:bg-raised"
              >
                <Check size={12} className={value.includes(name) ? '' : 'opacity-0'} aria-hidden="true" />
                <span className="truncate">{name}</span>
              </button>
            ))}
            {found.length === 0 && <p className="px-2 py-1 text-dim">Nothing of that name.</p>}
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
