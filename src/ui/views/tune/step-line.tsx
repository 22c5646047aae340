import { clock } from '@/core/words';
import { WaitsFor } from '../../logbook/waits-for';
import { type Asked, useCure } from '../../state/cure-store';

/** How far pilots or cures that are being tried have come, with the time left. */
export function StepLine({ of }: { of: Asked }) {
  const step = useCure((s) => s.step);
  if (!step) return <WaitsFor />;
  if (step.what !== of) return null;
  const leftMs =
    step.done > 1 ? ((performance.now() - step.startedAt) / step.done) * Math.max(0, step.of - step.done) : null;
  return (
    <div role="status" className="mt-1 flex items-center gap-2 text-soft">
      <span className="block h-1 w-16 shrink-0 bg-pit">
        <span className="block h-full bg-fill" style={{ width: `${(step.done / Math.max(1, step.of)) * 100}%` }} />
      </span>
      <span className="min-w-0">{step.words}</span>
      {leftMs !== null && <span className="num ml-auto shrink-0">{clock(leftMs / 1000)} left</span>}
    </div>
  );
}
