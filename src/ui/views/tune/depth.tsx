'use client';

import { scaleLinear, scaleLog } from 'd3';
import { type PointerEvent, useMemo, useState } from 'react';
import { finished } from '@/contract/trial';
import { type DepthCurve, ENOUGH_CELL, ENOUGH_RMS, LEDGER_LAYERS, reachOfBand } from '@/core/film';
import type { Recipe } from '@/core/recipe';
import { share } from '@/core/words';
import { atLimit, type DepthAxis, limitOf } from '@/render/advice/axis';
import { Plain, Tip, Word } from '../../parts/controls';
import { useSize } from '../../parts/use-size';
import { useAsk } from '../../state/ask';
import { useClient } from '../../state/client';
import { useDesk } from '../../state/desk-store';
import { useLive } from '../../state/live-store';
import { useRecipe } from '../../state/recipe-store';
import { usePatient } from '../../state/scene-now';
import { useSlotTrial, useWholeSlot } from '../../state/slots';
import { tell } from '../../state/tell';
import { AdviceColumn, useAdvice } from './depth-advice';

const AXES: DepthAxis[] = ['all', 'diffuse', 'reflection', 'transmission', 'fog', 'reach'];
/** The ledger's last part holds all that is deeper as well. */
const LAST = LEDGER_LAYERS.length - 1;
const limitWords = (axis: DepthAxis, limit: number) =>
  `${axis === 'reach' ? `${Number(reachOfBand(limit).toPrecision(3))} m` : limit}${limit >= LAST ? '+' : ''}`;

/** How deep a recipe traces on an axis, as a limit of the ledger. */
function tracedBy(recipe: Recipe, axis: DepthAxis): number {
  const { reachMetres } = recipe.rayDepth;
  return (
    limitOf(recipe, axis) ?? (reachMetres === null ? Infinity : Math.ceil(Math.log2(reachMetres / reachOfBand(0))))
  );
}

/** Chooses what the ledger counts, and keeps one from now on. */
function KeepLedger({ words }: { words: string }) {
  const recipe = useRecipe((s) => s.recipe)!;
  return (
    <div className="px-3 pt-2 text-soft">
      <p>{words}</p>
      <p className="mt-2 flex flex-wrap items-center gap-1">
        Keep the picture by its
        {AXES.map((a) => (
          <Word key={a} on={recipe.film.ledger === a} onClick={() => useRecipe.getState().set('film.ledger', a)}>
            {a === 'all' ? 'bounces of all kinds' : a === 'reach' ? 'reach' : `${a} bounces`}
          </Word>
        ))}
      </p>
    </div>
  );
}

/** The axis of the film in A and how deep it was traced; null when it keeps no ledger. */
function useAxis(): { axis: DepthAxis; traced: number } | null {
  const trialA = useWholeSlot('A');
  const a = useDesk((s) => s.a);
  const recipe = useRecipe((s) => s.recipe)!;
  const own = a.kind === 'live' ? recipe : trialA && finished(trialA) ? trialA.recipe : null;
  if (!own || own.film.ledger === 'off') return null;
  return { axis: own.film.ledger, traced: tracedBy(own, own.film.ledger) };
}

/** The curve of what A shows: asked for again at every doubling of the live picture's samples. */
function useCurve(axis: DepthAxis | null): DepthCurve | null {
  const trial = useSlotTrial('A');
  const live = useDesk((s) => s.a.kind === 'live');
  const changes = useLive((s) => (live ? (s.status?.changes ?? 0) : 0));
  const doublings = useLive((s) => (live ? Math.floor(Math.log2(Math.max(1, s.status?.samples ?? 1))) : 0));
  // The film worker may not yet have been told what A shows.
  const options = {
    of: [axis, trial?.id, changes, doublings],
    afterMs: ASK_AFTER_MS,
    againMs: ASK_AFTER_MS,
    keep: live,
  };
  const { answer } = useAsk('depth', axis ? {} : null, options);
  return axis ? answer : null;
}

const ASK_AFTER_MS = 80;
const PAD = { left: 38, right: 10, top: 8, bottom: 18 };

/** What the picture lacks at every limit, with the limit to scrub, and the least that is enough. */
export function DepthChart() {
  const kept = useAxis();
  const curve = useCurve(kept?.axis ?? null);
  const advice = useAdvice(kept?.axis ?? null);
  const limit = useDesk((s) => s.depthLimit);
  const live = useDesk((s) => s.a.kind === 'live');
  const [box, setBox] = useState<HTMLDivElement | null>(null);
  const size = useSize(box, { width: 360, height: 110 });
  const deepest = useMemo(() => {
    const last = curve?.steps.findLastIndex((s) => s.rms > 1e-4) ?? -1;
    return Math.min(16, Math.max(2, last + 2));
  }, [curve]);
  if (!kept)
    return (
      <KeepLedger
        words={
          live
            ? 'The picture can be seen at every limit of ray depth, without rendering again, from a film that keeps it by bounces.'
            : 'This trial keeps no bounce ledger.'
        }
      />
    );
  const { axis, traced } = kept;
  if (!curve) return <p className="px-3 pt-2 text-soft">Measured once every pixel has samples.</p>;
  const x = scaleLinear([0, deepest], [PAD.left, size.width - PAD.right]);
  const top = Math.max(20, curve.steps[0].rms * 1.3);
  const y = scaleLog([0.01, top], [size.height - PAD.bottom, PAD.top]).clamp(true);
  const timeY = scaleLinear([0, 1], [size.height - PAD.bottom, PAD.top]);
  const timeAt = advice && limit !== null ? (advice.times.find((t) => t.limit === limit)?.time ?? null) : null;
  const shown = curve.steps.slice(0, deepest + 1);
  const at = limit === null ? null : curve.steps[Math.min(16, limit)];
  const choose = (v: number) =>
    useDesk.getState().set({ depthLimit: Math.max(0, Math.min(deepest, Math.round(v))), overlay: 'none' });
  const drag = (event: PointerEvent<SVGSVGElement>) => {
    if (event.buttons !== 1) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    choose(x.invert(event.clientX - event.currentTarget.getBoundingClientRect().left));
  };
  return (
    <div className="flex min-h-0 flex-1 flex-col" data-testid="depth">
      <div className="flex min-h-0 flex-1">
        <div ref={setBox} className="min-w-0 flex-1">
          <svg
            width={size.width}
            height={size.height}
            className="num block cursor-ew-resize touch-none text-[10.5px]"
            // biome-ignore lint/a11y/noNoninteractiveElementToInteractiveRole: a slider with a curve on it, with keys of its own
            role="slider"
            aria-label={`limit of ${axis === 'all' ? 'ray depth' : axis}`}
            aria-valuemin={0}
            aria-valuemax={deepest}
            aria-valuenow={limit ?? deepest}
            aria-valuetext={limit === null ? 'whole picture' : limitWords(axis, limit)}
            tabIndex={0}
            onPointerDown={drag}
            onPointerMove={drag}
            onKeyDown={(e) => {
              const step = e.key === 'ArrowLeft' ? -1 : e.key === 'ArrowRight' ? 1 : 0;
              if (!step) return;
              e.preventDefault();
              choose((limit ?? deepest) + step);
            }}
          >
            {[0.1, 1, 10].map((v) => (
              <text key={v} x={PAD.left - 5} y={y(v) + 3.5} textAnchor="end" fill="#979797">
                {v} %
              </text>
            ))}
            <line
              x1={PAD.left}
              x2={size.width - PAD.right}
              y1={y(ENOUGH_RMS)}
              y2={y(ENOUGH_RMS)}
              stroke="#777"
              strokeDasharray="2 3"
            />
            {shown.map((s) => (
              <text key={s.limit} x={x(s.limit)} y={size.height - 5} textAnchor="middle" fill="#979797">
                {s.limit % 2 && (axis === 'reach' || deepest > 9) ? '' : limitWords(axis, s.limit)}
              </text>
            ))}
            <polyline
              points={shown.map((s) => `${x(s.limit)},${y(Math.max(0.01, s.worstCell))}`).join(' ')}
              fill="none"
              stroke="#6a6a6a"
            />
            <polyline
              points={shown.map((s) => `${x(s.limit)},${y(Math.max(0.01, s.rms))}`).join(' ')}
              fill="none"
              stroke="#d8d8d8"
            />
            {advice && (
              <polyline
                data-testid="time-by-limit"
                points={advice.times
                  .filter((t) => t.limit <= deepest)
                  .map((t) => `${x(t.limit)},${timeY(t.time)}`)
                  .join(' ')}
                fill="none"
                stroke="#bdbdbd"
                strokeDasharray="1 3"
              />
            )}
            {curve.enough !== null && curve.enough <= deepest && !isUnproven(curve, traced) && (
              <g data-testid="enough">
                <line
                  x1={x(curve.enough)}
                  x2={x(curve.enough)}
                  y1={PAD.top}
                  y2={size.height - PAD.bottom}
                  stroke="#fff"
                />
                <text
                  x={x(curve.enough) + (curve.enough > deepest / 2 ? -4 : 4)}
                  y={PAD.top + 8}
                  textAnchor={curve.enough > deepest / 2 ? 'end' : 'start'}
                  fill="#ececec"
                >
                  enough here
                </text>
              </g>
            )}
            {limit !== null && (
              <circle cx={x(Math.min(deepest, limit))} cy={y(Math.max(0.01, at!.rms))} r="4.5" fill="var(--color-a)" />
            )}
          </svg>
        </div>
        <AdviceColumn axis={axis} />
      </div>
      <Reading axis={axis} traced={traced} curve={curve} limit={limit} time={timeAt} />
    </div>
  );
}

/** Whether all that was traced counts, and what lies beyond was not looked for: then nothing is known to be enough. */
const isUnproven = (curve: DepthCurve, traced: number) => curve.lost === null && (curve.enough ?? 0) >= traced;

/** The figures at the limit, and what to do with it. */
function Reading({
  axis,
  traced,
  curve,
  limit,
  time,
}: {
  axis: DepthAxis;
  traced: number;
  curve: DepthCurve;
  limit: number | null;
  /** Time of a sample at the limit over that of the recipe as it stands, where it was measured. */
  time: number | null;
}) {
  const depthDifference = useDesk((s) => s.depthDifference);
  const { set } = useDesk.getState();
  const client = useClient();
  const patient = usePatient();
  const recipe = useRecipe((s) => s.recipe)!;
  const [saving, setSaving] = useState<string | null>(null);
  const step = limit === null ? null : curve.steps[Math.min(16, limit)];
  const take = async () => {
    if (limit === null || !patient) return;
    const next = atLimit(recipe, axis, limit);
    useRecipe.getState().replace(next);
    set({ depthLimit: null });
    setSaving('measuring what it saves');
    try {
      const ratio = await client.ask('saving', { patient, to: next });
      setSaving(
        ratio < 0.995
          ? `${limitWords(axis, limit)} taken: ${Math.round((1 - ratio) * 100)} % less time a sample`
          : `${limitWords(axis, limit)} taken: no time saved a sample`,
      );
    } catch (error) {
      setSaving(null);
      tell(error);
    }
  };
  return (
    <div className="flex h-7 shrink-0 items-center gap-2 px-3 whitespace-nowrap">
      {step && limit !== null ? (
        <>
          <Tip
            text={`At ${limitWords(axis, limit)}: how far the picture is from the whole one on screen. Enough is under ${ENOUGH_RMS} % and ${ENOUGH_CELL} % in the worst cell.`}
          >
            <span className="num flex-1 text-soft" data-testid="at-limit">
              {step.rms.toFixed(2)} % off · worst cell {step.worstCell.toFixed(1)} % · {share(step.missing)} of the
              light missing{time === null ? '' : ` · time ×${time.toFixed(2)}`}
            </span>
          </Tip>
          <Word on={depthDifference} onClick={() => set({ depthDifference: !depthDifference })}>
            difference
          </Word>
          <Word onClick={() => set({ depthLimit: null })}>whole</Word>
          <Plain className="!px-2 !py-0.5" disabled={limit >= LAST} onClick={() => void take()}>
            Take {limitWords(axis, limit)}
          </Plain>
        </>
      ) : (
        <span className="text-soft" data-testid="saving">
          {saving ??
            (isUnproven(curve, traced)
              ? `${limitWords(axis, traced)} is all that was traced; lost light tells whether it is enough.`
              : curve.enough === null
                ? 'Light is missing even at the deepest limit: raise it and trace again.'
                : `${limitWords(axis, curve.enough)} is enough${axis === 'all' ? '' : ` ${axis}`}; drag over the curve to see less.`)}
          {curve.lost !== null && !saving && ` Lost beyond: ${share(curve.lost)}.`}
        </span>
      )}
    </div>
  );
}
