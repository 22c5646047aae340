'use client';

import { extent, max, scaleLinear } from 'd3';
import { useState } from 'react';
import type { RunFrame } from '@/contract/run';
import { clock, percent } from '@/core/words';
import { useSize } from '../../parts/use-size';

const HEIGHT = 40;
/** Least width of a frame's bar; more frames than there is room for share one. */
const LEAST_PX = 3;
/** Most of it: a few frames do not fill the chart. */
const MOST_PX = 60;

/** Frames that share a bar: the noisiest of them, that which stands out the most, and the mean of their times. */
interface Bin {
  frames: RunFrame[];
  noise: number | null;
  step: number | null;
  seconds: number | null;
}

function binned(rows: readonly RunFrame[], most: number): Bin[] {
  const each = Math.max(1, Math.ceil(rows.length / Math.max(1, most)));
  const bins: Bin[] = [];
  for (let i = 0; i < rows.length; i += each) {
    const frames = rows.slice(i, i + each);
    const done = frames.filter((f) => f.state === 'done');
    const times = done.flatMap((f) => f.seconds ?? []);
    bins.push({
      frames,
      noise: max(done, (f) => f.noise ?? Number.NaN) ?? null,
      step: max(done, (f) => f.step ?? Number.NaN) ?? null,
      seconds: times.length > 0 ? times.reduce((a, b) => a + b, 0) / times.length : null,
    });
  }
  return bins;
}

const saying = (b: Bin): string => {
  const [first, last] = [b.frames[0].frame, b.frames[b.frames.length - 1].frame];
  const which = first === last ? `frame ${first}` : `frames ${first} to ${last}`;
  const failed = b.frames.filter((f) => f.state === 'failed').length;
  const told = b.seconds === null ? b.frames[0].state : `${percent(b.noise)} in ${clock(b.seconds)}`;
  const out = b.step === null ? '' : `, stands out by ${percent(b.step)}`;
  return `${which}: ${failed > 0 ? `${failed} failed` : `${told}${out}`}`;
};

/**
 * Time of every frame as a bar, its noise as a dot and how far it stands out from those beside it as a dash, each from nothing to the
 * most there is; a click shows a frame.
 */
export function FrameChart({
  rows,
  shown,
  onPick,
}: {
  rows: readonly RunFrame[];
  shown: string | null;
  onPick: (row: RunFrame) => void;
}) {
  const [root, setRoot] = useState<HTMLDivElement | null>(null);
  const { width } = useSize(root);
  const bins = binned(rows, Math.floor(width / LEAST_PX));
  const step = Math.min(MOST_PX, width / Math.max(1, bins.length));
  const time = scaleLinear([0, max(bins, (b) => b.seconds ?? 0) || 1], [0, HEIGHT - 4]);
  const noise = scaleLinear([0, max(bins, (b) => b.noise ?? 0) || 1], [HEIGHT - 3, 3]);
  const standing = scaleLinear([0, max(bins, (b) => b.step ?? 0) || 1], [HEIGHT - 3, 3]);
  const ofDone = (of: 'noise' | 'step') => rows.flatMap((r) => (r.state === 'done' && r[of] !== null ? [r[of]] : []));
  const [least, most] = extent(ofDone('noise'));
  const [even, uneven] = extent(ofDone('step'));
  return (
    <div className="flex shrink-0 items-stretch gap-2">
      <div ref={setRoot} className="min-w-0 flex-1">
        <svg
          width={width}
          height={HEIGHT}
          role="img"
          aria-label="time and noise of every frame, and how far it stands out"
          className="block bg-pit"
        >
          {bins.map((b, i) => {
            const failed = b.frames.some((f) => f.state === 'failed');
            const busy = b.frames.some((f) => f.state === 'rendering' || f.state === 'storing');
            const isShown = b.frames.some((f) => f.id === shown);
            const tall = b.seconds === null ? (busy || failed ? HEIGHT - 4 : 0) : time(b.seconds);
            return (
              // biome-ignore lint/a11y/noStaticElementInteractions: the same frames are buttons below
              <g key={b.frames[0].id} onClick={() => onPick(b.frames[0])} className="cursor-pointer">
                <title>{saying(b)}</title>
                <rect
                  x={i * step}
                  y={0}
                  width={step}
                  height={HEIGHT}
                  fill={isShown ? 'var(--color-a)' : 'transparent'}
                  opacity={0.25}
                />
                <rect
                  x={i * step + 0.5}
                  y={HEIGHT - tall}
                  width={Math.max(1, step - 1)}
                  height={tall}
                  fill={b.seconds === null ? 'none' : '#8a8a8a'}
                  stroke={b.seconds === null && tall > 0 ? '#8a8a8a' : 'none'}
                  strokeDasharray={failed ? '2 2' : undefined}
                />
                {failed && (
                  <path
                    d={`M${i * step + step / 2 - 3} 5l6 6m0 -6l-6 6`}
                    stroke="currentColor"
                    strokeWidth={1.5}
                    fill="none"
                  />
                )}
                {b.step !== null && Number.isFinite(b.step) && (
                  <rect
                    x={i * step + Math.max(0, step / 2 - 4)}
                    y={standing(b.step) - 0.75}
                    width={Math.min(8, step)}
                    height={1.5}
                    fill="#f0f0f0"
                  />
                )}
                {b.noise !== null && Number.isFinite(b.noise) && (
                  <circle cx={i * step + step / 2} cy={noise(b.noise)} r={2.2} fill="#f0f0f0" stroke="#1b1b1b" />
                )}
              </g>
            );
          })}
        </svg>
      </div>
      <dl className="num grid w-[132px] shrink-0 grid-cols-[14px_1fr] items-center text-[11px] leading-[15px] text-soft">
        <dt title="noise">
          <svg width="10" height="10" aria-hidden="true">
            <circle cx="5" cy="5" r="2.4" fill="#f0f0f0" />
          </svg>
        </dt>
        <dd>{least === undefined ? 'noise' : spanOf(percent(least), percent(most))}</dd>
        {even !== undefined && (
          <>
            <dt title="how far frames stand out from those beside them">
              <span className="block h-[1.5px] w-2.5 bg-[#f0f0f0]" />
            </dt>
            <dd>{spanOf(percent(even), percent(uneven))}</dd>
          </>
        )}
        <dt title="time">
          <span className="block h-2 w-2 bg-[#8a8a8a]" />
        </dt>
        <dd>{timesOf(rows)}</dd>
      </dl>
    </div>
  );
}

/** From one to the other; once where they are the same. */
const spanOf = (least: string, most: string) => (least === most ? least : `${least} – ${most}`);

function timesOf(rows: readonly RunFrame[]): string {
  const [least, most] = extent(rows.flatMap((r) => (r.state === 'done' && r.seconds !== null ? [r.seconds] : [])));
  return least === undefined ? 'time' : spanOf(clock(least), clock(most));
}
