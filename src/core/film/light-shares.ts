import { luminance } from '../image';
import { layerInfo } from './catalogue';
import type { FilmLayers } from './layers';

/** Families whose layers are light of the picture, or of one of its light groups. */
const OF_THE_LIGHT = ['group', 'class', 'pair', 'bounce'];

/** Whether a layer is a part of the picture's light. */
export const isPartOfLight = (layer: string): boolean => OF_THE_LIGHT.includes(layerInfo(layer).family);

/** What part of the picture's light lies in each layer that is a part of it, by luminance, 0 to 1; empty where the picture is black. */
export function lightShares({ layers }: FilmLayers): Record<string, number> {
  const lightOf = (name: string) => {
    const [r, g, b] = layers.get(name)!.planes;
    let sum = 0;
    for (let i = 0; i < r.length; i++) sum += luminance(r[i], g[i], b[i]);
    return sum;
  };
  const whole = layers.has('beauty') ? lightOf('beauty') : 0;
  if (!(whole > 0)) return {};
  const parts = [...layers.keys()].filter(isPartOfLight);
  return Object.fromEntries(parts.map((n) => [n, lightOf(n) / whole]));
}
