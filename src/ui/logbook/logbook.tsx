'use client';

import { Flag, LayoutGrid, Play, Star, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { useLadder } from '../ladder/ladder-store';
import { Tip, Word } from '../parts/controls';
import { api } from '../state/api';
import { useDesk } from '../state/desk-store';
import { relativeEfficiency } from '../state/figures';
import { clock, percent, two } from '../state/format';
import { useRecipe } from '../state/recipe-store';
import { tell, useSession } from '../state/session';
import { finished, running, type Trial } from '../state/types';
import { About } from './about';
import { filtered } from './filter';

/** The logbook: every trial, newest first. A click shows one in A, with Alt or Shift in B. */
export function Logbook() {
  const { data } = useSession();
  const [text, setText] = useState('');
  const [starred, setStarred] = useState(false);
  const shown = filtered(data.trials, text, starred);
  const pictured = shown.filter(finished);
  return (
    <section aria-label="Logbook" className="flex min-w-0 flex-1 flex-col border-r border-line">
      <header className="flex items-center gap-2 px-3 pt-1.5 pb-1">
        <h2 className="font-semibold">Logbook</h2>
        {data.trials.length > 0 && (
          <>
            <Tip text="Keeps trials by words of their name, note, camera or state; ladder, region, a number (07) or a frame (f12).">
              <input
                aria-label="filter the logbook"
                placeholder="filter"
                className="w-28 rounded-sm border border-line bg-pit px-1.5 py-px outline-none placeholder:text-dim focus:border-soft"
                value={text}
                onChange={(e) => setText(e.target.value)}
                onKeyDown={(e) => e.key === 'Escape' && setText('')}
              />
            </Tip>
            <Word on={starred} aria-label="starred ones only" onClick={() => setStarred(!starred)} className="!px-1">
              <Star size={12} />
            </Word>
            <Tip text="The trials that are listed, on one sheet, cropped to the region; it can be saved as a picture.">
              <Word
                disabled={pictured.length === 0}
                onClick={() => useLadder.setState({ sheet: { trials: pictured.slice(0, 24).map((t) => t.id) } })}
              >
                Sheet
              </Word>
            </Tip>
          </>
        )}
        <span className="ml-auto text-dim">
          {shown.length < data.trials.length ? `${shown.length} of ` : ''}
          {data.trials.length} {data.trials.length === 1 ? 'trial' : 'trials'}
        </span>
      </header>
      {data.trials.length === 0 ? (
        <p className="max-w-md px-3 pt-2 text-soft">
          Nothing logged yet. Set the recipe, then log a trial (T): it is rendered by the worker, timed, and kept here
          with its film and its noise.
        </p>
      ) : shown.length === 0 ? (
        <p className="px-3 pt-2 text-soft">No trial has all of these words.</p>
      ) : (
        <ol className="flex min-h-0 flex-1 gap-2 overflow-x-auto overflow-y-hidden px-3 pb-1">
          {shown.map((t) => (
            <Entry key={t.id} trial={t} />
          ))}
        </ol>
      )}
    </section>
  );
}

/** How far a trial came from what was predicted. */
function foretold({ predicted, noise }: Trial): string {
  if (!predicted || !noise) return '';
  const off = Math.round((noise.rms / predicted.noise.value - 1) * 100);
  return ` · ${off > 0 ? '+' : off < 0 ? '−' : '±'}${Math.abs(off)} %`;
}

function Entry({ trial }: { trial: Trial }) {
  const { baseline, trialA, trialB, data, refresh } = useSession();
  const set = useDesk((s) => s.set);
  const isA = trialA?.id === trial.id;
  const isB = trialB?.id === trial.id;
  const gain = relativeEfficiency(trial, baseline);
  const remove = async () => {
    try {
      await api.editTrial(trial.id, { removed: true });
      refresh();
      toast(`Trial ${two(trial.number)} taken out of the logbook`, {
        action: { label: 'Undo', onClick: () => void api.editTrial(trial.id, { removed: false }).then(refresh, tell) },
      });
    } catch (error) {
      tell(error);
    }
  };
  return (
    <li className="group w-[122px] shrink-0" data-testid={`trial-${trial.number}`}>
      <button
        type="button"
        className="relative block w-full text-left"
        aria-label={`trial ${two(trial.number)} ${trial.title}: show in A; with Alt, in B`}
        onClick={(e) =>
          set(e.altKey || e.shiftKey ? { b: { kind: 'trial', id: trial.id } } : { a: { kind: 'trial', id: trial.id } })
        }
        onDoubleClick={() => useRecipe.getState().replace(trial.recipe)}
      >
        <span
          className={`block aspect-video w-full overflow-hidden bg-pit ${isA ? 'ring-[1.5px] ring-a' : isB ? 'ring-[1.5px] ring-b' : ''}`}
        >
          {finished(trial) ? (
            // biome-ignore lint/performance/noImgElement: a small PNG of our own server needs no optimiser
            <img src={`/api/trials/${trial.id}/thumbnail`} alt="" className="h-full w-full object-contain" />
          ) : (
            <span className="flex h-full flex-col items-center justify-center gap-1.5 text-soft">
              {trial.state === 'failed'
                ? 'failed'
                : trial.state === 'queued'
                  ? 'waiting'
                  : `${Math.round(trial.fraction * 100)} %`}
              {running(trial) && (
                <span className="block h-0.5 w-16 bg-raised">
                  <span className="block h-full bg-soft" style={{ width: `${trial.fraction * 100}%` }} />
                </span>
              )}
            </span>
          )}
        </span>
        {isA && <span className="num absolute top-0 left-0 bg-a px-1.5 text-[11px] font-semibold text-pit">A</span>}
        {isB && <span className="num absolute top-0 right-0 bg-b px-1.5 text-[11px] font-semibold text-pit">B</span>}
        {trial.state === 'stopped' && (
          <span className="absolute bottom-0 left-0 bg-pit/90 px-1 text-[11px]">stopped</span>
        )}
        {trial.ladder && (
          <span className="absolute right-0 bottom-0 bg-pit/90 px-1 text-[11px]" title="a step of a ladder">
            ladder
          </span>
        )}
      </button>
      <p className="mt-1 truncate" title={trial.fault ?? trial.title}>
        <span className="num">{two(trial.number)}</span> {trial.title}
      </p>
      <p
        className="num truncate text-[11.5px] text-soft"
        title={
          trial.seconds
            ? `${trial.predicted ? `predicted ${percent(trial.predicted.noise.value)} in ${clock(trial.predicted.seconds.value)}; ` : ''}traced in ${clock(trial.seconds.trace)} by the clock, ${clock(trial.seconds.calibrated)} at speed 1 (efficiency is made of the latter, since machines slow down and speed up)`
            : undefined
        }
      >
        {trial.state === 'failed'
          ? trial.fault
          : finished(trial)
            ? `${percent(trial.noise?.rms)} · ${clock(trial.seconds?.trace)}${foretold(trial)}`
            : ' '}
      </p>
      <div className="flex items-center gap-1 text-dim">
        <span className="num flex-1 text-[11.5px] text-soft">
          {trial.id === baseline?.id ? 'baseline' : gain ? `×${gain.toFixed(gain < 10 ? 2 : 0)}` : ''}
        </span>
        <span className="flex gap-0.5 opacity-0 group-focus-within:opacity-100 group-hover:opacity-100">
          <Tip text="Make this the baseline that others are compared with (B)">
            <button
              type="button"
              aria-label="make baseline"
              className="p-0.5 hover:text-ink"
              onClick={() => api.setBaseline(data.shot.id, trial.id).then(refresh, tell)}
            >
              <Flag size={12} />
            </button>
          </Tip>
          {trial.state === 'stopped' && (
            <Tip text="Goes on where it stopped, to the same film as if it never had">
              <button
                type="button"
                aria-label="go on"
                className="p-0.5 hover:text-ink"
                onClick={() => api.goOnTrial(trial.id).then(refresh, tell)}
              >
                <Play size={12} />
              </button>
            </Tip>
          )}
          {trial.ladder && (
            <Tip text="All steps of its ladder, on one sheet">
              <button
                type="button"
                aria-label="sheet of its ladder"
                className="p-0.5 hover:text-ink"
                onClick={() => useLadder.setState({ sheet: { ladder: trial.ladder!.id } })}
              >
                <LayoutGrid size={12} />
              </button>
            </Tip>
          )}
          <About trial={trial} />
          <Tip text="Take it out of the logbook; the message that follows has an undo">
            <button type="button" aria-label="remove trial" className="p-0.5 hover:text-ink" onClick={remove}>
              <Trash2 size={12} />
            </button>
          </Tip>
        </span>
        <button
          type="button"
          aria-label={trial.starred ? 'unstar' : 'star'}
          aria-pressed={trial.starred}
          className={`p-0.5 hover:text-ink ${trial.starred ? 'text-ink' : 'opacity-0 group-focus-within:opacity-100 group-hover:opacity-100'}`}
          onClick={() => api.editTrial(trial.id, { starred: !trial.starred }).then(refresh, tell)}
        >
          <Star size={12} fill={trial.starred ? 'currentColor' : 'none'} />
        </button>
      </div>
    </li>
  );
}
