import type { Picture } from '../picture';
import type { Operation } from '../stack';
import { sharpen, soften } from './blur';
import { type LookTable, table } from './cube';
import { focus } from './focus';
import { glow } from './glow';
import { haze, vignette } from './space';
import { contrast, curves, exposure, ranges, saturation, shoulder, white } from './tone';

/** What operations need beside the picture. */
export interface Beside {
  /** Depth of a film in metres; infinite where nothing is. */
  depth(film: string): Float32Array;
  table(name: string): LookTable;
}

/** A picture as an operation makes it; the same one where it changes nothing. */
export function operate(p: Picture, o: Operation, beside: Beside): Picture {
  switch (o.does) {
    case 'exposure':
      return exposure(p, o);
    case 'white':
      return white(p, o);
    case 'contrast':
      return contrast(p, o);
    case 'saturation':
      return saturation(p, o);
    case 'ranges':
      return ranges(p, o);
    case 'shoulder':
      return shoulder(p, o);
    case 'vignette':
      return vignette(p, o);
    case 'soften':
      return soften(p, o);
    case 'sharpen':
      return sharpen(p, o);
    case 'glow':
      return glow(p, o);
    case 'haze':
      return o.perMetre === 0 ? p : haze(p, o, beside.depth(o.film));
    case 'focus':
      return o.fStop === null ? p : focus(p, o, beside.depth(o.film));
    case 'table':
      return table(p, o, beside.table(o.table));
    case 'curves':
      return curves(p, o);
  }
}
