'use client';

import { useMemo } from 'react';
import { frameOf } from '@/core/recipe';
import { type Checked, runPictures, summed, type TimeLeft, timeLeft, workAhead } from '@/core/runs';
import { clock, percent } from '@/core/words';
import type { Prediction } from '@/render/advice/proposal';
import type { ToldFrame } from '@/render/advice/run-times';
import { Tip, Word } from '../../parts/controls';
import { useAsk } from '../../state/ask';
import { useHouse } from '../../state/house';
import { overheads } from '../../state/overheads';
import { useRuns } from '../../state/runs';
import { threads } from '../../state/threads';
import { useAllTrials } from '../../state/trials-store';
import { timeOfDay } from './times';
import { wantedWords } from './wanted';

/** How many times the samples are told of beside the recipe's. */
const OTHERWISE = [0.5, 2];
const OTHERWISE_WORDS = ['half the samples', 'twice the samples'];

/** First, middle and last of some frames, each once. */
const keysOf = (frames: readonly number[]): number[] => [
  ...new Set([frames[0], frames[frames.length >> 1], frames[frames.length - 1]]),
];

/** Work with what frames take beside tracing, by what frames of the shot's last run took; how that falls out is known to a half. */
function withBeside(work: TimeLeft, beside: number | null, frames: number): TimeLeft {
  const more = (beside ?? 0) * frames;
  return { value: work.value + more, low: work.low + more / 2, high: work.high + more * 1.5 };
}

/** Time and noise by some number of samples: the noise of the noisiest of the frames that were looked at. */
function Line({ words, left, noise }: { words: string; left: TimeLeft; noise: Prediction['noise'] }) {
  const [value, low, high] = [noise.value, noise.low, noise.high].map(percent);
  return (
    <tr>
      <th className="pr-3 text-left font-normal">{words}</th>
      <td className="pr-3">
        {clock(left.value)} ({clock(left.low)}–{clock(left.high)})
      </td>
      <td>
        {value} ({low.replace(' %', '')}–{high.replace(' %', '')})
      </td>
    </tr>
  );
}

/** How long a run is going to take, told from patches of its first, middle and last frame when it is asked for. */
export function Outlook({ checked, wantedAt }: { checked: Checked; wantedAt: string | null }) {
  const workers = Math.max(1, useHouse()?.workers ?? 1);
  const known = overheads(useAllTrials());
  const recipes = useMemo(() => runPictures(checked).map((p) => p.recipe), [checked]);
  const last = useRuns().find((r) => r.besideTracing !== null)?.besideTracing ?? null;
  const pixels = recipes.reduce((n, r) => n + frameOf(r).region.width * frameOf(r).region.height, 0);
  const beside = last === null ? null : (last * pixels) / 1e6;
  const keys = useMemo(() => keysOf(checked.frames), [checked]);
  const { document, recipe, camera, frames } = checked;
  const asked = {
    patient: { document, recipe, camera },
    recipes,
    frames: keys,
    samples: [...OTHERWISE],
    threads: threads(),
  };
  const of = JSON.stringify([recipes, keys]);
  const { answer, asking, fault, step, again } = useAsk('runTimes', asked, { of, byItself: false });
  const slower = known?.slower ?? 1;
  const clocked = (t: TimeLeft): TimeLeft => ({ value: t.value * slower, low: t.low * slower, high: t.high * slower });
  /** What all of it comes to by what was told of frames; null where something was not. */
  const comesTo = (toldOf: (frame: ToldFrame) => Prediction | null) => {
    const told = answer?.map((p) => p.flatMap((f) => toldOf(f) ?? []));
    if (!told?.every((p) => p.length === keys.length)) return null;
    const work = summed(
      told.map((p) =>
        workAhead(
          p.map((t, i) => ({ frame: keys[i], seconds: clocked(t.seconds) })),
          frames,
          0,
        ),
      ),
    );
    const leftOn = (w: number) => timeLeft(withBeside(work, beside, frames.length), frames.length * recipes.length, w);
    const noisiest = told.flat().reduce((a, b) => (b.noise.value > a.noise.value ? b : a)).noise;
    return { leftOn, left: leftOn(workers), noisiest };
  };
  const own = comesTo((f) => f.told);
  const left = own?.left;
  return (
    <div className="border-t border-line px-3.5 py-1.5" data-testid="outlook">
      {own && left ? (
        <div>
          <span className="num font-semibold">{clock(left.value)}</span>{' '}
          <span className="num text-dim">
            ({clock(left.low)}–{clock(left.high)})
          </span>{' '}
          on {workers} {workers === 1 ? 'worker' : 'workers'}, done {timeOfDay(left.value)}
          {beside === null && <span className="text-dim">; loading and packing left out, a first run tells them</span>}
          {wantedAt !== null && <p data-testid="in-time">{wantedWords(wantedAt, own.leftOn, workers)}</p>}
          <table className="num mt-0.5 text-[11px] leading-[15px] whitespace-nowrap text-dim">
            <thead>
              <tr className="text-left">
                <td />
                <th className="font-normal">time</th>
                <th className="font-normal">noise up to</th>
              </tr>
            </thead>
            <tbody>
              <Line words="as it is" left={own.left} noise={own.noisiest} />
              {OTHERWISE.map((times, i) => {
                const other = comesTo((f) => f.otherwise[i]);
                return (
                  other && <Line key={times} words={OTHERWISE_WORDS[i]} left={other.left} noise={other.noisiest} />
                );
              })}
            </tbody>
          </table>
        </div>
      ) : (
        <p className="flex items-center gap-1.5 text-soft">
          <Tip text="Renders patches of the first, middle and last frame of every picture for a moment. Frames between are taken to lie between.">
            <Word className="-ml-1.5 underline" disabled={asking} onClick={again}>
              {asking ? (step?.words ?? 'waiting for the picture') : 'how long will it take?'}
            </Word>
          </Tip>
          {answer && !own && <span>A picture is black, or has too little in it to tell.</span>}
          {fault && <span role="alert">{fault}</span>}
        </p>
      )}
    </div>
  );
}
