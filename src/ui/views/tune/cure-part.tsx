'use client';

import { useEffect } from 'react';
import { changeText, differences } from '@/core/recipe';
import type { Interval } from '@/core/stats';
import { clock, percent } from '@/core/words';
import { Plain, Primary, Tip, Word } from '../../parts/controls';
import { useCure } from '../../state/cure-store';
import { useDesk } from '../../state/desk-store';
import { useReady } from '../../state/live-store';
import { logTrial } from '../../state/log-trial';
import { useRecipe } from '../../state/recipe-store';
import { useTimed } from '../../state/trials-store';
import { CleanPart } from './clean-part';
import { StepLine } from './step-line';
import { TargetLine } from './target-line';
import { useSearch } from './use-search';

const range = (i: Interval, as: (v: number) => string) => `${as(i.low)}–${as(i.high)}`;

/** Reach a noise, or the best within a time: pilots are run on patches, and a recipe is proposed. */
export function CurePart() {
  const ready = useReady();
  const timed = useTimed();
  const target = useDesk((s) => s.target);
  const budgetSeconds = useDesk((s) => s.budgetSeconds);
  const live = useDesk((s) => s.live);
  const step = useCure((s) => s.step);
  const stop = useCure((s) => s.stop);
  const recipe = useRecipe((s) => s.recipe)!;
  const { ask, askKnown, answer } = useSearch();
  const proposal = answer?.proposal ?? null;
  // What is predicted of the recipe as it stands follows its counts, as long as the pilots still hold.
  const sampling = JSON.stringify(recipe.sampling);
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked anew when the recipe has changed
  useEffect(() => {
    if (answer && ready) void askKnown();
  }, [sampling]);
  const changes = proposal ? differences(recipe, proposal.recipe).filter((d) => d.path.startsWith('sampling.')) : [];
  const use = () => useRecipe.getState().replace({ ...recipe, sampling: proposal!.recipe.sampling });
  return (
    <section className="border-t border-line px-3.5 py-2" aria-label="Cheapest recipe">
      <div className="flex items-center gap-1.5">
        <h3 className="flex-1 font-semibold">Cheapest recipe</h3>
        {step ? (
          <Word onClick={() => stop?.()}>Stop</Word>
        ) : (
          <>
            <Tip text="Looks at the whole frame once, tries camera samples, splits and light samples on patches of it, and proposes the recipe that reaches the target line of the map in the least time.">
              <Plain
                className="num !px-2 !py-0.5"
                disabled={!ready || !live || timed}
                onClick={() => void ask({ noise: target })}
              >
                reach {percent(target)}
              </Plain>
            </Tip>
            <Tip text="The same, for the least noise within the time budget of the map, on all cores of this machine at speed 1.">
              <Plain
                className="num !px-2 !py-0.5"
                disabled={!ready || !live || timed}
                onClick={() => void ask({ seconds: budgetSeconds })}
              >
                best in {clock(budgetSeconds)}
              </Plain>
            </Tip>
          </>
        )}
      </div>
      <TargetLine />
      <StepLine of="tune" />
      {!step && proposal && (
        <div className="mt-1" data-testid="proposal">
          <p className="num">
            <span className="font-semibold">{percent(proposal.predicted.noise.value)}</span>{' '}
            <span className="text-dim">({range(proposal.predicted.noise, (v) => v.toFixed(2))})</span> in{' '}
            <span className="font-semibold">{clock(proposal.predicted.seconds.value)}</span>{' '}
            <span className="text-dim">({range(proposal.predicted.seconds, clock)})</span>
            {answer!.forMoods && <span className="text-dim"> in the mood</span>}
          </p>
          <p className="text-soft">
            {changes.length === 0
              ? 'The recipe as it stands is the cheapest found.'
              : changes.map(changeText).join(' · ')}
          </p>
          <p className="num text-[11px] text-dim">
            camera samples alone: {proposal.uniform.samples} for {percent(proposal.uniform.predicted.noise.value)} in{' '}
            {clock(proposal.uniform.predicted.seconds.value)} · {answer!.cells} patches, {clock(answer!.spentSeconds)}
          </p>
          {answer!.hot > 0.25 && (
            <p className="text-[11px] text-soft">
              {Math.round(answer!.hot * 100)} % of the noise lies in a thousandth of the pixels:{' '}
              {recipe.sampling.outlierLimit.first === null ? 'set' : 'lower'} the outlier limit of the first hit, or no
              prediction will hold.
            </p>
          )}
          <div className="mt-1.5 flex gap-1.5">
            <Primary
              disabled={changes.length === 0}
              onClick={() => {
                use();
                void logTrial();
              }}
            >
              Use and log
            </Primary>
            <Plain disabled={changes.length === 0} onClick={use}>
              Use
            </Plain>
          </div>
        </div>
      )}
      {(step === null || step.what === 'clean') && <CleanPart />}
    </section>
  );
}
