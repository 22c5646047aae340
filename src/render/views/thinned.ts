import type { FilmLayers } from '@/core/film';

const made = new WeakMap<FilmLayers, FilmLayers>();

/** Every other pixel of every other row of a film, made once a film: for looking at while something is dragged. */
export function thinned(film: FilmLayers): FilmLayers {
  const known = made.get(film);
  if (known) return known;
  const [width, height] = [Math.max(1, film.width >> 1), Math.max(1, film.height >> 1)];
  const layers = new Map(
    [...film.layers].map(([name, layer]) => [
      name,
      {
        ...layer,
        planes: layer.planes.map((plane) => {
          const out = new Float32Array(width * height);
          for (let y = 0; y < height; y++) {
            const row = y * 2 * film.width;
            for (let x = 0; x < width; x++) out[y * width + x] = plane[row + x * 2];
          }
          return out;
        }),
      },
    ]),
  );
  const small = { width, height, layers };
  made.set(film, small);
  return small;
}
