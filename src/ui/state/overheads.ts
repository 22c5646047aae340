import { finished, type TrialLine } from '@/contract/trial';

export const median = (v: number[]) => [...v].sort((a, b) => a - b)[Math.floor(v.length / 2)];
/** Trials that are looked back at. */
export const RECENT = 8;

/** What trials took beside tracing, and how much longer tracing took by the clock than at speed 1; null before the first. */
export function overheads(trials: TrialLine[]): { fixedSeconds: number; slower: number } | null {
  const known = trials
    .flatMap((t) => (finished(t) && t.seconds?.calibrated ? [{ ...t.seconds, calibrated: t.seconds.calibrated }] : []))
    .slice(0, RECENT);
  if (known.length === 0) return null;
  return {
    fixedSeconds: median(known.map((t) => t.load + t.write)),
    slower: median(known.map((t) => t.trace / t.calibrated)),
  };
}
