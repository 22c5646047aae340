'use client';

import { useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import * as SunCalc from 'suncalc';
import { makeGradient, makeSky, picturedEnvironment, type SceneDocument } from '@/core/scene';
import type { Sun } from '@/render/questions/hours';
import { Choice } from '../../fields/choice';
import { NumberField } from '../../fields/number-field';
import { chooseFiles } from '../../import/choose';
import { importPicture } from '../../import/import-client';
import { Tip, Word } from '../../parts/controls';
import { Small } from '../../parts/small-picture';
import { useAsk } from '../../state/ask';
import { settle } from '../../state/history';
import { useCamera, useDocument, usePatient } from '../../state/scene-now';
import { useScene } from '../../state/scene-store';
import { useTimed } from '../../state/trials-store';
import { Fields } from './field-row';
import { Fogs } from './fog-part';
import { ENVIRONMENT_FIELDS } from './specs';

const ENV = [{ kind: 'environment' as const, name: 'sky' }];
const DOME_PX = 150;
/** Width of the day's pictures. */
const THUMB_PX = 110;

function setSun(sun: Partial<Sun>, drag: boolean): string | null {
  return useScene.getState().edit(
    'sun',
    (d) => {
      if (d.environment?.kind !== 'sky') return d;
      return { ...d, environment: { ...d.environment, sun: { ...d.environment.sun, ...sun } } };
    },
    drag ? 'sun' : undefined,
  );
}

const round = (v: number, step: number) => Number((Math.round(v / step) * step).toFixed(3));

/** The sky seen from below: the sun is dragged over it, north up, the zenith in the middle. */
function Dome({ sun }: { sun: Sun }) {
  const svg = useRef<SVGSVGElement>(null);
  const r = DOME_PX / 2 - 12;
  const middle = DOME_PX / 2;
  const at = (height: number, bearing: number) => {
    const out = (r * (90 - Math.max(-15, height))) / 90;
    const a = (bearing * Math.PI) / 180;
    return { x: middle + out * Math.sin(a), y: middle - out * Math.cos(a) };
  };
  const dragging = useRef(false);
  const move = (event: React.PointerEvent) => {
    const box = svg.current!.getBoundingClientRect();
    const dx = event.clientX - box.left - middle;
    const dy = event.clientY - box.top - middle;
    const out = Math.min(1.16, Math.hypot(dx, dy) / r);
    setSun(
      {
        heightDegrees: round(90 - out * 90, 0.5),
        bearingDegrees: round(((Math.atan2(dx, -dy) * 180) / Math.PI + 360) % 360, 0.5),
      },
      true,
    );
  };
  const place = at(sun.heightDegrees, sun.bearingDegrees);
  const nudge = (event: React.KeyboardEvent) => {
    const step = event.shiftKey ? 10 : 1;
    const by: Record<string, Partial<Sun>> = {
      ArrowUp: { heightDegrees: Math.min(90, sun.heightDegrees + step) },
      ArrowDown: { heightDegrees: Math.max(-15, sun.heightDegrees - step) },
      ArrowLeft: { bearingDegrees: (sun.bearingDegrees - step + 360) % 360 },
      ArrowRight: { bearingDegrees: (sun.bearingDegrees + step) % 360 },
    };
    if (!by[event.key]) return;
    event.preventDefault();
    setSun(by[event.key], false);
  };
  return (
    <svg
      ref={svg}
      width={DOME_PX}
      height={DOME_PX}
      data-testid="dome"
      className="shrink-0 cursor-crosshair touch-none"
      // biome-ignore lint/a11y/noNoninteractiveElementToInteractiveRole: a slider over two axes, with keys of its own
      role="slider"
      aria-label="place of the sun"
      aria-valuenow={Math.round(sun.heightDegrees)}
      aria-valuetext={`${sun.heightDegrees}° high, bearing ${sun.bearingDegrees}°`}
      tabIndex={0}
      onKeyDown={nudge}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        dragging.current = true;
        move(e);
      }}
      onPointerMove={(e) => dragging.current && move(e)}
      onPointerUp={() => {
        dragging.current = false;
        settle();
      }}
    >
      <circle cx={middle} cy={middle} r={r} fill="#1b1b1b" stroke="#555" />
      {[30, 60].map((h) => (
        <circle key={h} cx={middle} cy={middle} r={(r * (90 - h)) / 90} fill="none" stroke="#383838" />
      ))}
      <path d={`M${middle} ${middle - r}V${middle + r}M${middle - r} ${middle}H${middle + r}`} stroke="#383838" />
      {['N', 'E', 'S', 'W'].map((d, i) => {
        const p = at(-9, i * 90);
        return (
          <text key={d} x={p.x} y={p.y + 3.5} textAnchor="middle" fontSize="10" fill="#979797">
            {d}
          </text>
        );
      })}
      <line x1={middle} y1={middle} x2={place.x} y2={place.y} stroke="#777" strokeDasharray="2 3" />
      <circle cx={place.x} cy={place.y} r="6" fill={sun.heightDegrees > 0 ? '#ececec' : '#555'} stroke="#141414" />
    </svg>
  );
}

/** Place and time, which tell where the sun is. */
function Almanac() {
  const [where, setWhere] = useState({ latitude: 58.2, longitude: -6.4, date: '2026-09-22', time: '18:30' });
  const { edit } = useScene.getState();
  const go = (next: typeof where): string | null => {
    setWhere(next);
    const at = new Date(`${next.date}T${next.time}:00Z`);
    if (Number.isNaN(at.getTime())) return null;
    const { altitude, azimuth } = SunCalc.getPosition(at, next.latitude, next.longitude);
    return edit('sun by time', (d) => {
      if (d.environment?.kind !== 'sky') return d;
      const sun = {
        ...d.environment.sun,
        heightDegrees: round(altitude, 0.01),
        bearingDegrees: round((azimuth + 360) % 360, 0.01),
      };
      return { ...d, environment: { ...d.environment, sun } };
    });
  };
  const input = 'rounded-sm border border-line bg-pit px-1.5 py-[3px] text-ink outline-none focus:border-soft';
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      <NumberField
        label="latitude"
        value={where.latitude}
        step={1}
        suffix="°N"
        width="w-[88px]"
        onChange={(v) => (v === null || Math.abs(v) > 90 ? 'latitude is −90 to 90' : go({ ...where, latitude: v }))}
      />
      <NumberField
        label="longitude"
        value={where.longitude}
        step={1}
        suffix="°E"
        width="w-[88px]"
        onChange={(v) =>
          v === null || Math.abs(v) > 180 ? 'longitude is −180 to 180' : go({ ...where, longitude: v })
        }
      />
      <input
        aria-label="date"
        type="date"
        className={input}
        value={where.date}
        onChange={(e) => go({ ...where, date: e.target.value })}
      />
      <Tip text="Universal time; the bearing counts clockwise from −z, taken as north.">
        <input
          aria-label="time (UTC)"
          type="time"
          className={input}
          value={where.time}
          onChange={(e) => go({ ...where, time: e.target.value })}
        />
      </Tip>
    </div>
  );
}

const HOURS = 6;
const HOURS_AFTER_MS = 2500;

/** A document without the place of its sun. */
function withoutSun(d: SceneDocument) {
  const { environment: e } = d;
  return e?.kind === 'sky'
    ? { ...d, environment: { ...e, sun: { ...e.sun, heightDegrees: 0, bearingDegrees: 0 } } }
    : d;
}

/** Small pictures of the shot over the day, each a click away. */
function Hours({ sun }: { sun: Sun }) {
  const timed = useTimed();
  const patient = usePatient();
  const suns = useMemo(
    () =>
      Array.from({ length: HOURS }, (_, i) => {
        // An arc that rises and sets about the south of the sun's own bearing.
        const t = i / (HOURS - 1);
        return {
          heightDegrees: round(1 + Math.sin(Math.PI * t) * 55, 0.5),
          bearingDegrees: round((sun.bearingDegrees - 75 + 150 * t + 360) % 360, 0.5),
        };
      }),
    [sun.bearingDegrees],
  );
  // The strip follows what else is edited once the picture has had its rest; the sun's height changes nothing in it.
  const others = useMemo(() => patient && JSON.stringify(withoutSun(patient.document)), [patient]);
  const asked = patient && !timed ? { patient, suns, width: THUMB_PX } : null;
  const of = [others, patient?.recipe, patient?.camera, patient?.frame, suns];
  const { answer, asking: busy } = useAsk('hours', asked, { of, afterMs: HOURS_AFTER_MS, keep: true, byOf: true });
  const pictures = answer?.map((picture, i) => ({ sun: suns[i], picture }));
  return (
    <div className="border-b border-line px-4 py-2">
      <div className="flex items-center gap-2">
        <span className="flex-1">The day in six pictures</span>
        <span className="text-dim" role="status">
          {busy ? 'rendering' : pictures ? 'click one to take its sun' : ''}
        </span>
      </div>
      {pictures && (
        <div className="mt-2 grid grid-cols-3 gap-1.5" data-testid="hours">
          {pictures.map(({ sun: s, picture }) => (
            <button
              key={`${s.heightDegrees} ${s.bearingDegrees}`}
              type="button"
              className="text-left hover:outline hover:outline-soft"
              onClick={() => setSun(s, false)}
            >
              <Small picture={picture} />
              <span className="num text-[11px] text-dim">
                {s.heightDegrees}° · {s.bearingDegrees}°
              </span>
            </button>
          ))}
        </div>
      )}
    </div>
  );
}

async function takePicture(): Promise<void> {
  const [file] = await chooseFiles('.hdr,.exr,.png,.jpg,.jpeg,.tif,.tiff');
  if (!file) return;
  try {
    const content = await importPicture(file, 'environment');
    useScene.getState().edit(`surroundings ${content.name}`, (d) => {
      const kept = d.contents.filter((c) => c.name !== content.name);
      return {
        ...d,
        contents: [...kept, content],
        environment: picturedEnvironment(d.environment, content.name),
      };
    });
  } catch (error) {
    toast.error((error as Error).message);
  }
}

/** Sun and sky, a picture all around, a gradient, fogs. */
export function SkyPart() {
  const document = useDocument();
  const camera = useCamera();
  const { edit } = useScene.getState();
  const env = document.environment;
  const pictures = document.contents.filter((c) => c.use === 'environment');
  const choose = (kind: string) => {
    if (kind === 'none') edit('no surroundings', (d) => ({ ...d, environment: null }));
    else if (kind === 'sky') edit('sky', (d) => ({ ...d, environment: makeSky(camera.exposure) }));
    else if (kind === 'gradient') edit('gradient', (d) => ({ ...d, environment: makeGradient() }));
    else if (kind === 'picture' && pictures.length > 0)
      edit('picture', (d) => ({
        ...d,
        environment: picturedEnvironment(d.environment, pictures[0].name),
      }));
    else void takePicture();
  };
  return (
    <div className="min-h-0 flex-1 overflow-y-auto" data-testid="sky-part">
      <div className="flex items-center gap-2 border-b border-line px-4 py-2">
        <span className="flex-1">All around</span>
        <Choice
          label="surroundings"
          value={env?.kind ?? 'none'}
          options={[
            { value: 'none', label: 'nothing' },
            { value: 'sky', label: 'sun and sky' },
            { value: 'gradient', label: 'gradient' },
            { value: 'picture', label: 'picture' },
          ]}
          onChange={choose}
        />
        <Word onClick={() => void takePicture()}>From a file</Word>
      </div>
      {env?.kind === 'sky' && (
        <>
          <div className="flex gap-3 border-b border-line px-4 py-3">
            <Dome sun={env.sun} />
            <div className="flex min-w-0 flex-1 flex-col gap-1.5">
              <span className="flex items-center justify-between">
                Height
                <NumberField
                  label="sun height"
                  value={env.sun.heightDegrees}
                  step={1}
                  suffix="°"
                  width="w-[92px]"
                  onChange={(v) =>
                    v === null ? null : setSun({ heightDegrees: Math.max(-90, Math.min(90, v)) }, false)
                  }
                />
              </span>
              <span className="flex items-center justify-between">
                Bearing
                <NumberField
                  label="sun bearing"
                  value={env.sun.bearingDegrees}
                  step={1}
                  suffix="°"
                  width="w-[92px]"
                  onChange={(v) => (v === null ? null : setSun({ bearingDegrees: v }, false))}
                />
              </span>
              <Tip text="How wide the soft edge of a shadow is, a metre from what casts it: twice the tangent of half the sun’s angle.">
                <span className="text-dim">
                  soft edge{' '}
                  <span className="num text-soft">
                    {(2000 * Math.tan((env.sun.angleDegrees * Math.PI) / 360)).toFixed(1)} mm
                  </span>{' '}
                  a metre
                </span>
              </Tip>
              <details>
                <summary className="cursor-pointer text-soft">By place and time</summary>
                <div className="pt-1.5">
                  <Almanac />
                </div>
              </details>
            </div>
          </div>
          <Hours sun={env.sun} />
          <Fields groups={ENVIRONMENT_FIELDS.sky} owners={ENV} document={document} />
        </>
      )}
      {env?.kind === 'picture' && (
        <>
          <div className="flex items-center gap-2 border-b border-line px-4 py-2">
            <span className="flex-1">Picture</span>
            <Choice
              label="environment picture"
              value={env.picture}
              options={pictures.map((c) => c.name)}
              onChange={(v) => useScene.getState().setField(ENV, 'picture', v)}
            />
          </div>
          <Fields groups={ENVIRONMENT_FIELDS.picture} owners={ENV} document={document} />
        </>
      )}
      {env?.kind === 'gradient' && <Fields groups={ENVIRONMENT_FIELDS.gradient} owners={ENV} document={document} />}
      {!env && (
        <p className="border-b border-line px-4 py-3 text-dim">
          Nothing surrounds the scene. A sky lights everything at once; a picture lights it as the place it was taken
          in.
        </p>
      )}
      <Fogs document={document} />
    </div>
  );
}
