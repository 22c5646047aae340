import { clock, two } from '@/core/words';
import { useTimedTrial } from '../state/trials-store';

/** When what needs the machine to itself can be asked: after the trial that is being timed. Nothing when that is now. */
export function WaitsFor() {
  const trial = useTimedTrial();
  if (!trial) return null;
  return (
    <p className="num mt-0.5 text-[11.5px] text-dim" role="status" data-testid="waits-for">
      waits for trial {two(trial.number)}
      {trial.leftMs ? `, about ${clock(trial.leftMs / 1000)}` : ''}
    </p>
  );
}
