'use client';

import { useState } from 'react';
import { toast } from 'sonner';
import { frameOf } from '@/core/recipe';
import { Choice } from '../fields/choice';
import { TextField } from '../fields/text-field';
import { Plain, Primary } from '../parts/controls';
import { Dialog } from '../parts/dialog';
import { api } from '../state/api';
import { saveDraftNow } from '../state/draft';
import { parentNow } from '../state/log-trial';
import { useRecipe } from '../state/recipe-store';
import { useCamera, useDocument, useFrame } from '../state/scene-now';
import { useShot } from '../state/shot-store';
import { tell } from '../state/tell';
import { useTrials } from '../state/trials-store';
import { useLadder } from './ladder-store';
import { parseSteps, proposedSteps, recipeAt, type Steppable, steppables } from './steppable';

/** Steps of one axis, and of both together. */
const [MOST_STEPS, MOST_TRIALS] = [12, 24];
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
  const document = useDocument();
  const camera = useCamera();
  const frame = useFrame();
  const shot = useShot((s) => s.id);
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
    const parent = parentNow();
    const { first: from, last } = document.frames;
    try {
      await saveDraftNow(shot);
      for (const { at } of plan) {
        const stepped = at.filter(({ s }) => !s.owner).reduce((r, { s, value }) => recipeAt(r, s.path, value), recipe);
        const trial = await api.logTrial({
          shot: shot,
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
        useTrials.getState().put([trial]);
      }
      toast(`${plan.length} trials queued`);
      useLadder.setState({ making: false, sheet: { ladder: id } });
    } catch (error) {
      tell(error);
    } finally {
      setBusy(false);
    }
  };

  const { region } = frameOf(recipe);
  return (
    <Dialog title="Ladder" place="form" className="!w-[460px]" onClose={close}>
      <p className="text-soft">
        A trial for every value, one after another, then all on one sheet. A second setting makes a grid.
      </p>
      <AxisFields axis={first} all={all} onAxis={setFirst} pick={axisOf} label="Setting" />
      {second ? <AxisFields axis={second} all={all} onAxis={setSecond} pick={axisOf} label="Second setting" /> : null}
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
    </Dialog>
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
      <div className="text-dim">
        {label}
        <div className="mt-1 text-ink">
          <Choice
            label={label}
            width="w-full"
            value={axis.key}
            options={all.map((s) => ({ value: s.key, label: s.label, under: s.part }))}
            onChange={(key) => onAxis(pick(key))}
          />
        </div>
      </div>
      <div className="text-dim">
        Values{own.unit && `, ${own.unit}`} (now {own.now ?? 'off'})
        <TextField
          label={`${label}: values`}
          className="num mt-1 w-full !py-[3px]"
          value={axis.text}
          onChange={(text) => onAxis({ ...axis, text })}
        />
      </div>
    </div>
  );
}
