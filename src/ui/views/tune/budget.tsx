'use client';

import type { TrialLine } from '@/contract/trial';
import { frameOf, parseRecipe } from '@/core/recipe';
import {
  affordable,
  type Interval,
  intervalAt,
  type Sequence,
  scaledBy,
  secondsUntil,
  sequenceSeconds,
} from '@/core/stats';
import { clock, percent } from '@/core/words';
import { LEAST_OF_EVEN, MOST_OF_EVEN, MOST_TOLD } from '@/render/advice/bounds';
import type { DenoisedAdvice } from '@/render/advice/denoised';
import type { SequenceFrame } from '@/render/advice/sequence';
import { NumberField } from '../../fields/number-field';
import { Plain, Tip, Word } from '../../parts/controls';
import { useCure } from '../../state/cure-store';
import { useDesk } from '../../state/desk-store';
import { useHouse } from '../../state/house';
import { useReady } from '../../state/live-store';
import { median, overheads, RECENT } from '../../state/overheads';
import { useRecipe } from '../../state/recipe-store';
import { useDocument } from '../../state/scene-now';
import { threads } from '../../state/threads';
import { useFinished, useTimed } from '../../state/trials-store';
import { StepLine } from './step-line';
import { useClean, useSequence } from './use-search';

/** Seconds that filtering a frame of so many pixels took by the clock, of trials that were denoised; null before the first. */
function filterSeconds(trials: TrialLine[], pixels: number): number | null {
  const known = trials
    .flatMap(({ denoised, pixels: { region } }) =>
      denoised?.seconds ? [(denoised.seconds / (region.width * region.height)) * pixels] : [],
    )
    .slice(0, RECENT);
  return known.length === 0 ? null : median(known);
}

const span = (i: Interval) => `${clock(i.low)}–${clock(i.high)}`;
const timeOf = (seconds: number) =>
  new Date(Date.now() + seconds * 1000).toLocaleString(undefined, {
    weekday: 'short',
    hour: '2-digit',
    minute: '2-digit',
  });

/** How long the sequence takes as the recipe stands, and what noise it can have by a time of day. */
export function BudgetChart() {
  const document = useDocument();
  const ready = useReady();
  const timed = useTimed();
  const dueWorkers = useDesk((s) => s.dueWorkers);
  const live = useDesk((s) => s.live);
  const { set } = useDesk.getState();
  const step = useCure((s) => s.step);
  const stop = useCure((s) => s.stop);
  const house = useHouse();
  const trials = useFinished();
  const { ask, frames } = useSequence();
  const { first, last } = document.frames;
  const count = last - first + 1;
  const workers = dueWorkers ?? Math.max(1, house?.workers ?? 1);
  const known = overheads(trials);
  const recipe = useRecipe((s) => s.recipe)!;
  const { advice } = useClean();
  const { region } = frameOf(recipe);
  const filter =
    filterSeconds(trials, region.width * region.height) ?? (advice ? advice.filterSeconds / threads() : null);
  const denoising = recipe.denoise.on ? (filter ?? 0) : 0;
  return (
    <div className="flex min-h-0 flex-1 flex-col px-3 pt-1.5" data-testid="budget">
      <div className="flex items-center gap-2">
        <span className="num">
          {count} {count === 1 ? 'frame' : 'frames'}
        </span>
        <span className="flex items-center gap-1 text-dim">
          on
          <NumberField
            label="Workers"
            value={workers}
            width="w-[44px]"
            onChange={(v) => {
              if (v === null || !Number.isInteger(v) || v < 1 || v > 1000) return 'a whole number from 1 to 1000';
              set({ dueWorkers: v });
              return null;
            }}
          />
          {workers === 1 ? 'worker' : 'workers'}
        </span>
        <span className="flex-1" />
        {step ? (
          <Word onClick={() => stop?.()}>Stop</Word>
        ) : (
          <Tip text="Runs short renders on patches of the first, middle and last frame: what differs between them is told, and frames between are taken to lie between.">
            <Plain className="!px-2 !py-0.5" disabled={!ready || !live || timed} onClick={() => void ask()}>
              {frames ? 'Measure again' : 'Measure frames'}
            </Plain>
          </Tip>
        )}
      </div>
      <StepLine of="sequence" />
      {frames ? (
        <Answers
          frames={frames}
          sequence={{ first, last, keys: frames, fixedSeconds: (known?.fixedSeconds ?? 0) + denoising, workers }}
          slower={known?.slower ?? 1}
        />
      ) : (
        !step && (
          <p className="pt-2 text-soft">
            How long all frames take with this recipe, and what noise can be had by a time, from patches of the first,
            middle and last frame.
          </p>
        )
      )}
      {frames && (
        <p className="text-[11px] text-dim">
          {!known && 'Loading and writing a frame are left out: a first trial tells what they take. '}
          {recipe.denoise.on &&
            (filter === null
              ? 'Denoising is left out: a first denoised trial tells what it takes.'
              : `${clock(denoising)} a frame is denoising.`)}
        </p>
      )}
    </div>
  );
}

/** What a denoised frame of so many samples is off by; null where that was not told of. */
const readOf = ({ table }: DenoisedAdvice, samples: number) =>
  intervalAt(
    table.map((t) => t.samples),
    table.map((t) => t.error),
    samples,
  );

function Answers({ frames, sequence, slower }: { frames: SequenceFrame[]; sequence: Sequence; slower: number }) {
  const recipe = useRecipe((s) => s.recipe)!;
  const { dueAt, set } = useDesk();
  const longest = Math.max(...frames.map((f) => f.now.seconds.value));
  const worst = frames.reduce((a, f) => (f.now.noise.value > a.now.noise.value ? f : a));
  const total = sequenceSeconds(
    sequence,
    frames.map((f) => scaledBy(f.now.seconds, slower)),
  );
  const available = secondsUntil(dueAt, new Date());
  const clocked = {
    ...sequence,
    keys: frames.map((k) => ({ ...k, table: k.table.map((r) => ({ ...r, seconds: scaledBy(r.seconds, slower) })) })),
  };
  const found = available === null ? null : affordable(clocked, available);
  const { advice } = useClean();
  const denoised = found && recipe.denoise.on && advice ? readOf(advice, found.samples) : null;
  const take = () => {
    if (!found) return;
    const { sampling } = recipe;
    const dealt = sampling.adapt === 'cheapest' && sampling.stopNoise > 0;
    const counts = dealt
      ? {
          cameraMin: Math.max(2, Math.round(found.samples * LEAST_OF_EVEN)),
          cameraMax: Math.min(65536, found.samples * MOST_OF_EVEN),
          stopNoise: Number(found.noise.value.toPrecision(3)),
        }
      : { cameraMin: found.samples, cameraMax: found.samples, stopNoise: 0 };
    useRecipe.getState().replace(parseRecipe({ ...recipe, sampling: { ...sampling, ...counts } }));
  };
  return (
    <>
      <div className="mt-1">
        {frames.map((f) => (
          <div
            key={f.frame}
            className="num grid h-[17px] grid-cols-[58px_1fr_56px_52px] items-center gap-2 text-[11.5px]"
          >
            <span className="text-dim">frame {f.frame}</span>
            <span className="block h-[7px] bg-pit">
              <span
                className="block h-full border border-soft"
                style={{ width: `${(f.now.seconds.value / longest) * 100}%` }}
              />
            </span>
            <span className="text-right">{clock(f.now.seconds.value)}</span>
            <span className="text-right">{percent(f.now.noise.value)}</span>
          </div>
        ))}
      </div>
      <p className="mt-1" data-testid="sequence-time">
        As it stands <span className="num font-semibold">{clock(total.value)}</span>{' '}
        <span className="num text-dim">({span(total)})</span>, done {timeOf(total.value)}; frame {worst.frame} is the
        noisiest
      </p>
      <div className="mt-1 flex items-center gap-1.5">
        <label className="flex items-center gap-1.5">
          By
          <input
            aria-label="time of day"
            type="time"
            className="num rounded-sm border border-line bg-pit px-1 py-px"
            value={dueAt}
            onChange={(e) => set({ dueAt: e.target.value })}
          />
        </label>
        <span className="min-w-0 flex-1" data-testid="affordable">
          {available === null
            ? 'a time of day, as 08:00'
            : found
              ? `${percent(found.noise.value)} with ${found.samples} samples`
              : 'not even 2 samples a pixel'}
          {found && <span className="num text-dim"> ({clock(found.seconds.value)})</span>}
        </span>
        <Tip text="Makes this many samples the recipe, as it deals them out.">
          <Plain className="!px-2 !py-0.5" disabled={!found} onClick={take}>
            Use
          </Plain>
        </Tip>
      </div>
      {found && recipe.denoise.on && (
        <p className="num text-[11.5px]" data-testid="affordable-denoised">
          {denoised ? (
            <>
              denoised at full strength, off by <span className="font-semibold">{percent(denoised.value)}</span>{' '}
              <span className="text-dim">
                ({denoised.low.toFixed(2)}–{denoised.high.toFixed(2)}), by windows of this frame
              </span>
            </>
          ) : (
            <span className="text-dim">
              {advice
                ? `What it is off by when denoised is told from ${advice.table[0].samples} to ${MOST_TOLD} samples.`
                : 'What it is off by when denoised: ask “with denoising” at the right.'}
            </span>
          )}
        </p>
      )}
    </>
  );
}
