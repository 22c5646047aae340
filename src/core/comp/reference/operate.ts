import type { WorkingSpace } from '../../image';
import { type Beside, operateWhole } from '../operations';
import type { Picture } from '../picture';
import type { Operation } from '../stack';
import { haze, vignette } from './space';
import { coloured, contrast, curves, exposure, ranges, saturation, shoulder, white } from './tone';

/** A picture as an operation makes it, one pixel after the other; the same one where it changes nothing. */
export function operate(p: Picture, o: Operation, beside: Beside, space: WorkingSpace): Picture {
  switch (o.does) {
    case 'exposure':
      return exposure(p, o);
    case 'white':
      return white(p, o, space);
    case 'contrast':
      return contrast(p, o);
    case 'saturation':
      return saturation(p, o, space);
    case 'ranges':
      return ranges(p, o, space);
    case 'shoulder':
      return shoulder(p, o);
    case 'vignette':
      return vignette(p, o);
    case 'haze':
      return o.perMetre === 0 ? p : haze(p, { ...o, rgb: coloured(o.rgb, space) }, beside.depth(o.film, o.layer));
    case 'curves':
      return curves(p, o);
    default:
      return operateWhole(p, o, beside, space);
  }
}
