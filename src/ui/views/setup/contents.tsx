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
import { useVirtualizer } from '@tanstack/react-virtual';
import {
  Box,
  Camera,
  ChevronRight,
  CloudFog,
  Eye,
  EyeOff,
  Layers,
  Lightbulb,
  LightbulbOff,
  Palette,
} from 'lucide-react';
import { type KeyboardEvent, type MouseEvent, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import { type ItemKind, type ItemRef, renamed, type SceneDocument } from '@/core/scene';
import { SearchField } from '../../fields/search-field';
import { useDesk } from '../../state/desk-store';
import { useScene } from '../../state/scene-store';
import { removeChosen } from './actions';

const ROW_PX = 24;
const KINDS: { kind: ItemKind; title: string }[] = [
  { kind: 'light', title: 'Lights' },
  { kind: 'camera', title: 'Cameras' },
  { kind: 'set', title: 'Sets' },
  { kind: 'object', title: 'Objects' },
  { kind: 'material', title: 'Materials' },
];
const ICONS = { light: Lightbulb, camera: Camera, set: Layers, object: Box, material: Palette, fog: CloudFog };

type Row =
  | { at: 'head'; kind: ItemKind; title: string; count: number; open: boolean }
  | { at: 'item'; item: ItemRef; beside: string; member: string | null };

const sameItem = (a: ItemRef, b: ItemRef) => a.kind === b.kind && a.name === b.name;

function rowsOf(document: SceneDocument, search: string, closed: ReadonlySet<string>): Row[] {
  const found = (name: string) => name.toLowerCase().includes(search.toLowerCase());
  const out: Row[] = [];
  for (const { kind, title } of KINDS) {
    const items: { name: string; beside: string; members?: string[] }[] =
      kind === 'object'
        ? document.objects.map((o) => ({ name: o.name, beside: o.material }))
        : kind === 'light'
          ? document.lights.map((l) => ({ name: l.name, beside: l.group }))
          : kind === 'camera'
            ? document.cameras.map((c) => ({ name: c.name, beside: `${c.focalLengthMm.toFixed(0)} mm` }))
            : kind === 'material'
              ? document.materials.map((m) => ({ name: m.name, beside: '' }))
              : Object.entries(document.sets).map(([name, members]) => ({
                  name,
                  beside: `${members.length}`,
                  members,
                }));
    const shown = items.filter((i) => found(i.name) || i.members?.some(found));
    if (items.length === 0) continue;
    const open = search !== '' || !closed.has(kind);
    out.push({ at: 'head', kind, title, count: items.length, open });
    if (!open) continue;
    for (const i of shown) {
      out.push({ at: 'item', item: { kind, name: i.name }, beside: i.beside, member: null });
      if (i.members && !closed.has(`set ${i.name}`))
        for (const m of i.members)
          out.push({ at: 'item', item: { kind: 'object', name: m }, beside: '', member: i.name });
    }
  }
  return out;
}

/** All things of the scene by name: choose, rename, switch, put into sets. */
export function Contents({ document }: { document: SceneDocument }) {
  const { chosen, choose, edit } = useScene();
  const [search, setSearch] = useState('');
  const [closed, setClosed] = useState<ReadonlySet<string>>(
    () => new Set(document.objects.length > 60 ? ['object'] : []),
  );
  const [naming, setNaming] = useState<ItemRef | null>(null);
  const rows = useMemo(() => rowsOf(document, search, closed), [document, search, closed]);
  const scroller = useRef<HTMLDivElement>(null);
  const anchor = useRef<number>(0);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: 12,
  });
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));

  const pick = (index: number, event: { ctrlKey: boolean; metaKey: boolean; shiftKey: boolean }) => {
    const row = rows[index];
    if (row?.at !== 'item') return;
    if (event.shiftKey) {
      const [from, to] = [Math.min(anchor.current, index), Math.max(anchor.current, index)];
      const range = rows
        .slice(from, to + 1)
        .flatMap((r) => (r.at === 'item' && r.item.kind === row.item.kind ? [r.item] : []));
      choose(range);
      return;
    }
    anchor.current = index;
    if (event.ctrlKey || event.metaKey) {
      const has = chosen.some((c) => sameItem(c, row.item));
      choose(has ? chosen.filter((c) => !sameItem(c, row.item)) : [...chosen, row.item]);
    } else choose([row.item]);
  };
  const toggle = (key: string) => {
    const next = new Set(closed);
    if (!next.delete(key)) next.add(key);
    setClosed(next);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if ((event.target as HTMLElement).tagName === 'INPUT') return;
    if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      event.preventDefault();
      const step = event.key === 'ArrowDown' ? 1 : -1;
      const last = chosen.at(-1);
      let at = rows.findIndex((r) => r.at === 'item' && last && sameItem(r.item, last));
      do at += step;
      while (rows[at]?.at === 'head');
      if (rows[at]) {
        pick(at, { ctrlKey: false, metaKey: false, shiftKey: false });
        virtual.scrollToIndex(at);
      }
    } else if (event.key === 'F2' && chosen.length === 1) setNaming(chosen[0]);
    else if (event.key === 'Delete' || event.key === 'Backspace') removeChosen();
  };
  const rename = (item: ItemRef, to: string) => {
    setNaming(null);
    const wanted = to.trim();
    if (wanted === item.name) return;
    const fault = edit(`rename ${item.name}`, (d) => renamed(d, item, wanted));
    if (fault) toast.error(fault);
    else choose([{ ...item, name: wanted }]);
  };
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (!over) return;
    const dragged = active.data.current as ItemRef;
    const set = String(over.id);
    const names = chosen.some((c) => sameItem(c, dragged))
      ? chosen.filter((c) => c.kind === 'object').map((c) => c.name)
      : [dragged.name];
    edit(`into ${set}`, (d) => ({ ...d, sets: { ...d.sets, [set]: [...new Set([...d.sets[set], ...names])] } }));
  };
  return (
    <DndContext sensors={sensors} collisionDetection={pointerWithin} onDragEnd={onDragEnd}>
      <div className="flex items-center gap-2 border-b border-line px-3 py-1.5">
        <SearchField label="search contents" value={search} onChange={setSearch} />
      </div>
      <div
        ref={scroller}
        role="tree"
        aria-label="contents"
        tabIndex={0}
        onKeyDown={onKeyDown}
        className="min-h-0 flex-1 overflow-y-auto outline-none"
        data-testid="contents"
      >
        {rows.length === 0 && <p className="px-4 py-3 text-dim">Nothing of that name.</p>}
        <div className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((v) => {
            const row = rows[v.index];
            // Not by a transform, which would hide from dragging where a row is.
            const style = { top: v.start, height: ROW_PX };
            if (row.at === 'head')
              return (
                <button
                  key={`head ${row.kind}`}
                  type="button"
                  role="treeitem"
                  aria-selected={false}
                  className="absolute inset-x-0 flex items-center gap-1.5 px-3 text-left font-semibold hover:bg-raised"
                  style={style}
                  aria-expanded={row.open}
                  onClick={() => toggle(row.kind)}
                >
                  <ChevronRight size={12} className={row.open ? 'rotate-90' : ''} aria-hidden="true" />
                  {row.title} <span className="num font-normal text-dim">{row.count}</span>
                </button>
              );
            return (
              <ItemRow
                key={`${row.member ?? ''} ${row.item.kind} ${row.item.name}`}
                row={row}
                document={document}
                style={style}
                on={chosen.some((c) => sameItem(c, row.item))}
                naming={naming !== null && row.member === null && sameItem(naming, row.item)}
                onPick={(e) => pick(v.index, e)}
                onName={() => setNaming(row.item)}
                onNamed={(to) => rename(row.item, to)}
                onNameEnd={() => setNaming(null)}
              />
            );
          })}
        </div>
      </div>
    </DndContext>
  );
}

interface ItemRowProps {
  row: Extract<Row, { at: 'item' }>;
  document: SceneDocument;
  style: React.CSSProperties;
  on: boolean;
  naming: boolean;
  onPick: (e: MouseEvent) => void;
  onName: () => void;
  onNamed: (to: string) => void;
  onNameEnd: () => void;
}

function ItemRow({ row, document, style, on, naming, onPick, onName, onNamed, onNameEnd }: ItemRowProps) {
  const { item, member } = row;
  const Icon = ICONS[item.kind];
  const drag = useDraggable({
    id: `${member ?? ''} ${item.kind} ${item.name}`,
    data: item,
    disabled: item.kind !== 'object',
  });
  const drop = useDroppable({ id: item.name, disabled: item.kind !== 'set' });
  return (
    <div
      ref={item.kind === 'set' ? drop.setNodeRef : drag.setNodeRef}
      {...(item.kind === 'object' ? drag.listeners : {})}
      role="treeitem"
      aria-selected={on}
      aria-label={item.name}
      tabIndex={-1}
      className={`absolute inset-x-0 flex cursor-default items-center gap-2 pr-2 ${member ? 'pl-10' : 'pl-7'} ${
        on ? 'bg-fill text-pit' : drop.isOver ? 'bg-raised outline outline-soft' : 'hover:bg-raised'
      } ${drag.isDragging ? 'opacity-50' : ''}`}
      style={style}
      onClick={onPick}
      onDoubleClick={onName}
      onKeyDown={() => {}}
    >
      <Icon size={12} aria-hidden="true" className="shrink-0" />
      {naming ? (
        <input
          // biome-ignore lint/a11y/noAutofocus: asked for by F2 or a double click
          autoFocus
          aria-label="new name"
          defaultValue={item.name}
          className="min-w-0 flex-1 rounded-sm bg-pit px-1 text-ink outline-none"
          onFocus={(e) => e.target.select()}
          onBlur={(e) => onNamed(e.target.value)}
          onKeyDown={(e) => {
            e.stopPropagation();
            if (e.key === 'Enter') e.currentTarget.blur();
            if (e.key === 'Escape') onNameEnd();
          }}
        />
      ) : (
        <span className="min-w-0 flex-1 truncate">{item.name}</span>
      )}
      <span className={`max-w-[120px] shrink-0 truncate text-[11px] ${on ? '' : 'text-dim'}`}>{row.beside}</span>
      {!member && <RowSwitch item={item} document={document} />}
    </div>
  );
}

/** Lights on and off, objects seen or not, cameras looked through. */
function RowSwitch({ item, document }: { item: ItemRef; document: SceneDocument }) {
  const { setField } = useScene.getState();
  const desk = useDesk();
  const button = (label: string, on: boolean, icon: React.ReactNode, act: () => void) => (
    <button
      type="button"
      aria-label={label}
      aria-pressed={on}
      title={label}
      className="shrink-0 opacity-80 hover:opacity-100"
      onClick={(e) => {
        e.stopPropagation();
        act();
      }}
      onPointerDown={(e) => e.stopPropagation()}
    >
      {icon}
    </button>
  );
  if (item.kind === 'light') {
    const on = document.lights.find((l) => l.name === item.name)?.on ?? true;
    return button(`${item.name} on`, on, on ? <Lightbulb size={12} /> : <LightbulbOff size={12} />, () =>
      setField([item], 'on', !on),
    );
  }
  if (item.kind === 'object') {
    const rules = document.objects.find((o) => o.name === item.name)?.rules;
    const hidden = rules?.seenBy?.camera === false && rules.seenBy.diffuse === false;
    return button(`${item.name} seen`, !hidden, hidden ? <EyeOff size={12} /> : <Eye size={12} />, () =>
      setField(
        [item],
        'rules.seenBy',
        hidden
          ? undefined
          : { camera: false, diffuse: false, reflection: false, transmission: false, fog: false, shadow: false },
      ),
    );
  }
  if (item.kind === 'camera') {
    const through = (desk.camera ?? document.cameras[0].name) === item.name;
    return button(`look through ${item.name}`, through, through ? <Eye size={12} /> : <EyeOff size={12} />, () =>
      desk.set({ camera: item.name }),
    );
  }
  return null;
}
