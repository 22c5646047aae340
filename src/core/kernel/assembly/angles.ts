// Sine and cosine together, of angles in turns; the angle of a vector in radians; directions about another. In f32 throughout
// [polynomials: Moshier, Cephes Mathematical Library, sinf.c, atanf.c]. Errors stay below 1e-7, those of angles below 3e-7.

/** Sine and cosine of the angle last given to `turn`. */
export let sine: f32 = 0;
export let cosine: f32 = 1;

/** Sets `sine` and `cosine` of `turns`, |turns| < 2^20. */
export function turn(turns: f32): void {
  const quarter = nearest<f32>(turns * f32(4));
  const a = (turns - quarter * f32(0.25)) * f32(2 * Math.PI), z = a * a;
  const s = ((f32(-1.9515295891e-4) * z + f32(8.3321608736e-3)) * z - f32(1.6666654611e-1)) * z * a + a;
  const c = ((f32(2.443315711809948e-5) * z - f32(1.388731625493765e-3)) * z + f32(4.166664568298827e-2)) * z * z - f32(0.5) * z + f32(1);
  const q = i32(quarter);
  const turned = (q & 1) != 0;
  const p = select<f32>(c, s, turned), o = select<f32>(s, c, turned);
  sine = (q & 2) != 0 ? -p : p;
  cosine = ((q + 1) & 2) != 0 ? -o : o;
}

/** Arc tangent in radians of t in [0, 1]. */
// @ts-ignore: decorator
@inline
function arcTangent(t: f32): f32 {
  // Beyond tan(π/8) it is π/4 and the arc tangent of what is left.
  const far = t > f32(0.4142135623730950);
  const x = far ? (t - f32(1)) / (t + f32(1)) : t, z = x * x;
  const y = (((f32(8.05374449538e-2) * z - f32(1.38776856032e-1)) * z + f32(1.99777106478e-1)) * z - f32(3.33329491539e-1)) * z * x + x;
  return far ? y + f32(Math.PI / 4) : y;
}

/** Angle of (x, y) from the x axis towards y in radians, −π to π; 0 where both are 0. */
export function angleOf(y: f32, x: f32): f32 {
  const ax = abs(x), ay = abs(y), most = max<f32>(ax, ay);
  if (!(most > 0)) return 0;
  let a = arcTangent(min<f32>(ax, ay) / most);
  if (ay > ax) a = f32(Math.PI / 2) - a;
  if (x < 0) a = f32(Math.PI) - a;
  return y < 0 ? -a : a;
}

/** The vector last leant. */
export let leantX: f32 = 0;
export let leantY: f32 = 0;
export let leantZ: f32 = 0;

/** Turns (x, y, z) so that its z axis lies along the unit n: an orthonormal basis without branches near the pole [Duff et al. 2017]. */
export function lean(nx: f32, ny: f32, nz: f32, x: f32, y: f32, z: f32): void {
  const sign: f32 = nz >= 0 ? 1 : -1;
  const p = f32(-1) / (sign + nz), q = nx * ny * p;
  leantX = x * (f32(1) + sign * nx * nx * p) + y * q + z * nx;
  leantY = x * sign * q + y * (sign + ny * ny * p) + z * ny;
  leantZ = -x * sign * nx - y * ny + z * nz;
}
