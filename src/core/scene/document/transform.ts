import * as fmath from '../../fmath';

type Vec = [number, number, number];

/** A transform as place, turn and size. Degrees about y, then x, then z, each in the turned frame. */
export interface Placement {
  position: Vec;
  degrees: Vec;
  scale: Vec;
}

export const IDENTITY_TRANSFORM: readonly number[] = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

export const DEGREES = 180 / Math.PI;
/** Rounded to a millionth, so that what is typed reads back as it was. */
export const tidy = (v: number) => {
  const r = Math.round(v * 1e6) / 1e6;
  return r === 0 ? 0 : r;
};

/** Place, turn and size of a column-major transform; a shear is lost. */
export function placementOf(transform: readonly number[] = IDENTITY_TRANSFORM): Placement {
  const axis = (k: number): Vec => [transform[k * 4], transform[k * 4 + 1], transform[k * 4 + 2]];
  const [x, y, z] = [axis(0), axis(1), axis(2)];
  const length = (v: Vec) => Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
  const mirrored =
    x[0] * (y[1] * z[2] - y[2] * z[1]) - y[0] * (x[1] * z[2] - x[2] * z[1]) + z[0] * (x[1] * y[2] - x[2] * y[1]) < 0;
  const scale: Vec = [length(x) * (mirrored ? -1 : 1), length(y), length(z)];
  const unit = (v: Vec, s: number) => v.map((c) => (s === 0 ? 0 : c / s)) as Vec;
  const [ux, uy, uz] = [unit(x, scale[0]), unit(y, scale[1]), unit(z, scale[2])];
  // R = Ry·Rx·Rz: its column z is (sin y cos x, −sin x, cos y cos x).
  const sinX = Math.max(-1, Math.min(1, -uz[1]));
  const turnX = Math.PI / 2 - fmath.acos(sinX);
  const flat = Math.abs(sinX) > 0.9999999;
  const turnY = flat ? fmath.atan2(-ux[2], ux[0]) : fmath.atan2(uz[0], uz[2]);
  const turnZ = flat ? 0 : fmath.atan2(ux[1], uy[1]);
  return {
    position: [transform[12], transform[13], transform[14]].map(tidy) as Vec,
    degrees: [turnX, turnY, turnZ].map((a) => tidy(a * DEGREES)) as Vec,
    scale: scale.map(tidy) as Vec,
  };
}

/** The column-major transform of a placement. */
export function transformOf({ position, degrees, scale }: Placement): number[] {
  const [a, b, c] = degrees.map((d) => d / DEGREES);
  const [sx, cx, sy, cy, sz, cz] = [fmath.sin(a), fmath.cos(a), fmath.sin(b), fmath.cos(b), fmath.sin(c), fmath.cos(c)];
  const columns: Vec[] = [
    [cy * cz + sy * sx * sz, cx * sz, -sy * cz + cy * sx * sz],
    [-cy * sz + sy * sx * cz, cx * cz, sy * sz + cy * sx * cz],
    [sy * cx, -sx, cy * cx],
  ];
  return [...columns.flatMap((v, k) => [...v.map((e) => e * scale[k]), 0]), ...position, 1];
}

/** The product of two column-major transforms: `b` first, then `a`. */
export function multiply(a: readonly number[], b: readonly number[]): number[] {
  return Array.from({ length: 16 }, (_, i) =>
    [0, 1, 2, 3].reduce((sum, k) => sum + a[k * 4 + (i % 4)] * b[Math.floor(i / 4) * 4 + k], 0),
  );
}
