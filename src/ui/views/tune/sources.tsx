'use client';

import { share, words } from '@/core/words';
import { GrainBar, Tip, Word } from '../../parts/controls';
import { useDesk } from '../../state/desk-store';
import { useGoverning } from '../../state/figures';
import { CureTable } from './cure-table';
import { topSources } from './governs';

/** Sources, bounces and objects below these shares of the noise are left out. */
const [LEAST_SOURCE, LEAST_BOUNCE, LEAST_OBJECT] = [0.01, 0.05, 0.04];
const [MOST_BOUNCES, MOST_OBJECTS] = [2, 3];

/** What the noise of A or of the region is: its sources, the objects under it, and what cures it best. */
export function SourcesChart() {
  const { figures: f, of } = useGoverning();
  const live = useDesk((s) => s.live);
  const sources = topSources(f.shares, LEAST_SOURCE);
  if (sources.length === 0)
    return (
      <p className="px-3 pt-2 text-soft">
        {live
          ? 'Measured once every pixel has two samples.'
          : 'The live picture measures it: L starts it. Or choose a trial for A.'}
      </p>
    );
  const bounces = (f.shares?.classBounce ?? [])
    .filter((b) => b.share > LEAST_BOUNCE)
    .sort((a, b) => b.share - a.share)
    .slice(0, MOST_BOUNCES);
  const objects = (f.objects ?? []).filter((o) => o.noise > LEAST_OBJECT).slice(0, MOST_OBJECTS);
  return (
    <div className="flex min-h-0 flex-1 gap-5 px-3" data-testid="noise-sources">
      <div className="w-[226px] shrink-0 overflow-y-auto pb-1">
        <p className="text-dim">{of === 'region' ? 'Noise in the region' : 'Noise in A'}</p>
        {sources.map((s) => (
          <Source key={`${s.group}${s.pathClass}`} {...s} />
        ))}
        <div className="mt-0.5 text-[11px] leading-[14px] text-dim">
          {bounces.map((b) => (
            <p key={`${b.bounce}${b.pathClass}`}>
              {share(b.share)} at bounce {b.bounce}, {words(b.pathClass)}
            </p>
          ))}
          {objects.map((o) => (
            <p key={o.object ?? ''}>
              {share(o.noise)} on {o.object ?? 'what is no object'}
            </p>
          ))}
        </div>
      </div>
      <CureTable />
    </div>
  );
}

/** One source; a click shows where its light's noise is. */
function Source({ group, pathClass, share: part }: { group: string; pathClass: string; share: number }) {
  const on = useDesk((s) => s.overlay === 'noise' && s.noiseOf === group);
  const show = () => useDesk.getState().set(on ? { overlay: 'none' } : { overlay: 'noise', noiseOf: group });
  return (
    <Tip text={`Shows where the noise of ${words(group)} is.`} side="left">
      <Word
        on={on}
        className="!grid min-h-[19px] w-full !px-0 !py-0 grid-cols-[34px_32px_1fr] items-center gap-1.5 text-left"
        onClick={show}
      >
        <GrainBar value={part} label={`${share(part)} of the noise`} />
        <span className="num text-right text-[11px]">{share(part)}</span>
        <span>
          {words(group)}, {words(pathClass)}
        </span>
      </Word>
    </Tip>
  );
}
