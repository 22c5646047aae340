import { partsIn, shownIn } from '@/core/comp';
import { useAsk } from '../../state/ask';
import { useDesk } from '../../state/desk-store';
import { useLive } from '../../state/live-store';
import { useWholeSlot } from '../../state/slots';
import type { Stacked } from '../../state/stacking';

/** Milliseconds without an edit after which a stack is measured. */
const MEASURED_AFTER_MS = 500;
/** Milliseconds after which its noise is too, which leads both halves through every operation. */
const EXACT_AFTER_MS = 2000;

/** What changes as the picture in A goes on. */
export function usePictureTick(): string {
  const isLive = useDesk((s) => s.a.kind === 'live');
  const trial = useWholeSlot('A');
  const doubled = useLive((s) => Math.floor(Math.log2(Math.max(1, s.status?.samples ?? 0))));
  const isDone = useLive((s) => s.status?.state === 'done');
  const changes = useLive((s) => s.status?.changes ?? 0);
  return isLive ? `${changes} ${isDone ? 'done' : doubled}` : `${trial?.id} ${trial?.state}`;
}

/** Which parts of the picture are in the stack, and what it comes to, measured. */
export function useStackFigures({ stack, over, kept }: Stacked) {
  const tick = usePictureTick();
  const plain = { ...over, lookedAt: null };
  const parts = partsIn(stack, () => kept);
  const isShown = parts !== null && shownIn(stack).includes(parts.film);
  const whole = isShown && parts.missing.length === 0 && parts.twice.length === 0;
  const layers = whole ? kept.filter((n) => n.startsWith(`${parts.family}.`)) : [];
  const quick = useAsk(
    'stackFigures',
    { over: plain, parts: layers, exact: false },
    { of: tick, afterMs: MEASURED_AFTER_MS, keep: true },
  ).answer;
  const exact = useAsk(
    'stackFigures',
    { over: plain, parts: [], exact: true },
    { of: tick, afterMs: EXACT_AFTER_MS, keep: true },
  );
  return { parts, whole, quick, noise: exact.answer?.noise ?? null, isMeasuring: exact.asking };
}
