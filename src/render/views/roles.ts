import { coverageOf, type Picked } from '@/core/exr';
import type { Kind } from './kind';
import { color, planes3 } from './painting';

/** What things are in a variant: seen by the camera, casting unseen, catching shadow; all else is not there. */
export interface Roles {
  receivers: Picked;
  casters: Picked;
  catchers: Picked;
}

/** How bright what is not rendered stays: what casts, and what is not there. */
const [CASTS, ABSENT] = [0.55, 0.14];
/** Screen pixels between stripes: along one diagonal for what casts, along both for what catches. */
const STRIPE = 7;
/** Bluish green for what casts and sky blue for what catches, of the Okabe–Ito set. */
const [GREEN, BLUE] = [
  [0, 158, 115],
  [86, 180, 233],
];

/** The picture by role: what is rendered as it is, with a light edge; what casts or catches striped; what is not there, dark. */
export const roles: Kind<{ roles: Roles }> = {
  layers: () => ['beauty', 'coverage'],
  paint: (film, { roles: { receivers, casters, catchers } }, { exposure }) => {
    const planes = planes3(film, 'beauty');
    const layer = film.layers.get('coverage');
    if (!planes || !layer) return null;
    const shown = color(planes, exposure);
    const [seen, casts, catches] = [receivers, casters, catchers].map((p) => coverageOf(layer, p));
    const { width } = film;
    for (let i = 0; i < seen.length; i++) {
      const [x, y] = [i % width, Math.floor(i / width)];
      const inside = seen[i] >= 0.5;
      const isEdge = (x > 0 && seen[i - 1] >= 0.5 !== inside) || (y > 0 && seen[i - width] >= 0.5 !== inside);
      const [down, up] = [(x + y) % STRIPE === 0, (x - y + STRIPE * width) % STRIPE === 0];
      const stripe = catches[i] > 0.5 ? (down || up ? BLUE : null) : casts[i] > 0.5 && down ? GREEN : null;
      const k = seen[i] + (1 - seen[i]) * (ABSENT + (CASTS - ABSENT) * Math.min(1, casts[i] + catches[i]));
      for (let c = 0; c < 3; c++) {
        const o = i * 4 + c;
        const lit = shown.pixels[o] * k;
        shown.pixels[o] = isEdge ? 255 : inside || !stripe ? lit : 0.5 * (lit + stripe[c]);
      }
    }
    return shown;
  },
};
