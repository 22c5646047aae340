import type { Run } from '@/contract/run';
import { summed, type TimeLeft, timeLeft, workLeft } from '@/core/runs';

const HOUR = { hour: '2-digit', minute: '2-digit' } as const;

/** When something so many seconds ahead is done: hour and minute, and the weekday where that is another than now. */
export function timeOfDay(seconds: number, now = new Date()): string {
  const then = new Date(now.getTime() + seconds * 1000);
  const isToday = then.toDateString() === now.toDateString();
  return then.toLocaleString(undefined, isToday ? HOUR : { weekday: 'short', ...HOUR });
}

/** The times between which it is done; one where they are the same minute. */
export function betweenTimes({ low, high }: TimeLeft): string {
  const [from, to] = [timeOfDay(low), timeOfDay(high)];
  return from === to ? 'to the minute' : `${from} – ${to}`;
}

/** Share of its time that a traced frame has before it: what those that are packed took longer. */
function yetToCome({ seconds }: Run['rows'][number], done: readonly { seconds: number }[]): number {
  const whole = done.reduce((s, d) => s + d.seconds, 0) / done.length;
  return whole > 0 ? Math.min(1, Math.max(0, 1 - (seconds ?? 0) / whole)) : 1;
}

/**
 * Seconds until a run is done on so many workers, by what its frames took; null before enough of each of its pictures are there
 * to tell.
 */
export function runLeft({ rows }: Pick<Run, 'rows'>, workers: number): TimeLeft | null {
  const pictures = [...new Set(rows.map((r) => r.picture))];
  const works: TimeLeft[] = [];
  let frames = 0;
  for (const picture of pictures) {
    const own = rows.filter((r) => r.picture === picture);
    const done = own.flatMap((r) =>
      r.state === 'done' && r.seconds !== null ? [{ frame: r.frame, seconds: r.seconds }] : [],
    );
    const left = own.flatMap((r) =>
      r.state === 'queued' || r.state === 'rendering' || r.state === 'storing'
        ? [{ frame: r.frame, part: r.state === 'queued' ? 1 : 1 - r.fraction }]
        : r.state === 'waiting'
          ? [{ frame: r.frame, part: yetToCome(r, done) }]
          : [],
    );
    const work = workLeft(done, left);
    if (!work) return null;
    works.push(work);
    frames += left.length;
  }
  return timeLeft(summed(works), frames, workers);
}
