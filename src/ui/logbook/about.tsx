'use client';

import { StickyNote } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useState } from 'react';
import { changeText, differences } from '@/core/recipe';
import { Plain } from '../parts/controls';
import { api } from '../state/api';
import { useDesk } from '../state/desk-store';
import { clock, percent, two } from '../state/format';
import { useRecipe } from '../state/recipe-store';
import { useScene } from '../state/scene-store';
import { tell, useSession } from '../state/session';
import { finished, type Trial } from '../state/types';

/** What a trial is: its name and note, where it comes from, and ways to go on from it. */
export function About({ trial }: { trial: Trial }) {
  const { refresh } = useSession();
  const [title, setTitle] = useState(trial.title);
  const [note, setNote] = useState(trial.note);
  const save = () => {
    if (title.trim() && (title !== trial.title || note !== trial.note))
      api.editTrial(trial.id, { title: title.trim(), note }).then(refresh, tell);
  };
  return (
    <Popover.Root onOpenChange={(open) => !open && save()}>
      <Popover.Trigger
        aria-label="name, note and origin"
        className={`p-0.5 hover:text-ink ${trial.note ? 'text-ink' : ''}`}
      >
        <StickyNote size={12} />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          className="z-40 w-80 rounded-sm border border-line bg-panel p-3 shadow-xl"
          data-testid="about-trial"
        >
          <label className="block text-dim">
            Name
            <input
              className="mt-1 mb-2 w-full rounded-sm border border-line bg-pit px-2 py-1 text-ink"
              value={title}
              maxLength={120}
              onChange={(e) => setTitle(e.target.value)}
            />
          </label>
          <label className="block text-dim">
            Note
            <textarea
              rows={3}
              className="mt-1 w-full rounded-sm border border-line bg-pit px-2 py-1 text-ink"
              value={note}
              maxLength={4000}
              onChange={(e) => setNote(e.target.value)}
            />
          </label>
          {trial.fault && <p className="mt-1 text-soft">{trial.fault}</p>}
          <Origin trial={trial} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** Camera, frame and what changed against the trial it comes from; its recipe and scene can be taken. */
function Origin({ trial }: { trial: Trial }) {
  const { data, camera } = useSession();
  const parent = data.trials.find((t) => t.id === trial.parent);
  const changes = parent ? differences(parent.recipe, trial.recipe).map(changeText) : [];
  const otherScene = parent && parent.revision !== trial.revision;
  const { predicted } = trial;
  /** Branches off: what is logged next comes from this trial. */
  const takeRecipe = () => {
    useRecipe.getState().replace(trial.recipe);
    if (finished(trial)) useDesk.getState().set({ a: { kind: 'trial', id: trial.id } });
  };
  const takeScene = async () => {
    try {
      const { revision } = await api.revision(trial.revision);
      const fault = useScene.getState().edit(`scene of trial ${two(trial.number)}`, () => revision.document);
      if (fault) throw new Error(fault);
      useDesk.getState().set({ camera: trial.camera, frame: trial.frame });
      takeRecipe();
    } catch (error) {
      tell(error);
    }
  };
  return (
    <div className="mt-2 border-t border-line pt-2 text-soft">
      <p className="num text-[11.5px]">
        {trial.camera || camera.name}
        {trial.frame !== null && `, frame ${trial.frame}`} · {new Date(trial.createdAt).toLocaleString()}
      </p>
      <p>
        {parent
          ? `From ${two(parent.number)}: ${[...changes, ...(otherScene ? ['another scene'] : [])].join(', ') || 'the same again'}`
          : 'Comes from no other trial.'}
      </p>
      {predicted && (
        <p className="num text-[11.5px]">
          predicted {percent(predicted.noise.value)} in {clock(predicted.seconds.value)}
        </p>
      )}
      <div className="mt-2 flex gap-1.5">
        <Plain
          className="!px-2 !py-0.5"
          title="Makes its recipe the draft; the next trial branches off it"
          onClick={takeRecipe}
        >
          Take recipe
        </Plain>
        <Plain
          className="!px-2 !py-0.5"
          title="Makes its scene, camera, frame and recipe the draft; undo goes back"
          onClick={() => void takeScene()}
        >
          Take scene too
        </Plain>
      </div>
    </div>
  );
}
