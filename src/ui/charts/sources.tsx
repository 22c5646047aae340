'use client';

import { useQuery } from '@tanstack/react-query';
import type { TriedCure } from '@/render/cures/try-cures';
import { GrainBar, Tip, Word } from '../parts/controls';
import { api } from '../state/api';
import { makeCure, useCure } from '../state/cure-store';
import { useDesk } from '../state/desk-store';
import { type Figures, figuresFor } from '../state/figures';
import { clock, percent, share, words } from '../state/format';
import { useRecipe } from '../state/recipe-store';
import { useSession } from '../state/session';
import { finished } from '../state/types';
import { rankedCures } from '../tune/cures';
import { topSources } from '../tune/governs';
import { StepLine } from '../tune/step-line';
import { useSearch, useTriedCures } from '../tune/use-search';

/** What the noise of A or of the region is: its sources, the objects under it, and what cures it best. */
export function SourcesChart() {
  const session = useSession();
  const desk = useDesk();
  const recipe = useRecipe((s) => s.recipe)!;
  const { figures: f, of } = figuresFor(session, recipe);
  const sources = topSources(f.shares, 0.01).slice(0, 6);
  const bounces = (f.shares?.classBounce ?? [])
    .filter((b) => b.share > 0.05)
    .sort((a, b) => b.share - a.share)
    .slice(0, 2);
  const objects = (useObjects(f) ?? []).filter((o) => o.noise > 0.04).slice(0, 3);
  if (sources.length === 0)
    return (
      <p className="px-3 pt-2 text-soft">
        {desk.live
          ? 'Measured once every pixel has two samples.'
          : 'The live picture measures it: L starts it. Or choose a trial for A.'}
      </p>
    );
  return (
    <div className="flex min-h-0 flex-1 gap-3 overflow-hidden px-3 pt-1.5" data-testid="noise-sources">
      <div className="w-[150px] shrink-0">
        <p className="text-dim">{of === 'region' ? 'Noise in the region' : 'Noise in A'}</p>
        {sources.map((s) => {
          const on = desk.overlay === 'noise' && desk.noiseOf === s.group;
          return (
            <Tip key={`${s.group}${s.pathClass}`} text={`Shows where the noise of ${words(s.group)} is.`} side="left">
              <button
                type="button"
                aria-pressed={on}
                className={`grid h-[18px] w-full grid-cols-[18px_28px_1fr] items-center gap-1.5 text-left ${on ? 'bg-raised' : 'hover:bg-raised'}`}
                onClick={() => desk.set(on ? { overlay: 'none' } : { overlay: 'noise', noiseOf: s.group })}
              >
                <GrainBar value={s.share} label={`${share(s.share)} of the noise`} />
                <span className="num text-right text-[11px]">{share(s.share)}</span>
                <span className="truncate">
                  {words(s.group)}, {words(s.pathClass)}
                </span>
              </button>
            </Tip>
          );
        })}
        <p className="mt-1 truncate text-[11px] text-dim">
          {bounces.map((b) => `bounce ${b.bounce} ${words(b.pathClass)} ${share(b.share)}`).join(' · ')}
        </p>
        {objects.length > 0 && (
          <p className="truncate text-[11px] text-dim">
            on {objects.map((o) => `${o.object ?? 'what is no object'} ${share(o.noise)}`).join(' · ')}
          </p>
        )}
      </div>
      <CureList />
    </div>
  );
}

/** Shares by object: of the figures, or of A's trial, whose list leaves them out. */
function useObjects(f: Figures): Figures['objects'] {
  const { trialA } = useSession();
  const own = trialA && finished(trialA) && f.objects === null && f.shares === trialA.figures?.shares ? trialA : null;
  const whole = useQuery({
    queryKey: ['trial', own?.id, own?.state],
    queryFn: () => api.trial(own!.id),
    enabled: own !== null,
  });
  return f.objects ?? (own ? (whole.data?.trial.figures?.objects ?? null) : null);
}

/** What cures it: tried on patches, or until then what the shares allow. */
function CureList() {
  const session = useSession();
  const recipe = useRecipe((s) => s.recipe)!;
  const { step, stop } = useCure();
  const { answer } = useSearch();
  const { ask, cures } = useTriedCures();
  const { figures } = figuresFor(session, recipe);
  return (
    <div className="flex min-w-0 flex-1 flex-col">
      <p className="flex items-baseline gap-1 text-dim">
        <span className="flex-1 truncate">What cures it</span>
        {step ? (
          <Word onClick={() => stop?.()}>Stop</Word>
        ) : (
          <Tip text="Renders patches of the picture or region with every setting that may help, and with changes of the scene about the lights that cause the noise, and ranks them by what they do to noise and time.">
            <Word disabled={!session.ready || session.timed} onClick={() => void ask()}>
              {cures ? 'try again' : 'try all'}
            </Word>
          </Tip>
        )}
      </p>
      <StepLine of="cures" />
      <div className="min-h-0 flex-1 overflow-y-auto pb-1">
        {cures
          ? cures.tried.map((c) => <Tried key={c.code} cure={c} />)
          : rankedCures(recipe, answer, figures).map((c) => (
              <div key={c.path} className="flex h-[21px] items-center gap-1">
                <span className="num w-11 shrink-0 text-dim" title="efficiency, the middle of what shares allow">
                  ×{c.efficiency.toFixed(2)}
                </span>
                <Tip text={`${c.words}. A click makes the recipe; T logs it.`}>
                  <Word className="min-w-0 truncate !px-0.5" onClick={() => useRecipe.getState().replace(c.recipe)}>
                    {c.words}
                  </Word>
                </Tip>
              </div>
            ))}
      </div>
    </div>
  );
}

const signed = (ratio: number) => `${ratio >= 1 ? '+' : '−'}${Math.abs(Math.round((ratio - 1) * 100))} %`;

/** A cure as measured: one click makes all its steps and logs the trial that proves it. */
function Tried({ cure }: { cure: TriedCure }) {
  const { logTrial, timed, data } = useSession();
  const busy = timed || data.trials.some((t) => t.state === 'queued');
  const { noise, seconds } = cure.predicted;
  const apply = () => {
    makeCure(cure);
    void logTrial({ title: cure.words.slice(0, 120), predicted: cure.predicted });
  };
  return (
    <div className="flex h-[21px] items-center gap-1" data-testid="cure">
      <span className={`num w-11 shrink-0 ${cure.efficiency > 1.05 ? '' : 'text-dim'}`}>
        ×{cure.efficiency < 10 ? cure.efficiency.toFixed(2) : cure.efficiency.toFixed(0)}
      </span>
      <Tip
        text={
          <span className="block">
            {cure.steps.map((s) => (
              <span key={s} className="block">
                {s}
              </span>
            ))}
            <span className="block">
              noise {signed(cure.noise)}, time {signed(cure.time)}; look {cure.look.toFixed(1)} % of white
            </span>
            {cure.steps.length > 0 && (
              <span className="block">
                brightness {cure.nits.before.toPrecision(3)} → {cure.nits.after.toPrecision(3)} nits
                {cure.matched ? ', matched' : ', could not be matched'}
              </span>
            )}
            <span className="block">
              predicted {percent(noise.value)} in {clock(seconds.value)}. A click makes it and logs the trial.
            </span>
          </span>
        }
      >
        <Word className="min-w-0 flex-1 truncate !px-0.5 text-left" disabled={busy} onClick={apply}>
          {cure.words}
        </Word>
      </Tip>
      <span
        className={`num w-[72px] shrink-0 text-right text-[11px] whitespace-nowrap ${cure.look >= 0.5 ? 'text-soft' : 'text-dim'}`}
        title="change of look: how far means of the patches move, in percent of display white"
      >
        {cure.look < 0.05 ? 'same look' : `look ${cure.look.toFixed(cure.look < 10 ? 1 : 0)} %`}
      </span>
    </div>
  );
}
