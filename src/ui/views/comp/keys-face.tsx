'use client';

import { scaleLinear } from 'd3';
import { type PointerEvent, useEffect, useRef, useState } from 'react';
import { type Keyed, keyedValues, movedKey, type Path, unkeyedAt, valueAt, withAt } from '@/core/comp';
import { NumberField } from '../../fields/number-field';
import { Word } from '../../parts/controls';
import { useDesk } from '../../state/desk-store';
import { settle } from '../../state/history';
import { useDocument } from '../../state/scene-now';
import { useScene } from '../../state/scene-store';
import { type Stacked, useStacked, useStackFrames } from '../../state/stacking';
import { change, pathText } from './actions';
import { pathWords } from './words';

const [WIDE, HIGH] = [1000, 24];

/** Goes to a frame: the live picture of a shot of several goes with it, anything else stays as it is. */
function go(frame: number): void {
  const { a, set } = useDesk.getState();
  const frames = useScene.getState().document?.frames;
  if (a.kind === 'live' && frames && frames.first < frames.last) set({ frame, stackFrame: null });
  else set({ stackFrame: frame });
}

/** Numbers of the stack that are set at frames: their keys, what goes between them, and the frame that is looked at. */
export function KeysFace() {
  const stacked = useStacked();
  if (stacked === null || typeof stacked === 'string')
    return <p className="px-3 py-2 text-soft">Put the live picture or a finished trial into A.</p>;
  return <Keys stacked={stacked} />;
}

function Keys({ stacked }: { stacked: Stacked }) {
  const { document, frame } = stacked;
  const { first, last } = useStackFrames();
  const scene = useDocument();
  const isStill = scene.frames.first === scene.frames.last;
  const keyed = keyedValues(document);
  return (
    <div className="flex min-h-0 flex-1 flex-col px-3 pb-1.5" data-testid="stack-keys">
      <div className="flex shrink-0 items-center gap-3 pb-1">
        <Play first={first} last={last} perSecond={scene.frames.perSecond} />
        <span className="num">frame {frame}</span>
        <span className="flex-1 text-dim">
          {keyed.length === 0
            ? 'Nothing is set at frames. K in a number, or the word “key” beside it, sets it at this frame.'
            : ''}
        </span>
        {isStill && (
          <span className="flex items-center gap-1.5 text-soft">
            over a still: frames {first} to
            <NumberField
              label="last frame of the stack"
              value={last}
              width="w-[64px]"
              onChange={(v) => {
                if (v === null || !Number.isInteger(v) || v <= first) return `a whole number above ${first}`;
                change(`frames to ${v}`, (s) => ({ ...s, frames: { first, last: v } }));
                return null;
              }}
            />
          </span>
        )}
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto">
        <Lane label="" first={first} last={last} frame={frame} onGo={go}>
          {null}
        </Lane>
        {keyed.map(({ path, keyed: own }) => (
          <KeyLane key={pathText(path)} stacked={stacked} path={path} keyed={own} first={first} last={last} />
        ))}
      </div>
    </div>
  );
}

/** Steps through the frames at the shot's rate, leaving out those for which there is no time. */
function Play({ first, last, perSecond }: { first: number; last: number; perSecond: number }) {
  const [on, setOn] = useState(false);
  useEffect(() => {
    if (!on) return;
    const since = performance.now();
    const timer = setInterval(() => {
      const passed = Math.floor(((performance.now() - since) / 1000) * perSecond);
      go(first + (passed % (last - first + 1)));
    }, 1000 / perSecond);
    return () => clearInterval(timer);
  }, [on, first, last, perSecond]);
  return (
    <Word on={on} onClick={() => setOn(!on)}>
      {on ? 'stop' : 'play'}
    </Word>
  );
}

/** A line over the frames, with the frame that is looked at. */
function Lane({
  label,
  first,
  last,
  frame,
  onGo,
  beside,
  children,
}: {
  label: string;
  first: number;
  last: number;
  frame: number;
  onGo?: (frame: number) => void;
  beside?: React.ReactNode;
  children: React.ReactNode;
}) {
  return (
    <div className="flex items-center gap-2 py-px">
      <span className="flex w-64 shrink-0 items-center justify-end gap-2 text-[11.5px] text-soft">
        <span className="truncate">{label}</span>
        {beside}
      </span>
      <div className="relative h-6 min-w-0 flex-1 bg-pit">
        {children}
        {onGo && (
          <>
            <span className="num pointer-events-none absolute inset-y-0 left-1 text-[11px] leading-6 text-dim">
              {first}
            </span>
            <span className="num pointer-events-none absolute inset-y-0 right-1 text-[11px] leading-6 text-dim">
              {last}
            </span>
            <input
              type="range"
              aria-label="frame of the stack"
              min={first}
              max={last}
              step={1}
              value={frame}
              className="absolute inset-0 m-0 h-full w-full cursor-col-resize opacity-0"
              onChange={(e) => onGo(Number(e.target.value))}
            />
          </>
        )}
        <span
          className="pointer-events-none absolute inset-y-0 w-px bg-ink"
          style={{ left: `${((frame - first) / (last - first)) * 100}%` }}
        />
      </div>
    </div>
  );
}

const numberOf = (v: unknown): number => (typeof v === 'number' ? v : Array.isArray(v) ? Number(v[0]) : 0);

/** What is keyed, in words: the entry, and what of it. */
function labelOf({ stack }: Stacked, path: Path): string {
  const of = path[0] === 'entries' ? pathWords(stack, path) : path.slice(1, 2).join('');
  const what = path.filter(
    (p) =>
      typeof p === 'string' &&
      !['entries', 'operation', 'operations', 'masks', 'pictures', 'of', 'place', 'source'].includes(p),
  );
  return `${of} · ${(path[0] === 'entries' ? what : what.slice(1)).join(' ')}`;
}

function KeyLane({
  stacked,
  path,
  keyed,
  first,
  last,
}: {
  stacked: Stacked;
  path: Path;
  keyed: Keyed;
  first: number;
  last: number;
}) {
  const strip = useRef<HTMLDivElement>(null);
  const dragged = useRef<{ from: number; now: number } | null>(null);
  const label = labelOf(stacked, path);
  const { frame } = stacked;
  const frames = Array.from({ length: last - first + 1 }, (_, i) => first + i);
  const values = frames.map((f) => numberOf(valueAt(keyed, f)));
  const y = scaleLinear([Math.min(...values), Math.max(...values)], [HIGH - 3, 3]);
  const line = values.map((v, i) => `${i === 0 ? 'M' : 'L'}${(i / (frames.length - 1)) * WIDE} ${y(v)}`).join('');
  const move = (from: number, to: number, drag: boolean) =>
    change(`key of frame ${from} at ${to}`, (s) => movedKey(s, path, from, to), drag ? pathText(path) : undefined);
  const onPointerMove = (e: PointerEvent) => {
    const { current } = dragged;
    if (!current) return;
    const { left, width } = strip.current!.getBoundingClientRect();
    const to = Math.round(first + Math.min(1, Math.max(0, (e.clientX - left) / width)) * (last - first));
    if (to === current.now || keyed.keys.some((k) => k.frame === to)) return;
    move(current.now, to, true);
    dragged.current = { ...current, now: to };
  };
  return (
    <Lane
      label={label}
      first={first}
      last={last}
      frame={frame}
      beside={
        <Word
          on={keyed.ease === true}
          aria-label={`${label} eased`}
          className="!py-0 text-[11px]"
          onClick={() => change(keyed.ease ? 'evenly' : 'eased', (s) => withAt(s, [...path, 'ease'], !keyed.ease))}
        >
          eased
        </Word>
      }
    >
      <div
        ref={strip}
        className="absolute inset-0"
        onPointerMove={onPointerMove}
        onPointerUp={() => {
          if (!dragged.current) return;
          if (dragged.current.from === dragged.current.now) go(dragged.current.now);
          dragged.current = null;
          settle();
        }}
      >
        <svg
          viewBox={`0 0 ${WIDE} ${HIGH}`}
          preserveAspectRatio="none"
          className="absolute inset-0 h-full w-full"
          role="img"
          aria-label={`${label} from ${values[0].toPrecision(3)} to ${values.at(-1)!.toPrecision(3)}`}
        >
          <path d={line} fill="none" stroke="#b4b4b4" vectorEffect="non-scaling-stroke" />
        </svg>
        {keyed.keys.map((k) => (
          <button
            key={k.frame}
            type="button"
            aria-label={`key of ${label} at frame ${k.frame}`}
            className={`absolute top-0 h-3 w-[7px] -translate-x-1/2 touch-none rounded-b-sm border border-pit ${k.frame === frame ? 'bg-fill' : 'bg-soft hover:bg-ink'}`}
            style={{ left: `${((k.frame - first) / (last - first)) * 100}%` }}
            onPointerDown={(e) => {
              strip.current!.setPointerCapture(e.pointerId);
              dragged.current = { from: k.frame, now: k.frame };
            }}
            onKeyDown={(e) => {
              const by = e.key === 'ArrowLeft' ? -1 : e.key === 'ArrowRight' ? 1 : 0;
              const to = k.frame + by;
              if (e.key === 'Delete') change(`no key at ${k.frame}`, (s) => unkeyedAt(s, path, k.frame));
              else if (e.key === 'Enter') go(k.frame);
              else if (by !== 0 && to >= first && to <= last && !keyed.keys.some((o) => o.frame === to))
                move(k.frame, to, false);
              else return;
              e.preventDefault();
              e.stopPropagation();
            }}
          />
        ))}
      </div>
    </Lane>
  );
}
