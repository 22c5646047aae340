'use client';

import { extent, leastIndex, line, scaleLinear } from 'd3';
import { type PointerEvent, useMemo, useRef } from 'react';
import { toast } from 'sonner';
import type { Run } from '@/contract/run';
import { keyedAt, type Moods, mixAt, mixingOf, movedKey, type Timed, unkeyedAt } from '@/core/moods';
import { words } from '@/core/words';
import { Tip, Word } from '../../parts/controls';
import { useDesk } from '../../state/desk-store';
import { playable } from '../../state/frames-playing';
import { settle } from '../../state/history';
import type { Mixed, OwnColors } from '../../state/mixing';
import { useMoods } from '../../state/moods-store';
import { usePlayer, usePlaying } from '../../state/player-store';
import { showFrame } from '../../state/runs';
import { useDocument } from '../../state/scene-now';
import { swatch } from './color-menu';

const [WIDE, HIGH] = [1000, 100];
const UNTOLD: OwnColors = {};
const WHITE = [1, 1, 1];
/** Names of curves that are written beside them. */
const MOST_NAMED = 5;

interface Curve {
  group: string;
  path: string;
  color: string;
}

/** Gains in stops over frames, of the groups in which they change. */
function curvesOf(timed: Timed, { groups, own }: Mixed, first: number, last: number): Curve[] {
  const colors = own ?? UNTOLD;
  const frames = Array.from({ length: last - first + 1 }, (_, i) => first + i);
  const mixes = frames.map((f) => mixAt(timed, f, colors));
  const stops = groups.map((g) => mixes.map((m) => mixingOf(m, g, colors[g])).map((m) => (m.on ? m.stops : null)));
  const [least = 0, most = 0] = extent(stops.flat().filter((s) => s !== null));
  const x = scaleLinear([0, frames.length - 1], [0, WIDE]);
  const y = scaleLinear([Math.min(-1, least), Math.max(1, most)], [HIGH - 6, 6]);
  const draw = line<number | null>()
    .defined((s) => s !== null)
    .x((_, i) => x(i))
    .y((s) => y(s!));
  return groups.flatMap((group, i) =>
    stops[i].every((s) => s === stops[i][0])
      ? []
      : [{ group, path: draw(stops[i]) ?? '', color: swatch(colors[group] ?? WHITE) }],
  );
}

/**
 * The mix at hand over the frames of the shot: its keys, which can be moved, and the gains that go between them. Where A shows a
 * frame of a run, its frames are gone through, and play.
 */
export function KeyStrip({ moods, mixed, run }: { moods: Moods; mixed: Mixed; run: Run | null }) {
  const { first, last, perSecond } = useDocument().frames;
  const on = usePlaying((s) => s.on);
  const picture = mixed.trial?.run?.picture ?? 0;
  const frames = run ? playable(run.rows, picture) : [];
  const strip = useRef<HTMLDivElement>(null);
  const { now } = moods;
  const curves = useMemo(() => curvesOf(now, mixed, first, last), [now, mixed, first, last]);
  const { frame, own } = mixed;
  const playing = usePlayer((s) => s.frame);
  const isHere = now.keys.some((k) => k.frame === frame);
  const key = (words: string, timed: Timed, drag?: string) => {
    const fault = useMoods.getState().key(words, timed, drag);
    if (fault) toast.error(fault);
  };
  const placeOf = (f: number) => `${((f - first) / (last - first)) * 100}%`;
  const frameAt = (e: PointerEvent) => {
    const { left, width } = strip.current!.getBoundingClientRect();
    return Math.round(first + Math.min(1, Math.max(0, (e.clientX - left) / width)) * (last - first));
  };
  const go = (f: number) => {
    if (!run) return useDesk.getState().set({ frame: f });
    const near = frames[leastIndex(frames, (a, b) => Math.abs(a.frame - f) - Math.abs(b.frame - f)) ?? 0];
    if (near && near.id !== mixed.trial?.id) void showFrame(near.id);
  };
  // From where the drag began: a key that is passed on the way stays.
  const dragged = useRef<{ from: number; to: number; timed: Timed } | null>(null);
  const drag = (to: number) => {
    const { current } = dragged;
    if (!current || current.to === to) return;
    const { from, timed } = current;
    dragged.current = { ...current, to };
    key(`key of frame ${from} at ${to}`, movedKey(timed, from, to), 'move key');
  };
  if (first === last) return null;
  return (
    <div className="flex shrink-0 items-center gap-3 px-3 pb-1" data-testid="key-strip">
      <Tip text="Sets the mix at hand at this frame. What is mixed at another frame then is a key there; in between gains go evenly in stops, and colours in linear light.">
        <Word
          className="!px-0 whitespace-nowrap"
          onClick={() =>
            isHere
              ? key(`no key at frame ${frame}`, unkeyedAt(now, frame))
              : key(`key at frame ${frame}`, keyedAt(now, frame, mixAt(now, frame, own ?? UNTOLD)))
          }
        >
          {isHere ? `remove key at ${frame}` : `key at frame ${frame}`}
        </Word>
      </Tip>
      {run && (
        <Tip
          text={`Plays the frames of run ${run.number} that are done in this mix, each as it is keyed there, at ${perSecond} a second or as fast as they come.`}
        >
          <Word
            className="min-w-[4.9rem] !px-0 text-left whitespace-nowrap"
            disabled={frames.length < 2}
            onClick={() => usePlaying.setState({ on: !on, picture })}
            aria-label={on ? 'stop playing the run' : 'play the run'}
          >
            {on ? 'stop' : `play run ${run.number}`}
          </Word>
        </Tip>
      )}
      <div
        ref={strip}
        className="relative h-9 min-w-0 flex-1 bg-pit"
        onPointerMove={(e) => drag(frameAt(e))}
        onPointerUp={() => {
          if (!dragged.current) return;
          const { from, to } = dragged.current;
          dragged.current = null;
          if (from === to) go(from);
          settle();
        }}
      >
        <svg
          viewBox={`0 0 ${WIDE} ${HIGH}`}
          preserveAspectRatio="none"
          className="absolute inset-0 h-full w-full"
          role="img"
          aria-label={`gains from frame ${first} to ${last}`}
        >
          {curves.map(({ group, path, color }) => (
            <path key={group} d={path} fill="none" stroke={color} strokeWidth="1.5" vectorEffect="non-scaling-stroke" />
          ))}
        </svg>
        <input
          type="range"
          aria-label="frame of the mix"
          min={first}
          max={last}
          step={1}
          value={frame}
          disabled={mixed.trial !== null && frames.length < 2}
          className="absolute inset-0 m-0 h-full w-full cursor-col-resize opacity-0"
          onChange={(e) => go(Number(e.target.value))}
        />
        <span
          className="pointer-events-none absolute inset-y-0 w-px bg-ink"
          style={{ left: placeOf(playing ?? frame) }}
        />
        {now.keys.map((k) => (
          <button
            key={k.frame}
            type="button"
            aria-label={`key at frame ${k.frame}`}
            className={`absolute -top-px h-3 w-[7px] -translate-x-1/2 touch-none rounded-b-sm border border-pit ${k.frame === frame ? 'bg-fill' : 'bg-soft hover:bg-ink'}`}
            style={{ left: placeOf(k.frame) }}
            onPointerDown={(e) => {
              // Keys are made anew as they move: the strip hears the rest of it.
              strip.current!.setPointerCapture(e.pointerId);
              dragged.current = { from: k.frame, to: k.frame, timed: now };
            }}
            onKeyDown={(e) => {
              const by = e.key === 'ArrowLeft' ? -1 : e.key === 'ArrowRight' ? 1 : 0;
              const to = k.frame + by;
              if (e.key === 'Delete') key(`no key at frame ${k.frame}`, unkeyedAt(now, k.frame));
              else if (e.key === 'Enter') go(k.frame);
              else if (by !== 0 && to >= first && to <= last && !now.keys.some((o) => o.frame === to))
                key(`key of frame ${k.frame} at ${to}`, movedKey(now, k.frame, to));
              else return;
              e.preventDefault();
              e.stopPropagation();
            }}
          />
        ))}
        {now.keys.length === 0 && (
          <p className="pointer-events-none absolute inset-0 flex items-center justify-center text-[11.5px] text-dim">
            one mix for frames {first} to {last}
          </p>
        )}
      </div>
      {curves.length > 0 && (
        <span className="flex max-w-44 flex-wrap gap-x-2 text-[11px] leading-[13px]">
          {curves.slice(0, MOST_NAMED).map(({ group, color }) => (
            <span key={group} style={{ color }}>
              {words(group)}
            </span>
          ))}
          {curves.length > MOST_NAMED && <span className="text-dim">and {curves.length - MOST_NAMED}</span>}
        </span>
      )}
    </div>
  );
}
