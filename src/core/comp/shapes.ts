import type { MaskShape } from './mask-schema';

type Point = readonly [number, number];

/** Signed distance in pixels to the edge of a shape about the centre of each pixel, negative within. */
type Distance = (x: number, y: number) => number;

/** To first order, by the slope of its equation: exact on the edge, where it counts. */
function ellipseDistance([rx, ry]: Point, turn: number, [cx, cy]: Point): Distance {
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
  return (x, y) => {
    const [u, v] = [(x - cx) * cos + (y - cy) * sin, (y - cy) * cos - (x - cx) * sin];
    const f = Math.hypot(u / rx, v / ry);
    if (f === 0) return -Math.min(rx, ry);
    return ((f - 1) * f) / Math.hypot(u / (rx * rx), v / (ry * ry));
  };
}

function polygonDistance(points: readonly Point[]): Distance {
  return (x, y) => {
    let least = Number.POSITIVE_INFINITY;
    let within = false;
    points.forEach(([ax, ay], i) => {
      const [bx, by] = points[(i + 1) % points.length];
      const [ex, ey] = [bx - ax, by - ay];
      const length2 = ex * ex + ey * ey;
      const t = length2 > 0 ? Math.min(1, Math.max(0, ((x - ax) * ex + (y - ay) * ey) / length2)) : 0;
      least = Math.min(least, Math.hypot(x - ax - t * ex, y - ay - t * ey));
      const crosses = ay > y !== by > y;
      if (crosses && x < ax + ((y - ay) * ex) / ey) within = !within;
    });
    return within ? -least : least;
  };
}

/**
 * A drawn shape as a plane from 0 to 1. Places are in parts of the width and height from the upper left corner, lengths in parts of the height; the edge
 * lies in the middle of its feather, which is a pixel wide at least, so that a pixel that is half covered gives half.
 */
export function shapeMask(shape: MaskShape, width: number, height: number): Float32Array {
  const out = new Float32Array(width * height);
  const at = ([x, y]: Point): Point => [x * width, y * height];
  if (shape.kind === 'gradient') {
    const [ax, ay] = at(shape.from);
    const [bx, by] = at(shape.to);
    const length2 = (bx - ax) ** 2 + (by - ay) ** 2;
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const t = length2 > 0 ? ((x + 0.5 - ax) * (bx - ax) + (y + 0.5 - ay) * (by - ay)) / length2 : 1;
        out[y * width + x] = Math.min(1, Math.max(0, t));
      }
    return out;
  }
  const distance =
    shape.kind === 'ellipse'
      ? ellipseDistance(
          [Math.max(1e-3, shape.radius[0] * height), Math.max(1e-3, shape.radius[1] * height)],
          (shape.turnDegrees * Math.PI) / 180,
          at(shape.center),
        )
      : polygonDistance(shape.points.map(at));
  const feather = Math.max(1, shape.feather * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const t = 0.5 - distance(x + 0.5, y + 0.5) / feather;
      out[y * width + x] = Math.min(1, Math.max(0, t));
    }
  return out;
}
