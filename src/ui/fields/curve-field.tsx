'use client';

import { useRef } from 'react';

/** Points of the curve nearer than this across are one. */
const NEAR = 0.06;

type Point = [number, number];

/** A curve from (0, 0) to (1, 1) through points of one's own: click adds one, dragging moves it, double-click takes it away. */
export function CurveField({
  label,
  value,
  most,
  side = 112,
  color = '#ececec',
  onChange,
  onSettled,
}: {
  label: string;
  value: readonly (readonly [number, number])[];
  /** Points that it may have. */
  most: number;
  /** Pixels across, half of it high. */
  side?: number;
  color?: string;
  onChange: (points: Point[], drag: boolean) => void;
  onSettled: () => void;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const held = useRef<number | null>(null);
  /** Where an event falls on the curve, 0..1 from its lower left corner. */
  const at = (event: { clientX: number; clientY: number }): Point => {
    const box = svg.current!.getBoundingClientRect();
    const within = (v: number, least: number) => Math.round(Math.max(least, Math.min(1 - least, v)) * 1000) / 1000;
    return [
      within((event.clientX - box.left) / box.width, 0.01),
      within(1 - (event.clientY - box.top) / box.height, 0),
    ];
  };
  const sorted = [...value].sort((a, b) => a[0] - b[0]) as Point[];
  const points = [[0, 0], ...sorted, [1, 1]];
  return (
    <svg
      ref={svg}
      width={side}
      height={side / 2}
      viewBox={`0 0 ${side} ${side}`}
      preserveAspectRatio="none"
      className="cursor-crosshair touch-none bg-pit"
      data-testid="curve"
      role="img"
      aria-label={`${label} with ${value.length} points`}
      onPointerDown={(e) => {
        e.preventDefault();
        const p = at(e);
        const near = sorted.findIndex((q) => Math.abs(q[0] - p[0]) < NEAR);
        if (near < 0 && sorted.length >= most) return;
        const next = near < 0 ? [...sorted, p].sort((a, b) => a[0] - b[0]) : sorted;
        held.current = near < 0 ? next.indexOf(p) : near;
        e.currentTarget.setPointerCapture(e.pointerId);
        if (near < 0) onChange(next, true);
      }}
      onPointerMove={(e) => {
        if (held.current === null) return;
        const p = at(e);
        onChange(
          sorted.map((q, i) => (i === held.current ? p : q)),
          true,
        );
      }}
      onPointerUp={() => {
        held.current = null;
        onSettled();
      }}
      onDoubleClick={(e) => {
        const [x] = at(e);
        onChange(
          sorted.filter((q) => Math.abs(q[0] - x) >= NEAR),
          false,
        );
      }}
    >
      <path d={`M0 ${side}L${side} 0`} stroke="#444" fill="none" />
      <path
        d={points.map((p, i) => `${i === 0 ? 'M' : 'L'}${p[0] * side} ${(1 - p[1]) * side}`).join('')}
        stroke={color}
        fill="none"
        vectorEffect="non-scaling-stroke"
      />
      {sorted.map((p) => (
        <circle key={p[0]} cx={p[0] * side} cy={(1 - p[1]) * side} r="4" fill={color} />
      ))}
    </svg>
  );
}
