'use client';

import { scaleLog } from 'd3';
import { type PointerEvent, useState } from 'react';
import { isFiltered } from '@/contract/denoised';
import type { Prediction } from '@/contract/terms';
import type { TrialLine } from '@/contract/trial';
import { comparable } from '@/contract/trial';
import { clock, percent, two } from '@/core/words';
import { useSize } from '../parts/use-size';
import { useAnswer } from '../state/cure-store';
import { useDesk } from '../state/desk-store';
import { useBaseline, useSlotTrial } from '../state/slots';
import { type ListedTrial, useFinished, useForetold } from '../state/trials-store';

const PAD = { left: 44, right: 14, top: 8, bottom: 20 };

/** Values of 1, 2, 5 × 10^k within a range, at most about five. */
function ticks(low: number, high: number): number[] {
  const all: number[] = [];
  for (let k = Math.floor(Math.log10(low)); k <= Math.ceil(Math.log10(high)); k++)
    for (const m of [1, 2, 5]) all.push(m * 10 ** k);
  const inside = all.filter((v) => v >= low * 0.999 && v <= high * 1.001);
  const step = Math.ceil(inside.length / 5);
  return inside.filter((_, i) => i % step === 0);
}

/** Seconds at speed 1 of a trial that was timed. */
const secondsOf = (t: TrialLine) => t.seconds!.calibrated!;

/** Trials that no other beats in both noise and time, by time. */
function frontier(trials: TrialLine[]): TrialLine[] {
  const sorted = [...trials].sort((a, b) => secondsOf(a) - secondsOf(b));
  let least = Infinity;
  return sorted.filter((t) => {
    if (t.noise!.rms >= least) return false;
    least = t.noise!.rms;
    return true;
  });
}

/** What is predicted: the proposal at hand and the recipe as it stands, and those of trials that are under way. */
function usePredictions(): { words: string; predicted: Prediction }[] {
  const answer = useAnswer();
  const foretold = useForetold();
  const out: { words: string; predicted: Prediction }[] = [];
  if (answer) out.push({ words: 'the recipe as it stands', predicted: answer.now });
  if (answer?.proposal) out.push({ words: 'the proposal', predicted: answer.proposal.predicted });
  for (const t of foretold) out.push({ words: `${two(t.number)} ${t.title}`, predicted: t.predicted! });
  return out;
}

/** The noise–time map: every trial a dot, lines of equal efficiency as the grid, target and budget to drag. */
export function NoiseTime() {
  const trialA = useSlotTrial('A');
  const trialB = useSlotTrial('B');
  const baseline = useBaseline();
  const desk = useDesk();
  const [box, setBox] = useState<HTMLDivElement | null>(null);
  const size = useSize(box, { width: 360, height: 160 });
  const dots = useFinished().filter((t) => t.noise && t.noise.rms > 0 && (t.seconds?.calibrated ?? 0) > 0);
  const hollow = usePredictions();
  const smooth = dots.filter((t) => isFiltered(t.denoised) && t.denoised!.residual!.rms > 0);
  const times = [...dots.map((t) => secondsOf(t)), ...hollow.map((h) => h.predicted.seconds.value), desk.budgetSeconds];
  const noises = [
    ...dots.map((t) => t.noise!.rms),
    ...smooth.map((t) => t.denoised!.residual!.rms),
    ...hollow.map((h) => h.predicted.noise.value),
    desk.target,
  ];
  // Trials of other pixels are there to be chosen, but not beaten: a region takes less time without being better.
  const measure = dots.find((t) => t.id === trialA?.id) ?? baseline ?? dots[0];
  const alike = (t: TrialLine) => measure !== undefined && comparable(t, measure);
  const best = frontier(dots.filter(alike));
  const [t0, t1] = [Math.min(...times) / 2, Math.max(...times) * 1.6];
  const [n0, n1] = [Math.min(...noises) / 1.6, Math.max(...noises) * 1.6];
  const x = scaleLog([t0, t1], [PAD.left, size.width - PAD.right]);
  const y = scaleLog([n0, n1], [size.height - PAD.bottom, PAD.top]);
  // noise²·time = constant: straight lines of slope −½ in this plane.
  const anchor =
    baseline?.noise && baseline.seconds?.calibrated
      ? baseline.noise.rms ** 2 * baseline.seconds.calibrated
      : n0 * n1 * Math.sqrt(t0 * t1);
  const lines = Array.from({ length: 31 }, (_, i) => anchor * 2 ** (i - 15));
  const drag = (kind: 'target' | 'budget') => (event: PointerEvent<SVGElement>) => {
    if (event.buttons !== 1) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    const area = box!.getBoundingClientRect();
    if (kind === 'target')
      desk.set({ target: Number(Math.max(0.01, y.invert(event.clientY - area.top)).toPrecision(2)) });
    else desk.set({ budgetSeconds: Number(Math.max(0.5, x.invert(event.clientX - area.left)).toPrecision(2)) });
  };
  const nudge = (kind: 'target' | 'budget') => (event: React.KeyboardEvent) => {
    const k =
      event.key === 'ArrowUp' || event.key === 'ArrowRight'
        ? 1.1
        : event.key === 'ArrowDown' || event.key === 'ArrowLeft'
          ? 1 / 1.1
          : 0;
    if (!k) return;
    event.preventDefault();
    if (kind === 'target') desk.set({ target: Number((desk.target * k).toPrecision(2)) });
    else desk.set({ budgetSeconds: Number((desk.budgetSeconds * k).toPrecision(2)) });
  };
  return (
    <div ref={setBox} className="min-h-0 flex-1" data-testid="noise-time">
      <svg width={size.width} height={size.height} className="num block text-[10.5px]">
        <title>Noise over time, both logarithmic; time as a machine of speed 1 would have taken</title>
        <clipPath id="plot">
          <rect
            x={PAD.left}
            y={PAD.top}
            width={Math.max(0, size.width - PAD.left - PAD.right)}
            height={Math.max(0, size.height - PAD.top - PAD.bottom)}
          />
        </clipPath>
        <g clipPath="url(#plot)" stroke="#3f3f3f">
          {lines.map((c) => (
            <line key={c} x1={x(t0)} y1={y(Math.sqrt(c / t0))} x2={x(t1)} y2={y(Math.sqrt(c / t1))} />
          ))}
        </g>
        {ticks(t0, t1).map((t) => (
          <text key={t} x={x(t)} y={size.height - 6} textAnchor="middle" fill="#979797">
            {clock(t)}
          </text>
        ))}
        {ticks(n0, n1).map((n) => (
          <text key={n} x={PAD.left - 6} y={y(n) + 3.5} textAnchor="end" fill="#979797">
            {n}
          </text>
        ))}
        <Guide
          label={`target ${percent(desk.target)}`}
          value={desk.target}
          x1={PAD.left}
          x2={size.width - PAD.right}
          y1={y(desk.target)}
          y2={y(desk.target)}
          onDrag={drag('target')}
          onKey={nudge('target')}
        />
        <Guide
          label={clock(desk.budgetSeconds)}
          value={desk.budgetSeconds}
          x1={x(desk.budgetSeconds)}
          x2={x(desk.budgetSeconds)}
          y1={PAD.top}
          y2={size.height - PAD.bottom}
          onDrag={drag('budget')}
          onKey={nudge('budget')}
        />
        {best.length > 1 && (
          <polyline
            points={best.map((t) => `${x(secondsOf(t))},${y(t.noise!.rms)}`).join(' ')}
            fill="none"
            stroke="#8a8a8a"
          />
        )}
        {hollow.map((h) => (
          <g key={h.words} stroke="#d8d8d8" fill="none">
            <line
              x1={x(h.predicted.seconds.low)}
              x2={x(h.predicted.seconds.high)}
              y1={y(h.predicted.noise.value)}
              y2={y(h.predicted.noise.value)}
              stroke="#777"
            />
            <line
              x1={x(h.predicted.seconds.value)}
              x2={x(h.predicted.seconds.value)}
              y1={y(h.predicted.noise.low)}
              y2={y(h.predicted.noise.high)}
              stroke="#777"
            />
            <circle cx={x(h.predicted.seconds.value)} cy={y(h.predicted.noise.value)} r="4" data-testid="predicted">
              <title>{`${h.words}\npredicted ${percent(h.predicted.noise.value)} in ${clock(h.predicted.seconds.value)}`}</title>
            </circle>
          </g>
        ))}
        {smooth.map((t) => (
          <Smoothed
            key={t.id}
            trial={t}
            from={[x(secondsOf(t)), y(t.noise!.rms)]}
            to={[x(denoisedSeconds(t)), y(t.denoised!.residual!.rms)]}
            isA={t.id === trialA?.id}
          />
        ))}
        {dots.map((t) => {
          const slot = t.id === trialA?.id ? 'A' : t.id === trialB?.id ? 'B' : null;
          return (
            // biome-ignore lint/a11y/useSemanticElements: an SVG mark cannot be a button element
            <circle
              key={t.id}
              role="button"
              tabIndex={0}
              aria-label={`trial ${two(t.number)}: noise ${percent(t.noise!.rms)}, time ${clock(secondsOf(t))}`}
              cx={x(secondsOf(t))}
              cy={y(t.noise!.rms)}
              r={slot ? 5 : 4}
              fill={
                slot === 'A' ? 'var(--color-a)' : slot === 'B' ? 'var(--color-b)' : alike(t) ? '#a8a8a8' : '#5c5c5c'
              }
              stroke={t.id === baseline?.id ? '#fff' : 'none'}
              className="cursor-pointer"
              onClick={(e) =>
                desk.set(
                  e.altKey || e.shiftKey ? { b: { kind: 'trial', id: t.id } } : { a: { kind: 'trial', id: t.id } },
                )
              }
              onKeyDown={(e) => e.key === 'Enter' && desk.set({ a: { kind: 'trial', id: t.id } })}
            >
              <title>{`${two(t.number)} ${t.title}\n${percent(t.noise!.rms)} in ${clock(secondsOf(t))}${alike(t) ? '' : '\nof other pixels or another scene than A'}`}</title>
            </circle>
          );
        })}
      </svg>
    </div>
  );
}

/** Seconds of tracing at speed 1 and of filtering. */
const denoisedSeconds = (t: ListedTrial) => secondsOf(t) + (t.denoised?.seconds ?? 0);

interface SmoothedProps {
  trial: ListedTrial;
  from: [number, number];
  to: [number, number];
  isA: boolean;
}

/** A trial as denoising left it: a square, joined to its dot. A click shows it in A. */
function Smoothed({ trial, from, to, isA }: SmoothedProps) {
  const show = () => useDesk.getState().set({ a: { kind: 'trial', id: trial.id, denoised: true } });
  const told = `${percent(trial.denoised!.residual!.rms)} left in ${clock(denoisedSeconds(trial))}`;
  return (
    <g>
      <line x1={from[0]} y1={from[1]} x2={to[0]} y2={to[1]} stroke="#6a6a6a" strokeDasharray="1 2" />
      {/* biome-ignore lint/a11y/useSemanticElements: an SVG mark cannot be a button element */}
      <rect
        role="button"
        tabIndex={0}
        aria-label={`trial ${two(trial.number)} denoised: noise ${told}`}
        x={to[0] - 3.5}
        y={to[1] - 3.5}
        width={7}
        height={7}
        fill={isA ? 'var(--color-a)' : '#a8a8a8'}
        className="cursor-pointer"
        onClick={show}
        onKeyDown={(e) => e.key === 'Enter' && show()}
      >
        <title>{`${two(trial.number)} ${trial.title}, denoised\n${told}`}</title>
      </rect>
    </g>
  );
}

interface GuideProps {
  label: string;
  value: number;
  x1: number;
  x2: number;
  y1: number;
  y2: number;
  onDrag: (event: PointerEvent<SVGElement>) => void;
  onKey: (event: React.KeyboardEvent) => void;
}

function Guide({ label, value, x1, x2, y1, y2, onDrag, onKey }: GuideProps) {
  const level = y1 === y2;
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label={level ? 'noise target, percent' : 'time budget, seconds'}
      aria-valuenow={value}
      onPointerDown={onDrag}
      onPointerMove={onDrag}
      onKeyDown={onKey}
      className={level ? 'cursor-ns-resize' : 'cursor-ew-resize'}
    >
      <line x1={x1} x2={x2} y1={y1} y2={y2} stroke="transparent" strokeWidth={11} />
      <line x1={x1} x2={x2} y1={y1} y2={y2} stroke="#d8d8d8" strokeDasharray="2 3" />
      <text x={level ? x2 : x1 + 4} y={level ? y1 - 4 : y1 + 9} textAnchor={level ? 'end' : 'start'} fill="#c8c8c8">
        {label}
      </text>
    </g>
  );
}
