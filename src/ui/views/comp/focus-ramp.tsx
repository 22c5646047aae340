'use client';

import { scaleLog } from 'd3';
import { type PointerEvent, useRef } from 'react';
import { at, type Entry, type Operation, type Path, sharpBetween, shownIn } from '@/core/comp';
import { useAsk } from '../../state/ask';
import { useDesk } from '../../state/desk-store';
import { settle } from '../../state/history';
import { useRecipe } from '../../state/recipe-store';
import { type Stacked, useStacked } from '../../state/stacking';
import { pathOf, put } from './actions';
import { usePictureTick } from './use-figures';

type Focus = Extract<Operation, { does: 'focus' }>;

/** The focus of an entry, and where it stands: what the entry does, or what is done to it alone. */
function focusOf(entry: Entry | undefined, path: Path): { focus: Focus; base: Path } | null {
  if (!entry) return null;
  if (entry.kind === 'operation')
    return entry.operation.does === 'focus' ? { focus: entry.operation, base: [...path, 'operation'] } : null;
  const i = entry.operations.findIndex((o) => o.does === 'focus');
  return i < 0 ? null : { focus: entry.operations[i] as Focus, base: [...path, 'operations', i] };
}

/** Distances in metres along the picture while a focus is open: what lies where, what is sharp, and the plane in focus, which can be pulled. */
export function FocusRamp() {
  const stacked = useStacked();
  const entry = useDesk((s) => s.entry);
  if (stacked === null || typeof stacked === 'string' || entry === null) return null;
  const path = pathOf(entry);
  const found = focusOf(at(stacked.stack, path) as Entry | undefined, path);
  const isOfA = found && shownIn(stacked.stack).includes(found.focus.film) && found.focus.layer === 'depth';
  return isOfA ? <Ramp stacked={stacked} {...found} /> : null;
}

const [WIDTH, HEIGHT] = [1000, 44];
const metres = (v: number) => (v === Number.POSITIVE_INFINITY ? '∞' : `${Number(v.toPrecision(3))}`);

function Ramp({ stacked, focus, base }: { stacked: Stacked; focus: Focus; base: Path }) {
  const tick = usePictureTick();
  const { answer } = useAsk('depths', {}, { of: tick, afterMs: 300, keep: true });
  const box = useRef<HTMLDivElement>(null);
  const isHeld = useRef(false);
  const height = useRecipe((s) => s.recipe?.size.height ?? 720);
  if (!answer) return null;
  const [low, high] = [Math.min(answer.low, focus.metres) * 0.9, Math.max(answer.high, focus.metres) * 1.1];
  const x = scaleLog([low, high], [0, WIDTH]).clamp(true);
  const bin = scaleLog([answer.low, Math.max(answer.high, answer.low * 1.0001)], [0, answer.bins.length]);
  const most = Math.max(...answer.bins, 1e-9);
  const [near, far] = sharpBetween(focus, height);
  const pullTo = (v: number, drag: boolean) =>
    put('focus distance', [...base, 'metres'], Number(v.toPrecision(4)), stacked.frame, drag);
  const pull = (e: PointerEvent) => {
    const { left, width } = box.current!.getBoundingClientRect();
    pullTo(x.invert(Math.min(1, Math.max(0, (e.clientX - left) / width)) * WIDTH), true);
  };
  const inPercent = (v: number) => `${(x(v) / WIDTH) * 100}%`;
  return (
    <div
      ref={box}
      className="pointer-events-none absolute right-2 bottom-2 left-2 h-[58px] rounded-sm bg-pit/75"
      data-testid="focus-ramp"
    >
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} preserveAspectRatio="none" className="h-[44px] w-full" aria-hidden="true">
        <rect
          x={x(near)}
          width={Math.max(1, x(Math.min(far, high)) - x(near))}
          height={HEIGHT}
          fill="#ececec"
          fillOpacity={0.18}
        />
        {answer.bins.map((n, i) => {
          const [from, to] = [x(bin.invert(i)), x(bin.invert(i + 1))];
          const h = Math.sqrt(n / most) * HEIGHT;
          return <rect key={i} x={from} width={to - from} y={HEIGHT - h} height={h} fill="#b4b4b4" fillOpacity={0.6} />;
        })}
      </svg>
      {x
        .ticks(6)
        .filter((v) => /^[125]/.test(v.toExponential()))
        .map((v) => (
          <span
            key={v}
            className="num absolute bottom-0 -translate-x-1/2 text-[10px] leading-[14px] text-soft"
            style={{ left: inPercent(v) }}
          >
            {metres(v)}
          </span>
        ))}
      <span className="num absolute top-0.5 left-1.5 text-[11px]">
        sharp {metres(near)} to {metres(far)} m
      </span>
      <button
        type="button"
        role="slider"
        aria-label="focus distance in the picture"
        aria-valuenow={focus.metres}
        aria-valuetext={`${metres(focus.metres)} m`}
        className="pointer-events-auto absolute top-0 h-[44px] w-3 -translate-x-1/2 cursor-ew-resize touch-none focus-visible:outline-1"
        style={{ left: inPercent(focus.metres) }}
        onPointerDown={(e) => {
          e.stopPropagation();
          e.currentTarget.setPointerCapture(e.pointerId);
          isHeld.current = true;
        }}
        onPointerMove={(e) => isHeld.current && pull(e)}
        onPointerUp={(e) => {
          e.stopPropagation();
          isHeld.current = false;
          settle();
        }}
        onKeyDown={(e) => {
          const by = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[e.key];
          if (!by) return;
          e.preventDefault();
          e.stopPropagation();
          pullTo(focus.metres * (e.shiftKey ? 1.1 : 1.01) ** by, false);
        }}
      >
        <span className="mx-auto block h-full w-0.5 bg-fill" />
      </button>
    </div>
  );
}
