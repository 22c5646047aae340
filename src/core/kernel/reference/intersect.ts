import type { Mesh } from '../../scene';

/** The readable twin of the ray kernels: every triangle in double precision [Möller & Trumbore 1997]. */
export function intersectAll(
  mesh: Mesh,
  ray: number[],
): { nearest: { t: number; triangle: number } | null; margin: number } {
  const [ox, oy, oz, dx, dy, dz, far] = ray;
  let nearest: { t: number; triangle: number } | null = null;
  let margin = Infinity;
  const p = mesh.positions;
  for (let k = 0; k < mesh.indices.length; k += 3) {
    const [a, b, c] = [mesh.indices[k] * 3, mesh.indices[k + 1] * 3, mesh.indices[k + 2] * 3];
    const e1 = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
    const e2 = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
    const h = [dy * e2[2] - dz * e2[1], dz * e2[0] - dx * e2[2], dx * e2[1] - dy * e2[0]];
    const det = e1[0] * h[0] + e1[1] * h[1] + e1[2] * h[2];
    if (det === 0) continue;
    const s = [ox - p[a], oy - p[a + 1], oz - p[a + 2]];
    const u = (s[0] * h[0] + s[1] * h[1] + s[2] * h[2]) / det;
    const q = [s[1] * e1[2] - s[2] * e1[1], s[2] * e1[0] - s[0] * e1[2], s[0] * e1[1] - s[1] * e1[0]];
    const v = (dx * q[0] + dy * q[1] + dz * q[2]) / det;
    const t = (e2[0] * q[0] + e2[1] * q[1] + e2[2] * q[2]) / det;
    // How far the ray is from the nearest edge, in barycentric terms: near 0 the answer hangs on rounding.
    const edge = Math.min(Math.abs(u), Math.abs(v), Math.abs(1 - u - v), Math.abs(t));
    if (t > -1e-3 && t < far && u > -1e-3 && v > -1e-3 && u + v < 1.001) margin = Math.min(margin, edge);
    if (u < 0 || v < 0 || u + v > 1 || t <= 0 || t >= far) continue;
    if (!nearest || t < nearest.t) nearest = { t, triangle: k / 3 };
  }
  return { nearest, margin };
}
