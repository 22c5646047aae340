import type { FilmLayers } from './layers';

/** A part of a film, `x`, `y`, `w`, `h` in its pixels; the part must lie within it. */
export function cropLayers(film: FilmLayers, x: number, y: number, w: number, h: number): FilmLayers {
  if (x === 0 && y === 0 && w === film.width && h === film.height) return film;
  const cut = <T extends Float32Array | Uint32Array>(plane: T): T => {
    const out = new (plane.constructor as new (n: number) => T)(w * h);
    for (let j = 0; j < h; j++) {
      const from = (y + j) * film.width + x;
      out.set(plane.subarray(from, from + w) as T & ArrayLike<number>, j * w);
    }
    return out;
  };
  const layers = new Map([...film.layers].map(([name, l]) => [name, { ...l, planes: l.planes.map(cut) }]));
  return { width: w, height: h, layers };
}
