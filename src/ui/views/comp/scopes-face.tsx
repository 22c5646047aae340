'use client';

import { useEffect, useRef } from 'react';
import { share } from '@/core/words';
import type { Scopes } from '@/render/questions/scopes';
import { useAsk } from '../../state/ask';
import { type Stacked, useStacked } from '../../state/stacking';
import { usePictureTick } from './use-figures';

const MEASURED_AFTER_MS = 350;
/** How bright a level is whose share of a column is this. */
const FULL = 0.06;

/** Waveform and histogram of what the stack makes. */
export function ScopesFace() {
  const stacked = useStacked();
  if (stacked === null || typeof stacked === 'string')
    return <p className="px-3 py-2 text-soft">Put the live picture or a finished trial into A.</p>;
  return <Measured stacked={stacked} />;
}

function Measured({ stacked: { over } }: { stacked: Stacked }) {
  const tick = usePictureTick();
  const { answer, fault } = useAsk('scopes', { over }, { of: tick, afterMs: MEASURED_AFTER_MS, keep: true });
  if (fault) return <p className="px-3 py-2 text-soft">{fault}</p>;
  if (!answer) return <p className="px-3 py-2 text-soft">measuring</p>;
  return (
    <div className="flex min-h-0 flex-1 gap-4 px-3 pb-2" data-testid="scopes">
      <Waveform scopes={answer} />
      <Levels scopes={answer} />
    </div>
  );
}

/** Where the values of each column lie: red, green and blue on each other, so that grey is grey. */
function Waveform({ scopes: { across, levels, waves } }: { scopes: Scopes }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context) return;
    const image = new ImageData(across, levels);
    for (let x = 0; x < across; x++)
      for (let l = 0; l < levels; l++) {
        const o = ((levels - 1 - l) * across + x) * 4;
        for (let c = 0; c < 3; c++) image.data[o + c] = 255 * Math.min(1, waves[c][x * levels + l] / FULL) ** 0.5;
        image.data[o + 3] = 255;
      }
    context.putImageData(image, 0, 0);
  }, [across, levels, waves]);
  return (
    <figure className="relative min-w-0 flex-[2]">
      <canvas
        ref={canvas}
        width={across}
        height={levels}
        className="h-full w-full bg-pit"
        aria-label="waveform of red, green and blue across the picture"
        role="img"
      />
      {[0, 25, 50, 75, 100].map((p) => (
        <span
          key={p}
          className="num pointer-events-none absolute right-0 left-0 border-t border-line/60 pl-1 text-[10px] leading-none text-dim"
          style={{ top: `${100 - p}%` }}
        >
          {p > 0 && p}
        </span>
      ))}
    </figure>
  );
}

/** Pixels by stops about display white. */
function Levels({ scopes: { histogram } }: { scopes: Scopes }) {
  if (!histogram) return null;
  const { bins, lowStops, clipped, black } = histogram;
  const most = Math.max(1, ...bins);
  return (
    <figure className="flex min-w-0 flex-1 flex-col">
      <svg
        viewBox={`0 0 ${bins.length} 100`}
        preserveAspectRatio="none"
        className="min-h-0 w-full flex-1 bg-pit"
        role="img"
        aria-label="pixels by stops from display white"
      >
        {bins.map((n, i) => (
          // Bins stand in their order.
          <rect key={i} x={i} width={0.85} y={100 - (n / most) * 100} height={(n / most) * 100} fill="#b4b4b4" />
        ))}
        <line
          x1={-lowStops * 2}
          x2={-lowStops * 2}
          y1={0}
          y2={100}
          stroke="#ececec"
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      <figcaption className="num flex justify-between pt-0.5 text-[11px] text-dim">
        <span>{lowStops} stops</span>
        <span>
          beyond white {share(clipped)} · black {share(black)}
        </span>
        <span>+{bins.length / 2 + lowStops}</span>
      </figcaption>
    </figure>
  );
}
