'use client';

import { type PointerEvent, useEffect, useMemo, useRef, useState, type WheelEvent } from 'react';
import { two } from '@/core/words';
import type { ToFilm } from '@/render/page/protocol';
import { useSize } from '../parts/use-size';
import { useClient } from '../state/client';
import { type Compare, type Pick, type Surround, useDesk } from '../state/desk-store';
import { isAgainstB } from '../state/overlays';
import { useProbe } from '../state/probe-store';
import { useRecipe } from '../state/recipe-store';
import { useCamera, useFrame } from '../state/scene-now';
import { useMeanwhile, useSlotTrial } from '../state/slots';
import { useStack } from '../state/stack-store';
import type { ListedTrial } from '../state/trials-store';
import { useRole, useVariantOutput } from '../state/variants';
import { useViewport } from '../state/viewport-store';
import { viewNamed } from '../views/registry';
import { Badges, RegionFrame } from './badges';
import { CompareStrip, useTurns } from './compare-strip';
import { DarkHint } from './dark-hint';
import { Legend } from './legend';
import { useMirrored } from './mirrored';
import { type Look, layOut, Panes } from './panes';
import { usePointing } from './pointing';
import { type Canvases, usePictures } from './use-pictures';
import { degreesTowards } from './wipe';
import { WipeLine } from './wipe-line';

const SURROUND: Record<Surround, string> = { dark: '#141414', grey: '#767676', light: '#cfcfcf' };
/** What a slot's trial is called: by its number in the logbook, or as a frame of a run. */
const calledBy = (trial: ListedTrial | null): string | undefined =>
  trial ? (trial.run ? `run ${two(trial.run.number)} frame ${trial.frame}` : two(trial.number)) : undefined;

function labelOf(pick: Pick | null, called: string | undefined, meanwhile?: number): string {
  if (meanwhile !== undefined) return `${two(meanwhile)} as it renders; live waits`;
  if (pick?.kind === 'reference') return pick.name;
  if (pick?.kind === 'live') return 'live';
  const denoised = pick?.kind === 'trial' && pick.denoised ? ' denoised' : '';
  return called !== undefined ? `${called}${denoised}` : '';
}

type Drag =
  | { kind: 'pan'; x: number; y: number; panX: number; panY: number }
  | { kind: 'move' }
  | { kind: 'turn' }
  | { kind: 'region' | 'box'; x: number; y: number }
  | null;

/** The picture: A and B at linked zoom and pan, wiped or alone, with region and legend. */
export function Picture() {
  const client = useClient();
  const trialA = useSlotTrial('A');
  const trialB = useSlotTrial('B');
  const meanwhile = useMeanwhile();
  const camera = useCamera();
  const shotFrame = useFrame();
  const { aim, point } = usePointing();
  const desk = useDesk();
  const { Over, chooses, dragsRange, takes, saysOfB } = viewNamed(desk.view);
  const role = useRole();
  const variant = useVariantOutput();
  const takeWords = takes?.words({ ...desk, role }) ?? null;
  const { zoom, pan, parting } = useViewport();
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
  const hasB = desk.b !== null && slots.B.place !== null;
  const against = isAgainstB(desk.overlay);
  const compare: Compare = hasB && !against ? desk.compare : 'a';
  const beside = compare === 'beside';
  const bTurn = useTurns(compare === 'turns');
  const look: Look = { frame, zoom, pan, parting, compare, bTurn };
  const { paneWidth, scale, box } = layOut(size, look);
  const { left, top, width, height } = box;
  const smoothed = desk.smooth && desk.a.kind === 'live' && desk.overlay === 'none' && !meanwhile;
  const hasStack = useStack((s) => ((s.stack?.entries as unknown[] | undefined)?.length ?? 0) > 0);
  const isThrough =
    hasStack && desk.throughStack && ['setup', 'tune'].includes(desk.view) && desk.overlay === 'none' && !meanwhile;
  const ofVariant = variant && !role && desk.a.kind === 'live' && !meanwhile ? `, ${variant.name}` : '';
  const labelA = `${labelOf(desk.a, calledBy(trialA), meanwhile?.number)}${ofVariant}${smoothed ? ', smoothed' : ''}${isThrough ? ', through the stack' : ''}`;
  const said = saysOfB?.(desk) ?? null;
  const ofB = desk.b && (compare !== 'a' || against) ? labelOf(desk.b, calledBy(trialB)) : null;
  const labelB = ofB !== null && said !== null ? `${ofB} ${said}` : ofB;
  useMirrored(client, { look, labelA, labelB, surround: SURROUND[desk.surround] });

  /** Pixels from the corner of the pane that an event lies in. */
  const inPane = (event: { clientX: number; clientY: number }) => {
    const box = root?.getBoundingClientRect();
    const x = event.clientX - (box?.left ?? 0);
    return { x: beside && x >= paneWidth ? x - paneWidth : x, y: event.clientY - (box?.top ?? 0) };
  };
  const fraction = (event: { clientX: number; clientY: number }) => {
    const { x, y } = inPane(event);
    return { x: (x - left) / width, y: (y - top) / height };
  };

  useEffect(() => client.on('probed', (p) => setProbe({ a: p.a, b: p.b, depth: p.depth })), [client, setProbe]);
  const probeAt = useRef<{ x: number; y: number } | null>(null);
  // Only Set-up tells distances, which takes a ray a move.
  const looking = useRef<Extract<ToFilm, { type: 'probe' }>['look']>(null);
  looking.current =
    chooses && desk.a.kind === 'live' ? { camera, frame: shotFrame, aspect: frame.width / frame.height } : null;
  const downAt = useRef({ x: 0, y: 0 });
  const sendProbe = (at: { x: number; y: number }) => {
    const first = probeAt.current === null;
    probeAt.current = at;
    if (first) {
      requestAnimationFrame(() => {
        if (!probeAt.current) return;
        useProbe.setState({ at: probeAt.current });
        client.send({ type: 'probe', id: 0, ...probeAt.current, look: looking.current });
        probeAt.current = null;
      });
    }
  };

  const onWheel = (event: WheelEvent) => {
    const next = Math.max(0.05, Math.min(32, scale * 1.0016 ** -event.deltaY));
    const at = fraction(event);
    // The point under the cursor stays under it.
    const { x: px, y: py } = inPane(event);
    useViewport.setState({
      zoom: next,
      pan: {
        x: px - at.x * frame.width * next - (paneWidth - frame.width * next) / 2,
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
    const { wipe } = (event.target as HTMLElement).dataset;
    if (wipe === 'move' || wipe === 'turn') drag.current = { kind: wipe };
    else if (desk.drawing) drag.current = { kind: 'region', x: clamp(at.x), y: clamp(at.y) };
    else if (takeWords && event.shiftKey) drag.current = { kind: 'box', x: clamp(at.x), y: clamp(at.y) };
    else drag.current = { kind: 'pan', x: event.clientX, y: event.clientY, panX: pan.x, panY: pan.y };
  };
  const onPointerMove = (event: PointerEvent) => {
    const at = fraction(event);
    sendProbe(at);
    const d = drag.current;
    if (!d) return;
    if (d.kind === 'pan')
      useViewport.setState({ pan: { x: d.panX + event.clientX - d.x, y: d.panY + event.clientY - d.y } });
    else if (d.kind === 'move') useViewport.setState({ parting: { ...parting, x: clamp(at.x), y: clamp(at.y) } });
    else if (d.kind === 'turn') {
      const { x, y } = parting;
      const degrees = degreesTowards((at.x - x) * width, (at.y - y) * height, event.shiftKey);
      useViewport.setState({ parting: { x, y, degrees } });
    } else
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
    if (still && drag.current?.kind === 'pan' && at.x >= 0 && at.y >= 0 && at.x < 1 && at.y < 1) {
      if (takeWords && !aim) takes?.take(client, { ...at, w: 0, h: 0 }, event.altKey);
      else point(at, event.ctrlKey || event.metaKey);
    }
    if (drag.current?.kind === 'box') {
      if (drawn && drawn.w > 0 && drawn.h > 0) takes?.take(client, drawn, event.altKey);
      setDrawn(null);
    }
    if (drag.current?.kind === 'region') {
      if (drawn && drawn.w * frame.width > 8 && drawn.h * frame.height > 8) useRecipe.getState().set('region', drawn);
      desk.set({ drawing: false });
      setDrawn(null);
    }
    drag.current = null;
  };

  const boxed = drag.current?.kind === 'box' ? drawn : null;
  const region = (boxed ? null : drawn) ?? recipe?.region ?? null;
  const rangeView = dragsRange === true && desk.overlay === 'none';
  return (
    <div
      ref={setRoot}
      role="application"
      aria-label="picture"
      data-testid="picture"
      className={`relative min-h-0 flex-1 touch-none overflow-hidden select-none ${desk.drawing || aim || takeWords ? 'cursor-crosshair' : ''}`}
      style={{ background: SURROUND[desk.surround] }}
      onWheel={onWheel}
      onPointerDown={onPointerDown}
      onPointerMove={onPointerMove}
      onPointerUp={onPointerUp}
      onPointerLeave={() => setProbe({ a: null, b: null, depth: null })}
    >
      <Panes canvases={canvases} slots={slots} look={look} size={size}>
        {region && <RegionFrame region={region} frame={frame} />}
      </Panes>
      <div className="pointer-events-none absolute" style={box}>
        {compare === 'wipe' && <WipeLine width={width} height={height} />}
        {Over && <Over aspect={frame.width / frame.height} />}
        {region && <RegionFrame region={region} frame={frame} />}
        {boxed && <RegionFrame region={boxed} frame={frame} />}
      </div>
      <Badges
        absent={slots.A.absent}
        labelA={labelA}
        labelB={labelB}
        turn={compare === 'turns' ? (bTurn ? 'B' : 'A') : null}
      />
      {hasB && <CompareStrip />}
      {slots.A.legend && desk.overlay !== 'none' && (
        <Legend
          legend={slots.A.legend}
          gain={desk.overlay === 'difference' ? desk.differenceGain : undefined}
          onGain={(differenceGain) => desk.set({ differenceGain })}
        />
      )}
      {slots.A.legend && rangeView && <Legend legend={slots.A.legend} onRange={(range) => desk.set({ range })} />}
      {aim && (
        <div className="pointer-events-none absolute inset-x-0 top-3 text-center">
          <span className="bg-pit/90 px-3 py-1.5" role="status">
            {aim.words} · Esc leaves it
          </span>
        </div>
      )}
      {takeWords && !aim && (
        <div className="pointer-events-none absolute inset-x-0 bottom-2 text-center">
          <span className="bg-pit/90 px-3 py-1 text-soft">{takeWords}</span>
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
