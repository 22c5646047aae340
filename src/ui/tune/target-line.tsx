'use client';

import { useState } from 'react';
import { toast } from 'sonner';
import { type Headroom, MOST_STOPS } from '@/render/headroom';
import { Tip, Word } from '../parts/controls';
import { useDesk } from '../state/desk-store';
import { percent, words } from '../state/format';
import { useSession } from '../state/session';
import { finished } from '../state/types';
import { useMoods } from './use-search';

/** What the noise target is for: the picture, or the worst of A's moods; and how far each light group can be lifted in A. */
export function TargetLine() {
  const { client, trialA, groups } = useSession();
  const { target, targetMoods, set } = useDesk();
  const moods = useMoods();
  const [found, setFound] = useState<{ trial: string; target: number; headroom: Headroom } | null>(null);
  const [busy, setBusy] = useState(false);
  const usable = trialA !== null && finished(trialA) && trialA.recipe.film.groups;
  const known = found && found.trial === trialA?.id && found.target === target ? found.headroom : null;
  const ask = async () => {
    if (!trialA) return;
    setBusy(true);
    try {
      const headroom = await client.measure<Headroom | null>({
        type: 'measure',
        what: 'headroom',
        trial: trialA.id,
        groups,
        target,
      });
      if (headroom) setFound({ trial: trialA.id, target, headroom });
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  if (!usable) return null;
  return (
    <div className="mt-0.5 text-[12px]" data-testid="target-line">
      <p className="flex items-baseline gap-3 text-dim">
        {moods.length > 0 && (
          <Tip text="Whether the target is for the picture as it is, or for the noisiest of the moods that are kept for A in Balance: a film that is to serve them all.">
            <Word className="!px-0" onClick={() => set({ targetMoods: !targetMoods })}>
              for{' '}
              {targetMoods ? `the worst of ${moods.length} ${moods.length === 1 ? 'mood' : 'moods'}` : 'the picture'}
            </Word>
          </Tip>
        )}
        <Tip text="How many stops each light group of A can be lifted by itself until the noise is above the target, from its halves.">
          <Word className="!px-0" disabled={busy} onClick={() => void ask()}>
            {busy ? 'measuring headroom…' : `headroom at ${percent(target)}`}
          </Word>
        </Tip>
      </p>
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
