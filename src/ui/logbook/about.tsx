'use client';

import { StickyNote } from 'lucide-react';
import { useState } from 'react';
import { finished, type TrialLine } from '@/contract/trial';
import { changeText, differences } from '@/core/recipe';
import { clock, percent, two } from '@/core/words';
import { TextField } from '../fields/text-field';
import { Plain } from '../parts/controls';
import { Popover } from '../parts/popover';
import { api } from '../state/api';
import { useDesk } from '../state/desk-store';
import { saying } from '../state/log-trial';
import { useScene } from '../state/scene-store';
import { useWhole } from '../state/slots';
import { takeRecipe } from '../state/take-recipe';
import { tell } from '../state/tell';
import { useTrial } from '../state/trials-store';

/** What a trial is: its name and note, what it took, where it comes from, and ways to go on from it. */
export function About({ trial }: { trial: TrialLine }) {
  const [title, setTitle] = useState(trial.title);
  const [note, setNote] = useState(trial.note);
  const save = () => {
    if (title.trim() && (title !== trial.title || note !== trial.note))
      saying(api.editTrial(trial.id, { title: title.trim(), note }));
  };
  return (
    <Popover
      side="top"
      width="w-80"
      testId="about-trial"
      onOpenChange={(open) => !open && save()}
      trigger={
        <button
          type="button"
          aria-label="name, note and origin"
          className={`p-1 hover:text-ink ${trial.note ? 'text-ink' : ''}`}
        >
          <StickyNote size={12} />
        </button>
      }
    >
      <p className="text-dim">Name</p>
      <TextField label="Name" value={title} most={120} onChange={setTitle} className="mt-1 mb-2 w-full" />
      <p className="text-dim">Note</p>
      <TextField label="Note" rows={3} value={note} most={4000} onChange={setNote} className="mt-1 w-full" />
      {trial.fault && <p className="mt-1 text-soft">{trial.fault}</p>}
      <Took trial={trial} />
      <Origin trial={trial} />
    </Popover>
  );
}

/** What it took, and what it was predicted to. */
function Took({ trial: { seconds, noise, predicted } }: { trial: TrialLine }) {
  return (
    <div className="num mt-2 border-t border-line pt-2 text-[11.5px] text-soft">
      {seconds && (
        <p>
          {percent(noise?.rms)} in {clock(seconds.trace)} by the clock,{' '}
          {seconds.calibrated === null ? 'not timed' : `${clock(seconds.calibrated)} at speed 1`}; loading{' '}
          {clock(seconds.load)}, writing {clock(seconds.write)}
        </p>
      )}
      {predicted && (
        <p>
          predicted {percent(predicted.noise.value)} in {clock(predicted.seconds.value)}
          {predicted.denoised &&
            `; denoised ${percent(predicted.denoised.residual.value)} left, off by ${percent(predicted.denoised.error.value)}`}
        </p>
      )}
    </div>
  );
}

/** Camera, frame and what changed against the trial it comes from; its recipe and scene can be taken. */
function Origin({ trial }: { trial: TrialLine }) {
  const parent = useTrial(trial.parent);
  const [own, from] = [useWhole(trial), useWhole(parent)];
  const changes = own && from ? differences(from.recipe, own.recipe).map(changeText) : [];
  const otherScene = parent && parent.revision !== trial.revision;
  /** Branches off: what is logged next comes from this trial. */
  const take = () => {
    if (!own) return;
    takeRecipe(own);
    if (finished(trial)) useDesk.getState().set({ a: { kind: 'trial', id: trial.id } });
  };
  const takeScene = async () => {
    try {
      const { revision } = await api.revision(trial.revision);
      const fault = useScene.getState().edit(`scene of trial ${two(trial.number)}`, () => revision.document);
      if (fault) throw new Error(fault);
      useDesk.getState().set({ camera: trial.camera, frame: trial.frame });
      take();
    } catch (error) {
      tell(error);
    }
  };
  return (
    <div className="mt-2 border-t border-line pt-2 text-soft">
      <p className="num text-[11.5px]">
        {trial.camera}
        {trial.frame !== null && `, frame ${trial.frame}`} · {new Date(trial.createdAt).toLocaleString()}
      </p>
      <p>
        {!parent
          ? 'Comes from no other trial.'
          : own && from
            ? `From ${two(parent.number)}: ${[...changes, ...(otherScene ? ['another scene'] : [])].join(', ') || 'the same again'}`
            : `From ${two(parent.number)}`}
      </p>
      <div className="mt-2 flex gap-1.5">
        <Plain
          className="!px-2 !py-0.5"
          title="Makes its recipe the draft; the next trial branches off it"
          disabled={!own}
          onClick={take}
        >
          Take recipe
        </Plain>
        <Plain
          className="!px-2 !py-0.5"
          title="Makes its scene, camera, frame and recipe the draft; undo goes back"
          disabled={!own}
          onClick={() => void takeScene()}
        >
          Take scene too
        </Plain>
      </div>
    </div>
  );
}
