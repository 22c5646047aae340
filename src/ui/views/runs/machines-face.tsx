'use client';

import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Copy } from 'lucide-react';
import { toast } from 'sonner';
import type { EditMachine, Worker } from '@/contract/worker';
import { clock, two } from '@/core/words';
import { NumberField } from '../../fields/number-field';
import { Tip, Word } from '../../parts/controls';
import { api } from '../../state/api';
import { tell } from '../../state/tell';

const EVERY_MS = 2000;

/** Workers there are: what each does, how fast it is, and how another machine joins them. */
export function MachinesFace() {
  const queries = useQueryClient();
  const { data } = useQuery({ queryKey: ['workers'], queryFn: api.workers, refetchInterval: EVERY_MS });
  if (!data) return null;
  const set = (change: EditMachine) =>
    void api
      .editMachine(change)
      .then(() => queries.invalidateQueries({ queryKey: ['workers'] }))
      .catch(tell);
  return (
    <div className="flex min-h-0 flex-1 gap-4 px-3 pb-2" data-testid="machines">
      <div className="min-h-0 min-w-0 flex-1 overflow-y-auto">
        <table className="w-full whitespace-nowrap">
          <thead className="text-left text-dim">
            <tr>
              {['machine', 'threads', 'speed', 'does', 'heard of', ''].map((h) => (
                <th key={h} className="pr-3 pb-1 font-normal">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {data.workers.map((w) => (
              <Row key={w.id} worker={w} set={set} />
            ))}
          </tbody>
        </table>
        {data.workers.length === 0 && (
          <p className="text-soft">
            No worker is running. npm start starts one; another machine joins as told at the right.
          </p>
        )}
      </div>
      <Join lines={data.join} />
    </div>
  );
}

function doingWords({ doing, gone, isOther, drained, mark }: Worker): string {
  if (gone) return 'not heard of: what it did has been given to others';
  if (isOther) return `built from something else (${mark}) than the server: it is given nothing until it is the same`;
  if (!doing) return drained ? 'takes no more' : 'waits';
  const percent = `${Math.round(doing.fraction * 100)} %`;
  const what = doing.run === null ? `trial ${two(doing.number ?? 0)}` : `run ${two(doing.run)} frame ${doing.frame}`;
  return `${doing.shot} ${what}, ${percent}${drained ? ', its last' : ''}`;
}

function Row({ worker: w, set }: { worker: Worker; set: (change: EditMachine) => void }) {
  return (
    <tr className="border-t border-line">
      <td className="num py-1 pr-3">{w.machine}</td>
      <td className="py-1 pr-3">
        <span className="flex items-center gap-1">
          <NumberField
            label={`threads on ${w.machine}`}
            value={w.wantedThreads ?? w.threads}
            width="w-[40px]"
            onChange={(v) => {
              if (v === null || !Number.isInteger(v) || v < 1 || v > w.cores)
                return `a whole number from 1 to ${w.cores}`;
              set({ machine: w.machine, threads: v });
              return null;
            }}
          />
          <span className="num text-dim">of {w.cores}</span>
        </span>
      </td>
      <td className="num py-1 pr-3">{w.speed === null ? '–' : `×${w.speed.toFixed(2)}`}</td>
      <td className="py-1 pr-3 whitespace-normal" data-testid="doing">
        {doingWords(w)}
      </td>
      <td className="num py-1 pr-3 text-dim">
        {w.seenSeconds < 3 ? 'now' : `${clock(Math.round(w.seenSeconds))} ago`}
      </td>
      <td className="py-1 text-right">
        <Tip text="Ends what it renders and takes nothing after that, until it is let again." side="left">
          <Word on={w.drained} onClick={() => set({ machine: w.machine, drained: !w.drained })}>
            {w.drained ? 'takes no more' : 'drain'}
          </Word>
        </Tip>
      </td>
    </tr>
  );
}

/** What is typed on another machine for it to join. */
function Join({ lines }: { lines: string[] }) {
  const text = lines.join('\n');
  return (
    <div className="w-[310px] shrink-0 overflow-y-auto border-l border-line pl-3">
      <p className="flex items-center text-dim">
        <span className="flex-1">Another machine joins, with the same program:</span>
        <Word
          aria-label="copy how a machine joins"
          onClick={() => void navigator.clipboard?.writeText(text).then(() => toast('Copied'))}
        >
          <Copy size={12} />
        </Word>
      </p>
      {lines.map((l) => (
        <code key={l} className="num block py-0.5 text-[10.5px] leading-[14px] break-all text-soft">
          {l}
        </code>
      ))}
      <p className="text-[11px] text-dim">The database listens on loopback only; SSH leads its port there.</p>
    </div>
  );
}
