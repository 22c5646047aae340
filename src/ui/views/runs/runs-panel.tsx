'use client';

import type { RunLine } from '@/contract/run';
import { isOver } from '@/contract/run';
import { two } from '@/core/words';
import { Word } from '../../parts/controls';
import { useDesk } from '../../state/desk-store';
import { usePickedRun, useRuns } from '../../state/runs';
import { NewRun } from './new-run';
import { RunDetails } from './run-details';

/** Runs: what is delivered, checked before it starts, followed while it is rendered. */
export function RunsPanel() {
  const runs = useRuns();
  const picked = usePickedRun();
  return (
    <>
      {runs.length > 0 && <RunList runs={runs} picked={picked} />}
      {picked ? <RunDetails key={picked.id} run={picked} /> : <NewRun />}
    </>
  );
}

/** What has become of a run, in a word or two. */
export function stateWords(run: RunLine): string {
  const { all, done, failed } = run.counts;
  if (isOver(run)) return failed > 0 ? `${failed} failed` : done === all ? 'delivered' : 'ended';
  return run.state === 'paused' ? 'paused' : run.counts.busy + done > 0 ? 'rendering' : 'waits';
}

function RunList({ runs, picked }: { runs: RunLine[]; picked: RunLine | null }) {
  const pick = (run: string | null) => useDesk.getState().set({ run });
  return (
    <div className="shrink-0 border-b border-line py-1" data-testid="runs">
      <ul className="max-h-[125px] overflow-y-auto">
        {runs.map((r) => (
          <li key={r.id}>
            <button
              type="button"
              aria-pressed={picked?.id === r.id}
              aria-label={`run ${two(r.number)} ${r.title}`}
              className={`grid h-[25px] w-full grid-cols-[24px_1fr_auto_64px_72px] items-center gap-2 px-3.5 text-left ${picked?.id === r.id ? 'bg-fill text-pit' : 'hover:bg-raised'}`}
              onClick={() => pick(r.id)}
            >
              <span className="num font-semibold">{two(r.number)}</span>
              <span className="truncate">{r.title}</span>
              <span className="num text-[11px] opacity-70">
                {r.frames.length > 14 ? `${r.frames.slice(0, 13)}…` : r.frames}
              </span>
              <Progress counts={r.counts} />
              <span className="truncate text-right text-[11.5px] opacity-80">{stateWords(r)}</span>
            </button>
          </li>
        ))}
      </ul>
      {picked && (
        <Word className="mx-2 underline" onClick={() => pick(null)}>
          put another run together
        </Word>
      )}
    </div>
  );
}

/** How many of a run's frames are done, and how many are under way. */
export function Progress({ counts: { all, done, failed, busy } }: { counts: RunLine['counts'] }) {
  const part = (n: number) => `${(n / Math.max(1, all)) * 100}%`;
  return (
    <span
      role="img"
      aria-label={`${done} of ${all} frames done, ${busy} under way, ${failed} failed`}
      className="flex h-[7px] w-full bg-pit outline outline-line"
    >
      <span className="block h-full bg-[#9a9a9a]" style={{ width: part(done) }} />
      <span className="grain block h-full" style={{ width: part(busy) }} />
    </span>
  );
}
