import { type FilmLayers, isData, type Layer } from '../film';
import { blank, type Picture } from './picture';
import { type FramePart, placed } from './place';
import { StackError } from './stack';

interface Size {
  width: number;
  height: number;
}

/** Most by which the shapes of two pictures differ that are taken for the same. */
const SAME_SHAPE = 0.01;
const WHOLE = { fit: 'stretch', x: 0, y: 0, scale: 1, turnDegrees: 0 } as const;

/** A plane of data at each place of a part of a frame as it is at the nearest pixel: numbers and identifiers cannot be mixed. */
function nearest(plane: Float32Array, from: Size, frame: Size, part: FramePart): Float32Array {
  const out = new Float32Array(part.w * part.h);
  for (let j = 0; j < part.h; j++) {
    const v = Math.min(from.height - 1, Math.floor(((part.y + j + 0.5) * from.height) / frame.height));
    for (let i = 0; i < part.w; i++) {
      const u = Math.min(from.width - 1, Math.floor(((part.x + i + 0.5) * from.width) / frame.width));
      out[j * part.w + i] = plane[v * from.width + u];
    }
  }
  return out;
}

/** Planes of light, four at a time, as pictures are placed. */
function lightPlanes(planes: readonly Float32Array[], from: Size, frame: Size, part: FramePart): Float32Array[] {
  const empty = blank(from.width, from.height).planes[3];
  const out: Float32Array[] = [];
  for (let k = 0; k < planes.length; k += 4) {
    const four = [0, 1, 2, 3].map((c) => planes[k + c] ?? empty) as unknown as Picture['planes'];
    out.push(...placed({ width: from.width, height: from.height, planes: four }, WHOLE, frame, part).planes);
  }
  return out.slice(0, planes.length);
}

const fitted = new WeakMap<FilmLayers, { key: string; film: FilmLayers }>();

/** A film as large as a part of a frame of its shape: light by means and evenly between pixels, data as it is at the nearest; the last is kept. Throws `StackError` where it has another shape. */
export function filmInFrame(film: FilmLayers, name: string, frame: Size, part: FramePart): FilmLayers {
  const isWhole = part.x === 0 && part.y === 0 && part.w === frame.width && part.h === frame.height;
  if (isWhole && film.width === frame.width && film.height === frame.height) return film;
  const shape = film.width / film.height / (frame.width / frame.height);
  if (Math.abs(shape - 1) > SAME_SHAPE)
    throw new StackError(
      `films.${name}`,
      `is ${film.width}×${film.height} pixels, of another shape than the frame, ${frame.width}×${frame.height}`,
    );
  const key = JSON.stringify([frame.width, frame.height, part]);
  const known = fitted.get(film);
  if (known?.key === key) return known.film;
  const layers = [...film.layers].map(([called, layer]): [string, Layer] => {
    const isLight = called === 'alpha' || (layer.kind === 'color' && !isData(called));
    const planes = isLight
      ? lightPlanes(layer.planes, film, frame, part)
      : layer.planes.map((p) => nearest(p, film, frame, part));
    return [called, { ...layer, planes }];
  });
  const made = { width: part.w, height: part.h, layers: new Map(layers) };
  fitted.set(film, { key, film: made });
  return made;
}
