'use client';

import { ChevronDown, ChevronRight } from 'lucide-react';
import { LAYER } from '@/core/film';
import { colorFactors, type GroupMix } from '@/core/moods';
import { type GroupNode, partOf } from '@/core/scene';
import { percent, share as shareText, words } from '@/core/words';
import { MOST_STOPS as MOST_ROOM } from '@/render/advice/bounds';
import type { FilmAt } from '@/render/questions/film-at';
import { Tip, Word } from '../../parts/controls';
import { Small } from '../../parts/small-picture';
import { useAsk } from '../../state/ask';
import { useDesk } from '../../state/desk-store';
import { settle } from '../../state/history';

import { ColorMenu } from './color-menu';
import { GainField } from './gain-field';
import { GainSlider } from './gain-slider';
import { RowMenu } from './row-menu';

const THUMB = 80;
/** Pixels by which a row stands in that of the group that it is in. */
const INDENT = 12;
const GRID = 'grid grid-cols-[72px_minmax(0,1fr)_84px] gap-x-2.5 px-3.5';
const FIGURE = 'num w-[44px] shrink-0 text-right text-[11px] whitespace-nowrap text-dim';

/** What a part of a group's light is called, by the last word of its name. */
const PART_WORDS: Record<string, string> = {
  seen: 'seen itself',
  mirrors: 'in mirrors, glass',
  surfaces: 'on surfaces',
  fog: 'in fog',
};
/** A light group as its row has it: by what it is called in the group that it is in. */
function rowName(group: string): string {
  const last = group.slice(group.lastIndexOf('.') + 1);
  return group.includes('.') && last in PART_WORDS ? PART_WORDS[last] : words(last);
}

/** A picture of a group's light alone. */
function useThumb(of: FilmAt, tick: string, { name, groups }: GroupNode) {
  const isKept = groups.length === 1 && groups[0] === name;
  const own = useAsk('layerPicture', isKept ? { of, name: LAYER.group(name), across: THUMB } : null, {
    of: tick,
    keep: true,
  }).answer;
  const factors = Object.fromEntries(groups.map((g) => [g, ONE]));
  const sum = useAsk('moodPicture', isKept ? null : { of, groups, factors, across: THUMB, isPlain: true }, {
    of: tick,
    keep: true,
  }).answer;
  return isKept ? own : (sum?.picture ?? null);
}
const ONE: [number, number, number] = [1, 1, 1];

/** A light group in the mix: on, alone, gain with headroom, colour, its share of the light and its noise. */
export function GroupRow({
  of,
  tick,
  node,
  fold,
  value,
  onChange,
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
  node: GroupNode;
  /** Whether what is in it is folded away, and how that is changed; null where nothing is in it. */
  fold: { folded: boolean; change: () => void } | null;
  value: GroupMix;
  /** Changes what the mix at hand does to it; edits of one drag are one step. Returns the fault in words. */
  onChange: (words: string, change: Partial<GroupMix>, dragKey?: string) => string | null;
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
  const { name: group, depth } = node;
  const name = words(group);
  const isAlone = alone.includes(group);
  const silent = alone.length > 0 ? !isAlone : !value.on;
  const thumb = useThumb(of, tick, node);
  const black = value.on && colorFactors(value.color, own ?? undefined).every((k) => k === 0);
  return (
    <div className={`${GRID} py-1.5 ${silent ? 'opacity-55' : ''}`} data-testid={`group-${group}`}>
      <button
        type="button"
        aria-label={`${name} alone`}
        aria-pressed={isAlone}
        style={{ marginLeft: depth * INDENT, width: 72 - depth * INDENT, height: 41 - depth * INDENT * (41 / 72) }}
        className={`row-span-2 block self-center overflow-hidden bg-pit ${isAlone ? 'outline-2 outline-fill' : 'hover:outline hover:outline-soft'}`}
        onClick={() => useDesk.getState().set({ alone: isAlone && alone.length === 1 ? [] : [group] })}
      >
        {thumb && <Small picture={thumb} />}
      </button>
      <div className="flex items-center gap-1.5">
        {fold && (
          <button
            type="button"
            aria-label={`what is in ${name}`}
            aria-expanded={!fold.folded}
            className="-ml-1 shrink-0 text-dim hover:text-ink"
            onClick={fold.change}
          >
            {fold.folded ? <ChevronRight size={12} /> : <ChevronDown size={12} />}
          </button>
        )}
        <span className={`min-w-0 truncate ${depth > 0 ? '' : 'font-semibold'}`}>{rowName(group)}</span>
        <span className="flex-1" />
        <span className={`${FIGURE} !w-[30px]`}>{silent ? '' : shareText(share)}</span>
        <span className={FIGURE}>{silent || noise === null ? '' : percent(noise)}</span>
      </div>
      <ColorMenu
        label={name}
        color={value.color}
        own={own}
        onChange={(color, drag) => onChange(`colour of ${name}`, { color }, drag ? `mix color ${group}` : undefined)}
        onSettled={settle}
        onWhite={onWhite}
      />
      <div className="flex items-center gap-2">
        <GainSlider
          label={name}
          stops={value.stops}
          room={silent ? null : room}
          onChange={(stops) => onChange(`gain of ${name}`, { stops }, `mix gain ${group}`)}
          onSettled={settle}
        />
        <Tip text="How far it can be lifted from here until the picture’s noise is above the target; hatched from there on.">
          <span className={`${FIGURE} !w-auto min-w-[44px]`}>{roomText(silent || black ? null : room)}</span>
        </Tip>
        <RowMenu group={group} off={!value.on} />
      </div>
      <div className="flex items-center justify-between gap-1">
        <GainField
          label={`${name} gain`}
          stops={value.stops}
          onChange={(stops) => onChange(`gain of ${name}`, { stops })}
        />
        <Word
          on={value.on}
          aria-label={`${name} on`}
          className="!px-1"
          onClick={() => onChange(`${name} ${value.on ? 'off' : 'on'}`, { on: !value.on })}
        >
          {value.on ? 'on' : 'off'}
        </Word>
      </div>
      {dark && !silent && partOf(group).part === null && (
        <p className="col-span-3 text-[11.5px] text-soft">
          {name} is black: {black ? 'its colour in the mix is' : dark}.
        </p>
      )}
    </div>
  );
}

/** What stands in the columns of the rows. */
export function GroupHead({ onWhite }: { onWhite: (() => void) | null }) {
  return (
    <div className={`${GRID} pt-1.5 text-[11px] text-dim`}>
      <span>alone</span>
      <span className="flex gap-1.5">
        {onWhite && (
          <Tip text="Makes the lights of all groups white, each as bright as it is, and puts their colours into the mix, so that any colour can be given to them afterwards. What cannot be white is told.">
            <Word className="!px-0 !py-0 text-[11px]" onClick={onWhite}>
              record all white
            </Word>
          </Tip>
        )}
        <span className="flex-1" />
        <Tip text="Part of the picture’s light that is the group’s, as it is mixed now.">
          <span className="w-[30px] text-right">light</span>
        </Tip>
        <Tip text="Noise that the group brings to the picture as it is mixed now, measured from both halves of the film.">
          <span className="w-[44px] text-right">noise</span>
        </Tip>
      </span>
      <Tip text="The colour that the group’s lights emit in the mix, and below it their gain: stops as +1, a factor as x2, or percent as 200 %.">
        <span>emits, gain</span>
      </Tip>
    </div>
  );
}

function roomText(room: number | null): string {
  if (room === null) return '';
  if (room >= MOST_ROOM) return `room +${MOST_ROOM}`;
  return room > 0 ? `room +${room.toFixed(1)}` : 'no room';
}
