'use client';

import { type PointerEvent, useEffect, useMemo, useRef, useState, type WheelEvent } from 'react';
import type { Placement, ToFilm } from '@/render/film-protocol';
import { useSize } from '../parts/use-size';
import { type Pick, type Surround, useDesk } from '../state/desk-store';
import { two } from '../state/format';
import { useRecipe } from '../state/recipe-store';
import { useSession } from '../state/session';
import { BrightestMark } from './brightest-mark';
import { DarkHint } from './dark-hint';
import { Guides } from './guides';
import { Legend } from './legend';
import { usePointing } from './pointing';
import { useProbe } from './probe-store';
import { type Canvases, type SlotState, usePictures } from './use-pictures';

const SURROUND: Record<Surround, string> = { dark: '#141414', grey: '#767676', light: '#cfcfcf' };
const MARGIN = 18;

/** Box of a slot within the frame, in percent. */
function boxOf(p: Placement) {
  return {
    left: `${(p.x / p.width) * 100}%`,
    top: `${(p.y / p.height) * 100}%`,
    width: `${(p.w / p.width) * 100}%`,
    height: `${(p.h / p.height) * 100}%`,
  };
}

function labelOf(pick: Pick | null, number: number | undefined): string {
  if (pick?.kind === 'reference') return pick.name;
  return pick?.kind === 'live' ? 'live' : number !== undefined ? two(number) : '';
}

type Drag =
  | { kind: 'pan'; x: number; y: number; panX: number; panY: number }
  | { kind: 'wipe' }
  | { kind: 'region'; x: number; y: number }
  | null;

/** The picture: A and B at linked zoom and pan, wiped or alone, with region and legend. */
export function Picture() {
  const { client, trialA, trialB, camera, frame: shotFrame } = useSession();
  const { aim, point } = usePointing();
  const desk = useDesk();
  const recipe = useRecipe((s) => s.recipe);
  const [root, setRoot] = useState<HTMLDivElement | null>(null);
  const size = useSize(root);
  const a = useRef<HTMLCanvasElement>(null);
  const b = useRef<HTMLCanvasElement>(null);
  const under = useRef<HTMLCanvasElement>(null);
  const canvases = useMemo<Canvases>(() => ({ A: a, B: b, under }), []);
  const slots = usePictures(client, canvases);
  const drag = useRef<Drag>(null);
  const [drawn, setDrawn] = useState<{ x: number; y: number; w: number; h: number } | null>(null);
  const setProbe = useProbe((s) => s.set);

  const frame = { width: recipe?.size.width ?? 1280, height: recipe?.size.height ?? 720 };
  const fit = Math.max(
    0.02,
    Math.min((size.width - MARGIN * 2) / frame.width, (size.height - MARGIN * 2) / frame.height),
  );
  const scale = desk.zoom ?? fit;
  const width = frame.width * scale;
  const height = frame.height * scale;
  const left = (size.width - width) / 2 + desk.pan.x;
  const top = (size.height - height) / 2 + desk.pan.y;

  const fraction = (event: { clientX: number; clientY: number }) => {
    const box = root?.getBoundingClientRect();
    return {
      x: (event.clientX - (box?.left ?? 0) - left) / width,
      y: (event.clientY - (box?.top ?? 0) - top) / height,
    };
  };

  useEffect(() => {
    client.on({ probed: (pa, pb, depth) => setProbe({ a: pa, b: pb, depth }) });
  }, [client, setProbe]);
  const probeAt = useRef<{ x: number; y: number } | null>(null);
  // Only Set-up tells distances, which takes a ray a move.
  const looking = useRef<Extract<ToFilm, { type: 'probe' }>['look']>(null);
  looking.current =
    desk.view === 'setup' && desk.a.kind === 'live'
      ? { camera, frame: shotFrame, aspect: frame.width / frame.height }
      : null;
  const downAt = useRef({ x: 0, y: 0 });
  const sendProbe = (at: { x: number; y: number }) => {
    const first = probeAt.current === null;
    probeAt.current = at;
    if (first) {
      requestAnimationFrame(() => {
        if (probeAt.current) client.send({ type: 'probe', id: 0, ...probeAt.current, look: looking.current });
        probeAt.current = null;
      });
    }
  };

  const onWheel = (event: WheelEvent) => {
    const next = Math.max(0.05, Math.min(32, scale * 1.0016 ** -event.deltaY));
    const at = fraction(event);
    const box = root!.getBoundingClientRect();
    // The point under the cursor stays under it.
    const px = event.clientX - box.left;
    const py = event.clientY - box.top;
    desk.set({
      zoom: next,
      pan: {
        x: px - at.x * frame.width * next - (size.width - frame.width * next) / 2,
        y: py - at.y * frame.height * next - (size.height - frame.height * next) / 2,
      },
    });
  };
  const clamp = (v: number) => Math.max(0, Math.min(1, v));
  const onPointerDown = (event: PointerEvent) => {
    if (event.button !== 0) return;
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
    downAt.current = { x: event.clientX, y: event.clientY };
    const at = fraction(event);
    if ((event.target as HTMLElement).dataset.wipe !== undefined) drag.current = { kind: 'wipe' };
    else if (desk.drawing) drag.current = { kind: 'region', x: clamp(at.x), y: clamp(at.y) };
    else drag.current = { kind: 'pan', x: event.clientX, y: event.clientY, panX: desk.pan.x, panY: desk.pan.y };
  };
  const onPointerMove = (event: PointerEvent) => {
    const at = fraction(event);
    sendProbe(at);
    const d = drag.current;
    if (!d) return;
    if (d.kind === 'pan') desk.set({ pan: { x: d.panX + event.clientX - d.x, y: d.panY + event.clientY - d.y } });
    else if (d.kind === 'wipe') desk.set({ wipe: clamp(at.x) });
    else
      setDrawn({
        x: Math.min(d.x, clamp(at.x)),
        y: Math.min(d.y, clamp(at.y)),
        w: Math.abs(clamp(at.x) - d.x),
        h: Math.abs(clamp(at.y) - d.y),
      });
  };
  const onPointerUp = (event: PointerEvent) => {
    const still = Math.hypot(event.clientX - downAt.current.x, event.clientY - downAt.current.y) < 4;
    const at = fraction(event);
    if (still && drag.current?.kind === 'pan' && at.x >= 0 && at.y >= 0 && at.x < 1 && at.y < 1)
      point(at, event.ctrlKey || event.metaKey);
    if (drag.current?.kind === 'region') {
      if (drawn && drawn.w * frame.width > 8 && drawn.h * frame.height > 8) useRecipe.getState().set('region', drawn);
      desk.set({ drawing: false });
      setDrawn(null);
    }
    drag.current = null;
  };

  const hasB = desk.b !== null && slots.B.place !== null;
  const wiping = hasB && desk.wipeOn && desk.overlay !== 'difference' && desk.overlay !== 'flip';
  const region = drawn ?? recipe?.region ?? null;
  const film = slots.A.place;
  const pixelated = film ? width / film.width >= 2 : false;
  const style = { imageRendering: pixelated ? ('pixelated' as const) : ('auto' as const) };
  const rangeView = desk.view === 'split' && desk.overlay === 'none';
  return (
    <div
      ref={setRoot}
      role="application"
      aria-label="picture"
      data-testid="picture"
      className={`relative min-h-0 flex-1 touch-none overflow-hidden ${desk.drawing || aim ? 'cursor-crosshair' : ''}`}
      style={{ background: SURROUND[desk.surround] }}
      onWheel={onWheel}
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
      onPointerLeave={() => setProbe({ a: null, b: null, depth: null })}
    >
      <div className="absolute" style={{ left, top, width, height }}>
        <canvas
          ref={under}
          className={`absolute inset-0 h-full w-full ${film && film.w < film.width ? 'opacity-45' : 'opacity-0'}`}
          style={style}
        />
        <canvas
          ref={a}
          data-testid="canvas-a"
          className="absolute"
          style={{ ...style, ...(film ? boxOf(film) : {}) }}
        />
        <div
          className="absolute inset-0"
          style={{ clipPath: wiping ? `inset(0 0 0 ${desk.wipe * 100}%)` : 'inset(0 0 0 100%)' }}
        >
          <canvas
            ref={b}
            data-testid="canvas-b"
            className="absolute"
            style={{ ...style, ...(slots.B.place ? boxOf(slots.B.place) : {}) }}
          />
        </div>
        {wiping && <WipeLine at={desk.wipe} />}
        {desk.view === 'setup' && desk.guide !== 'none' && (
          <Guides guide={desk.guide} aspect={frame.width / frame.height} />
        )}
        <BrightestMark />
        {region && (
          <div
            className="pointer-events-none absolute border border-dashed border-white/80 outline outline-black/50"
            style={{
              left: `${region.x * 100}%`,
              top: `${region.y * 100}%`,
              width: `${region.w * 100}%`,
              height: `${region.h * 100}%`,
            }}
          >
            <span className="num absolute bottom-full left-0 bg-pit/90 px-1.5 py-0.5 text-[11px] whitespace-nowrap">
              {Math.round(region.w * frame.width)}×{Math.round(region.h * frame.height)}
            </span>
          </div>
        )}
      </div>
      <Badges slots={slots} wiping={wiping} numberA={trialA?.number} numberB={trialB?.number} />
      {slots.A.legend && desk.overlay !== 'none' && <Legend legend={slots.A.legend} />}
      {slots.A.legend && rangeView && <Legend legend={slots.A.legend} onRange={(range) => desk.set({ range })} />}
      {aim && (
        <div className="pointer-events-none absolute inset-x-0 top-3 text-center">
          <span className="bg-pit/90 px-3 py-1.5" role="status">
            {aim.words} · Esc leaves it
          </span>
        </div>
      )}
      <DarkHint />
      {desk.drawing && (
        <div className="absolute inset-x-0 top-3 text-center">
          <span className="bg-pit/90 px-3 py-1.5">Drag over the part to render · Esc leaves it</span>
        </div>
      )}
    </div>
  );
}

function WipeLine({ at }: { at: number }) {
  const desk = useDesk();
  return (
    <div className="absolute inset-y-0 w-0" style={{ left: `${at * 100}%` }}>
      <div className="pointer-events-none absolute inset-y-0 -left-px w-[1.5px] bg-white/85" />
      <button
        type="button"
        data-wipe=""
        role="slider"
        aria-label="wipe between A and B"
        aria-valuenow={Math.round(at * 100)}
        aria-valuemin={0}
        aria-valuemax={100}
        className="absolute top-1/2 -left-[7px] h-7 w-3.5 -translate-y-1/2 cursor-ew-resize rounded-sm bg-pit ring-1 ring-white/50"
        onKeyDown={(e) => {
          const step = e.key === 'ArrowLeft' ? -0.02 : e.key === 'ArrowRight' ? 0.02 : 0;
          if (step) desk.set({ wipe: Math.max(0, Math.min(1, at + step)) });
        }}
      >
        <span data-wipe="" className="mx-auto block h-3 w-[5px] border-x border-white/80" />
      </button>
    </div>
  );
}

function Badges({
  slots,
  wiping,
  numberA,
  numberB,
}: {
  slots: { A: SlotState; B: SlotState };
  wiping: boolean;
  numberA?: number;
  numberB?: number;
}) {
  const { a, b, overlay } = useDesk();
  const waits = slots.A.absent;
  return (
    <>
      <span className="num absolute top-3 left-3 bg-a px-2 py-0.5 text-[11.5px] font-semibold text-pit">
        A {labelOf(a, numberA)}
      </span>
      {b && (wiping || overlay === 'difference' || overlay === 'flip') && (
        <span className="num absolute top-3 right-3 bg-b px-2 py-0.5 text-[11.5px] font-semibold text-pit">
          B {labelOf(b, numberB)}
        </span>
      )}
      {waits && (
        <div className="absolute inset-x-0 top-1/2 text-center">
          <span className="bg-pit/90 px-3 py-1.5 text-soft">{waits}</span>
        </div>
      )}
    </>
  );
}
