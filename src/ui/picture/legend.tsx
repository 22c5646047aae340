'use client';

import { interpolateCividis, interpolateMagma, interpolateViridis } from 'd3';
import { Slider } from 'radix-ui';
import { linear } from '@/core/words';
import type { Legend as LegendData, ScaleName } from '@/render/views/painting';
import { Word } from '../parts/controls';

function gradient(scale: ScaleName): string {
  if (scale === 'a-b') return 'linear-gradient(90deg, var(--color-b), #141414, var(--color-a))';
  const f = { viridis: interpolateViridis, magma: interpolateMagma, cividis: interpolateCividis }[scale];
  return `linear-gradient(90deg, ${Array.from({ length: 12 }, (_, i) => f(i / 11)).join(',')})`;
}

const GAINS = [null, 1, 4, 16, 64];

/** How to read the colours in the picture; a data plane's ends can be dragged. */
export function Legend({
  legend,
  onRange,
  gain,
  onGain,
}: {
  legend: LegendData;
  onRange?: (range: [number, number] | null) => void;
  /** Gain of a difference, null when it fits itself; left out where there is none. */
  gain?: number | null;
  onGain?: (gain: number | null) => void;
}) {
  const span = legend.dataHigh - legend.dataLow || 1;
  const clamp = (v: number) => Math.max(legend.dataLow, Math.min(legend.dataHigh, v));
  return (
    <div className="absolute bottom-3 left-3 w-60 bg-pit/90 px-3 py-2" data-testid="legend">
      <div className="flex justify-between">
        <span>{legend.title}</span>
        <span className="text-dim">{legend.unit}</span>
      </div>
      <div className="mt-1.5 h-2" style={{ background: gradient(legend.scale) }} />
      {onRange && (
        <Slider.Root
          className="relative mt-1 flex h-4 w-full touch-none items-center select-none"
          min={legend.dataLow}
          max={legend.dataHigh}
          step={span / 500}
          value={[clamp(legend.low), clamp(legend.high)]}
          onValueChange={([low, high]) => onRange([low, Math.max(high, low + span / 500)])}
        >
          <Slider.Track className="relative h-px grow bg-line">
            <Slider.Range className="absolute h-full bg-soft" />
          </Slider.Track>
          <Slider.Thumb aria-label="low end" className="block h-3 w-1.5 bg-fill" />
          <Slider.Thumb aria-label="high end" className="block h-3 w-1.5 bg-fill" />
        </Slider.Root>
      )}
      {gain !== undefined && (
        <div className="num mt-1 flex text-[11px]" role="toolbar" aria-label="gain of the difference">
          {GAINS.map((g) => (
            <Word
              key={g ?? 'fitted'}
              on={gain === g}
              onPointerDown={(e) => e.stopPropagation()}
              onClick={() => onGain?.(g)}
              className="!px-1"
            >
              {g === null ? 'fitted' : `×${g}`}
            </Word>
          ))}
        </div>
      )}
      <div className="num mt-0.5 flex justify-between text-[11px] text-soft">
        <span>{linear(legend.low)}</span>
        {onRange && (
          <button type="button" className="text-dim hover:text-ink" onClick={() => onRange(null)}>
            automatic
          </button>
        )}
        <span>{linear(legend.high)}</span>
      </div>
    </div>
  );
}
