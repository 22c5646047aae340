import type { Kind } from './kind';
import { color as painted, planes3 } from './painting';

/** A layer of light as displayed. */
export const color: Kind<{ layer: string }> = {
  layers: ({ layer }) => [layer],
  paint: (film, { layer }, { exposure }) => {
    const planes = planes3(film, layer);
    return planes && painted(planes, exposure);
  },
};
