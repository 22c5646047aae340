'use client';

import {
  DndContext,
  type DragEndEvent,
  PointerSensor,
  pointerWithin,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { useState } from 'react';
import { toast } from 'sonner';
import {
  type Grouping,
  groupForEach,
  groupForEachSet,
  groupNameOf,
  type LightSource,
  lightSources,
  MOST_GROUPS,
  namedGroups,
  quietestOver,
  type SceneDocument,
  UNASSIGNED,
} from '@/core/scene';
import { two } from '@/core/words';
import type { LightPicture } from '@/render/questions/light-pictures';
import { Tip, Word } from '../../parts/controls';
import { Menu, MenuHeading, MenuItem, MenuLine } from '../../parts/menu';
import { Small } from '../../parts/small-picture';
import { useAsk } from '../../state/ask';
import { regroup, renameGroup } from '../../state/regroup';
import { useDocument, usePatient } from '../../state/scene-now';
import { percent } from './layers';
import { useOtherwiseGrouped } from './otherwise-grouped';

/** Where a drag ends to make a light group of its own. */
const NEW = ' new';
const ASK_AFTER_MS = 700;

const keyOf = (s: LightSource) => s.members[0];
const wordsOf = (s: LightSource) => (s.members.length > 1 ? `${s.name} × ${s.members.length}` : s.name);

function tell(fault: string | null) {
  if (fault) toast.error(fault);
}

/** A name for a light group of some sources that no other group has. */
function freeGroup(document: SceneDocument, sources: readonly LightSource[]): string {
  const taken = [...namedGroups(document), ...(document.groups ?? [])];
  const wanted = groupNameOf(sources[0].kind === 'environment' ? 'sky' : sources[0].name);
  if (!taken.includes(wanted)) return wanted;
  for (let n = 2; ; n++) if (!taken.includes(`${wanted}_${n}`)) return `${wanted}_${n}`;
}

/** Light groups as lanes, with the sources of light that are in each: drag them from one to another. */
export function LightLanes() {
  const document = useDocument();
  const patient = usePatient();
  const { answer, asking, fault } = useAsk('lightPictures', patient ? { patient } : null, {
    afterMs: ASK_AFTER_MS,
    keep: true,
  });
  const [chosen, setChosen] = useState<readonly string[]>([]);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const sources = lightSources(document);
  const groups = namedGroups(document);
  const pictures = new Map((answer ?? []).flatMap((p) => p.source.members.map((m) => [m, p] as const)));
  const shareOf = (group: string) => {
    const own = new Set(sources.filter((s) => s.group === group).map((s) => pictures.get(keyOf(s))));
    return [...own].reduce((sum, p) => sum + (p?.share ?? 0), 0);
  };
  const move = (moved: readonly LightSource[], to: string) => {
    if (moved.length === 0 || moved.every((s) => s.group === to)) return;
    const group = to === NEW ? freeGroup(document, moved) : to;
    const words = moved.length === 1 ? wordsOf(moved[0]) : `${moved.length} sources`;
    tell(
      regroup(
        `${words} into light group ${group}`,
        () => new Map(moved.flatMap((s) => s.members.map((m) => [m, group]))),
      ),
    );
    setChosen([]);
  };
  /** What goes with a source: all that is chosen when it is one of them. */
  const withChosen = (source: LightSource) =>
    chosen.includes(keyOf(source)) ? sources.filter((s) => chosen.includes(keyOf(s))) : [source];
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (!over) return;
    const what = active.data.current as { source?: LightSource; group?: string };
    if (what.source) move(withChosen(what.source), String(over.id));
    else if (what.group && String(over.id) !== NEW) tell(renameGroup(what.group, String(over.id)));
  };
  if (sources.length === 0)
    return <p className="px-3 py-2 text-soft">Nothing gives light yet: add a light in Set-up, Contents › Add.</p>;
  return (
    <DndContext sensors={sensors} collisionDetection={pointerWithin} onDragEnd={onDragEnd}>
      <Head
        document={document}
        groups={groups}
        shareOf={answer ? shareOf : null}
        busy={asking ? 'measuring each alone' : (fault ?? '')}
      />
      <div className="flex min-h-0 flex-1 overflow-x-auto px-3 pb-2" data-testid="light-lanes">
        {groups.map((group) => (
          <Lane key={group} group={group} share={answer ? shareOf(group) : null}>
            {sources
              .filter((s) => s.group === group)
              .map((source) => (
                <SourceRow
                  key={keyOf(source)}
                  source={source}
                  measured={pictures.get(keyOf(source)) ?? null}
                  chosen={chosen.includes(keyOf(source))}
                  groups={groups}
                  onChoose={() =>
                    setChosen(
                      chosen.includes(keyOf(source))
                        ? chosen.filter((k) => k !== keyOf(source))
                        : [...chosen, keyOf(source)],
                    )
                  }
                  onMove={(to) => move(withChosen(source), to)}
                />
              ))}
          </Lane>
        ))}
        <NewLane />
      </div>
    </DndContext>
  );
}

/** What can be done with all groups at once, and what does not fit. */
function Head({
  document,
  groups,
  shareOf,
  busy,
}: {
  document: SceneDocument;
  groups: readonly string[];
  shareOf: ((group: string) => number) | null;
  busy: string;
}) {
  const other = useOtherwiseGrouped(document);
  const over = groups.length > MOST_GROUPS;
  const quiet = shareOf ? quietestOver(groups, shareOf) : [];
  const all = (words: string, of: (d: SceneDocument) => Grouping) => tell(regroup(words, of));
  const merge = () =>
    all(
      `${quiet.length} quietest light groups together`,
      (d) =>
        new Map(lightSources(d).flatMap((s) => (quiet.includes(s.group) ? s.members.map((m) => [m, UNASSIGNED]) : []))),
    );
  const hasSets = Object.keys(document.sets).length > 0;
  return (
    <div className="flex min-h-6 shrink-0 flex-wrap items-center gap-x-1.5 px-3 pb-1">
      <span className={over ? 'font-semibold' : 'text-dim'} data-testid="group-count">
        {groups.length} of {MOST_GROUPS}
      </span>
      <Tip text="Every source gets a light group named for it; copies of one another stay together.">
        <Word onClick={() => all('a light group for each source', groupForEach)}>One for each</Word>
      </Tip>
      {hasSets && (
        <Tip text="What is in a set, or is carried by what is in it, goes into a light group of the set’s name.">
          <Word onClick={() => all('a light group for each set', groupForEachSet)}>One for each set</Word>
        </Tip>
      )}
      {over && (
        <span role="alert" className="flex items-center gap-1">
          A film keeps {MOST_GROUPS}: the last ones would be written together.
          {quiet.length > 0 && (
            <Word className="font-semibold !text-ink underline" onClick={merge}>
              Put the {quiet.length} quietest together: {quiet.slice(0, 3).join(', ')}
              {quiet.length > 3 ? ' …' : ''}
            </Word>
          )}
        </span>
      )}
      <span className="flex-1" />
      {busy !== '' && <span className="text-dim">{busy}</span>}
      {other.length > 0 && (
        <span className="text-soft" data-testid="otherwise-grouped">
          grouped otherwise:{' '}
          {other
            .slice(0, 6)
            .map((t) => two(t.number))
            .join(', ')}
          {other.length > 6 ? ` and ${other.length - 6} more` : ''} · log a trial to mix by these
        </span>
      )}
    </div>
  );
}

function Lane({ group, share, children }: { group: string; share: number | null; children: React.ReactNode }) {
  const { setNodeRef, isOver } = useDroppable({ id: group });
  const drag = useDraggable({ id: `lane ${group}`, data: { group } });
  const [naming, setNaming] = useState(false);
  const isUnassigned = group === UNASSIGNED;
  const rename = (to: string) => {
    setNaming(false);
    const wanted = to.trim();
    if (wanted !== '' && wanted !== group) tell(renameGroup(group, groupNameOf(wanted)));
  };
  return (
    <section
      ref={setNodeRef}
      aria-label={`light group ${group}`}
      className={`mr-1.5 flex w-[172px] shrink-0 flex-col border-t-2 ${isUnassigned ? 'border-dashed border-ink' : 'border-line'} ${isOver ? 'bg-raised' : ''}`}
    >
      <div className="flex h-[22px] shrink-0 items-center gap-1 px-1">
        {naming ? (
          <input
            // biome-ignore lint/a11y/noAutofocus: asked for by the button before it
            autoFocus
            aria-label={`name of light group ${group}`}
            defaultValue={group}
            className="w-28 rounded-sm border border-line bg-pit px-1 outline-none"
            onKeyDown={(e) => {
              e.stopPropagation();
              if (e.key === 'Enter') rename(e.currentTarget.value);
              if (e.key === 'Escape') setNaming(false);
            }}
            onBlur={(e) => rename(e.target.value)}
          />
        ) : (
          <button
            ref={drag.setNodeRef}
            {...drag.attributes}
            {...drag.listeners}
            type="button"
            className="min-w-0 flex-1 cursor-grab truncate text-left font-semibold"
            title={`${group}: click to rename; drag onto another to make them one`}
            onClick={() => setNaming(true)}
          >
            {isUnassigned ? 'unassigned (other)' : group}
          </button>
        )}
        {share !== null && <span className="num text-[11px] text-dim">{percent(share)}</span>}
      </div>
      <ul className="min-h-0 flex-1 overflow-y-auto">{children}</ul>
    </section>
  );
}

function SourceRow({
  source,
  measured,
  chosen,
  groups,
  onChoose,
  onMove,
}: {
  source: LightSource;
  measured: LightPicture | null;
  chosen: boolean;
  groups: readonly string[];
  onChoose: () => void;
  onMove: (to: string) => void;
}) {
  const drag = useDraggable({ id: keyOf(source), data: { source } });
  const words = wordsOf(source);
  const shift = drag.transform
    ? { transform: `translate(${drag.transform.x}px, ${drag.transform.y}px)`, zIndex: 20 }
    : undefined;
  return (
    <li
      style={shift}
      className={`relative flex h-[38px] items-center gap-1.5 px-1 ${chosen ? 'bg-fill text-pit' : 'hover:bg-raised'} ${source.on ? '' : 'opacity-60'}`}
    >
      <button
        ref={drag.setNodeRef}
        {...drag.attributes}
        {...drag.listeners}
        type="button"
        aria-pressed={chosen}
        aria-label={`${source.kind} ${words}`}
        className="flex min-w-0 flex-1 cursor-grab items-center gap-1.5 text-left"
        onClick={onChoose}
      >
        <span className="block h-[32px] w-[56px] shrink-0 overflow-hidden bg-pit">
          {measured?.picture && <Small picture={measured.picture} />}
        </span>
        <span className="min-w-0 flex-1 leading-4">
          <span className="block truncate">{words}</span>
          <span className={`num block text-[11px] ${chosen ? '' : 'text-dim'}`}>
            {source.on ? (measured ? percent(measured.share) : '') : 'off'}
            {source.kind === 'glow' ? ' glow' : ''}
          </span>
        </span>
      </button>
      <Menu
        align="end"
        trigger={
          <button type="button" aria-label={`move ${words}`} className="px-1 hover:opacity-70">
            ⋯
          </button>
        }
      >
        <MenuHeading>Into light group</MenuHeading>
        {groups
          .filter((g) => g !== source.group)
          .map((g) => (
            <MenuItem key={g} onSelect={() => onMove(g)}>
              {g}
            </MenuItem>
          ))}
        <MenuLine />
        <MenuItem onSelect={() => onMove(NEW)}>one of its own</MenuItem>
        {source.group !== UNASSIGNED && !groups.includes(UNASSIGNED) && (
          <MenuItem onSelect={() => onMove(UNASSIGNED)}>none: unassigned</MenuItem>
        )}
      </Menu>
    </li>
  );
}

function NewLane() {
  const { setNodeRef, isOver } = useDroppable({ id: NEW });
  return (
    <div
      ref={setNodeRef}
      className={`flex w-[150px] shrink-0 items-center justify-center border border-dashed px-3 text-center text-dim ${isOver ? 'border-ink bg-raised' : 'border-line'}`}
    >
      drag here for a light group of its own
    </div>
  );
}
