'use client';

import { ChevronsUpDown } from 'lucide-react';
import { type KeyboardEvent, useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';

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
  const shown = value === null ? (off ?? '') : String(value);
  const [text, setText] = useState(shown);
  const [faulty, setFaulty] = useState(false);
  const typing = useRef(false);
  useEffect(() => {
    if (!typing.current) setText(shown);
  }, [shown]);
  const offer = (next: number | null) => {
    const fault = onChange(next);
    setFaulty(fault !== null);
    if (fault) toast.error(`${label}: ${fault}`, { id: label });
    return fault === null;
  };
  const commit = () => {
    typing.current = false;
    const t = text.trim().toLowerCase();
    if (off !== undefined && (t === '' || t === off)) {
      if (!offer(null)) setText(shown);
      return;
    }
    const n = Number(t.replace(',', '.'));
    if (t === '' || !Number.isFinite(n) || !offer(n)) {
      if (t !== shown && (t === '' || !Number.isFinite(n)))
        toast.error(`${label}: “${text}” is not a number`, { id: label });
      setText(shown);
      setFaulty(false);
    }
  };
  const nudge = (up: boolean, double: boolean) => {
    const from = value ?? 0;
    const next = double ? (up ? from * 2 || step : from / 2) : from + (up ? step : -step);
    const whole = Number.isInteger(step) ? (up ? Math.ceil(next) : Math.floor(next)) : Math.round(next * 1000) / 1000;
    typing.current = false;
    if (offer(whole)) setText(String(whole));
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
      event.preventDefault();
      nudge(event.key === 'ArrowUp', event.shiftKey);
    } else if (event.key === 'Enter') commit();
    else if (event.key === 'Escape') {
      event.stopPropagation();
      typing.current = false;
      setText(shown);
      (event.target as HTMLElement).blur();
    }
  };
  return (
    <span
      className={`flex items-center rounded-sm border bg-pit ${faulty ? 'border-ink' : 'border-line'} ${width} focus-within:border-soft`}
    >
      <input
        aria-label={label}
        inputMode="decimal"
        className="num w-full min-w-0 bg-transparent py-[3px] pl-2 text-ink outline-none"
        value={text}
        onChange={(e) => {
          typing.current = true;
          setText(e.target.value);
        }}
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
