// Fresnel terms and the GGX microfacet distribution, in a frame whose z is the shading normal.
import { cosine, sine, turn } from './angles';

/** Unpolarised Fresnel reflectance of a dielectric; `eta` = ior beyond over ior before; 1 in total reflection. */
export function fresnelDielectric(cosI: f32, eta: f32): f32 {
  const c = min<f32>(abs(cosI), 1);
  const g2 = eta * eta - f32(1) + c * c;
  if (g2 <= 0) return 1;
  const g = sqrt<f32>(g2);
  const a = (g - c) / (g + c);
  const b = ((g + c) * c - f32(1)) / ((g - c) * c + f32(1));
  return a * a * f32(0.5) * (f32(1) + b * b);
}

/** (1 − cosine)^5 of Schlick's approximation [Schlick 1994]. */
// @ts-ignore: decorator
@inline
export function schlickWeight(cosine: f32): f32 {
  const m = max<f32>(f32(1) - cosine, 0);
  const m2 = m * m;
  return m2 * m2 * m;
}

/** GGX normal distribution of the half vector h, roughness ax along x and ay along y. */
// @ts-ignore: decorator
@inline
export function ggxD(hx: f32, hy: f32, hz: f32, ax: f32, ay: f32): f32 {
  const x = hx / ax, y = hy / ay;
  const d = x * x + y * y + hz * hz;
  return f32(1) / (f32(Math.PI) * ax * ay * d * d);
}

/** Smith lambda of GGX for the direction (x, y, z). */
// @ts-ignore: decorator
@inline
function lambda(x: f32, y: f32, z: f32, ax: f32, ay: f32): f32 {
  const z2 = z * z;
  if (z2 <= 0) return f32(1e18);
  const p = ax * x, q = ay * y;
  return (sqrt<f32>(f32(1) + (p * p + q * q) / z2) - f32(1)) * f32(0.5);
}

/** Smith masking of one direction. */
export function ggxG1(x: f32, y: f32, z: f32, ax: f32, ay: f32): f32 {
  return f32(1) / (f32(1) + lambda(x, y, z, ax, ay));
}

/** Height-correlated Smith masking-shadowing of two directions [Heitz 2014, eq. 99]. */
export function ggxG2(x: f32, y: f32, z: f32, ix: f32, iy: f32, iz: f32, ax: f32, ay: f32): f32 {
  return f32(1) / (f32(1) + lambda(x, y, z, ax, ay) + lambda(ix, iy, iz, ax, ay));
}

/** A half vector from the distribution of visible normals [Heitz 2018], for wo above the surface. */
export let mx: f32 = 0;
export let my: f32 = 0;
export let mz: f32 = 1;
export function sampleVisibleNormal(wox: f32, woy: f32, woz: f32, ax: f32, ay: f32, u: f32, v: f32): void {
  let hx = ax * wox, hy = ay * woy, hz = woz;
  const n = f32(1) / sqrt<f32>(hx * hx + hy * hy + hz * hz);
  hx *= n; hy *= n; hz *= n;
  const l2 = hx * hx + hy * hy;
  let t1x: f32 = 1, t1y: f32 = 0;
  if (l2 > f32(1e-12)) {
    const l = f32(1) / sqrt<f32>(l2);
    t1x = -hy * l; t1y = hx * l;
  }
  const t2x = -hz * t1y, t2y = hz * t1x, t2z = hx * t1y - hy * t1x;
  const r = sqrt<f32>(u);
  turn(v);
  const p1 = r * cosine;
  const s = (f32(1) + hz) * f32(0.5);
  const p2 = (f32(1) - s) * sqrt<f32>(max<f32>(f32(1) - p1 * p1, 0)) + s * r * sine;
  const p3 = sqrt<f32>(max<f32>(f32(1) - p1 * p1 - p2 * p2, 0));
  const nx = ax * (p1 * t1x + p2 * t2x + p3 * hx);
  const ny = ay * (p1 * t1y + p2 * t2y + p3 * hy);
  const nz = max<f32>(p2 * t2z + p3 * hz, f32(1e-7));
  const k = f32(1) / sqrt<f32>(nx * nx + ny * ny + nz * nz);
  mx = nx * k; my = ny * k; mz = nz * k;
}
