'use client';

import { LAYER } from '@/core/film';
import { colorFactors, factorText, type GroupMix } from '@/core/moods';
import { MOST_STOPS as MOST_ROOM } from '@/render/advice/bounds';
import type { FilmAt } from '@/render/questions/film-at';
import { Tip, Word } from '../../parts/controls';
import { Small } from '../../parts/small-picture';
import { useAsk } from '../../state/ask';
import { useDesk } from '../../state/desk-store';
import { percent, share as shareText, words } from '../../state/format';
import { settle } from '../../state/history';
import { useMoods } from '../../state/moods-store';

import { ColorMenu } from './color-menu';
import { GainField } from './gain-field';
import { GainSlider } from './gain-slider';

const THUMB = 80;
const GRID = 'grid grid-cols-[72px_minmax(0,1fr)_84px] gap-x-2.5 px-3.5';
const FIGURE = 'num w-[40px] shrink-0 text-right text-[11px] whitespace-nowrap text-dim';

/** A light group in the mix: on, alone, gain with headroom, colour, its share of the light and its noise. */
export function GroupRow({
  of,
  tick,
  group,
  value,
  own,
  share,
  noise,
  room,
  dark,
  onWhite,
}: {
  of: FilmAt;
  /** Changes when the film does. */
  tick: string;
  group: string;
  value: GroupMix;
  own: readonly number[] | null;
  share: number | null;
  noise: number | null;
  room: number | null;
  /** Why it gives no light at all; null where it gives some. */
  dark: string | null;
  /** Records it white; null where it cannot be. */
  onWhite: (() => void) | null;
}) {
  const alone = useDesk((s) => s.alone);
  const { mixGroup } = useMoods.getState();
  const name = words(group);
  const isAlone = alone.includes(group);
  const silent = alone.length > 0 ? !isAlone : !value.on;
  const thumb = useAsk(
    'layerPicture',
    { of, name: LAYER.group(group), across: THUMB },
    { of: tick, keep: true },
  ).answer;
  const black = value.on && colorFactors(value.color, own ?? undefined).every((k) => k === 0);
  return (
    <div className={`${GRID} py-1.5 ${silent ? 'opacity-55' : ''}`} data-testid={`group-${group}`}>
      <button
        type="button"
        aria-label={`${name} alone`}
        aria-pressed={isAlone}
        className={`row-span-2 block h-[41px] w-[72px] self-center overflow-hidden bg-pit ${isAlone ? 'outline-2 outline-fill' : 'hover:outline hover:outline-soft'}`}
        onClick={() => useDesk.getState().set({ alone: isAlone && alone.length === 1 ? [] : [group] })}
      >
        {thumb && <Small picture={thumb} />}
      </button>
      <div className="flex items-center gap-1.5">
        <span className="min-w-0 flex-1 truncate font-semibold">{name}</span>
        <span className={FIGURE}>{silent ? '' : shareText(share)}</span>
        <span className={FIGURE}>{silent || noise === null ? '' : percent(noise)}</span>
      </div>
      <ColorMenu
        label={name}
        color={value.color}
        own={own}
        onChange={(color, drag) =>
          mixGroup(`colour of ${name}`, group, { color }, drag ? `mix color ${group}` : undefined)
        }
        onSettled={settle}
        onWhite={onWhite}
      />
      <div className="flex items-center gap-2">
        <GainSlider
          label={name}
          stops={value.stops}
          room={silent ? null : room}
          onChange={(stops) => mixGroup(`gain of ${name}`, group, { stops }, `mix gain ${group}`)}
          onSettled={settle}
        />
        <Tip text="How far it can be lifted from here until the picture’s noise is above the target; hatched from there on.">
          <span className={FIGURE}>{roomText(silent || black ? null : room)}</span>
        </Tip>
      </div>
      <div className="flex items-center justify-between gap-1">
        <Tip text={`Stops as +1, a factor as x2, or percent as 200 %: now ${factorText(value.stops)}.`}>
          <span>
            <GainField
              label={`${name} gain`}
              stops={value.stops}
              onChange={(stops) => mixGroup(`gain of ${name}`, group, { stops })}
            />
          </span>
        </Tip>
        <Word
          on={value.on}
          aria-label={`${name} on`}
          className="!px-1"
          onClick={() => mixGroup(`${name} ${value.on ? 'off' : 'on'}`, group, { on: !value.on })}
        >
          {value.on ? 'on' : 'off'}
        </Word>
      </div>
      {dark && !silent && (
        <p className="col-span-3 text-[11.5px] text-soft">
          {name} is black: {black ? 'its colour in the mix is' : dark}.
        </p>
      )}
    </div>
  );
}

/** What stands in the columns of the rows. */
export function GroupHead() {
  return (
    <div className={`${GRID} pt-1.5 text-[11px] text-dim`}>
      <span>alone</span>
      <span className="flex justify-end gap-1.5">
        <Tip text="Part of the picture’s light that is the group’s, as it is mixed now.">
          <span className="w-[40px] text-right">light</span>
        </Tip>
        <Tip text="Noise that the group brings to the picture as it is mixed now, measured from both halves of the film.">
          <span className="w-[40px] text-right">noise</span>
        </Tip>
      </span>
      <span>emits</span>
    </div>
  );
}

function roomText(room: number | null): string {
  if (room === null) return '';
  if (room >= MOST_ROOM) return `room +${MOST_ROOM}`;
  return room > 0 ? `room +${room.toFixed(1)}` : 'no room';
}
