import { type Masking, maskNeeds, maskValues } from '@/core/exr';
import type { Kind } from './kind';
import { color, planes3 } from './painting';

/** How bright what is not picked stays, and how dark edges are drawn inside, bright outside. */
const REST = 0.28;

/** The picture, dimmed where nothing is picked, with an edge about what is: light without, dark within. */
export const picked: Kind<{ masking: Masking }> = {
  layers: ({ masking }) => ['beauty', ...maskNeeds(masking)],
  paint: (film, options, { exposure }) => {
    const planes = planes3(film, 'beauty');
    const share = maskValues((name) => film.layers.get(name), options.masking);
    if (!planes || !share) return null;
    const shown = color(planes, exposure);
    const { width } = film;
    const isIn = (i: number) => share[i] >= 0.5;
    for (let i = 0; i < share.length; i++) {
      const x = i % width;
      const inside = isIn(i);
      const differs =
        (x > 0 && isIn(i - 1) !== inside) ||
        (x < width - 1 && isIn(i + 1) !== inside) ||
        (i >= width && isIn(i - width) !== inside) ||
        (i + width < share.length && isIn(i + width) !== inside);
      const k = REST + (1 - REST) * share[i];
      for (let c = 0; c < 3; c++) {
        const o = i * 4 + c;
        shown.pixels[o] = differs ? (inside ? 0 : 255) : shown.pixels[o] * k;
      }
    }
    return shown;
  },
};
