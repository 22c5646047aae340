import { type FilmLayers, isData, type Layer } from '../film';

const made = new WeakMap<Layer, { scale: number; layer: Layer }>();

function exposedLayer(layer: Layer, scale: number): Layer {
  const known = made.get(layer);
  if (known?.scale === scale) return known.layer;
  const out = { ...layer, planes: layer.planes.map((p) => p.map((v) => v * scale)) };
  made.set(layer, { scale, layer: out });
  return out;
}

/** A film whose light is such that 1 is display white, by the factor from radiance to it; data as it is. Kept for as long as the film is. */
export function exposed(film: FilmLayers, scale: number): FilmLayers {
  if (scale === 1) return film;
  const layers = [...film.layers].map(
    ([name, layer]) => [name, isData(name) ? layer : exposedLayer(layer, scale)] as const,
  );
  return { ...film, layers: new Map(layers) };
}
