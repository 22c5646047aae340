'use client';

import { DndContext, MeasuringStrategy, PointerSensor, pointerWithin, useSensor, useSensors } from '@dnd-kit/core';
import type { Path, Place } from '@/core/comp';
import { Plain, Primary, Tip, Word } from '../../parts/controls';
import { useDesk } from '../../state/desk-store';
import { useDocument, useSceneGroups } from '../../state/scene-now';
import { type Stacked, useStacked } from '../../state/stacking';
import { change, move, pick } from './actions';
import { AddMenu, bringPictures, OperationMenu, picturesOf } from './add-menu';
import { ColourMenu } from './colour';
import { CompHead } from './comp-head';
import { EntryList } from './entry-row';
import { SaveMenu } from './save-menu';
import { startsOf } from './starts';
import { pathWords } from './words';

/** The last that happens to the light, above all entries: it is brought to a screen. */
function ShownOn({ stacked }: { stacked: Stacked }) {
  const { space, display } = stacked.stack;
  return (
    <p className="flex min-h-[24px] items-center gap-1 pr-2.5 pl-[35px] text-soft">
      shown on
      <ColourMenu
        stacked={stacked}
        trigger={<Word className="!px-1">{display.to === 'table' ? display.table : display.to}</Word>}
      />
      {space === 'ACEScg' && 'from ACEScg'}
    </p>
  );
}

/** Comp: the parts over a plate, in linear light, to a finished picture: a stack that reads from the bottom up. */
export function CompPanel() {
  const stacked = useStacked();
  if (stacked === null)
    return (
      <p className="my-auto px-8 text-center text-soft">
        Put the live picture or a finished trial into A: the stack lies over it.
      </p>
    );
  if (typeof stacked === 'string') return <Broken fault={stacked} />;
  return stacked.stack.entries.length === 0 ? <Empty stacked={stacked} /> : <Filled stacked={stacked} />;
}

/** A stack that cannot be read at this frame. */
function Broken({ fault }: { fault: string }) {
  return (
    <div className="my-auto px-8 text-center text-soft" role="alert">
      <p className="font-semibold text-ink">The stack cannot be read</p>
      <p>{fault}. Undo goes back.</p>
    </div>
  );
}

/** What a stack may begin as. */
function Empty({ stacked }: { stacked: Stacked }) {
  const groups = useSceneGroups();
  const [plate = null] = picturesOf(useDocument());
  const { name, environment } = useDocument();
  const isSkySeen = environment?.on === true && environment.gains.seen !== 0;
  const starts = startsOf(stacked.kept, groups, plate, name, isSkySeen);
  return (
    <div className="my-auto flex flex-col items-center gap-2 px-8 text-center text-soft" data-testid="starts">
      <p className="font-semibold text-ink">Nothing is stacked yet</p>
      <p>
        A stack is read from the bottom up: layers of the film over a plate, and what is done to them. All of it is
        linear light, and stays checked against the picture.
      </p>
      <div className="mt-2 flex w-full flex-col gap-1.5">
        {starts.map(({ label, tip, stack }) => (
          <Tip key={label} text={tip} side="left">
            <Plain className="justify-center" onClick={() => change(label.toLowerCase(), () => stack)}>
              {label}
            </Plain>
          </Tip>
        ))}
        {plate === null && (
          <Word className="underline" onClick={() => void bringPictures()}>
            or bring in a plate first
          </Word>
        )}
      </div>
    </div>
  );
}

function Filled({ stacked }: { stacked: Stacked }) {
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const { stack } = stacked;
  const isThrough = useDesk((s) => s.throughStack);
  const top = { list: ['entries'], index: stack.entries.length };
  return (
    <>
      <CompHead stacked={stacked} />
      <DndContext
        sensors={sensors}
        collisionDetection={pointerWithin}
        // Rows grow when something is measured of the stack, also while one is dragged.
        measuring={{ droppable: { strategy: MeasuringStrategy.Always } }}
        onDragEnd={({ active, over }) => {
          const path = active.data.current?.path as Path | undefined;
          const to = over?.data.current?.place as Place | undefined;
          if (!path || !to) return;
          pick(null);
          move(pathWords(stack, path), path, to);
        }}
      >
        <div className="min-h-0 flex-1 overflow-y-auto py-1" data-testid="stack">
          <ShownOn stacked={stacked} />
          <EntryList stacked={stacked} entries={stack.entries} list={['entries']} />
        </div>
      </DndContext>
      <div className="flex items-center gap-1.5 border-t border-line px-3.5 py-2.5 whitespace-nowrap">
        <AddMenu stacked={stacked} place={top} trigger={<Plain>Add a layer</Plain>} />
        <OperationMenu stacked={stacked} place={top} trigger={<Plain>Do to all</Plain>} />
        <span className="flex-1" />
        <Tip text="Set-up and Tune show the picture through the stack too: lit and tuned as it will leave.">
          <Word on={isThrough} onClick={() => useDesk.getState().set({ throughStack: !isThrough })}>
            in all views
          </Word>
        </Tip>
        <SaveMenu stacked={stacked} trigger={<Primary>Save</Primary>} />
      </div>
    </>
  );
}
