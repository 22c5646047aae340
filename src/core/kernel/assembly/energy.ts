// What single scattering among GGX facets keeps of the light, four visible normals at a time (see ../energy.ts).
import { ENERGY_OPAQUE, ENERGY_PANE } from './layout';

const ONE = f32x4.splat(1), HALF = f32x4.splat(0.5), NONE = f32x4.splat(0);

// @ts-ignore: decorator
@inline
function rootOf(v: v128): v128 {
  return f32x4.sqrt(f32x4.max(v, NONE));
}

// @ts-ignore: decorator
@inline
function sum3(a: v128, b: v128, c: v128): v128 {
  return f32x4.add(f32x4.add(a, b), c);
}

/** Unpolarised Fresnel reflectance at cosines c; `eta2` = square of the index beyond over the index before. */
// @ts-ignore: decorator
@inline
function fresnel(c: v128, eta2: v128): v128 {
  const g2 = f32x4.add(f32x4.sub(eta2, ONE), f32x4.mul(c, c));
  const g = rootOf(g2), more = f32x4.add(g, c), less = f32x4.sub(g, c);
  const a = f32x4.div(less, more);
  const b = f32x4.div(f32x4.sub(f32x4.mul(more, c), ONE), f32x4.add(f32x4.mul(less, c), ONE));
  const r = f32x4.mul(f32x4.mul(f32x4.mul(a, a), HALF), f32x4.add(ONE, f32x4.mul(b, b)));
  return v128.bitselect(r, ONE, f32x4.gt(g2, NONE));
}

/** G2/G1 of directions that end z high on their side and a view with 1 + Λ of `own` [Heitz 2014, eq. 99]; 0 where z is not above 0. */
// @ts-ignore: decorator
@inline
function keptBetween(own: v128, x: v128, y: v128, z: v128, ax2: v128, ay2: v128): v128 {
  const tan2 = f32x4.div(f32x4.add(f32x4.mul(ax2, f32x4.mul(x, x)), f32x4.mul(ay2, f32x4.mul(y, y))), f32x4.mul(z, z));
  const lambda = f32x4.mul(f32x4.sub(f32x4.sqrt(f32x4.add(ONE, tan2)), ONE), HALF);
  return v128.and(f32x4.div(own, f32x4.add(own, lambda)), f32x4.gt(z, NONE));
}

// @ts-ignore: decorator
@inline
function total(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3));
}

/**
 * Writes at `out` both parts that facets of roughness ax, ay along and across keep of light seen from (wx, wy, mu): means over `count`
 * points of the unit disc, whose x, y and weights lie one list behind another at `points`; `count` is a multiple of four.
 */
export function keepEnergy(
  kind: i32, index: f32, ax: f32, ay: f32, wx: f32, wy: f32, mu: f32, points: usize, count: i32, out: usize,
): void {
  // The view where the surface is stretched to α = 1, and two directions across it.
  const flat2 = ax * ax * wx * wx + ay * ay * wy * wy;
  const long = f32(1) / sqrt<f32>(flat2 + mu * mu);
  const hx = ax * wx * long, hy = ay * wy * long, hz = mu * long;
  const l = sqrt<f32>(hx * hx + hy * hy), aslant = l > f32(1e-6);
  const sx = aslant ? -hy / l : f32(0), sy = aslant ? hx / l : f32(1);
  const tx = aslant ? -hz * sy : f32(-1), ty = aslant ? hz * sx : f32(0), tz = aslant ? hx * sy - hy * sx : f32(0);
  const s = f32x4.splat((f32(1) + hz) * f32(0.5)), left = f32x4.sub(ONE, s);
  const own = f32x4.splat(sqrt<f32>(f32(1) + flat2 / (mu * mu)) * f32(0.5) + f32(0.5));
  const ax2 = f32x4.splat(ax * ax), ay2 = f32x4.splat(ay * ay), eta2 = f32x4.splat(index * index), inv = f32x4.splat(f32(1) / index);
  const vx = f32x4.splat(wx), vy = f32x4.splat(wy), vz = f32x4.splat(mu);
  const list = usize(count) << 2;
  let first = NONE, second = NONE;
  for (let at = points, end = points + list; at < end; at += 16) {
    const p = v128.load(at);
    const inside = f32x4.sub(ONE, f32x4.mul(p, p));
    const q = f32x4.add(f32x4.mul(left, rootOf(inside)), f32x4.mul(s, v128.load(at + list)));
    const r = rootOf(f32x4.sub(inside, f32x4.mul(q, q)));
    const weight = v128.load(at + (list << 1));
    const mx = f32x4.mul(f32x4.splat(ax), sum3(f32x4.mul(p, f32x4.splat(sx)), f32x4.mul(q, f32x4.splat(tx)), f32x4.mul(r, f32x4.splat(hx))));
    const my = f32x4.mul(f32x4.splat(ay), sum3(f32x4.mul(p, f32x4.splat(sy)), f32x4.mul(q, f32x4.splat(ty)), f32x4.mul(r, f32x4.splat(hy))));
    const mz = f32x4.max(f32x4.add(f32x4.mul(q, f32x4.splat(tz)), f32x4.mul(r, f32x4.splat(hz))), f32x4.splat(1e-7));
    const k = f32x4.div(ONE, f32x4.sqrt(sum3(f32x4.mul(mx, mx), f32x4.mul(my, my), f32x4.mul(mz, mz))));
    const c = f32x4.mul(sum3(f32x4.mul(vx, mx), f32x4.mul(vy, my), f32x4.mul(vz, mz)), k);
    const meets = f32x4.gt(c, NONE);
    const up = f32x4.mul(f32x4.add(c, c), k);
    const kept = keptBetween(
      own, f32x4.sub(f32x4.mul(up, mx), vx), f32x4.sub(f32x4.mul(up, my), vy), f32x4.sub(f32x4.mul(up, mz), vz), ax2, ay2,
    );
    const g = v128.and(f32x4.mul(kept, weight), meets);
    if (kind == ENERGY_OPAQUE) {
      const o = f32x4.sub(ONE, c), o2 = f32x4.mul(o, o), w = f32x4.mul(f32x4.mul(o2, o2), o);
      first = f32x4.add(first, f32x4.mul(f32x4.sub(ONE, w), g));
      second = f32x4.add(second, f32x4.mul(w, g));
      continue;
    }
    const f = fresnel(c, eta2);
    if (kind == ENERGY_PANE) {
      // Of two parallel faces, all reflections between them counted.
      const both = f32x4.div(f32x4.add(f, f), f32x4.add(ONE, f));
      first = f32x4.add(first, v128.and(f32x4.mul(both, g), meets));
      second = f32x4.add(second, v128.and(f32x4.mul(f32x4.sub(ONE, both), g), meets));
      continue;
    }
    first = f32x4.add(first, v128.and(f32x4.mul(f, g), meets));
    const k2 = f32x4.sub(ONE, f32x4.mul(f32x4.sub(ONE, f32x4.mul(c, c)), f32x4.mul(inv, inv)));
    const d = f32x4.mul(f32x4.sub(f32x4.mul(c, inv), rootOf(k2)), k);
    const through = keptBetween(
      own, f32x4.sub(f32x4.mul(d, mx), f32x4.mul(vx, inv)), f32x4.sub(f32x4.mul(d, my), f32x4.mul(vy, inv)),
      f32x4.sub(f32x4.mul(vz, inv), f32x4.mul(d, mz)), ax2, ay2,
    );
    const passes = v128.and(meets, f32x4.gt(k2, NONE));
    second = f32x4.add(second, v128.and(f32x4.mul(f32x4.mul(f32x4.sub(ONE, f), through), weight), passes));
  }
  store<f32>(out, total(first));
  store<f32>(out, total(second), 4);
}
