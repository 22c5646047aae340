'use client';

import { scaleLinear } from 'd3';
import { Link2, Link2Off } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { Choice } from '../../fields/choice';
import { NumberField } from '../../fields/number-field';
import { Plain, Tip, Word } from '../../parts/controls';
import { useAim } from '../../state/aim-store';
import { useAsk } from '../../state/ask';
import { type Guide, useDesk } from '../../state/desk-store';
import { useLive } from '../../state/live-store';
import { useProbe } from '../../state/probe-store';
import { useRecipe } from '../../state/recipe-store';
import { useCamera, useDocument, useSceneExposure } from '../../state/scene-now';
import { useScene } from '../../state/scene-store';
import { Fields } from './field-row';
import { LookRows } from './look-rows';
import { ReferenceRows } from './reference-rows';
import { CAMERA_FIELDS } from './specs';

const WIDTH = 364;
const HEIGHT = 72;

/** Pixels by stops from display white, and how many are beyond it. */
function Exposure() {
  const sceneExposure = useSceneExposure();
  const camera = useCamera();
  const exposure = sceneExposure * 2 ** useDesk((s) => s.viewStops);
  const overlay = useDesk((s) => s.overlay);
  // Asked again as the picture gets on.
  const stage = useLive((s) => `${s.status?.samples} ${s.status?.changes} ${s.status?.state}`);
  const { answer: h } = useAsk('histogram', { exposure }, { of: stage, keep: true });
  const off = h?.logMean == null ? null : Math.round((Math.log2(0.18) - h.logMean) * 10) / 10;
  const owner = [{ kind: 'camera' as const, name: camera.name }];
  const set = (stops: number) => {
    const fault = useScene.getState().setField(owner, 'exposure.stops', Math.round(stops * 100) / 100);
    if (fault) toast.error(fault);
  };
  const x = scaleLinear([h?.lowStops ?? -12, (h?.lowStops ?? -12) + (h?.bins.length ?? 36) / 2], [0, WIDTH]);
  const top = Math.max(1, ...(h?.bins ?? []));
  return (
    <div className="border-b border-line px-4 py-2">
      <svg
        width={WIDTH}
        height={HEIGHT + 14}
        role="img"
        aria-label={
          h
            ? `${Math.round(h.clipped * 100)} % of pixels beyond white, ${Math.round(h.black * 100)} % black`
            : 'no picture yet'
        }
        data-testid="histogram"
      >
        <rect x={x(0)} width={Math.max(0, WIDTH - x(0))} height={HEIGHT} fill="#2e2e2e" />
        {h?.bins.map((n, i) => {
          const height = Math.sqrt(n / top) * (HEIGHT - 2);
          const stops = h.lowStops + i / 2;
          return (
            <rect
              key={stops}
              x={x(stops)}
              y={HEIGHT - height}
              width={x(0.5) - x(0) - 1}
              height={height}
              fill={stops >= 0 ? '#f4f4f4' : '#9a9a9a'}
            />
          );
        })}
        {[-10, -8, -6, -4, -2, 0, 2, 4].map((s) => (
          <text key={s} x={x(s)} y={HEIGHT + 11} textAnchor="middle" fontSize="10" fill="#979797">
            {s === 0 ? 'white' : s > 0 ? `+${s}` : `−${-s}`}
          </text>
        ))}
        <line
          x1={x(Math.log2(0.18))}
          x2={x(Math.log2(0.18))}
          y1="0"
          y2={HEIGHT}
          stroke="#ececec"
          strokeDasharray="2 3"
        />
      </svg>
      <div className="mt-1 flex items-center gap-2">
        <span className="num flex-1 text-[11px] text-dim">
          {h ? `${(h.clipped * 100).toFixed(1)} % over · ${(h.black * 100).toFixed(1)} % black` : ''}
        </span>
        <Tip text="Hatches what is beyond display white, and what is black, in the picture.">
          <Word
            on={overlay === 'clipped'}
            onClick={() => useDesk.getState().set({ overlay: overlay === 'clipped' ? 'none' : 'clipped' })}
          >
            Show in picture
          </Word>
        </Tip>
        <Tip text="Moves the exposure so that the picture’s middle lies on middle grey (the dashed line).">
          <Plain disabled={off === null || off === 0} onClick={() => off !== null && set(camera.exposure.stops + off)}>
            Meter {off !== null && off !== 0 ? `${off > 0 ? '+' : '−'}${Math.abs(off)}` : ''}
          </Plain>
        </Tip>
      </div>
    </div>
  );
}

/** Sharp where clicked, and how large blur is under the cursor. */
function Focus() {
  const camera = useCamera();
  const document = useDocument();
  const recipe = useRecipe((s) => s.recipe);
  const { aim, begin } = useAim();
  const depth = useProbe((s) => s.depth);
  const owner = [{ kind: 'camera' as const, name: camera.name }];
  const pick = () =>
    begin({
      by: 'focus',
      words: 'Click what is to be sharp',
      take: (seen) => {
        if (!Number.isFinite(seen.metres)) {
          toast.error('There is nothing there to focus on.');
          return true;
        }
        const fault = useScene.getState().edit('focus', (d) => ({
          ...d,
          cameras: d.cameras.map((c) =>
            c.name === camera.name
              ? { ...c, focusMetres: Number(seen.depth.toPrecision(4)), focusPoint: undefined }
              : c,
          ),
        }));
        if (fault) toast.error(fault);
        else if (camera.fStop === 0) toast('Focus is set; it shows once the f-stop is above 0.');
        return false;
      },
    });
  const target = Math.hypot(...camera.target.map((t, k) => t - camera.position[k]));
  const focus = camera.focusMetres ?? target;
  const pixels =
    depth && camera.fStop > 0 && recipe
      ? (camera.focalLengthMm / 1000 / camera.fStop) *
        (Math.abs(depth - focus) / depth) *
        (camera.focalLengthMm / 1000 / Math.max(1e-6, focus - camera.focalLengthMm / 1000)) *
        (recipe.size.width / (camera.sensorWidthMm / 1000))
      : null;
  return (
    <div className="flex items-center gap-2 border-b border-line px-4 py-2">
      <Plain aria-pressed={aim?.by === 'focus'} onClick={pick}>
        {aim?.by === 'focus' ? 'Click in the picture' : 'Focus by clicking'}
      </Plain>
      <Tip text="Width of the blur circle, in pixels of the whole picture, of what lies under the cursor: c = A·|d − f|/d·F/(f − F).">
        <span className="num flex-1 text-right text-[11px] text-dim">
          {depth ? `${depth.toFixed(2)} m` : ''}
          {pixels !== null ? ` · blur ${pixels.toFixed(1)} px` : camera.fStop === 0 ? ' · all in focus' : ''}
        </span>
      </Tip>
      <Word
        onClick={() => useScene.getState().setField(owner, 'focusMetres', undefined)}
        disabled={camera.focusMetres === undefined || document.cameras.length === 0}
      >
        To target
      </Word>
    </div>
  );
}

const GUIDES: Guide[] = ['none', 'thirds', 'middle', 'safe', '2.39:1', '1.85:1', '1:1'];

/** Size of the picture, test scale, guides. */
function Framing() {
  const { recipe, set } = useRecipe();
  const desk = useDesk();
  const [locked, setLocked] = useState(true);
  if (!recipe) return null;
  const { width, height, scale } = recipe.size;
  const size = (key: 'width' | 'height', v: number | null) => {
    if (v === null) return null;
    const other = key === 'width' ? 'height' : 'width';
    const ratio = key === 'width' ? height / width : width / height;
    const fault = set(`size.${key}`, v);
    if (fault || !locked) return fault;
    return set(`size.${other}`, Math.max(16, Math.round(v * ratio)));
  };
  return (
    <details open className="border-b border-line py-1">
      <summary className="cursor-pointer list-none px-3.5 py-1 font-semibold">Framing</summary>
      <div className="flex items-center gap-2 px-4 py-0.5">
        <span className="flex-1">Size</span>
        <NumberField
          label="picture width"
          value={width}
          step={16}
          width="w-[80px]"
          onChange={(v) => size('width', v)}
        />
        <Tip text={locked ? 'Width and height keep their ratio.' : 'Width and height go apart.'}>
          <button
            type="button"
            aria-label="lock aspect"
            aria-pressed={locked}
            onClick={() => setLocked(!locked)}
            className="text-soft hover:text-ink"
          >
            {locked ? <Link2 size={13} /> : <Link2Off size={13} />}
          </button>
        </Tip>
        <NumberField
          label="picture height"
          value={height}
          step={16}
          width="w-[80px]"
          suffix="px"
          onChange={(v) => size('height', v)}
        />
      </div>
      <div className="flex items-center gap-1 px-4 py-0.5">
        <Tip text="Renders smaller or larger with the same framing.">
          <span className="flex-1">Test scale</span>
        </Tip>
        {[25, 50, 100].map((s) => (
          <Word key={s} on={scale === s} onClick={() => set('size.scale', s)}>
            {s} %
          </Word>
        ))}
      </div>
      <div className="flex items-center gap-2 px-4 py-0.5">
        <span className="flex-1">Guides</span>
        <Choice label="guides" value={desk.guide} options={GUIDES} onChange={(v) => desk.set({ guide: v as Guide })} />
      </div>
    </details>
  );
}

/** The camera looked through: exposure, focus, framing, lens, look. */
export function CameraPart() {
  const document = useDocument();
  const camera = useCamera();
  const desk = useDesk();
  return (
    <div className="min-h-0 flex-1 overflow-y-auto" data-testid="camera-part">
      <div className="flex items-center gap-2 border-b border-line px-4 py-2">
        <span className="flex-1">Camera</span>
        <Choice
          label="camera"
          value={camera.name}
          options={document.cameras.map((c) => c.name)}
          onChange={(v) => desk.set({ camera: v })}
        />
      </div>
      <Exposure />
      <Fields groups={CAMERA_FIELDS.slice(0, 1)} owners={[{ kind: 'camera', name: camera.name }]} document={document} />
      <Focus />
      <Framing />
      <ReferenceRows />
      <LookRows document={document} />
      <Fields groups={CAMERA_FIELDS.slice(1)} owners={[{ kind: 'camera', name: camera.name }]} document={document} />
    </div>
  );
}
