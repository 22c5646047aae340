'use client';

import { useDraggable, useDroppable } from '@dnd-kit/core';
import { GripVertical } from 'lucide-react';
import { Checkbox } from 'radix-ui';
import { type Entry, type Path, placeOf, type Way } from '@/core/comp';
import { useDesk } from '../../state/desk-store';
import type { Stacked } from '../../state/stacking';
import { pathText, pick, put } from './actions';
import { EntryDetails } from './entry-details';
import { EntryMenu } from './entry-menu';
import { Opacity, OperationSentence } from './sentence';
import { entryName, lackWords, ownWay, WAY_SAYS } from './words';

/** Entries of a list, what is done last at the top. */
export function EntryList({ stacked, entries, list }: { stacked: Stacked; entries: readonly Entry[]; list: Path }) {
  return (
    <ol className="flex flex-col-reverse">
      {entries.map((entry, i) => (
        // Entries are told apart by where they stand.
        <EntryRow key={i} stacked={stacked} entry={entry} path={[...list, i]} isOnly={entries.length === 1} />
      ))}
      <Below list={list} isEmpty={entries.length === 0} />
    </ol>
  );
}

/** Where what is dragged becomes the first of a list. */
function Below({ list, isEmpty }: { list: Path; isEmpty: boolean }) {
  const { setNodeRef, isOver } = useDroppable({ id: `${pathText(list)}.-1`, data: { place: { list, index: 0 } } });
  return (
    <li
      ref={setNodeRef}
      className={`order-last ${isOver ? 'border-t-2 border-ink' : ''} ${isEmpty ? 'px-3 py-1 text-dim' : 'h-2'}`}
    >
      {isEmpty && 'nothing in it yet: drag something here'}
    </li>
  );
}

function EntryRow({ stacked, entry, path, isOnly }: { stacked: Stacked; entry: Entry; path: Path; isOnly: boolean }) {
  const { frame, missing } = stacked;
  const text = pathText(path);
  const isOpen = useDesk((s) => s.entry === text);
  const { list, index } = placeOf(path);
  const over = useDroppable({ id: text, data: { place: { list, index: index + 1 } } });
  const drag = useDraggable({ id: text, data: { path } });
  const name = entryName(entry);
  const lacks = missing.get(text);
  // What lacks something is off in the picture, but not in the stack.
  const isOn = entry.on || lacks !== undefined;
  const toggle = () => put(`${name} ${isOn ? 'off' : 'on'}`, [...path, 'on'], !isOn, frame, false);
  return (
    <li
      ref={over.setNodeRef}
      data-testid="entry"
      className={`${over.isOver ? 'border-t-2 border-ink' : ''} ${drag.isDragging ? 'opacity-40' : ''} ${isOpen ? 'bg-raised' : 'hover:bg-raised/60'}`}
    >
      <div className="flex items-start gap-1.5 py-[3px] pr-2 pl-1">
        <button
          type="button"
          ref={drag.setNodeRef}
          {...drag.listeners}
          aria-label={`drag ${name}`}
          tabIndex={-1}
          className="mt-[3px] cursor-grab text-dim hover:text-ink"
        >
          <GripVertical size={12} aria-hidden="true" />
        </button>
        <Checkbox.Root
          aria-label={`${name} on`}
          checked={isOn}
          onCheckedChange={toggle}
          className="mt-[3px] flex h-3.5 w-3.5 shrink-0 items-center justify-center rounded-sm border border-dim"
        >
          <Checkbox.Indicator className="block h-2 w-2 bg-fill" />
        </Checkbox.Root>
        <div
          className={`flex min-w-0 flex-1 flex-wrap items-center gap-x-1 gap-y-0.5 leading-5 ${isOn ? '' : 'text-dim'}`}
        >
          <Sentence entry={entry} path={path} frame={frame} isFirst={index === 0 && list.length === 1} />
          {lacks && (
            <span className="text-[11.5px] text-soft italic" role="status">
              – {lackWords(lacks, stacked)}
            </span>
          )}
        </div>
        <EntryMenu entry={entry} path={path} name={name} isOnly={isOnly} />
      </div>
      {entry.kind !== 'operation' &&
        entry.operations.map((operation, i) => (
          <div key={i} className="flex flex-wrap items-center gap-x-1 pr-3 pl-11 leading-5 text-soft">
            <span className="text-dim">its</span>
            <OperationSentence operation={operation} base={[...path, 'operations', i]} frame={frame} />
          </div>
        ))}
      {isOpen && <EntryDetails stacked={stacked} entry={entry} path={path} name={name} />}
      {entry.kind === 'nest' && (
        <div className="ml-5 border-l border-line">
          <EntryList stacked={stacked} entries={entry.entries} list={[...path, 'entries']} />
        </div>
      )}
    </li>
  );
}

const BOTTOM = 'lies at the bottom';

/** An entry in words. */
function Sentence({ entry, path, frame, isFirst }: { entry: Entry; path: Path; frame: number; isFirst: boolean }) {
  const name = entryName(entry);
  const isOpen = useDesk((s) => s.entry === pathText(path));
  const open = () => pick(isOpen ? null : path);
  const where = entry.mask !== null && <span className="text-soft">where {entry.mask}</span>;
  if (entry.kind === 'operation')
    return (
      <>
        {entry.name && (
          <button type="button" className="font-semibold hover:underline" onClick={open}>
            {entry.name}:
          </button>
        )}
        <OperationSentence operation={entry.operation} base={[...path, 'operation']} frame={frame} />
        {entry.opacity !== 1 && <Opacity path={path} value={entry.opacity} frame={frame} name={name} />}
        {where}
        <button
          type="button"
          aria-label={`settings of ${name}`}
          aria-expanded={isOpen}
          className="text-[11px] text-dim underline hover:text-ink"
          onClick={open}
        >
          more
        </button>
      </>
    );
  const way: Way | null = entry.way === 'by itself' ? ownWay(entry) : entry.way;
  const says = way === null ? 'never shows: say how it joins' : isFirst && way === 'over' ? BOTTOM : WAY_SAYS[way];
  return (
    <>
      <button type="button" aria-expanded={isOpen} className="text-left font-semibold hover:underline" onClick={open}>
        {name}
      </button>
      <span>{says}</span>
      {(says !== BOTTOM || entry.opacity !== 1) && (
        <Opacity path={path} value={entry.opacity} frame={frame} name={name} />
      )}
      {where}
    </>
  );
}
