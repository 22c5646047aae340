'use client';

import { useEffect, useState } from 'react';
import { Tip, Word } from '../parts/controls';
import { type Compare, useDesk } from '../state/desk-store';
import { isAgainstB } from '../state/overlays';

const WAYS: { way: Compare; label: string; tip: string }[] = [
  { way: 'wipe', label: 'wipe', tip: 'A line parts A and B: drag its middle to move it, its end to turn it (X)' },
  { way: 'beside', label: 'beside', tip: 'A on the left, B on the right, at one zoom and pan (Shift X)' },
  { way: 'turns', label: 'turns', tip: 'A and B by turns in one place: what differs flickers' },
  { way: 'a', label: 'A alone', tip: 'A without B' },
];

/** How A and B are shown. */
export function CompareStrip() {
  const { compare, overlay, set } = useDesk();
  const against = isAgainstB(overlay);
  return (
    <div className="absolute right-3 bottom-3 flex bg-pit/90 p-0.5" role="toolbar" aria-label="A and B">
      {WAYS.map(({ way, label, tip }) => (
        <Tip key={way} text={tip}>
          <Word
            on={!against && compare === way}
            onPointerDown={(e) => e.stopPropagation()}
            onClick={() => set({ compare: way, ...(against ? { overlay: 'none' } : {}) })}
          >
            {label}
          </Word>
        </Tip>
      ))}
    </div>
  );
}

const TURN_MS = 700;

/** Whether it is B's turn, while A and B are shown by turns. */
export function useTurns(on: boolean): boolean {
  const [b, setB] = useState(false);
  useEffect(() => {
    setB(false);
    if (!on) return;
    const timer = setInterval(() => setB((v) => !v), TURN_MS);
    return () => clearInterval(timer);
  }, [on]);
  return b;
}
