import { LAYER, layerInfo } from './catalogue';
import type { FilmLayers, Layer } from './layers';
import { type Factors, factorOf, relight } from './relight';

const times = (planes: readonly Float32Array[], k: readonly number[]): Float32Array[] =>
  planes.map((plane, c) => plane.map((v) => v * k[c]));

/** Data that tells of light: it is another with other lights. */
const OF_LIGHT = ['shadow', 'unshadowed', 'shadowing'];

/** Light groups whose own layers a film holds. */
export const groupsHeld = ({ layers }: FilmLayers): string[] =>
  [...layers.keys()].flatMap((name) => {
    const { family, group } = layerInfo(name);
    return family === 'group' && group !== null ? [group] : [];
  });

/** Planes of a layer with the light groups at these factors; null where the film does not tell. */
function balancedPlanes(film: FilmLayers, groups: readonly string[], factors: Factors, layer: Layer) {
  const { name, planes } = layer;
  const { family, group } = layerInfo(name);
  if (family === 'mask' || (family === 'feature' && !OF_LIGHT.includes(name))) return planes;
  switch (family) {
    case 'beauty':
      return relight(film, groups, factors);
    case 'half':
      return relight(film, groups, factors, name === LAYER.half('a') ? 'a' : 'b');
    case 'group':
    case 'pair':
    case 'group_half':
      return times(planes, factorOf(factors, group!));
    case 'class': {
      const pathClass = name.slice(name.indexOf('.') + 1);
      const pairs = groups.map((g) => film.layers.get(LAYER.pair(g, pathClass)));
      if (!pairs.every((p) => p !== undefined)) return null;
      const all = pairs.map((p, i) => times(p.planes, factorOf(factors, groups[i])));
      return all.reduce((sum, p) => sum.map((plane, c) => plane.map((v, i) => v + p[c][i])));
    }
    default:
      return null;
  }
}

/**
 * A film with its light groups at these factors, which still adds up: its beauty and halves are sums of the groups as they are now. Of what is
 * parted otherwise path classes follow where the film holds their pairs with every group; `leftOut` names what cannot follow. Null where a
 * group's own layer is missing.
 */
export function balancedFilm(
  film: FilmLayers,
  groups: readonly string[],
  factors: Factors,
): { film: FilmLayers; leftOut: string[] } | null {
  if (groups.length === 0 || groups.some((g) => !film.layers.has(LAYER.group(g)))) return null;
  const layers = new Map<string, Layer>();
  const leftOut: string[] = [];
  for (const layer of film.layers.values()) {
    const planes = balancedPlanes(film, groups, factors, layer);
    if (planes) layers.set(layer.name, { ...layer, planes: [...planes] });
    else leftOut.push(layer.name);
  }
  return { film: { ...film, layers }, leftOut };
}
