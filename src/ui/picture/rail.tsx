'use client';

import { Square } from 'lucide-react';
import { running, type TrialLine, timed } from '@/contract/trial';
import { clock, count, linear, percent, two } from '@/core/words';
import type { ProbeValue } from '@/render/page/probe';
import { Tip, Word } from '../parts/controls';
import { api } from '../state/api';
import { useDesk } from '../state/desk-store';
import { useFigures } from '../state/figures';
import { useLive } from '../state/live-store';
import { saying } from '../state/log-trial';
import { useProbe } from '../state/probe-store';
import { useShot } from '../state/shot-store';
import { type ListedTrial, trialsOf, useDenoising, useTrials } from '../state/trials-store';
import { viewNamed } from '../views/registry';

function values(p: ProbeValue | null): string {
  return p ? p.values.map((v) => linear(v.value)).join(' ') : '';
}

/** Relative difference of the sums of two readings, in percent. */
function delta(a: ProbeValue | null, b: ProbeValue | null): string {
  if (!a || !b || a.values.length === 0 || a.values.length !== b.values.length) return '';
  const sum = (p: ProbeValue) => p.values.reduce((n, v) => n + v.value, 0);
  const [x, y] = [sum(a), sum(b)];
  if (!Number.isFinite(x) || !Number.isFinite(y) || y === 0) return '';
  const d = (x / y - 1) * 100;
  return `${d < 0 ? '−' : '+'}${Math.abs(d).toFixed(1)} %`;
}

/** The readout rail under the picture: pixel values, figures of A that the panel does not tell, and what is under way. */
export function Rail() {
  const coarseMs = useLive((s) => s.status?.coarseMs ?? undefined);
  const changes = useLive((s) => s.status?.changes ?? 0);
  const connected = useShot((s) => s.connected);
  const job = useTrials((s) => {
    const under = trialsOf(s).filter(running);
    return under.find((t) => t.state !== 'queued') ?? under[0] ?? null;
  });
  const denoising = useDenoising();
  return (
    <div
      className="flex h-8 shrink-0 items-center gap-4 overflow-hidden border-y border-line bg-ground px-3.5 whitespace-nowrap"
      data-testid="rail"
      data-coarse-ms={coarseMs}
      data-changes={changes}
    >
      <Pixels />
      <span className="flex-1" />
      {denoising && (!job || job.state === 'queued') ? (
        <DenoisingOf trial={denoising} />
      ) : job ? (
        <Progress job={job} />
      ) : (
        <FiguresOfA />
      )}
      {!connected && (
        <span className="rounded-sm bg-fill px-2 text-pit" role="alert">
          server away: trying again
        </span>
      )}
    </div>
  );
}

/** What lies under the cursor, in A and in B. */
function Pixels() {
  const a = useProbe((s) => s.a);
  const b = useProbe((s) => s.b);
  const hasB = useDesk((s) => s.b !== null);
  return (
    <>
      <span className="num w-[74px] shrink-0 text-dim">{a ? `${a.x}, ${a.y}` : '–'}</span>
      <span className="num min-w-[180px] shrink-0" data-testid="probe-a">
        <span className="mr-1.5 font-semibold text-a">A</span>
        {values(a)}
      </span>
      {hasB && (
        <span className="num min-w-[210px] shrink-0" data-testid="probe-b">
          <span className="mr-1.5 font-semibold text-b">B</span>
          {values(b)} <span className="ml-1 text-dim">Δ</span> {delta(a, b)}
        </span>
      )}
    </>
  );
}

/** A trial under way: how far it has come, how long it will take, and its stop. */
function Progress({ job }: { job: TrialLine }) {
  const live = useDesk((s) => s.live);
  const more = useTrials((s) => trialsOf(s).filter((t) => t.state === 'queued' && t.id !== job.id).length);
  const doing = job.state === 'queued' ? 'waiting' : job.state === 'storing' ? 'storing' : 'rendering';
  return (
    <span className="flex items-center gap-2.5" role="status" data-testid="progress">
      <span>
        {doing} {job.sample ? 'sample ' : ''}
        {two(job.number)}
        {job.sample && more > 0 ? `, ${more} to come` : ''}
      </span>
      <span className="block h-1 w-24 bg-pit">
        <span className="block h-full bg-a" style={{ width: `${job.fraction * 100}%` }} />
      </span>
      <span className="num text-soft">
        {Math.round(job.fraction * 100)} %{job.leftMs ? ` · ${clock(job.leftMs / 1000)} left` : ''}
      </span>
      {timed(job) && live && (
        <Tip text="The live picture and what asks of it wait while a trial is timed. Let on, they share the machine with it, and its time is not told.">
          <Word onClick={() => saying(api.leaveUntimed(job.id))}>live, not timed</Word>
        </Tip>
      )}
      {job.untimed && <span className="text-dim">not timed</span>}
      <StopButton onClick={() => saying(api.stopTrial(job.id))} />
    </span>
  );
}

/** A film that is being denoised. */
function DenoisingOf({ trial: { id, number, denoised } }: { trial: ListedTrial }) {
  const { state, fraction, leftMs } = denoised!;
  const doing = state === 'queued' ? 'waiting to denoise' : state === 'judging' ? 'rendering patches of' : 'denoising';
  return (
    <span className="flex items-center gap-2.5" role="status" data-testid="denoising-progress">
      <span>
        {doing} {two(number)}
      </span>
      <span className="block h-1 w-24 bg-pit">
        <span className="block h-full bg-a" style={{ width: `${fraction * 100}%` }} />
      </span>
      <span className="num text-soft">
        {Math.round(fraction * 100)} %{leftMs ? ` · ${clock(leftMs / 1000)} left` : ''}
      </span>
      <StopButton onClick={() => saying(api.stopDenoising(id))} />
    </span>
  );
}

function StopButton({ onClick }: { onClick: () => void }) {
  return (
    <button
      type="button"
      className="flex items-center gap-1 rounded-sm border border-line px-1.5 hover:border-soft"
      onClick={onClick}
    >
      <Square size={9} fill="currentColor" /> Stop
    </button>
  );
}

function FiguresOfA() {
  const f = useFigures('A');
  const told = viewNamed(useDesk((s) => s.view)).tells ?? [];
  return (
    <span className="num flex gap-4">
      {!told.includes('noise') && <Pair name={f.residual ? 'residual' : 'noise'} value={percent(f.noise?.rms)} />}
      <Pair name="p95" value={percent(f.noise?.p95)} />
      {!told.includes('time') && <Pair name="time" value={clock(f.seconds)} />}
      <Pair name="rays" value={count(f.rays?.total)} />
    </span>
  );
}

function Pair({ name, value }: { name: string; value: string }) {
  return (
    <span>
      <span className="mr-1.5 text-dim">{name}</span>
      {value}
    </span>
  );
}
