'use client';

import type { Compare } from '../state/desk-store';
import { useViewport, type Wipe } from '../state/viewport-store';
import { sideOfB } from './wipe';

/** What of B is seen over A, as a CSS clip path of its box in pixels. */
export function clipOfB(compare: Compare, bTurn: boolean, parting: Wipe, width: number, height: number): string {
  if (compare === 'beside' || (compare === 'turns' && bTurn)) return 'none';
  if (compare !== 'wipe') return 'inset(0 0 0 100%)';
  const corners = sideOfB(parting, width, height);
  return corners.length < 3
    ? 'inset(0 0 0 100%)'
    : `polygon(${corners.map(([x, y]) => `${x.toFixed(2)}px ${y.toFixed(2)}px`).join(',')})`;
}

/** Pixels from the middle of the line to the grip that turns it. */
const TURN_AT = 62;
const clamp = (v: number) => Math.max(0, Math.min(1, v));

/** The line between A and B: its middle moves it, a grip on it turns it. */
export function WipeLine({ width, height }: { width: number; height: number }) {
  const parting = useViewport((s) => s.parting);
  const set = useViewport.setState;
  const { x, y, degrees } = parting;
  const long = Math.hypot(width, height) * 2;
  return (
    <div className="pointer-events-none absolute inset-0 overflow-hidden">
      <div
        className="absolute h-0 w-0"
        style={{ left: `${x * 100}%`, top: `${y * 100}%`, transform: `rotate(${degrees}deg)` }}
      >
        <div className="absolute w-[1.5px] -translate-x-1/2 bg-white/85" style={{ top: -long / 2, height: long }} />
        <button
          type="button"
          data-wipe="move"
          role="slider"
          aria-label="wipe between A and B"
          aria-valuenow={Math.round(x * 100)}
          aria-valuemin={0}
          aria-valuemax={100}
          className="pointer-events-auto absolute -top-3.5 -left-[7px] h-7 w-3.5 cursor-move rounded-sm bg-pit ring-1 ring-white/50"
          onKeyDown={(e) => {
            const dx = e.key === 'ArrowLeft' ? -0.02 : e.key === 'ArrowRight' ? 0.02 : 0;
            const dy = e.key === 'ArrowUp' ? -0.02 : e.key === 'ArrowDown' ? 0.02 : 0;
            if (!dx && !dy) return;
            e.preventDefault();
            set({ parting: { ...parting, x: clamp(x + dx), y: clamp(y + dy) } });
          }}
        >
          <span data-wipe="move" className="mx-auto block h-3 w-[5px] border-x border-white/80" />
        </button>
        <button
          type="button"
          data-wipe="turn"
          role="slider"
          aria-label="angle of the wipe, in degrees"
          title="Turns the line; Shift keeps to steps of 15°"
          aria-valuenow={degrees}
          aria-valuemin={-180}
          aria-valuemax={180}
          className="pointer-events-auto absolute -left-[5px] h-2.5 w-2.5 cursor-grab rounded-full bg-pit ring-1 ring-white/70"
          style={{ top: TURN_AT - 5 }}
          onKeyDown={(e) => {
            const by =
              e.key === 'ArrowLeft' || e.key === 'ArrowUp'
                ? -5
                : e.key === 'ArrowRight' || e.key === 'ArrowDown'
                  ? 5
                  : 0;
            if (!by) return;
            e.preventDefault();
            set({ parting: { ...parting, degrees: ((degrees + by + 540) % 360) - 180 } });
          }}
        />
      </div>
    </div>
  );
}
