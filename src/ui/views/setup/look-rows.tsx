'use client';

import { useRef } from 'react';
import { PLAIN_LOOK, type SceneDocument } from '@/core/scene';
import { Tip, Word } from '../../parts/controls';
import { settle } from '../../state/history';
import { useScene } from '../../state/scene-store';
import { Fields } from './field-row';
import { LOOK_FIELDS } from './specs';

const SIDE = 112;
/** Points of the curve nearer than this across are one. */
const NEAR = 0.06;
const OWNER = [{ kind: 'look' as const, name: 'look' }];

/** White point, contrast, shoulder and a curve, which noise figures weigh by too. */
export function LookRows({ document }: { document: SceneDocument }) {
  const { look } = document;
  const svg = useRef<SVGSVGElement>(null);
  const held = useRef<number | null>(null);
  const set = (curve: [number, number][], drag: boolean) =>
    useScene.getState().setField(OWNER, 'curve', curve, drag ? 'look curve' : undefined);
  /** Where an event falls on the curve, 0..1 from its lower left corner. */
  const at = (event: { clientX: number; clientY: number }): [number, number] => {
    const box = svg.current!.getBoundingClientRect();
    const within = (v: number, least: number) => Math.round(Math.max(least, Math.min(1 - least, v)) * 1000) / 1000;
    return [
      within((event.clientX - box.left) / box.width, 0.01),
      within(1 - (event.clientY - box.top) / box.height, 0),
    ];
  };
  const sorted = [...look.curve].sort((a, b) => a[0] - b[0]);
  const points = [[0, 0], ...sorted, [1, 1]] as [number, number][];
  const plain = JSON.stringify(look) === JSON.stringify(PLAIN_LOOK);
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
                useScene.getState().edit('plain look', (d) => ({ ...d, look: PLAIN_LOOK }));
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
            const p = at(e);
            const near = sorted.findIndex((q) => Math.abs(q[0] - p[0]) < NEAR);
            if (near < 0 && sorted.length >= 8) return;
            const next = near < 0 ? [...sorted, p].sort((a, b) => a[0] - b[0]) : sorted;
            held.current = near < 0 ? next.indexOf(p) : near;
            e.currentTarget.setPointerCapture(e.pointerId);
            if (near < 0) set(next as [number, number][], true);
          }}
          onPointerMove={(e) => {
            if (held.current === null) return;
            const p = at(e);
            set(sorted.map((q, i) => (i === held.current ? p : q)) as [number, number][], true);
          }}
          onPointerUp={() => {
            held.current = null;
            settle();
          }}
          onDoubleClick={(e) => {
            const [x] = at(e);
            set(
              sorted.filter((q) => Math.abs(q[0] - x) >= NEAR),
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
