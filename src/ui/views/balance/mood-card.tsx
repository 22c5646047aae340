'use client';

import { Ellipsis } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import type { Factors } from '@/core/film';
import { asEarlier, forgotten, isKept, kept, type Mood, type Moods, moved, renamed, type Timed } from '@/core/moods';
import { percent } from '@/core/words';
import type { FilmAt } from '@/render/questions/film-at';
import { Menu, MenuHeading, MenuItem, MenuLine } from '../../parts/menu';
import { NameDialog } from '../../parts/name-dialog';
import { Small } from '../../parts/small-picture';
import { useAsk } from '../../state/ask';
import { useDesk } from '../../state/desk-store';
import { useMoods } from '../../state/moods-store';
import { saveMood, takeMood } from './actions';

const ACROSS = 144;
const AFTER_MS = 250;

/** A mood over what A shows: a click takes it, its menu has the rest. */
export function MoodCard({
  film,
  tick,
  isWhole,
  name,
  factors,
  moods,
  mood,
  place,
}: {
  film: { of: FilmAt; groups: string[] } | null;
  tick: string;
  /** Whether the film is finished: until then its noise is that of a moment. */
  isWhole: boolean;
  name: string;
  factors: Factors;
  moods: Moods;
  /** Null: the picture as it was rendered. */
  mood: Mood | null;
  place: number;
}) {
  const { answer } = useAsk('moodPicture', film && { ...film, factors, across: ACROSS }, {
    of: tick,
    afterMs: AFTER_MS,
    keep: true,
  });
  const isNow = moods.now.mood === (mood?.id ?? null);
  const inB = useDesk((s) => s.b !== null && s.moodB === (mood?.id ?? ''));
  return (
    <li className="relative" data-testid={`mood-${name}`}>
      <button
        type="button"
        aria-pressed={isNow}
        aria-label={name}
        className={`block w-full text-left outline-offset-1 ${isNow ? 'outline-2 outline-fill' : 'hover:outline hover:outline-soft'}`}
        onClick={() => takeMood(moods, mood?.id ?? null)}
      >
        <span className="block aspect-video w-full overflow-hidden bg-pit">
          {answer && <Small picture={answer.picture} />}
        </span>
        <span className="block truncate px-0.5 pr-6 text-[11.5px]">
          {name}
          {mood && isNow && !isKept(moods) ? ' · changed' : ''}
          {mood && mood.keys.length > 0 ? ' · over frames' : ''}
        </span>
        <span className="num block h-4 px-0.5 text-[11px] leading-4 text-dim">
          {[isWhole && answer?.noise && `noise ${percent(answer.noise.rms)}`, inB && 'in B']
            .filter(Boolean)
            .join(' · ')}
        </span>
      </button>
      <MoodMenu moods={moods} mood={mood} name={name} place={place} />
    </li>
  );
}

/** What a mix sets, in few words. */
const timedWords = ({ mix, keys }: Timed): string =>
  keys.length > 0 ? `${keys.length} keys` : `${Object.keys(mix).length} groups`;

function MoodMenu({ moods, mood, name, place }: { moods: Moods; mood: Mood | null; name: string; place: number }) {
  const [naming, setNaming] = useState(false);
  const change = (words: string, next: Moods) => {
    const fault = useMoods.getState().replace(words, next);
    if (fault) toast.error(fault);
  };
  const showInB = () => {
    const { a, b, compare, set } = useDesk.getState();
    set({ moodB: mood?.id ?? '', b: b ?? a, compare: compare === 'a' ? 'wipe' : compare });
  };
  return (
    <>
      <Menu
        align="end"
        trigger={
          <button
            type="button"
            aria-label={`what to do with ${name}`}
            className="absolute right-0 bottom-[15px] p-1 text-dim hover:text-ink"
          >
            <Ellipsis size={13} />
          </button>
        }
      >
        <MenuItem onSelect={showInB}>show in B</MenuItem>
        {mood && (
          <>
            <MenuItem onSelect={() => change(`another mix of ${name}`, kept({ ...moods }, name, mood.id))}>
              give it the mix at hand
            </MenuItem>
            <MenuItem onSelect={() => useDesk.getState().set({ view: 'tune', targetMood: mood.id })}>
              make it clean, in Tune
            </MenuItem>
            <MenuItem onSelect={() => setNaming(true)}>rename</MenuItem>
            <MenuItem
              disabled={place === 0}
              onSelect={() => change(`${name} earlier`, moved(moods, mood.id, place - 1))}
            >
              move left
            </MenuItem>
            <MenuItem
              disabled={place === moods.list.length - 1}
              onSelect={() => change(`${name} later`, moved(moods, mood.id, place + 1))}
            >
              move right
            </MenuItem>
            <MenuItem onSelect={() => saveMood(mood)}>save as JSON</MenuItem>
            <MenuItem onSelect={() => change(`forget ${name}`, forgotten(moods, mood.id))}>forget</MenuItem>
            {mood.earlier.length > 0 && (
              <>
                <MenuLine />
                <MenuHeading>what it was before</MenuHeading>
                {mood.earlier.map((before, i) => (
                  <MenuItem
                    key={JSON.stringify(before)}
                    onSelect={() => change(`${name} as it was`, asEarlier(moods, mood.id, i))}
                  >
                    {i === 0 ? 'the mix before this' : `${i + 1} mixes ago`}
                    <span className="num text-dim">{timedWords(before)}</span>
                  </MenuItem>
                ))}
              </>
            )}
          </>
        )}
      </Menu>
      {naming && mood && (
        <NameDialog
          title={`Rename ${name}`}
          label="Name of the mood"
          action="Rename"
          initial={name}
          most={60}
          onName={(next) => {
            change(`rename ${name}`, renamed(moods, mood.id, next));
            setNaming(false);
          }}
          onClose={() => setNaming(false)}
        />
      )}
    </>
  );
}
