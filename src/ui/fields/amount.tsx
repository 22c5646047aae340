'use client';

import { type PointerEvent, useRef } from 'react';
import { useNumberEntry } from './number-entry';

/** Pixels of a drag that are a step. */
const PIXELS_A_STEP = 3;

/** At most four digits after the point, and none that say nothing. */
const plainly = (v: number): string => String(Number(v.toFixed(4)));

/**
 * A number in a sentence: typed, stepped by arrow keys (Shift doubles or halves), or dragged sideways. `keyed`: whether it is set at frames, then it
 * is underlined whole. K keys it.
 */
export function Amount({
  label,
  value,
  onChange,
  onSettled,
  onKey,
  step,
  least,
  most,
  off,
  keyed = false,
}: {
  label: string;
  value: number | null;
  /** Returns the fault in words when the value is refused; `drag`: more of the same comes. */
  onChange: (value: number | null, drag: boolean) => string | null;
  onSettled: () => void;
  onKey?: () => void;
  step: number;
  least: number;
  most: number;
  off?: string;
  keyed?: boolean;
}) {
  const entry = useNumberEntry({ label, value, step, off, write: plainly, onChange: (v) => onChange(v, false) });
  const drag = useRef<{ x: number; from: number; moved: boolean } | null>(null);
  const onPointerDown = (e: PointerEvent<HTMLInputElement>) => {
    if (e.button !== 0 || document.activeElement === e.currentTarget) return;
    drag.current = { x: e.clientX, from: value ?? 0, moved: false };
    e.currentTarget.setPointerCapture(e.pointerId);
    e.preventDefault();
  };
  const onPointerMove = (e: PointerEvent) => {
    const { current } = drag;
    if (!current) return;
    const steps = Math.trunc((e.clientX - current.x) / PIXELS_A_STEP);
    if (steps === 0 && !current.moved) return;
    current.moved = true;
    const next = Math.min(most, Math.max(least, current.from + steps * step));
    onChange(Number(next.toFixed(6)), true);
  };
  const onPointerUp = (e: PointerEvent<HTMLInputElement>) => {
    const { current } = drag;
    drag.current = null;
    if (!current) return;
    if (current.moved) onSettled();
    else e.currentTarget.focus();
  };
  return (
    <input
      aria-label={label}
      inputMode="decimal"
      className={`num cursor-ew-resize rounded-none border-b bg-transparent px-0.5 text-center text-ink outline-none hover:border-ink focus:cursor-text focus:border-ink focus:bg-pit ${keyed ? 'border-solid border-ink' : 'border-dashed border-dim'} ${entry.faulty ? 'border-ink' : ''}`}
      style={{ width: `${Math.max(2, entry.text.length) + 1}ch` }}
      value={entry.text}
      onChange={(e) => entry.type(e.target.value)}
      onFocus={(e) => e.target.select()}
      onBlur={entry.commit}
      onKeyDown={(e) => {
        if (e.key.toLowerCase() === 'k' && onKey && !e.ctrlKey && !e.metaKey && !e.altKey) {
          e.preventDefault();
          onKey();
        } else entry.onKeyDown(e);
      }}
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
    />
  );
}
