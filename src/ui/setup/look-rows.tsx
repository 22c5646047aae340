'use client';

import { useRef } from 'react';
import type { SceneDocument } from '@/core/scene';
import { Tip, Word } from '../parts/controls';
import { useScene } from '../state/scene-store';
import { Fields } from './field-row';
import { LOOK_FIELDS } from './specs';

const SIDE = 112;
const OWNER = [{ kind: 'look' as const, name: 'look' }];

/** White point, contrast, shoulder and a curve, which noise figures weigh by too. */
export function LookRows({ document }: { document: SceneDocument }) {
  const { look } = document;
  const svg = useRef<SVGSVGElement>(null);
  const held = useRef<number | null>(null);
  const set = (curve: [number, number][], drag: boolean) =>
    useScene.getState().setField(OWNER, 'curve', curve, drag ? 'look curve' : undefined);
  const at = (event: React.PointerEvent): [number, number] => {
    const box = svg.current!.getBoundingClientRect();
    const clamp = (v: number) => Math.round(Math.max(0, Math.min(1, v)) * 1000) / 1000;
    return [clamp((event.clientX - box.left) / SIDE), clamp(1 - (event.clientY - box.top) / SIDE)];
  };
  const sorted = [...look.curve].sort((a, b) => a[0] - b[0]);
  const points = [[0, 0], ...sorted, [1, 1]] as [number, number][];
  const plain = look.whiteKelvin === null && look.contrast === 1 && look.shoulder === 0.6 && look.curve.length === 0;
  return (
    <>
      <Fields
        groups={LOOK_FIELDS}
        owners={OWNER}
        document={document}
        beside={{
          Look: (
            <Word
              disabled={plain}
              onClick={(e) => {
                e.preventDefault();
                useScene.getState().edit('plain look', (d) => ({
                  ...d,
                  look: { whiteKelvin: null, shoulder: 0.6, contrast: 1, curve: [] },
                }));
              }}
            >
              Plain
            </Word>
          ),
        }}
      />
      <div className="flex items-center gap-2 border-b border-line py-1 pr-3 pl-4">
        <Tip
          side="left"
          text="Curve on display values: click to add a point, drag it, double-click takes it away. The look is part of the display transform that noise is weighed by."
        >
          <span className="flex-1">Curve</span>
        </Tip>
        <svg
          ref={svg}
          width={SIDE}
          height={SIDE / 2}
          viewBox={`0 0 ${SIDE} ${SIDE}`}
          preserveAspectRatio="none"
          className="cursor-crosshair touch-none bg-pit"
          data-testid="curve"
          role="img"
          aria-label={`curve with ${look.curve.length} points`}
          onPointerDown={(e) => {
            e.preventDefault();
            const box = svg.current!.getBoundingClientRect();
            const p = at(e);
            p[1] = Math.round(Math.max(0, Math.min(1, 1 - (e.clientY - box.top) / box.height)) * 1000) / 1000;
            const near = sorted.findIndex((q) => Math.abs(q[0] - p[0]) < 0.06);
            if (near < 0 && sorted.length >= 8) return;
            const next = near < 0 ? [...sorted, p].sort((a, b) => a[0] - b[0]) : sorted;
            held.current = near < 0 ? next.indexOf(p) : near;
            e.currentTarget.setPointerCapture(e.pointerId);
            if (near < 0) set(next as [number, number][], true);
          }}
          onPointerMove={(e) => {
            if (held.current === null) return;
            const box = svg.current!.getBoundingClientRect();
            const x = Math.round(Math.max(0.01, Math.min(0.99, (e.clientX - box.left) / box.width)) * 1000) / 1000;
            const y = Math.round(Math.max(0, Math.min(1, 1 - (e.clientY - box.top) / box.height)) * 1000) / 1000;
            set(sorted.map((q, i) => (i === held.current ? [x, y] : q)) as [number, number][], true);
          }}
          onPointerUp={() => {
            held.current = null;
            useScene.getState().settle();
          }}
          onDoubleClick={(e) => {
            const box = svg.current!.getBoundingClientRect();
            const x = (e.clientX - box.left) / box.width;
            set(
              sorted.filter((q) => Math.abs(q[0] - x) >= 0.06),
              false,
            );
          }}
        >
          <path d={`M0 ${SIDE}L${SIDE} 0`} stroke="#444" fill="none" />
          <path
            d={points.map((p, i) => `${i === 0 ? 'M' : 'L'}${p[0] * SIDE} ${(1 - p[1]) * SIDE}`).join('')}
            stroke="#ececec"
            fill="none"
            vectorEffect="non-scaling-stroke"
          />
          {sorted.map((p) => (
            <circle key={p[0]} cx={p[0] * SIDE} cy={(1 - p[1]) * SIDE} r="4" fill="#ececec" />
          ))}
        </svg>
      </div>
    </>
  );
}
