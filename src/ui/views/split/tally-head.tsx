'use client';

import type { Trial } from '@/contract/trial';
import { TALLY_LIMITS } from '@/core/film';
import type { TallyMeasure } from '@/render/questions/tally';
import { Stat, Word } from '../../parts/controls';
import { useAsk } from '../../state/ask';
import { useDesk } from '../../state/desk-store';
import { useSlotFilm } from '../../state/slots';

/** Whether groups and classes sum to the beauty, measured on the stored film. */
export function TallyHead({ trial, names }: { trial: Trial | null; names: string[] }) {
  const overlay = useDesk((s) => s.overlay);
  const of = useSlotFilm('A');
  const ask = (parting: 'group' | 'class') => (trial && of ? { of, parting, layers: names } : null);
  const group = useAsk('tally', ask('group'), { of: trial?.state }).answer;
  const pathClass = useAsk('tally', ask('class'), { of: trial?.state }).answer;
  const stat = (title: string, t: TallyMeasure | null | undefined, key: 'tally-group' | 'tally-class') => {
    const ok = t && t.maxError <= TALLY_LIMITS.float;
    return (
      <Stat
        title={title}
        value={
          <span data-testid={key}>
            {t ? `${Number.isFinite(t.decibels) ? t.decibels.toFixed(0) : '−∞'} dB`.replace('-', '−') : '–'}
          </span>
        }
        beside={t ? (ok ? 'adds up' : 'does not') : ''}
        tip={
          t
            ? `${t.parts} parts against the beauty, as stored in float: RMS error ${t.rmsError.toExponential(1)}, worst pixel ${t.maxError.toExponential(1)}; at most ${TALLY_LIMITS.float.toExponential(0)} counts as adding up. A file written as half carries its rounding on top, about 1e-3 at the worst pixel.`
            : 'Log a trial to tally its film.'
        }
      />
    );
  };
  return (
    <div className="border-b border-line">
      <div className="flex">
        {stat('Groups', group, 'tally-group')}
        {stat('Classes', pathClass, 'tally-class')}
      </div>
      {trial && (
        <div className="flex items-center gap-1 px-3 pb-2">
          <span className="text-dim">error as a picture</span>
          {(['tally-group', 'tally-class'] as const).map((o) => (
            <Word
              key={o}
              on={overlay === o}
              onClick={() => useDesk.getState().set({ overlay: overlay === o ? 'none' : o })}
            >
              {o === 'tally-group' ? 'groups' : 'classes'}
            </Word>
          ))}
        </div>
      )}
    </div>
  );
}
