import type { Wipe } from '../state/viewport-store';

/**
 * Corners of B's side of a picture of `width` × `height` pixels, in order: what lies to the right of the line, turned with
 * it. Empty where all of it is A's. One side of a convex polygon is kept [Sutherland & Hodgman 1974].
 */
export function sideOfB({ x, y, degrees }: Wipe, width: number, height: number): [number, number][] {
  const turn = (degrees * Math.PI) / 180;
  // To the right of an upright line; that direction turns clockwise on a screen whose y goes down.
  const [nx, ny] = [Math.cos(turn), Math.sin(turn)];
  const side = ([px, py]: readonly [number, number]) => (px - x * width) * nx + (py - y * height) * ny;
  const corners: [number, number][] = [
    [0, 0],
    [width, 0],
    [width, height],
    [0, height],
  ];
  return corners.flatMap((a, i) => {
    const b = corners[(i + 1) % 4];
    const [sa, sb] = [side(a), side(b)];
    const out: [number, number][] = sa >= 0 ? [a] : [];
    if (sa >= 0 !== sb >= 0) {
      const t = sa / (sa - sb);
      out.push([a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t]);
    }
    return out;
  });
}

/** Degrees of the line that runs from its middle to a place, which lies below the middle at 0; to the nearest 15 when snapped. */
export function degreesTowards(dx: number, dy: number, snapped: boolean): number {
  const degrees = (Math.atan2(-dx, dy) * 180) / Math.PI;
  return snapped ? Math.round(degrees / 15) * 15 : Math.round(degrees);
}
