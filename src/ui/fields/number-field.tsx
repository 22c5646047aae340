'use client';

import { ChevronsUpDown } from 'lucide-react';
import { useNumberEntry } from './number-entry';

interface Props {
  label: string;
  value: number | null;
  /** Returns the fault in words when the value is refused. */
  onChange: (value: number | null) => string | null;
  step?: number;
  /** Written for null; without it null is not possible. */
  off?: string;
  width?: string;
  suffix?: string;
}

/** A number that can be typed, stepped by arrow keys (Shift doubles or halves) or scrolled when focused. */
export function NumberField({ label, value, onChange, step = 1, off, width = 'w-[76px]', suffix }: Props) {
  const { text, faulty, type, commit, nudge, onKeyDown } = useNumberEntry({ label, value, onChange, step, off });
  return (
    <span
      className={`flex items-center rounded-sm border bg-pit ${faulty ? 'border-ink' : 'border-line'} ${width} focus-within:border-soft`}
    >
      <input
        aria-label={label}
        inputMode="decimal"
        className="num w-full min-w-0 bg-transparent py-[3px] pl-2 text-ink outline-none"
        value={text}
        onChange={(e) => type(e.target.value)}
        onFocus={(e) => e.target.select()}
        onBlur={commit}
        onKeyDown={onKeyDown}
      />
      {suffix && <span className="num pr-1 pl-0.5 text-dim">{suffix}</span>}
      <button
        type="button"
        tabIndex={-1}
        aria-hidden="true"
        className="px-1 py-1 text-dim hover:text-ink"
        onClick={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          nudge(e.clientY < box.top + box.height / 2, e.shiftKey);
        }}
      >
        <ChevronsUpDown size={11} />
      </button>
    </span>
  );
}
