import type { Interval } from '@/core/stats';
import { clock, percent } from '@/core/words';
import { MOST_TOLD } from '@/render/advice/bounds';
import type { DenoisedAdvice } from '@/render/advice/denoised';
import { Plain, Primary, Tip } from '../../parts/controls';
import { cleanRecipe, useCure } from '../../state/cure-store';
import { useDesk } from '../../state/desk-store';
import { useReady } from '../../state/live-store';
import { logTrial } from '../../state/log-trial';
import { useRecipe } from '../../state/recipe-store';
import { useTimed } from '../../state/trials-store';
import { StepLine } from './step-line';
import { useClean, useSearch } from './use-search';

const range = (i: Interval, as: (v: number) => string) => `${as(i.low)}–${as(i.high)}`;
const two = (v: number) => v.toFixed(2);

/** The same target with denoising: all that is wrong in the denoised picture is to be below it, not its noise alone. */
export function CleanPart() {
  const ready = useReady();
  const timed = useTimed();
  const live = useDesk((s) => s.live);
  const target = useDesk((s) => s.target);
  const step = useCure((s) => s.step);
  const { ask, advice } = useClean();
  return (
    <div className="mt-1" data-testid="clean">
      {!step && (
        <p className="flex items-center">
          <span className="flex-1 text-soft">with denoising</span>
          <Tip text="Denoises windows of the frame at 4, 8 and 16 samples, holds them against others, and tells the least samples at which all that is wrong in the denoised picture, noise and what was changed, is below the target.">
            <Plain
              className="num !px-2 !py-0.5"
              aria-label={`with denoising, reach ${percent(target)}`}
              disabled={!ready || !live || timed}
              onClick={() => void ask(target)}
            >
              reach {percent(target)}
            </Plain>
          </Tip>
        </p>
      )}
      <StepLine of="clean" />
      {!step && advice && <Told advice={advice} />}
    </div>
  );
}

function Told({ advice: { samples, predicted, filterSeconds, windows } }: { advice: DenoisedAdvice }) {
  const target = useDesk((s) => s.target);
  const recipe = useRecipe((s) => s.recipe)!;
  const uniform = useSearch().answer?.proposal?.uniform.predicted;
  const compares = uniform && uniform.noise.value <= target * 1.05;
  const { error, residual, seconds } = predicted;
  if (samples === null)
    return (
      <p className="text-soft">
        Not within reach: at {MOST_TOLD} samples it is still off by <span className="num">{percent(error.value)}</span>,
        of which noise is <span className="num">{percent(residual.value)}</span>.
      </p>
    );
  const use = () => useRecipe.getState().replace(cleanRecipe(recipe, samples));
  return (
    <>
      <p className="num">
        <span className="font-semibold">{samples} samples</span>, off by{' '}
        <span className="font-semibold">{percent(error.value)}</span>{' '}
        <span className="text-dim">({range(error, two)})</span>
      </p>
      <p className="num text-[11.5px] text-soft">
        noise {percent(residual.value)} · {clock(seconds.value)}{' '}
        <span className="text-dim">({range(seconds, clock)})</span>
        {compares ? ` instead of ${clock(uniform.seconds.value)}` : ''}
      </p>
      <p className="num text-[11px] text-dim">
        and {clock(filterSeconds)} of a thread to filter · told by {windows} windows
      </p>
      <div className="mt-1 flex gap-1.5">
        <Primary
          onClick={() => {
            use();
            void logTrial();
          }}
        >
          Use and log
        </Primary>
        <Plain onClick={use}>Use</Plain>
      </div>
    </>
  );
}
