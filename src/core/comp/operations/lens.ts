/** A thin lens: focused at `metres`, of `focalMm` at f/`fStop`, before a sensor so high. */
export interface Lens {
  metres: number;
  /** Null: everything is sharp. */
  fStop: number | null;
  focalMm: number;
  sensorMm: number;
  /** Straight edges of the aperture, fewer than three for a round one, and how far it is turned. */
  blades: number;
  bladesDegrees: number;
}

/** Most pixels that a disk's radius may have, in parts of the height. */
const MOST_RADIUS = 0.12;
/** Below this many pixels of radius a thing is sharp, and is left as it is; the same is in ../assembly/lens.ts. */
export const SHARP = 0.5;

/**
 * Radii of circles of confusion in pixels of a picture so high: `endless`, that of what is infinitely far, the widest behind what is in focus; at z metres it is
 * that times |z − z₀| / z, and at most `most`. c = f²·|z − z₀| / (N·z·(z₀ − f)) is its diameter on the sensor.
 */
export function confusion(
  { metres, fStop, focalMm, sensorMm }: Omit<Lens, 'blades' | 'bladesDegrees'>,
  height: number,
): { endless: number; most: number } {
  const f = focalMm / 1000;
  const most = MOST_RADIUS * height;
  if (fStop === null || metres <= f) return { endless: 0, most };
  return { endless: ((f ** 2 / (fStop * (metres - f)) / 2) * height * 1000) / sensorMm, most };
}

/**
 * Between which distances in metres things are sharp in a picture so high: their circle of confusion is no wider than a pixel. The far end may be infinite.
 */
export function sharpBetween(lens: Omit<Lens, 'blades' | 'bladesDegrees'>, height: number): [number, number] {
  const share = SHARP / confusion(lens, height).endless;
  if (!(share > 0 && share < Number.POSITIVE_INFINITY)) return [0, Number.POSITIVE_INFINITY];
  return [lens.metres / (1 + share), share < 1 ? lens.metres / (1 - share) : Number.POSITIVE_INFINITY];
}

/** From where to where a row of a shape goes about its middle, in pixels; null where it has none there. */
export type RowOf = (k: number) => [number, number] | null;

/** A disk, and half a pixel to either side. */
const diskRows =
  (radius: number): RowOf =>
  (k) => {
    const span = Math.sqrt(Math.max(0, radius * radius - k * k)) + 0.5;
    return [-span, span];
  };

/** A polygon with so many corners on a circle, the first of them at an angle from the right, upwards, in pixels that go down. */
function polygonRows(radius: number, corners: number, turn: number): RowOf {
  const at = Array.from({ length: corners }, (_, i) => turn + (i * 2 * Math.PI) / corners);
  const points = at.map((a) => [radius * Math.cos(a), -radius * Math.sin(a)] as const);
  const [top, bottom] = [Math.min(...points.map((p) => p[1])), Math.max(...points.map((p) => p[1]))];
  return (k) => {
    if (k < top - 0.5 || k > bottom + 0.5) return null;
    const y = Math.min(bottom, Math.max(top, k));
    const across = points.flatMap(([x0, y0], i) => {
      const [x1, y1] = points[(i + 1) % corners];
      if (y < Math.min(y0, y1) || y > Math.max(y0, y1)) return [];
      return y0 === y1 ? [x0, x1] : [x0 + ((x1 - x0) * (y - y0)) / (y1 - y0)];
    });
    return [Math.min(...across) - 0.5, Math.max(...across) + 0.5];
  };
}

/** What a point spreads to: the aperture as it is behind what is in focus, and upside down before it. */
export function shapeOf({ blades, bladesDegrees }: Lens, radius: number, isNear: boolean): RowOf {
  const corners = Math.round(blades);
  if (corners < 3) return diskRows(radius);
  const turn = (bladesDegrees * Math.PI) / 180 + (isNear ? Math.PI : 0);
  return polygonRows(radius, corners, turn);
}
