import { useMemo, useState } from 'react';
import type { Prediction } from '@/contract/terms';
import { finished } from '@/contract/trial';
import { isOfVariant, type Output, type Outputs, pictureRecipe, pictures } from '@/core/outputs';
import { clock, counted, percent, two } from '@/core/words';
import { Plain, Tip, Word } from '../../parts/controls';
import { useAsk } from '../../state/ask';
import { logPictures } from '../../state/log-trial';
import { pickedOutput, useOutputs } from '../../state/outputs-store';
import { overheads } from '../../state/overheads';
import { useRecipe } from '../../state/recipe-store';
import { useCamera, useDocument, useFrame, useSceneGroups } from '../../state/scene-now';
import { threads } from '../../state/threads';
import { type ListedTrial, useAllTrials } from '../../state/trials-store';
import { isOfPicture } from '../../state/variants';
import { showOutput } from './shown-picture';

/** Every picture that outputs leave from, with what it takes, before and after; all of them are logged by one click. */
export function PicturesFace() {
  const outputs = useOutputs((s) => s.outputs);
  return outputs && outputs.list.length > 0 ? (
    <Pictures outputs={outputs} />
  ) : (
    <p className="px-3.5 py-2 text-soft">Nothing leaves this shot yet: add an output.</p>
  );
}

function Pictures({ outputs }: { outputs: Outputs }) {
  const recipe = useRecipe((s) => s.recipe)!;
  const document = useDocument();
  const camera = useCamera().name;
  const frame = useFrame();
  const groups = useSceneGroups();
  const trials = useAllTrials();
  const slower = overheads(trials)?.slower ?? 1;
  const [busy, setBusy] = useState(false);
  const all = useMemo(() => pictures(outputs.list), [outputs]);
  const recipes = useMemo(
    () => all.map(({ variant }) => pictureRecipe(recipe, outputs, variant, groups)),
    [all, recipe, outputs, groups],
  );
  const of = recipes.map((r) => JSON.stringify(r)).join();
  const asked = { patient: { document, recipe, camera, frame }, recipes, threads: threads() };
  const { answer, asking, fault, step, again } = useAsk('pictureTimes', asked, { of, byItself: false });
  const log = () => {
    setBusy(true);
    const wanted = all.map((p, i) => ({ output: p.outputs[0], predicted: answer?.[i] ?? null }));
    void logPictures(wanted).finally(() => setBusy(false));
  };
  return (
    <div className="flex min-h-0 flex-1 flex-col px-3 pb-2" data-testid="pictures">
      <div className="flex shrink-0 items-center gap-2 pb-1.5">
        <Plain className="!px-2 !py-0.5" disabled={busy} onClick={log}>
          {all.length === 1 ? 'Log it' : `Log all ${all.length}`}
        </Plain>
        <Tip
          text="Renders patches of every picture for a moment, and tells from them how long it takes and what noise it has."
          side="top"
        >
          <Word disabled={asking} onClick={again}>
            {asking ? (step?.words ?? 'waiting for the picture') : 'what do they take?'}
          </Word>
        </Tip>
        {fault && <span role="alert">{fault}</span>}
        <span className="flex-1" />
        <span className="num text-dim">{counted(all.length, 'picture')}</span>
      </div>
      <ul className="grid min-h-0 flex-1 grid-cols-[repeat(auto-fill,minmax(148px,1fr))] content-start gap-x-2 gap-y-1.5 overflow-y-auto">
        {all.map(({ outputs: own }, i) => (
          <PictureCell
            key={own[0].id}
            outputs={own}
            trial={trials.find((t) => isOfPicture(t, own[0])) ?? null}
            told={answer ? answer[i] : undefined}
            slower={slower}
          />
        ))}
      </ul>
    </div>
  );
}

/** A picture by its outputs: its newest trial with what it took, or what it is told to take; undefined where nobody asked. */
function PictureCell({
  outputs,
  trial,
  told,
  slower,
}: {
  outputs: readonly Output[];
  trial: ListedTrial | null;
  told: Prediction | null | undefined;
  /** How much longer tracing takes here by the clock than at speed 1. */
  slower: number;
}) {
  const output = useOutputs(pickedOutput);
  const shown = outputs.some((o) => o.id === output?.id);
  const done = trial && finished(trial) ? trial : null;
  const names = outputs.map((o) => o.name).join(', ');
  return (
    <li>
      <button
        type="button"
        aria-pressed={shown}
        aria-label={`picture of ${names}`}
        className={`block w-full text-left outline-offset-1 ${shown ? 'outline-2 outline-fill' : 'hover:outline hover:outline-soft'}`}
        onClick={() => showOutput(outputs[0], true)}
      >
        <span className="flex h-[76px] w-full items-center justify-center overflow-hidden bg-pit text-dim">
          {done ? (
            // biome-ignore lint/performance/noImgElement: a small PNG of our own server needs no optimiser
            <img src={`/api/trials/${done.id}/thumbnail`} alt="" className="h-full w-full object-contain" />
          ) : trial ? (
            `${two(trial.number)} ${trial.state}`
          ) : (
            'not rendered yet'
          )}
        </span>
        <span className="block truncate px-0.5 text-[11.5px]">
          {names}
          {outputs.every((o) => isOfVariant(o, null)) && <span className="text-dim"> · of the shot</span>}
        </span>
        <span className="num block h-4 px-0.5 text-[11px] leading-4">
          {done?.seconds ? `${two(done.number)}  ${clock(done.seconds.trace)}` : ''}
          {done?.noise ? ` · ${percent(done.noise.rms)}` : ''}
        </span>
        <span className="num block h-4 truncate px-0.5 text-[11px] leading-4 text-dim" data-testid="told">
          {told
            ? `≈ ${clock(told.seconds.low * slower)}–${clock(told.seconds.high * slower)} · ${percent(told.noise.value)}`
            : told === null
              ? 'black, or too little to tell'
              : ''}
        </span>
      </button>
    </li>
  );
}
