import type { WorkingSpace } from '../../image';
import type { Picture } from '../picture';
import type { Operation } from '../stack';
import { sharpen, soften } from './blur';
import { type LookTable, table } from './cube';
import { focus } from './focus';
import { glow } from './glow';

/** What operations need beside the picture. */
export interface Beside {
  /** Depth of a film by a layer of it, in metres; infinite where nothing is. */
  depth(film: string, layer: string): Float32Array;
  table(name: string): LookTable;
}

/** Operations that need more of a picture than one pixel after the other. */
export type WholeOperation = Extract<Operation, { does: 'soften' | 'sharpen' | 'glow' | 'focus' | 'table' }>;

/** A picture as an operation makes it; the same one where it changes nothing. */
export function operateWhole(p: Picture, o: WholeOperation, beside: Beside, space: WorkingSpace): Picture {
  switch (o.does) {
    case 'soften':
      return soften(p, o);
    case 'sharpen':
      return sharpen(p, o);
    case 'glow':
      return glow(p, o);
    case 'focus':
      return o.fStop === null ? p : focus(p, o, beside.depth(o.film, o.layer));
    case 'table':
      return table(p, o, beside.table(o.table), space);
  }
}
