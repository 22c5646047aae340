'use client';

import { ChevronDown } from 'lucide-react';
import { useEffect, useState } from 'react';
import { Menu, MenuItem } from '../parts/menu';

/** A word that is typed, or chosen of those there are. */
export function WordsField({
  label,
  value,
  known,
  placeholder,
  onChange,
  width = 'w-[132px]',
}: {
  label: string;
  value: string;
  /** Words there are already. */
  known: readonly string[];
  placeholder?: string;
  /** Returns the fault in words when the word is refused. */
  onChange: (value: string) => string | null;
  width?: string;
}) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  const commit = (typed: string) => {
    const v = typed.trim();
    if (v === '' || v === value || onChange(v) !== null) setText(value);
  };
  return (
    <span className={`flex items-center rounded-sm border border-line bg-pit focus-within:border-soft ${width}`}>
      <input
        aria-label={label}
        value={text}
        placeholder={placeholder}
        className="w-full min-w-0 bg-transparent py-[3px] pl-1.5 outline-none"
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
        onBlur={(e) => commit(e.target.value)}
      />
      <Menu
        align="end"
        trigger={
          <button type="button" aria-label={`${label}: those there are`} className="p-1 text-dim hover:text-ink">
            <ChevronDown size={12} />
          </button>
        }
      >
        {known.map((k) => (
          <MenuItem key={k} onSelect={() => commit(k)}>
            {k}
          </MenuItem>
        ))}
      </Menu>
    </span>
  );
}
