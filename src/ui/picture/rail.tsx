'use client';

import { Square } from 'lucide-react';
import type { ProbeValue } from '@/render/film-protocol';
import { api } from '../state/api';
import { useDesk } from '../state/desk-store';
import { figuresOf } from '../state/figures';
import { clock, count, linear, percent, two } from '../state/format';
import { tell, useSession } from '../state/session';
import { running } from '../state/types';
import { useProbe } from './probe-store';

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

/** The readout rail under the picture: pixel values, figures of A, and what is under way. */
export function Rail() {
  const session = useSession();
  const { a, b } = useProbe();
  const desk = useDesk();
  const f = figuresOf(session, 'A');
  const job = session.data.trials.find((t) => running(t) && t.state !== 'queued') ?? session.data.trials.find(running);
  return (
    <div
      className="flex h-8 shrink-0 items-center gap-4 overflow-hidden border-y border-line bg-ground px-3.5 whitespace-nowrap"
      data-testid="rail"
      data-coarse-ms={session.status?.coarseMs ?? undefined}
      data-changes={session.status?.changes ?? 0}
    >
      <span className="num w-[74px] text-dim">{a ? `${a.x}, ${a.y}` : '–'}</span>
      <span className="num w-[180px] truncate" data-testid="probe-a">
        <span className="mr-1.5 font-semibold text-a">A</span>
        {values(a)}
      </span>
      {desk.b && (
        <span className="num w-[250px] truncate" data-testid="probe-b">
          <span className="mr-1.5 font-semibold text-b">B</span>
          {values(b)} <span className="ml-1 text-dim">Δ</span> {delta(a, b)}
        </span>
      )}
      <span className="flex-1" />
      {job ? (
        <span className="flex items-center gap-2.5" role="status" data-testid="progress">
          <span>
            {job.state === 'queued' ? 'waiting' : job.state === 'storing' ? 'storing' : 'rendering'} {two(job.number)}
          </span>
          <span className="block h-1 w-24 bg-pit">
            <span className="block h-full bg-a" style={{ width: `${job.fraction * 100}%` }} />
          </span>
          <span className="num text-soft">
            {Math.round(job.fraction * 100)} %{job.leftMs ? ` · ${clock(job.leftMs / 1000)} left` : ''}
          </span>
          <button
            type="button"
            className="flex items-center gap-1 rounded-sm border border-line px-1.5 hover:border-soft"
            onClick={() => api.stopTrial(job.id).catch(tell)}
          >
            <Square size={9} fill="currentColor" /> Stop
          </button>
        </span>
      ) : (
        <span className="num flex gap-4">
          <Pair name="noise" value={percent(f.noise?.rms)} />
          <Pair name="p95" value={percent(f.noise?.p95)} />
          <Pair name="time" value={clock(f.seconds)} />
          <Pair name="rays" value={count(f.rays?.total)} />
        </span>
      )}
      {!session.connected && (
        <span className="rounded-sm bg-fill px-2 text-pit" role="alert">
          server away: trying again
        </span>
      )}
    </div>
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
