'use client';

import { ChevronDown } from 'lucide-react';
import { Slider } from 'radix-ui';
import { useState } from 'react';
import { between, type Mix, type Moods, mixAt } from '@/core/moods';
import { Menu, MenuItem } from '../../parts/menu';
import { settle } from '../../state/history';
import type { OwnColors } from '../../state/mixing';
import { useMoods } from '../../state/moods-store';

const NO_MIX: Mix = {};
const UNTOLD: OwnColors = {};
const AS_RENDERED = 'as rendered';

/** Two moods and a slider between them: what it gives is the mix at hand. */
export function Between({ moods, own, frame }: { moods: Moods; own: OwnColors | null; frame: number }) {
  const [ends, setEnds] = useState<[string | null, string | null]>([null, moods.list[0]?.id ?? null]);
  const [at, setAt] = useState<number | null>(null);
  if (moods.list.length === 0) return null;
  const mixOf = (id: string | null) => {
    const mood = moods.list.find((m) => m.id === id);
    return mood ? mixAt(mood, frame, own ?? UNTOLD) : NO_MIX;
  };
  const nameOf = (id: string | null) => moods.list.find((m) => m.id === id)?.name ?? AS_RENDERED;
  const go = (t: number) => {
    setAt(t);
    const mix = between(mixOf(ends[0]), mixOf(ends[1]), t, own ?? UNTOLD);
    useMoods.getState().mix(`between ${nameOf(ends[0])} and ${nameOf(ends[1])}`, mix, frame, 'between moods');
  };
  const end = (k: 0 | 1) => (
    <Menu
      trigger={
        <button
          type="button"
          aria-label={k === 0 ? 'mood on the left' : 'mood on the right'}
          className="flex max-w-36 items-center gap-0.5 text-soft hover:text-ink"
        >
          <span className="truncate">{nameOf(ends[k])}</span> <ChevronDown size={11} className="shrink-0" />
        </button>
      }
    >
      {[null, ...moods.list.map((m) => m.id)].map((id) => (
        <MenuItem
          key={id ?? ''}
          onSelect={() => {
            setEnds(k === 0 ? [id, ends[1]] : [ends[0], id]);
            setAt(null);
          }}
        >
          {nameOf(id)}
        </MenuItem>
      ))}
    </Menu>
  );
  return (
    <div className="flex items-center gap-2" data-testid="between">
      <span className="text-dim">between</span>
      {end(0)}
      <Slider.Root
        className="relative flex h-5 w-36 touch-none items-center select-none"
        min={0}
        max={1}
        step={0.01}
        value={[at ?? 0]}
        onValueChange={([t]) => go(t)}
        onValueCommit={settle}
      >
        <Slider.Track className="relative h-px grow bg-[#5a5a5a]" />
        <Slider.Thumb aria-label="between two moods" className="block h-3.5 w-2 rounded-sm bg-fill" />
      </Slider.Root>
      {end(1)}
      <span className="num w-8 text-[11px] text-dim">{at === null ? '' : `${Math.round(at * 100)} %`}</span>
    </div>
  );
}
