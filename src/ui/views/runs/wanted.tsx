'use client';

import { inTime, type TimeLeft } from '@/core/runs';
import { clock, counted } from '@/core/words';
import { LOOK } from '../../fields/text-field';
import { Word } from '../../parts/controls';
import { timeOfDay } from './times';

/** A moment as the browser's own field for it has it: local, to the minute. */
const localText = (iso: string): string => {
  const then = new Date(iso);
  return new Date(then.getTime() - then.getTimezoneOffset() * 60000).toISOString().slice(0, 16);
};

/** When a run is wanted, by the browser's own calendar. */
export function WantedField({ value, onChange }: { value: string | null; onChange: (iso: string | null) => void }) {
  return (
    <>
      <input
        type="datetime-local"
        aria-label="wanted by"
        className={`num [color-scheme:dark] !py-0.5 ${LOOK}`}
        value={value === null ? '' : localText(value)}
        onChange={(e) => onChange(e.target.value === '' ? null : new Date(e.target.value).toISOString())}
      />
      {value !== null && <Word onClick={() => onChange(null)}>none</Word>}
    </>
  );
}

/** Whether it is going to be there by then, and how many workers it would take. */
export function wantedWords(
  wantedAt: string,
  leftOn: (workers: number) => TimeLeft,
  workers: number,
  now = Date.now(),
): string {
  const within = (new Date(wantedAt).getTime() - now) / 1000;
  const by = timeOfDay(within, new Date(now));
  if (within <= 0) return `wanted by ${by}, which has passed`;
  const { is, seconds, needed } = inTime(leftOn, within, workers);
  if (is === 'in time') return `wanted by ${by}: in time, ${clock(seconds)} to spare`;
  const more =
    needed === null ? 'more workers would not help' : `${counted(needed, 'worker')} of this speed would make it`;
  return is === 'open'
    ? `wanted by ${by}: it may be up to ${clock(seconds)} late; ${more}`
    : `wanted by ${by}: at least ${clock(seconds)} late; ${more}`;
}
