'use client';

import { scaleLog, scalePoint } from 'd3';
import { useState } from 'react';
import { type Knee, kneeWords, type LadderPoint } from '@/core/stats';
import { clock, percent } from '@/core/words';
import { useSize } from '../parts/use-size';

const LABEL = 13;
const PAD = { left: 56, right: 60, top: 12, bottom: 22 };

/** Noise and time of a ladder by its values, with the knee. */
export function LadderCurve({ points, label, knee }: { points: LadderPoint[]; label: string; knee: Knee | null }) {
  const [box, setBox] = useState<HTMLDivElement | null>(null);
  const size = useSize(box, { width: 900, height: 120 });
  const sorted = [...points].sort((a, b) => a.value - b.value);
  const x = scalePoint(
    sorted.map((p) => String(p.value)),
    [PAD.left, size.width - PAD.right],
  ).padding(0.3);
  const scale = (of: (p: LadderPoint) => number) => {
    const all = sorted.map(of);
    return scaleLog([Math.min(...all) / 1.15, Math.max(...all) * 1.15], [size.height - PAD.bottom, PAD.top]);
  };
  const [noise, time] = [scale((p) => p.noise), scale((p) => p.seconds)];
  const at = (p: LadderPoint) => x(String(p.value))!;
  const line = (y: (p: LadderPoint) => number) => sorted.map((p) => `${at(p)},${y(p)}`).join(' ');
  const [first, last] = [sorted[0], sorted[sorted.length - 1]];
  /** Heights of both labels of a step, kept apart. */
  const apart = (p: LadderPoint): [number, number] => {
    const [n, t] = [noise(p.noise), time(p.seconds)];
    const near = LABEL - Math.abs(n - t);
    if (near <= 0) return [n, t];
    return n < t ? [n - near / 2, t + near / 2] : [n + near / 2, t - near / 2];
  };
  return (
    <div className="flex h-[168px] shrink-0 flex-col border-t border-line px-3 py-1.5" data-testid="ladder-curve">
      <p className="flex gap-4 text-[12px] text-soft">
        <span className="text-ink">{label}</span>
        <span>— noise</span>
        <span>┄ time</span>
        <span className="flex-1" />
        <span data-testid="knee">{kneeWords(knee)}</span>
      </p>
      <div ref={setBox} className="min-h-0 flex-1">
        <svg
          width={size.width}
          height={size.height}
          className="num block text-[10.5px]"
          role="img"
          aria-label={`noise and time by ${label}`}
        >
          {knee && (
            <line
              x1={x(String(knee.value))}
              x2={x(String(knee.value))}
              y1={PAD.top}
              y2={size.height - PAD.bottom}
              stroke="#fff"
            />
          )}
          <polyline points={line((p) => noise(p.noise))} fill="none" stroke="#d8d8d8" />
          <polyline points={line((p) => time(p.seconds))} fill="none" stroke="#979797" strokeDasharray="3 3" />
          {sorted.map((p) => (
            <g key={p.value}>
              <circle cx={at(p)} cy={noise(p.noise)} r="3" fill="#d8d8d8">
                <title>{`${p.value}: ${percent(p.noise)}, ${clock(p.seconds)}, ${p.difference.toFixed(2)} % from the largest`}</title>
              </circle>
              <rect x={at(p) - 2.5} y={time(p.seconds) - 2.5} width="5" height="5" fill="#979797" />
              <text x={at(p)} y={size.height - 6} textAnchor="middle" fill="#979797">
                {p.value}
              </text>
            </g>
          ))}
          {[first, last].map((p, i) => (
            <g key={i === 0 ? 'first' : 'last'}>
              <text
                x={i === 0 ? 4 : size.width - 4}
                y={apart(p)[0] + 3}
                textAnchor={i === 0 ? 'start' : 'end'}
                fill="#d8d8d8"
              >
                {percent(p.noise)}
              </text>
              <text
                x={i === 0 ? 4 : size.width - 4}
                y={apart(p)[1] + 3}
                textAnchor={i === 0 ? 'start' : 'end'}
                fill="#979797"
              >
                {clock(p.seconds)}
              </text>
            </g>
          ))}
        </svg>
      </div>
    </div>
  );
}
