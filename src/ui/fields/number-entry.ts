import { type KeyboardEvent, useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';

interface Entry {
  label: string;
  value: number | null;
  /** Returns the fault in words when the value is refused. */
  onChange: (value: number | null) => string | null;
  step: number;
  /** Written for null; without it null is not possible. */
  off?: string;
  /** How a number is written; as it is without it. */
  write?: (value: number) => string;
}

/** A number as it is typed, stepped by arrow keys (Shift doubles or halves), and put back by Esc. */
export function useNumberEntry({ label, value, onChange, step, off, write = String }: Entry) {
  const shown = value === null ? (off ?? '') : write(value);
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
    if (t === shown.toLowerCase()) return;
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
    if (offer(whole)) setText(write(whole));
  };
  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
      event.preventDefault();
      nudge(event.key === 'ArrowUp', event.shiftKey);
    } else if (event.key === 'Enter') commit();
    else if (event.key === 'Escape') {
      event.stopPropagation();
      typing.current = false;
      setText(shown);
      event.currentTarget.blur();
    }
  };
  const type = (next: string) => {
    typing.current = true;
    setText(next);
  };
  return { text, faulty, type, commit, nudge, onKeyDown };
}
