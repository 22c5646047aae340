'use client';

import { useMemo } from 'react';
import { frameOf } from '@/core/recipe';
import { type Checked, runPictures, summed, type TimeLeft, timeLeft, workAhead } from '@/core/runs';
import { clock } from '@/core/words';
import { Tip, Word } from '../../parts/controls';
import { useAsk } from '../../state/ask';
import { useHouse } from '../../state/house';
import { overheads } from '../../state/overheads';
import { useRuns } from '../../state/runs';
import { threads } from '../../state/threads';
import { useAllTrials } from '../../state/trials-store';
import { timeOfDay } from './times';

/** First, middle and last of some frames, each once. */
const keysOf = (frames: readonly number[]): number[] => [
  ...new Set([frames[0], frames[frames.length >> 1], frames[frames.length - 1]]),
];

/** Work with what frames take beside tracing, by what frames of the shot's last run took; how that falls out is known to a half. */
function withBeside(work: TimeLeft, beside: number | null, frames: number): TimeLeft {
  const more = (beside ?? 0) * frames;
  return { value: work.value + more, low: work.low + more / 2, high: work.high + more * 1.5 };
}

/** How long a run is going to take, told from patches of its first, middle and last frame when it is asked for. */
export function Outlook({ checked }: { checked: Checked }) {
  const workers = Math.max(1, useHouse()?.workers ?? 1);
  const known = overheads(useAllTrials());
  const recipes = useMemo(() => runPictures(checked).map((p) => p.recipe), [checked]);
  const last = useRuns().find((r) => r.besideTracing !== null)?.besideTracing ?? null;
  const pixels = recipes.reduce((n, r) => n + frameOf(r).region.width * frameOf(r).region.height, 0);
  const beside = last === null ? null : (last * pixels) / 1e6;
  const keys = useMemo(() => keysOf(checked.frames), [checked]);
  const { document, recipe, camera, frames } = checked;
  const asked = { patient: { document, recipe, camera }, recipes, frames: keys, threads: threads() };
  const of = JSON.stringify([recipes, keys]);
  const { answer, asking, fault, step, again } = useAsk('runTimes', asked, { of, byItself: false });
  const slower = known?.slower ?? 1;
  const clocked = (t: TimeLeft): TimeLeft => ({ value: t.value * slower, low: t.low * slower, high: t.high * slower });
  const told = answer?.map((p) =>
    p.flatMap(({ frame, told: t }) => (t ? [{ frame, seconds: clocked(t.seconds) }] : [])),
  );
  const isTold = told?.every((p) => p.length === keys.length) ?? false;
  const work = told && isTold ? summed(told.map((p) => workAhead(p, frames, 0))) : null;
  const left = work && timeLeft(withBeside(work, beside, frames.length), frames.length * recipes.length, workers);
  return (
    <div className="border-t border-line px-3.5 py-1.5" data-testid="outlook">
      {left ? (
        <p>
          <span className="num font-semibold">{clock(left.value)}</span>{' '}
          <span className="num text-dim">
            ({clock(left.low)}–{clock(left.high)})
          </span>{' '}
          on {workers} {workers === 1 ? 'worker' : 'workers'}, done {timeOfDay(left.value)}
          {beside === null && <span className="text-dim">; loading and packing left out, a first run tells them</span>}
        </p>
      ) : (
        <p className="flex items-center gap-1.5 text-soft">
          <Tip text="Renders patches of the first, middle and last frame of every picture for a moment. Frames between are taken to lie between.">
            <Word className="-ml-1.5 underline" disabled={asking} onClick={again}>
              {asking ? (step?.words ?? 'waiting for the picture') : 'how long will it take?'}
            </Word>
          </Tip>
          {answer && !isTold && <span>A picture is black, or has too little in it to tell.</span>}
          {fault && <span role="alert">{fault}</span>}
        </p>
      )}
    </div>
  );
}
