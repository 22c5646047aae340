import * as fmath from '../fmath';
import { ALBEDO_TABLE_SIZE } from './layout';

/**
 * Directional albedo of single-scattering GGX with Schlick's Fresnel term, as E(μ) = F0·A + B, on a
 * square grid: cosine across, OpenPBR roughness (α = roughness²) down; pairs (A, B). The mean over
 * visible normals [Heitz 2018] of G2/G1·(1 − w) and G2/G1·w, w = (1 − cos)^5, on a fixed lattice.
 * Used to scale the base under a dielectric and to give back multiply scattered light [Turquin 2019].
 */
export function makeAlbedoTable(): Float32Array {
  const n = ALBEDO_TABLE_SIZE;
  const table = new Float32Array(n * n * 2);
  const steps = 24;
  const disc: [number, number][] = [];
  for (let i = 0; i < steps; i++) {
    const r = Math.sqrt((i + 0.5) / steps);
    for (let j = 0; j < steps; j++) {
      const phi = ((j + 0.5) / steps) * 2 * Math.PI;
      disc.push([r * fmath.cos(phi), r * fmath.sin(phi)]);
    }
  }
  for (let row = 0; row < n; row++) {
    const roughness = row / (n - 1);
    const alpha = Math.max(roughness * roughness, 1e-4);
    const lambda = (c: number) => (Math.sqrt(1 + (alpha * alpha * (1 - c * c)) / (c * c)) - 1) / 2;
    for (let col = 0; col < n; col++) {
      const mu = Math.max(col / (n - 1), 1e-3);
      const wx = Math.sqrt(1 - mu * mu);
      let hx = alpha * wx;
      let hz = mu;
      const len = Math.sqrt(hx * hx + hz * hz);
      hx /= len;
      hz /= len;
      let a = 0;
      let b = 0;
      for (const [p1, q] of disc) {
        const s = (1 + hz) / 2;
        const p2 = (1 - s) * Math.sqrt(Math.max(0, 1 - p1 * p1)) + s * q;
        const p3 = Math.sqrt(Math.max(0, 1 - p1 * p1 - p2 * p2));
        // Basis (0, 1, 0), (−hz, 0, hx), (hx, 0, hz).
        let nx = alpha * (-p2 * hz + p3 * hx);
        let ny = alpha * p1;
        let nz = Math.max(p2 * hx + p3 * hz, 1e-7);
        const l = Math.sqrt(nx * nx + ny * ny + nz * nz);
        nx /= l;
        ny /= l;
        nz /= l;
        const c = wx * nx + mu * nz;
        const wiz = 2 * c * nz - mu;
        if (c <= 0 || wiz <= 0) continue;
        const g = (1 + lambda(mu)) / (1 + lambda(mu) + lambda(wiz));
        const w = (1 - c) ** 2 * (1 - c) ** 2 * (1 - c);
        a += g * (1 - w);
        b += g * w;
      }
      table[(row * n + col) * 2] = a / disc.length;
      table[(row * n + col) * 2 + 1] = b / disc.length;
    }
  }
  return table;
}

let made: Float32Array | null = null;

/** The table, made at the first call. */
export function albedoTable(): Float32Array {
  made ??= makeAlbedoTable();
  return made;
}
