/** A step of a ladder as measured. */
export interface LadderPoint {
  value: number;
  /** Percent of display white. */
  noise: number;
  /** At speed 1. */
  seconds: number;
  /** How far its picture is from that of the largest value, percent of display white. */
  difference: number;
}

export interface Knee {
  value: number;
  by: 'look' | 'efficiency';
  /** Time of the largest value over that of the knee. */
  beyond: number;
}

/** Below this a step's picture cannot be told from that of the largest value. */
const SAME_LOOK = 0.2;
/** Pictures further apart than this are different pictures, not different noise. */
const OTHER_LOOK = 1;
/** An efficiency must beat those of both ends by this to be a knee. */
const WORTH = 1.05;

/**
 * Where more of a setting stops paying, or null where nothing tells: the least value from which on the picture stays what it
 * is at the largest, where smaller ones change it; otherwise the most efficient value, 1/(noise² · time), when it beats both
 * ends.
 */
export function kneeOf(points: readonly LadderPoint[]): Knee | null {
  const sorted = [...points].sort((a, b) => a.value - b.value);
  const last = sorted.at(-1);
  if (sorted.length < 3 || !last) return null;
  const at = (p: LadderPoint, by: Knee['by']): Knee => ({ value: p.value, by, beyond: last.seconds / p.seconds });
  if (Math.max(...sorted.map((p) => p.difference)) > OTHER_LOOK) {
    const changed = sorted.findLastIndex((p) => p.difference > SAME_LOOK);
    const first = sorted[changed + 1];
    return first && first !== last ? at(first, 'look') : null;
  }
  const efficiency = (p: LadderPoint) => 1 / (p.noise ** 2 * p.seconds);
  const best = sorted.reduce((a, p) => (efficiency(p) > efficiency(a) ? p : a));
  const ends = Math.max(efficiency(sorted[0]), efficiency(last));
  return best !== sorted[0] && best !== last && efficiency(best) > ends * WORTH ? at(best, 'efficiency') : null;
}

/** What a ladder says of where more stops paying. */
export function kneeWords(knee: Knee | null): string {
  if (!knee) return 'no knee: every step pays alike, or the picture still changes';
  if (knee.by === 'efficiency') return `${knee.value} is the most efficient`;
  const more = knee.beyond > 1.02 ? `, and takes ${Math.round((knee.beyond - 1) * 100)} % more time` : '';
  return `${knee.value} is enough: more changes nothing that is seen${more}`;
}
