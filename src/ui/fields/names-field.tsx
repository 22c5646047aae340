'use client';

import { Check, ChevronDown } from 'lucide-react';
import { useState } from 'react';
import { Popover } from '../parts/popover';
import { shortened } from '../state/shortened';
import { TextField } from './text-field';

/** Signs of chosen names that the field holds. */
const MOST_SIGNS = 28;

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
    <Popover
      align="end"
      width="w-60 !p-1"
      trigger={
        <button
          type="button"
          aria-label={label}
          className="flex w-[196px] items-center gap-1 rounded-sm border border-line bg-pit px-1.5 py-[3px] text-left hover:border-soft"
        >
          <span className={`min-w-0 flex-1 ${value.length === 0 ? 'text-dim' : ''}`}>
            {mixed ? '≠ differ' : value.length === 0 ? none : shortened(value.join(', '), MOST_SIGNS)}
          </span>
          <ChevronDown size={12} className="shrink-0" aria-hidden="true" />
        </button>
      }
    >
      <TextField
        label={`search ${label}`}
        placeholder="Search"
        value={search}
        onChange={setSearch}
        className="mb-1 w-full"
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
    </Popover>
  );
}
