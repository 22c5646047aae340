'use client';

import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { count, linear, share, words } from '@/core/words';
import type { Cause } from '@/render/advice/diagnosis/diagnose';
import { fixRecipe, fixScene } from '@/render/advice/diagnosis/fix';
import type { Patient } from '@/render/advice/patient';
import type { TrailStep } from '@/render/pool/inspector';
import { GrainBar, Plain, Primary, Tip, Word } from '../../parts/controls';
import { Tabs } from '../../parts/tabs';
import { useAim } from '../../state/aim-store';
import { useAsk } from '../../state/ask';
import { useClient } from '../../state/client';
import { useLive, useReady } from '../../state/live-store';
import { useRecipe } from '../../state/recipe-store';
import { useCamera, usePatient } from '../../state/scene-now';
import { useScene } from '../../state/scene-store';
import { tell } from '../../state/tell';
import { useTrails } from '../../state/trail-store';

const stopsText = (s: number) => `${s > 0 ? '+' : '−'}${Math.abs(s).toFixed(1)} stops`;

/** Makes a fix: in the scene, the recipe, or both, each undoable. */
function make(cause: Cause, cameraName: string): void {
  const { fix } = cause;
  if (!fix) return;
  const fault = useScene
    .getState()
    .edit(fix.label, (d) => fixScene(d, d.cameras.find((c) => c.name === cameraName) ?? d.cameras[0], fix));
  if (fault) {
    toast.error(fault);
    return;
  }
  const { recipe, replace } = useRecipe.getState();
  if (recipe && fix.settings) replace(fixRecipe(recipe, fix));
}

/** Why the picture is dark, white or noisy, and what a pixel's paths meet. */
export function WhyPart() {
  const ready = useReady();
  const camera = useCamera();
  const patient = usePatient();
  const asked = useRef<Patient | null>(null);
  const [wanted, setWanted] = useState<Patient | null>(null);
  const {
    answer: found,
    asking,
    step,
    fault,
    again,
  } = useAsk('diagnosis', wanted ? { patient: wanted } : null, { keep: true });
  const [made, setMade] = useState<string[]>([]);
  useEffect(() => {
    if (fault) toast.error(fault);
  }, [fault]);
  const ask = () => {
    if (!patient) return;
    setMade([]);
    if (asked.current === patient) again();
    asked.current = patient;
    setWanted(patient);
  };
  return (
    <div className="min-h-0 flex-1 overflow-y-auto" data-testid="why">
      <div className="border-b border-line px-4 py-3">
        <p className="mb-2 text-soft">
          Every cause that can be thought of is mended in turn and the scene rendered small, to see what that changes.
        </p>
        {asking ? (
          <div className="flex items-center gap-2" role="status">
            <span className="block h-1 w-24 bg-pit">
              <span
                className="block h-full bg-fill"
                style={{ width: `${step ? (step.done / Math.max(1, step.of)) * 100 : 0}%` }}
              />
            </span>
            <span className="min-w-0 flex-1 text-dim">{step?.words ?? 'the picture as it stands'}</span>
            <Plain onClick={() => setWanted(null)}>Stop</Plain>
          </div>
        ) : (
          <Primary disabled={!ready} onClick={ask}>
            Why does it look like this?
          </Primary>
        )}
      </div>
      {found && !asking && (
        <>
          <div className="num flex gap-4 border-b border-line px-4 py-1.5 text-[11px] whitespace-nowrap text-dim">
            <span>mean {found.mean.toPrecision(2)}</span>
            <span>{Math.round(found.black * 100)} % black</span>
            <span>{Math.round(found.clipped * 100)} % over</span>
            <span>{count(found.rays)} rays</span>
          </div>
          {found.causes.length === 0 && (
            <p className="px-4 py-3 text-soft">
              Nothing that was tried changes the picture by more than a tenth of a stop: it looks as it is lit.
            </p>
          )}
          <ol>
            {found.causes.map((c) => (
              <li key={c.words} className="flex gap-3 border-b border-line px-4 py-2" data-testid={`cause-${c.code}`}>
                <span className="num w-[76px] shrink-0 font-semibold">
                  {c.stops === null ? '' : stopsText(c.stops)}
                </span>
                <div className="flex min-w-0 flex-1 flex-col items-start gap-1.5">
                  <span>{c.words}</span>
                  {c.fix && (
                    <Plain
                      disabled={made.includes(c.words)}
                      onClick={() => {
                        make(c, camera.name);
                        setMade([...made, c.words]);
                      }}
                    >
                      {made.includes(c.words) ? 'done' : c.fix.label}
                    </Plain>
                  )}
                </div>
              </li>
            ))}
          </ol>
        </>
      )}
      <NoiseSources />
      <Trails />
    </div>
  );
}

/** What most of the noise in the live picture comes from. */
function NoiseSources() {
  const shares = useLive((s) => s.status?.shares);
  const sources = [...(shares?.groupClass ?? [])].sort((a, b) => b.share - a.share).slice(0, 4);
  if (sources.length === 0 || sources[0].share <= 0) return null;
  return (
    <section className="border-b border-line px-4 py-3" aria-label="where the noise comes from">
      <h3 className="mb-1 font-semibold">Where the noise comes from</h3>
      <ul>
        {sources.map((s) => (
          <li key={`${s.group} ${s.pathClass}`} className="grid grid-cols-[1fr_90px_34px] items-center gap-2 py-0.5">
            <span>
              {words(s.group)}, {words(s.pathClass)}
            </span>
            <GrainBar value={s.share} label={`${share(s.share)} of the noise`} />
            <span className="num text-right text-[11px] text-dim">{share(s.share)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

const SAMPLES = 8;
const LOBES: Record<string, string> = {
  diffuse: 'scatters',
  reflection: 'reflects',
  transmission: 'passes through',
  fog: 'scatters in fog',
};

function endText(s: TrailStep): string {
  if (!s.reason) return 'ends';
  if (s.reason.startsWith('limit '))
    return `ends at the limit of ${s.reason.slice(6) === 'all' ? 'ray depth' : s.reason.slice(6)}`;
  const words: Record<string, string> = {
    sky: 'leaves the scene',
    light: `meets ${s.light ?? 'a light'}`,
    roulette: 'ends by roulette',
    absorbed: 'is absorbed',
    holes: 'passes too many cut-outs',
    walk: 'wanders too long inside',
    clip: 'reaches the far clip plane',
  };
  return words[s.reason] ?? s.reason;
}

function stepText(s: TrailStep): string {
  switch (s.event) {
    case 'vertex':
      return `${s.object ?? '?'} after ${s.metres < 100 ? s.metres.toFixed(2) : s.metres.toFixed(0)} m`;
    case 'left':
      return LOBES[s.lobe ?? 'diffuse'];
    case 'light':
      return `${s.reason ? 'lost beyond the limit: ' : ''}light of ${s.light}`;
    case 'blocked':
      return `${s.light} is blocked by ${s.object ?? 'another light'}`;
    case 'passed':
      return `passes ${s.object}, hidden from this ray by its rules`;
    case 'fog':
      return 'in fog';
    case 'end':
      return endText(s);
  }
}

/** The paths of a pixel, vertex by vertex. */
function Trails() {
  const client = useClient();
  const patient = usePatient();
  const { aim, begin } = useAim();
  const { trails, shown, set } = useTrails();
  const pick = () =>
    begin({
      by: 'trails',
      words: 'Click a pixel to follow its paths',
      take: (_, at) => {
        if (!patient) return false;
        client
          .ask('trails', { ...at, samples: SAMPLES, patient })
          .then((t) => set({ trails: t, shown: 0 }))
          .catch(tell);
        return true;
      },
    });
  const one = trails?.[shown];
  return (
    <section className="px-4 py-3" aria-label="paths of a pixel">
      <div className="flex items-center gap-2">
        <h3 className="flex-1 font-semibold">Paths of a pixel</h3>
        <Tip text="Each path from the camera: what it meets, by which lobe it goes on, the light it finds and why it ends. They are drawn in the space too.">
          <Plain aria-pressed={aim?.by === 'trails'} onClick={pick}>
            {aim?.by === 'trails' ? 'Click in the picture' : 'Pick a pixel'}
          </Plain>
        </Tip>
        {trails && <Word onClick={() => set({ trails: null })}>Clear</Word>}
      </div>
      {!trails && <p className="mt-1.5 text-dim">None is picked.</p>}
      {trails && one && (
        <div className="mt-2">
          <Tabs
            label="samples"
            tabs={trails.map((_, i) => ({ name: String(i), label: String(i + 1), tip: `Path of sample ${i + 1}` }))}
            value={String(shown)}
            onChange={(name) => set({ shown: Number(name) })}
          >
            <ol className="mt-1.5" data-testid="trail">
              {one.map((s, i) => (
                <li
                  key={i}
                  className={`flex gap-2 py-[3px] ${s.event === 'vertex' ? 'mt-1 font-semibold' : 'pl-4 text-soft'}`}
                >
                  <span className="min-w-0 flex-1">{stepText(s)}</span>
                  {(s.event === 'vertex' || s.event === 'light') && (
                    <span className="num text-[11px] text-dim">{s.rgb.map(linear).join(' ')}</span>
                  )}
                </li>
              ))}
            </ol>
          </Tabs>
        </div>
      )}
    </section>
  );
}
