'use client';

import { useMemo } from 'react';
import { toast } from 'sonner';
import type { Run } from '@/contract/run';
import { broughtBack, type Moods } from '@/core/moods';
import { Word } from '../../parts/controls';
import { Menu, MenuItem } from '../../parts/menu';
import { useFramesPlaying, useRunInA } from '../../state/frames-playing';
import { type Mixed, useMixed, useMixedState, useMoodFactors } from '../../state/mixing';
import { useMoods } from '../../state/moods-store';
import { takeMoodFiles } from './actions';
import { Between } from './between';
import { KeyStrip } from './key-strip';
import { MoodCard } from './mood-card';

const NO_GROUPS: string[] = [];
const AS_RENDERED = {};

/** The moods of the shot beside each other, over what A shows: each as a picture with its noise. */
export function MoodsFace() {
  const moods = useMoods((s) => s.moods);
  const mixed = useMixed('A');
  const run = useRunInA();
  useFramesPlaying(run);
  if (!moods) return null;
  if (!mixed)
    return <p className="px-3 py-2 text-soft">Put the live picture or a finished trial with light groups into A.</p>;
  return <MoodCards moods={moods} mixed={mixed} run={run} />;
}

function MoodCards({ moods, mixed, run }: { moods: Moods; mixed: Mixed; run: Run | null }) {
  const { of, groups, own, frame } = mixed;
  const { tick, isThere, isWhole } = useMixedState(mixed);
  const factors = useMoodFactors(groups.length > 0 ? groups : NO_GROUPS, own, frame);
  const film = useMemo(() => (isThere ? { of, groups: [...groups] } : null), [isThere, of, groups]);
  const { replace } = useMoods.getState();
  return (
    <div className="flex min-h-0 flex-1 flex-col" data-testid="moods">
      <div className="flex shrink-0 items-center gap-3 px-3 pb-1">
        <Between moods={moods} own={own} frame={frame} />
        {!isThere && <span className="text-dim">pictures come once every pixel has two samples</span>}
        <span className="flex-1" />
        <label className="cursor-pointer text-soft focus-within:text-ink hover:text-ink">
          bring in JSON
          <input
            type="file"
            accept=".json,application/json"
            multiple
            className="sr-only"
            onChange={(e) => {
              void takeMoodFiles([...(e.target.files ?? [])]);
              e.target.value = '';
            }}
          />
        </label>
        {moods.forgotten.length > 0 && (
          <Menu align="end" trigger={<Word>{`forgotten (${moods.forgotten.length})`}</Word>}>
            {moods.forgotten.map((m) => (
              <MenuItem
                key={m.id}
                onSelect={() => {
                  const fault = replace(`bring ${m.name} back`, broughtBack(moods, m.id));
                  if (fault) toast.error(fault);
                }}
              >
                bring back {m.name}
              </MenuItem>
            ))}
          </Menu>
        )}
      </div>
      <KeyStrip moods={moods} mixed={mixed} run={run} />
      <ul
        aria-label="moods"
        className="grid min-h-0 flex-1 grid-cols-[repeat(auto-fill,minmax(144px,1fr))] content-start gap-x-2 gap-y-1.5 overflow-y-auto px-3 pt-1 pb-2"
      >
        <MoodCard
          film={film}
          tick={tick}
          isWhole={isWhole}
          name="as rendered"
          factors={AS_RENDERED}
          moods={moods}
          mood={null}
          place={0}
        />
        {moods.list.map((mood, place) => (
          <MoodCard
            key={mood.id}
            film={film}
            tick={tick}
            isWhole={isWhole}
            name={mood.name}
            factors={factors[place].factors}
            moods={moods}
            mood={mood}
            place={place}
          />
        ))}
        {moods.list.length === 0 && (
          <li className="col-span-2 self-center text-soft">
            No mood is kept yet. Mix the light groups beside the picture, then keep the mix under a name: it stays with
            the shot.
          </li>
        )}
      </ul>
    </div>
  );
}
