'use client';

import { type KeyboardEvent, type PointerEvent, useRef } from 'react';
import { LogbookFace, LogbookHead } from '../logbook/logbook';
import { Tabs } from '../parts/tabs';
import { DRAWER_HEIGHT, LOGBOOK, useDesk } from '../state/desk-store';
import { viewNamed } from '../views/registry';

const [LEAST_HEIGHT, ABOVE_DRAWER] = [150, 260];
const STEP = 24;

const mostHeight = () => Math.max(LEAST_HEIGHT, window.innerHeight - ABOVE_DRAWER);
const within = (height: number) => Math.round(Math.max(LEAST_HEIGHT, Math.min(mostHeight(), height)));
const setHeight = (height: number) => useDesk.getState().set({ drawerHeight: within(height) });

/** The upper edge of the drawer: dragged, or moved by arrow keys; a double click gives it its first height back. */
function Edge({ height }: { height: number }) {
  const from = useRef<{ y: number; height: number } | null>(null);
  const onPointerDown = (event: PointerEvent<HTMLDivElement>) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    from.current = { y: event.clientY, height };
  };
  const onPointerMove = (event: PointerEvent) => {
    if (from.current && event.buttons === 1) setHeight(from.current.height + from.current.y - event.clientY);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const by = event.key === 'ArrowUp' ? STEP : event.key === 'ArrowDown' ? -STEP : 0;
    if (!by) return;
    event.preventDefault();
    setHeight(height + by);
  };
  return (
    // biome-ignore lint/a11y/useSemanticElements: a rule cannot be moved
    <div
      role="separator"
      tabIndex={0}
      aria-label="height of the drawer"
      aria-orientation="horizontal"
      aria-valuenow={height}
      aria-valuemin={LEAST_HEIGHT}
      aria-valuemax={mostHeight()}
      className="absolute inset-x-0 -top-1 z-10 h-2 cursor-ns-resize touch-none hover:bg-soft/30 focus-visible:bg-soft/50"
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={() => {
        from.current = null;
      }}
      onDoubleClick={() => setHeight(DRAWER_HEIGHT)}
      onKeyDown={onKeyDown}
    />
  );
}

/** Under the picture: the logbook with its map, or a face of the view, which takes the whole width. */
export function Drawer() {
  const height = useDesk((s) => s.drawerHeight);
  const faces = viewNamed(useDesk((s) => s.view)).faces ?? [];
  const wanted = useDesk((s) => s.face);
  const face = faces.find((f) => f.name === wanted);
  const tabs = [
    { name: LOGBOOK, label: 'Logbook', tip: 'Every trial of the shot, and the map of noise over time' },
    ...faces,
  ];
  return (
    <section aria-label="drawer" className="relative flex shrink-0 flex-col" style={{ height }}>
      <Edge height={height} />
      <Tabs
        label="faces of the drawer"
        tabs={tabs}
        value={face?.name ?? LOGBOOK}
        onChange={(name) => useDesk.getState().set({ face: name })}
        listClass="gap-3 px-3 pt-1.5 pb-1"
        beside={face ? null : <LogbookHead />}
      >
        {face ? <face.Body /> : <LogbookFace />}
      </Tabs>
    </section>
  );
}
