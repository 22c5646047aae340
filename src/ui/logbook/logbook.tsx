'use client';

import { useVirtualizer } from '@tanstack/react-virtual';
import { Star } from 'lucide-react';
import { useMemo, useRef } from 'react';
import { finished } from '@/contract/trial';
import { NoiseTime } from '../charts/noise-time';
import { TextField } from '../fields/text-field';
import { useLadder } from '../ladder/ladder-store';
import { Tip, Word } from '../parts/controls';
import { useAllTrials, useTrials } from '../state/trials-store';
import { ENTRY_WIDTH, Entry } from './entry';
import { filtered } from './filter';
import { useFilter } from './filter-store';

/** Pixels between two trials. */
const GAP = 10;
const MAP_WIDTH = 372;

/** Trials that are listed, and how many of all the shot's those are. */
function useListed() {
  const trials = useAllTrials();
  const text = useFilter((s) => s.text);
  const starred = useFilter((s) => s.starred);
  return useMemo(() => filtered(trials, text, starred), [trials, text, starred]);
}

/** Which trials the logbook lists, and how many there are. */
export function LogbookHead() {
  const listed = useListed();
  const { text, starred } = useFilter();
  const here = useTrials((s) => s.order.length);
  const total = useTrials((s) => s.total);
  const pictured = listed.filter(finished);
  if (total === 0) return null;
  return (
    <div className="flex min-w-0 flex-1 items-center gap-2">
      <Tip text="Keeps trials by words of their name, note, camera or state; ladder, region, a number (07) or a frame (f12).">
        <span>
          <TextField
            label="filter the logbook"
            placeholder="filter"
            className="w-28 !px-1.5 !py-px"
            value={text}
            onChange={(t) => useFilter.setState({ text: t })}
            onKeyDown={(e) => e.key === 'Escape' && useFilter.setState({ text: '' })}
          />
        </span>
      </Tip>
      <Word
        on={starred}
        aria-label="starred ones only"
        onClick={() => useFilter.setState({ starred: !starred })}
        className="!px-1"
      >
        <Star size={12} />
      </Word>
      <Tip text="The trials that are listed, on one sheet, cropped to the region; it can be saved as a picture.">
        <Word
          disabled={pictured.length === 0}
          onClick={() => useLadder.setState({ sheet: { trials: pictured.slice(0, 24).map((t) => t.id) } })}
        >
          Sheet
        </Word>
      </Tip>
      <span className="num flex-1 text-right whitespace-nowrap text-dim" data-testid="logbook-count">
        {listed.length < here ? `${listed.length} of ` : ''}
        {total} {total === 1 ? 'trial' : 'trials'}
        {here < total ? `, ${here} here` : ''}
      </span>
      <Tip text="Every trial by its time at speed 1 and its noise; slanting lines join equal efficiency, the line through dots those that no other beats. Hollow: predicted.">
        <span className="pl-3 text-soft" style={{ width: MAP_WIDTH - 12 }}>
          Noise and time
        </span>
      </Tip>
    </div>
  );
}

/** The logbook: every trial, newest first, beside the map of noise over time. */
export function LogbookFace() {
  return (
    <div className="flex min-h-0 flex-1">
      <section aria-label="Logbook" className="flex min-w-0 flex-1 flex-col border-r border-line">
        <Listing />
      </section>
      <section aria-label="charts" className="flex shrink-0 flex-col" style={{ width: MAP_WIDTH }}>
        <NoiseTime />
      </section>
    </div>
  );
}

function Listing() {
  const listed = useListed();
  const total = useTrials((s) => s.total);
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    horizontal: true,
    count: listed.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ENTRY_WIDTH + GAP,
    overscan: 3,
    getItemKey: (i) => listed[i].id,
  });
  if (total === 0)
    return (
      <p className="max-w-md px-3 pt-1 text-soft">
        Nothing logged yet. Set the recipe, then log a trial (T): it is rendered by the worker, timed, and kept here
        with its film and its noise.
      </p>
    );
  if (listed.length === 0) return <p className="px-3 pt-1 text-soft">No trial has all of these words.</p>;
  return (
    <div ref={scroller} className="min-h-0 flex-1 overflow-x-auto overflow-y-hidden px-3 pt-0.5">
      <ol className="relative h-full" style={{ width: rows.getTotalSize() }}>
        {rows.getVirtualItems().map((item) => (
          <li
            key={item.key}
            className="absolute top-0 bottom-0"
            style={{ width: ENTRY_WIDTH, transform: `translateX(${item.start}px)` }}
          >
            <Entry id={listed[item.index].id} />
          </li>
        ))}
      </ol>
    </div>
  );
}
