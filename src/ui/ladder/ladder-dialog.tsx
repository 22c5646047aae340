'use client';

import { Dialog } from 'radix-ui';
import { useState } from 'react';
import { toast } from 'sonner';
import { frameOf } from '@/core/recipe';
import { Plain, Primary } from '../parts/controls';
import { api } from '../state/api';
import { saveDraftNow } from '../state/draft';
import { useRecipe } from '../state/recipe-store';
import { tell, useSession } from '../state/session';
import { finished } from '../state/types';
import { useLadder } from './ladder-store';
import { parseSteps, proposedSteps, recipeAt, type Steppable, steppables } from './steppable';

/** Steps of one axis, and of both together. */
const [MOST_STEPS, MOST_TRIALS] = [12, 24];
const PARTS: Steppable['part'][] = ['Recipe', 'Light', 'Material', 'Camera', 'Fog'];
const FIELD = 'w-full rounded-sm border border-line bg-pit px-2 py-1';

interface Axis {
  key: string;
  text: string;
}

/** Steps one setting, or two as a grid, through values: a trial each, over the region or frame. */
export function LadderDialog() {
  const making = useLadder((s) => s.making);
  return making ? <Form /> : null;
}

const close = () => useLadder.setState({ making: false });

function Form() {
  const session = useSession();
  const { data, document, camera, frame, trialA } = session;
  const recipe = useRecipe((s) => s.recipe)!;
  const all = steppables(recipe, document, camera.name);
  const named = (key: string) => all.find((s) => s.key === key)!;
  const axisOf = (key: string): Axis => ({ key, text: proposedSteps(named(key)).join(', ') });
  const [first, setFirst] = useState<Axis>(() => axisOf('sampling.splits.diffuse'));
  const [second, setSecond] = useState<Axis | null>(null);
  const [busy, setBusy] = useState(false);

  const axes = [first, ...(second ? [second] : [])];
  let plan: { at: { s: Steppable; value: number }[] }[] = [];
  let fault: string | null = null;
  try {
    const steps = axes.map((a) => parseSteps(a.text, MOST_STEPS).map((value) => ({ s: named(a.key), value })));
    plan = steps[0].flatMap((a) => (steps[1] ?? [null]).map((b) => ({ at: b ? [a, b] : [a] })));
    if (second && second.key === first.key) fault = 'the second setting is the first again';
    if (plan.length > MOST_TRIALS) fault = `${plan.length} trials are more than ${MOST_TRIALS}`;
    for (const { at } of plan)
      at.filter(({ s }) => !s.owner).reduce((r, { s, value }) => recipeAt(r, s.path, value), recipe);
  } catch (error) {
    fault = (error as Error).message;
  }

  const run = async () => {
    setBusy(true);
    const id = crypto.randomUUID();
    const parent = trialA && finished(trialA) ? trialA : data.trials.find(finished);
    const { first: from, last } = document.frames;
    try {
      await saveDraftNow(data.shot.id);
      for (const { at } of plan) {
        const stepped = at.filter(({ s }) => !s.owner).reduce((r, { s, value }) => recipeAt(r, s.path, value), recipe);
        await api.logTrial({
          shot: data.shot.id,
          camera: camera.name,
          frame: from === last ? null : frame,
          recipe: stepped,
          parent: parent?.id ?? null,
          title: at
            .map(({ s, value }) => `${s.label} ${value}${s.unit && ` ${s.unit}`}`)
            .join(', ')
            .slice(0, 120),
          fields: at.flatMap(({ s, value }) => (s.owner ? [{ owner: s.owner, path: s.path, value }] : [])),
          ladder: { id, at: at.map(({ s, value }) => ({ label: s.label, value })) },
        });
      }
      void session.refresh();
      toast(`${plan.length} trials queued`);
      useLadder.setState({ making: false, sheet: { ladder: id } });
    } catch (error) {
      tell(error);
      void session.refresh();
    } finally {
      setBusy(false);
    }
  };

  const { region } = frameOf(recipe);
  return (
    <Dialog.Root open onOpenChange={(open) => !open && close()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/50" />
        <Dialog.Content className="fixed top-24 left-1/2 z-50 w-[460px] -translate-x-1/2 rounded-sm border border-line bg-panel p-4 shadow-xl">
          <Dialog.Title className="font-semibold">Ladder</Dialog.Title>
          <Dialog.Description className="mt-1 text-soft">
            A trial for every value, one after another, then all on one sheet. A second setting makes a grid.
          </Dialog.Description>
          <AxisFields axis={first} all={all} onAxis={setFirst} pick={axisOf} label="Setting" />
          {second ? (
            <AxisFields axis={second} all={all} onAxis={setSecond} pick={axisOf} label="Second setting" />
          ) : null}
          <p className="mt-3 min-h-5 text-soft" role="status">
            {fault ??
              `${plan.length} trials of ${region.width}×${region.height} pixels${recipe.region ? ', the region' : ''}`}
          </p>
          <div className="mt-2 flex gap-2">
            <Primary disabled={fault !== null || busy} onClick={() => void run()}>
              Render
            </Primary>
            <Plain onClick={() => setSecond(second ? null : axisOf('sampling.lightSamples'))}>
              {second ? 'One setting' : 'Second setting'}
            </Plain>
            <span className="flex-1" />
            <Plain onClick={close}>Close</Plain>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function AxisFields({
  axis,
  all,
  onAxis,
  pick,
  label,
}: {
  axis: Axis;
  all: Steppable[];
  onAxis: (a: Axis) => void;
  pick: (key: string) => Axis;
  label: string;
}) {
  const own = all.find((s) => s.key === axis.key)!;
  return (
    <div className="mt-3 grid grid-cols-2 gap-2">
      <label className="text-dim">
        {label}
        <select
          aria-label={label}
          className={`${FIELD} mt-1 text-ink`}
          value={axis.key}
          onChange={(e) => onAxis(pick(e.target.value))}
        >
          {PARTS.map((part) => {
            const own = all.filter((s) => s.part === part);
            return own.length === 0 ? null : (
              <optgroup key={part} label={part}>
                {own.map((s) => (
                  <option key={s.key} value={s.key}>
                    {s.label}
                  </option>
                ))}
              </optgroup>
            );
          })}
        </select>
      </label>
      <label className="text-dim">
        Values{own.unit && `, ${own.unit}`} (now {own.now ?? 'off'})
        <input
          aria-label={`${label}: values`}
          className={`${FIELD} num mt-1 text-ink`}
          value={axis.text}
          onChange={(e) => onAxis({ ...axis, text: e.target.value })}
        />
      </label>
    </div>
  );
}
