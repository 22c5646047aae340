'use client';

import { finished } from '@/contract/trial';
import { MOST_STOPS } from '@/render/advice/bounds';
import { Tip, Word } from '../../parts/controls';
import { useAsk } from '../../state/ask';
import { useDesk } from '../../state/desk-store';
import { percent, words } from '../../state/format';
import { useMoods } from '../../state/moods-store';
import { useGroups, useSlotFilm, useWholeSlot } from '../../state/slots';

const AS_RENDERED = {};

/** What the noise target is for: the picture, or the worst of the shot's moods; and how far each light group can be lifted in A. */
export function TargetLine() {
  const trialA = useWholeSlot('A');
  const groups = useGroups();
  const target = useDesk((s) => s.target);
  const targetMoods = useDesk((s) => s.targetMoods);
  const of = useSlotFilm('A');
  const { set } = useDesk.getState();
  const moods = useMoods((s) => s.moods?.list.length ?? 0);
  const usable = trialA !== null && finished(trialA) && trialA.recipe.film.groups;
  const headroom = useAsk('headroom', usable && of ? { of, groups, factors: AS_RENDERED, target } : null, {
    byItself: false,
  });
  const { answer: known, asking: busy, fault } = headroom;
  if (!usable) return null;
  return (
    <div className="mt-0.5 text-[12px]" data-testid="target-line">
      <p className="flex items-baseline gap-3 text-dim">
        {moods > 0 && (
          <Tip text="Whether the target is for the picture as it is, or for the noisiest of the shot’s moods, which Balance keeps: a film that is to serve them all.">
            <Word className="!px-0" onClick={() => set({ targetMoods: !targetMoods })}>
              for {targetMoods ? `the worst of ${moods} ${moods === 1 ? 'mood' : 'moods'}` : 'the picture'}
            </Word>
          </Tip>
        )}
        <Tip text="How many stops each light group of A can be lifted by itself until the noise is above the target, from its halves.">
          <Word className="!px-0" disabled={busy} onClick={headroom.again}>
            {busy ? 'measuring headroom' : `headroom at ${percent(target)}`}
          </Word>
        </Tip>
      </p>
      {fault && <p className="text-soft">{fault}</p>}
      {known && (
        <p className="num text-soft" data-testid="headroom">
          {groups
            .map((g) => {
              const stops = known[g];
              const text = stops >= MOST_STOPS ? `over +${MOST_STOPS}` : stops > 0 ? `+${stops.toFixed(1)}` : 'none';
              return `${words(g)} ${text}`;
            })
            .join(' · ')}
        </p>
      )}
    </div>
  );
}
