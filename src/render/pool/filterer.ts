import { denoiseSquare, readyLead, SquareFilter } from '@/core/denoise';
import { CONTROL, type FromTracer, type ReadyLead, type ToTracer } from './protocol';

type Order<T extends ToTracer['type']> = Extract<ToTracer, { type: T }>;

/** Takes leads from the shared counter and makes each ready for filtering. */
export function readyLeads({ picture, control }: Order<'ready leads'>, post: (message: FromTracer) => void): void {
  const words = new Int32Array(control);
  const ready: ReadyLead[] = [];
  for (;;) {
    const lead = Atomics.add(words, CONTROL.next, 1);
    if (lead >= picture.leads.length) break;
    const hot = readyLead(picture.leads[lead], picture.size);
    ready.push({ lead, hot, points: picture.leads[lead].points });
  }
  post({ type: 'leads ready', ready });
}

/** Takes squares from the shared counter and filters each, until they end or it is told to stop. */
export function filterSquares(
  { module, picture, results, squares, control }: Order<'filter squares'>,
  post: (message: FromTracer) => void,
): void {
  const words = new Int32Array(control);
  const filter = new SquareFilter(module);
  while (Atomics.load(words, CONTROL.stop) === 0) {
    const number = Atomics.add(words, CONTROL.next, 1);
    if (number >= squares.length) break;
    denoiseSquare(filter, picture, squares[number].x, squares[number].y, results);
    post({ type: 'square filtered', number });
  }
  post({ type: 'squares filtered' });
}
