'use client';

import { ChevronDown } from 'lucide-react';
import { finished } from '@/contract/trial';
import type { Mood } from '@/core/moods';
import { percent, words } from '@/core/words';
import { MOST_STOPS } from '@/render/advice/bounds';
import { Tip, Word } from '../../parts/controls';
import { Menu, MenuItem } from '../../parts/menu';
import { useAsk } from '../../state/ask';
import { useDesk } from '../../state/desk-store';
import { useMoods } from '../../state/moods-store';
import { useGroups, useSlotFilm, useWholeSlot } from '../../state/slots';

const AS_RENDERED = {};
const NO_MOODS: readonly Mood[] = [];

/** What the noise target is for: the picture, or the worst of the shot's moods; and how far each light group can be lifted in A. */
export function TargetLine() {
  const trialA = useWholeSlot('A');
  const groups = useGroups();
  const target = useDesk((s) => s.target);
  const of = useSlotFilm('A');
  const hasMoods = useMoods((s) => (s.moods?.list.length ?? 0) > 0);
  const usable = trialA !== null && finished(trialA) && trialA.recipe.film.groups;
  const headroom = useAsk('headroom', usable && of ? { of, groups, factors: AS_RENDERED, target } : null, {
    byItself: false,
  });
  const { answer: known, asking: busy, fault } = headroom;
  if (!usable && !hasMoods) return null;
  return (
    <div className="mt-0.5 text-[12px]" data-testid="target-line">
      <p className="flex items-baseline gap-3 text-dim">
        {hasMoods && <TargetMood />}
        {usable && (
          <Tip text="How many stops each light group of A can be lifted by itself until the noise is above the target, from its halves.">
            <Word className="!px-0" disabled={busy} onClick={headroom.again}>
              {busy ? 'measuring headroom' : `headroom at ${percent(target)}`}
            </Word>
          </Tip>
        )}
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

/** What the target is for: the picture, the noisiest of the shot's moods, or one of them. */
function TargetMood() {
  const wanted = useDesk((s) => s.targetMood);
  const list = useMoods((s) => s.moods?.list) ?? NO_MOODS;
  const { set } = useDesk.getState();
  const worst = list.length === 1 ? 'its mood' : `the noisiest of ${list.length} moods`;
  const one = list.find((m) => m.id === wanted)?.name;
  return (
    <Menu
      trigger={
        <Word className="!px-0">
          for {wanted === null ? 'the picture' : (one ?? worst)} <ChevronDown size={11} className="inline" />
        </Word>
      }
    >
      <MenuItem onSelect={() => set({ targetMood: null })}>the picture as it is</MenuItem>
      <MenuItem onSelect={() => set({ targetMood: '' })}>{worst}</MenuItem>
      {list.length > 1 &&
        list.map((m) => (
          <MenuItem key={m.id} onSelect={() => set({ targetMood: m.id })}>
            {m.name}
          </MenuItem>
        ))}
    </Menu>
  );
}
