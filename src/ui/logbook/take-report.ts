import { takeFile } from '../parts/save-file';
import { useDesk } from '../state/desk-store';

/** Takes a report of a trial along, against the trial in B where that is another. */
export function takeReport(trial: string): void {
  const { b } = useDesk.getState();
  const against = b?.kind === 'trial' && b.id !== trial ? `?against=${b.id}` : '';
  takeFile(`/api/trials/${trial}/report.html${against}`);
}
