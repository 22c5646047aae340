'use client';

import { GrainBar, Tip, Word } from '../parts/controls';
import { useCure } from '../state/cure-store';
import { figuresOf } from '../state/figures';
import { percent, share, words } from '../state/format';
import { useRecipe } from '../state/recipe-store';
import { useSession } from '../state/session';
import { useSearch } from '../tune/cure-part';
import { rankedCures } from '../tune/cures';
import { topSources } from '../tune/governs';

/** What the noise of A is: its sources, the objects under it, and what cures it best. */
export function SourcesChart() {
  const session = useSession();
  const recipe = useRecipe((s) => s.recipe)!;
  const step = useCure((s) => s.step);
  const { answer: tuned, ask } = useSearch();
  const f = figuresOf(session, 'A');
  const sources = topSources(f.shares, 0.01).slice(0, 6);
  const bounces = (f.shares?.classBounce ?? [])
    .filter((b) => b.share > 0.05)
    .sort((a, b) => b.share - a.share)
    .slice(0, 2);
  const objects = (f.objects ?? []).filter((o) => o.noise > 0.04).slice(0, 3);
  const cures = rankedCures(recipe, tuned, f);
  if (sources.length === 0) return <p className="px-3 pt-2 text-soft">Measured once every pixel has two samples.</p>;
  return (
    <div className="flex min-h-0 flex-1 gap-3 overflow-hidden px-3 pt-1.5" data-testid="noise-sources">
      <div className="min-w-0 flex-1">
        {sources.map((s) => (
          <div
            key={`${s.group}${s.pathClass}`}
            className="grid h-[18px] grid-cols-[22px_30px_1fr] items-center gap-1.5"
          >
            <GrainBar value={s.share} label={`${share(s.share)} of the noise`} />
            <span className="num text-right text-[11px]">{share(s.share)}</span>
            <span className="truncate">
              {words(s.group)}, {words(s.pathClass)}
            </span>
          </div>
        ))}
        <p className="mt-1 truncate text-[11px] text-dim">
          {bounces.map((b) => `bounce ${b.bounce} ${words(b.pathClass)} ${share(b.share)}`).join(' · ')}
        </p>
        {objects.length > 0 && (
          <p className="truncate text-[11px] text-dim">
            on {objects.map((o) => `${o.object ?? 'what is no object'} ${share(o.noise)}`).join(' · ')}
          </p>
        )}
      </div>
      <div className="w-[158px] shrink-0">
        <p className="flex items-baseline text-dim">
          <span className="flex-1">What cures it</span>
          {!tuned && (
            <Tip text="Runs short renders on patches of this picture, which tell what each count really cures; till then the middle of the bounds is shown that the shares set.">
              <Word disabled={step !== null || !session.ready || session.timed} onClick={() => void ask(null)}>
                {step ? 'measuring…' : 'measure'}
              </Word>
            </Tip>
          )}
        </p>
        {cures.map((c) => (
          <div key={c.path} className="flex h-[21px] items-center gap-1">
            <span
              className={`num w-11 shrink-0 ${c.efficiency > 1.02 ? '' : 'text-dim'}`}
              title={
                c.by === 'pilots' ? 'efficiency, measured on patches' : 'efficiency, the middle of what shares allow'
              }
            >
              ×{c.efficiency.toFixed(2)}
            </span>
            <Tip
              text={`${c.words}${c.predicted ? `: ${percent(c.predicted.noise.value)} predicted` : ''}. A click makes the recipe; T logs it.`}
            >
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
