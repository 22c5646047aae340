import { useMemo, useState } from 'react';
import { finished } from '@/contract/trial';
import { type Outputs, pictureRecipe, pictures } from '@/core/outputs';
import { Plain, Tip, Word } from '../../parts/controls';
import { useAsk } from '../../state/ask';
import { useDesk } from '../../state/desk-store';
import { clock, percent, two } from '../../state/format';
import { logPictures } from '../../state/log-trial';
import { useRecipe } from '../../state/recipe-store';
import { useCamera, useDocument, useFrame, useSceneGroups } from '../../state/scene-now';
import { threads } from '../../state/threads';
import { trialsOf, useTrials } from '../../state/trials-store';
import { isOfPicture, showOutput } from './shown-picture';

/** Every picture that outputs need, with what it takes, before and after; all of them are logged by one click. */
export function PicturesLine({ outputs }: { outputs: Outputs }) {
  const recipe = useRecipe((s) => s.recipe)!;
  const document = useDocument();
  const camera = useCamera().name;
  const frame = useFrame();
  const groups = useSceneGroups();
  const trials = useTrials(trialsOf);
  const [busy, setBusy] = useState(false);
  const all = useMemo(() => pictures(outputs.list), [outputs]);
  const recipes = useMemo(
    () => all.map(({ variant }) => pictureRecipe(recipe, outputs.list, variant, groups)),
    [all, recipe, outputs, groups],
  );
  const of = recipes.map((r) => JSON.stringify(r)).join();
  const asked = { patient: { document, recipe, camera, frame }, recipes, threads: threads() };
  const { answer, asking, step, again } = useAsk('pictureTimes', all.length > 1 ? asked : null, {
    of,
    byItself: false,
  });
  if (all.length < 2) return null;
  return (
    <section className="shrink-0 border-b border-line px-3.5 py-1.5" aria-label="Pictures" data-testid="pictures">
      <ul>
        {all.map(({ outputs: own }, i) => {
          const names = own.map((o) => o.name);
          const trial = trials.find((t) => isOfPicture(t, own));
          const told = answer?.[i];
          return (
            <li key={names.join()} className="num flex items-baseline gap-2 text-[11.5px]">
              <Word className="min-w-0 flex-1 truncate !px-0 text-left" onClick={() => showOutput(own[0])}>
                {names.join(', ')}
              </Word>
              {answer && (
                <span className="text-dim">
                  {told
                    ? `about ${clock(told.seconds.value)}, ${percent(told.noise.value)}`
                    : 'black or too short to tell'}
                </span>
              )}
              {trial && (
                <Word
                  className="!px-0 underline"
                  onClick={() => useDesk.getState().set({ a: { kind: 'trial', id: trial.id }, overlay: 'none' })}
                >
                  {two(trial.number)}
                  {finished(trial) && trial.seconds ? ` · ${clock(trial.seconds.trace)}` : ` ${trial.state}`}
                  {finished(trial) && trial.noise ? `, ${percent(trial.noise.rms)}` : ''}
                </Word>
              )}
            </li>
          );
        })}
      </ul>
      <div className="mt-1 flex items-center gap-2">
        <Plain
          className="!px-2 !py-0.5"
          disabled={busy}
          onClick={() => {
            setBusy(true);
            void logPictures(all.map((p, i) => ({ output: p.outputs[0], predicted: answer?.[i] ?? null }))).finally(
              () => setBusy(false),
            );
          }}
        >
          Log all {all.length} pictures
        </Plain>
        <Tip
          text="Renders patches of every picture for a moment, and tells from them how long it takes and what noise it has."
          side="left"
        >
          <Word disabled={asking} onClick={again}>
            {asking ? (step?.words ?? 'waiting') : 'what do they take?'}
          </Word>
        </Tip>
      </div>
    </section>
  );
}
