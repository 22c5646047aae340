'use client';

import { FileText, Flag, LayoutGrid, Play, RotateCw, Star, Trash2 } from 'lucide-react';
import type { ReactNode } from 'react';
import { toast } from 'sonner';
import { isFiltered } from '@/contract/denoised';
import { finished, relativeEfficiency, running, type TrialLine } from '@/contract/trial';
import { clock, percent, two } from '@/core/words';
import { useLadder } from '../ladder/ladder-store';
import { Tip } from '../parts/controls';
import { api } from '../state/api';
import { useDesk } from '../state/desk-store';
import { saying } from '../state/log-trial';
import { shortened } from '../state/shortened';
import { useShot } from '../state/shot-store';
import { useBaseline } from '../state/slots';
import { takeRecipe } from '../state/take-recipe';
import { tell } from '../state/tell';
import { useTrial } from '../state/trials-store';
import { About } from './about';
import { takeReport } from './take-report';

export const ENTRY_WIDTH = 148;
/** Signs of a name that two lines hold. */
const MOST_SIGNS = 42;

/** How far a trial came from what was predicted. */
function foretold({ predicted, noise, denoised }: TrialLine): string {
  const told = predicted?.denoised?.residual ?? predicted?.noise;
  // What was predicted of denoising is of all of it.
  const whole = denoised?.strengths.all === 1 && Object.keys(denoised.strengths.groups).length === 0;
  const came = predicted?.denoised ? (whole ? denoised.residual : null) : noise;
  if (!told || !came) return '';
  const off = Math.round((came.rms / told.value - 1) * 100);
  return `${off > 0 ? '+' : off < 0 ? '−' : '±'}${Math.abs(off)} % of predicted`;
}

async function remove(trial: TrialLine): Promise<void> {
  try {
    await api.editTrial(trial.id, { removed: true });
    toast(`Trial ${two(trial.number)} taken out of the logbook`, {
      action: { label: 'Undo', onClick: () => saying(api.editTrial(trial.id, { removed: false })) },
    });
  } catch (error) {
    tell(error);
  }
}

/** A trial in the logbook. A click anywhere on it shows it in A, with Alt or Shift in B; a double click takes its recipe. */
export function Entry({ id }: { id: string }) {
  const trial = useTrial(id);
  const isA = useDesk((s) => s.a.kind === 'trial' && s.a.id === id);
  const isB = useDesk((s) => s.b?.kind === 'trial' && s.b.id === id);
  const isBaseline = useShot((st) => st.baseline === id);
  if (!trial) return null;
  const marks = [
    isBaseline && 'baseline',
    trial.state === 'stopped' && 'stopped',
    isFiltered(trial.denoised) && 'denoised',
  ]
    .filter(Boolean)
    .join(', ');
  const pick = { kind: 'trial', id } as const;
  const take = () => api.trial(id).then(({ trial: t }) => takeRecipe(t), tell);
  return (
    <div className="group relative" data-testid={`trial-${trial.number}`}>
      <button
        type="button"
        className="absolute inset-0"
        aria-label={`trial ${two(trial.number)} ${trial.title}: show in A; with Alt, in B`}
        onClick={(e) => useDesk.getState().set(e.altKey || e.shiftKey ? { b: pick } : { a: pick })}
        onDoubleClick={() => void take()}
      />
      <div className="pointer-events-none relative">
        <span
          className={`relative block aspect-video w-full overflow-hidden bg-pit ${isA ? 'ring-[1.5px] ring-a' : isB ? 'ring-[1.5px] ring-b' : ''}`}
        >
          <Picture trial={trial} />
          {isA && <span className="num absolute top-0 left-0 bg-a px-1.5 text-[11px] font-semibold text-pit">A</span>}
          {isB && <span className="num absolute top-0 right-0 bg-b px-1.5 text-[11px] font-semibold text-pit">B</span>}
          {marks && <span className="absolute bottom-0 left-0 bg-pit/90 px-1 text-[11px]">{marks}</span>}
          {trial.sample && !trial.ladder && (
            <span className="absolute right-0 bottom-0 bg-pit/90 px-1 text-[11px]">sample</span>
          )}
          {trial.variantFor && <span className="absolute right-0 bottom-0 bg-pit/90 px-1 text-[11px]">variant</span>}
          {trial.ladder && <span className="absolute right-0 bottom-0 bg-pit/90 px-1 text-[11px]">ladder</span>}
        </span>
        <span className="mt-1 block h-[34px] overflow-hidden leading-[17px] break-words">
          <span className="num">{two(trial.number)}</span> {shortened(trial.title, MOST_SIGNS)}
        </span>
        <Figures trial={trial} />
      </div>
      <Deeds trial={trial} />
    </div>
  );
}

function Picture({ trial }: { trial: TrialLine }) {
  if (finished(trial))
    // biome-ignore lint/performance/noImgElement: a small PNG of our own server needs no optimiser
    return <img src={`/api/trials/${trial.id}/thumbnail`} alt="" className="h-full w-full object-contain" />;
  if (trial.state === 'failed')
    return (
      <span className="pointer-events-auto block h-full overflow-y-auto px-1 py-0.5 text-[11px] leading-[14px] text-soft">
        failed: {trial.fault}
      </span>
    );
  return (
    <span className="num flex h-full flex-col items-center justify-center gap-1.5 text-soft">
      {trial.state === 'queued' ? 'waiting' : `${Math.round(trial.fraction * 100)} %`}
      {running(trial) && (
        <span className="block h-0.5 w-16 bg-raised">
          <span className="block h-full bg-soft" style={{ width: `${trial.fraction * 100}%` }} />
        </span>
      )}
    </span>
  );
}

function Figures({ trial }: { trial: TrialLine }) {
  const baseline = useBaseline();
  const gain = relativeEfficiency(trial, baseline);
  const efficiency = gain && trial.id !== baseline?.id ? `×${gain.toFixed(gain < 10 ? 2 : 0)}` : '';
  return (
    <>
      <p className="num flex text-[11.5px] text-soft">
        <span className="flex-1 whitespace-nowrap">
          {finished(trial)
            ? `${percent(trial.noise?.rms)} · ${trial.untimed ? 'not timed' : clock(trial.seconds?.trace)}`
            : ''}
        </span>
        {efficiency}
      </p>
      <p className="num flex h-4 items-center text-[11px] text-dim">
        <span className="flex-1">{foretold(trial)}</span>
        <button
          type="button"
          aria-label={trial.starred ? 'unstar' : 'star'}
          aria-pressed={trial.starred}
          className={`pointer-events-auto p-0.5 hover:text-ink ${trial.starred ? 'text-ink' : ''}`}
          onClick={() => saying(api.editTrial(trial.id, { starred: !trial.starred }))}
        >
          <Star size={12} fill={trial.starred ? 'currentColor' : 'none'} />
        </button>
      </p>
    </>
  );
}

function Deed({
  label,
  tip,
  onClick,
  children,
}: {
  label: string;
  tip: string;
  onClick: () => void;
  children: ReactNode;
}) {
  return (
    <Tip text={tip}>
      <button type="button" aria-label={label} className="p-1 hover:text-ink" onClick={onClick}>
        {children}
      </button>
    </Tip>
  );
}

/** What can be done with a trial, over its picture while it is looked at. */
function Deeds({ trial }: { trial: TrialLine }) {
  const shot = useShot((s) => s.id);
  return (
    <span className="absolute top-0 right-0 left-0 flex justify-end bg-pit/85 text-soft opacity-0 group-focus-within:opacity-100 group-hover:opacity-100">
      <Deed
        label="make baseline"
        tip="Make this the baseline that others are compared with (B)"
        onClick={() => saying(api.setBaseline(shot, trial.id))}
      >
        <Flag size={12} />
      </Deed>
      {finished(trial) && (
        <Deed
          label="report"
          tip="A report of it as one HTML file, against the trial in B where there is one: pictures, recipe, noise and time, where they come from, what was tried"
          onClick={() => takeReport(trial.id)}
        >
          <FileText size={12} />
        </Deed>
      )}
      {trial.state === 'stopped' && (
        <Deed
          label="go on"
          tip="Goes on where it stopped, to the same film as if it never had"
          onClick={() => saying(api.goOnTrial(trial.id))}
        >
          <Play size={12} />
        </Deed>
      )}
      {trial.state === 'failed' && (
        <Deed
          label="try again"
          tip="Renders it again, from what was kept of it if anything was"
          onClick={() => saying(api.goOnTrial(trial.id))}
        >
          <RotateCw size={12} />
        </Deed>
      )}
      {trial.ladder && (
        <Deed
          label="sheet of its ladder"
          tip="All steps of its ladder, on one sheet"
          onClick={() => useLadder.setState({ sheet: { ladder: trial.ladder!.id } })}
        >
          <LayoutGrid size={12} />
        </Deed>
      )}
      <About trial={trial} />
      <Deed
        label="remove trial"
        tip="Take it out of the logbook; the message that follows has an undo"
        onClick={() => void remove(trial)}
      >
        <Trash2 size={12} />
      </Deed>
    </span>
  );
}
