import * as fmath from '../../fmath';
import type { Mesh } from './mesh';

/**
 * Mesh generators. All are deterministic, close their solids, and wind triangles counter-clockwise seen
 * from outside. Lengths in metres, angles in radians.
 */

function builder() {
  const positions: number[] = [];
  const normals: number[] = [];
  const indices: number[] = [];
  return {
    vertex(x: number, y: number, z: number, nx: number, ny: number, nz: number): number {
      positions.push(x, y, z);
      normals.push(nx, ny, nz);
      return positions.length / 3 - 1;
    },
    count: () => positions.length / 3,
    position: (v: number) => positions.slice(v * 3, v * 3 + 3),
    triangle(a: number, b: number, c: number) {
      indices.push(a, b, c);
    },
    mesh(): Mesh {
      return {
        positions: new Float32Array(positions),
        normals: new Float32Array(normals),
        indices: new Uint32Array(indices),
      };
    },
  };
}

/**
 * Turns a profile of (radius, height) points about the y axis. The profile runs so that the outside is
 * on its right (upwards along an outer wall); a `closed` one ends where it began. Edges between profile
 * steps are sharp where they turn by more than `creaseRad`, smooth otherwise.
 */
export function lathe(
  profile: readonly (readonly [number, number])[],
  segments: number,
  options: { closed?: boolean; creaseRad?: number; arc?: readonly [number, number] } = {},
): Mesh {
  const { closed = false, creaseRad = 0.6, arc = [0, 2 * Math.PI] } = options;
  const b = builder();
  const n = profile.length;
  const steps = closed ? n : n - 1;
  const stepNormal = (i: number): [number, number] => {
    const [r0, y0] = profile[((i % n) + n) % n];
    const [r1, y1] = profile[(((i + 1) % n) + n) % n];
    const dr = r1 - r0;
    const dy = y1 - y0;
    const l = Math.sqrt(dr * dr + dy * dy) || 1;
    return [dy / l, -dr / l];
  };
  const limit = fmath.cos(creaseRad);
  /** Normal at the start (end = 0) or end (1) of step i, shared with the neighbour across a soft edge. */
  const cornerNormal = (i: number, end: 0 | 1): [number, number] => {
    const own = stepNormal(i);
    const j = end === 0 ? i - 1 : i + 1;
    if (!closed && (j < 0 || j >= steps)) return own;
    const other = stepNormal(j);
    if (own[0] * other[0] + own[1] * other[1] < limit) return own;
    const x = own[0] + other[0];
    const y = own[1] + other[1];
    const l = Math.sqrt(x * x + y * y) || 1;
    return [x / l, y / l];
  };
  const around = segments + 1;
  const angles = Array.from({ length: around }, (_, k) => arc[0] + ((arc[1] - arc[0]) * k) / segments);
  const cosines = angles.map(fmath.cos);
  const sines = angles.map(fmath.sin);
  for (let i = 0; i < steps; i++) {
    const [r0, y0] = profile[i];
    const [r1, y1] = profile[(i + 1) % n];
    const [a0, b0] = cornerNormal(i, 0);
    const [a1, b1] = cornerNormal(i, 1);
    let first = -1;
    for (let k = 0; k < around; k++) {
      const c = cosines[k];
      const s = sines[k];
      const v = b.vertex(r0 * c, y0, -r0 * s, a0 * c, b0, -a0 * s);
      b.vertex(r1 * c, y1, -r1 * s, a1 * c, b1, -a1 * s);
      if (k === 0) first = v;
    }
    for (let k = 0; k < segments; k++) {
      const v = first + k * 2;
      if (r0 > 0) b.triangle(v, v + 2, v + 1);
      if (r1 > 0) b.triangle(v + 1, v + 2, v + 3);
    }
  }
  return b.mesh();
}

/** An axis-aligned box of the given size about the origin. */
export function box(width: number, height: number, depth: number): Mesh {
  const b = builder();
  const h = [width / 2, height / 2, depth / 2];
  for (let axis = 0; axis < 3; axis++) {
    for (const sign of [-1, 1]) {
      const n = [0, 0, 0];
      n[axis] = sign;
      const u = (axis + 1) % 3;
      const v = (axis + 2) % 3;
      const corner = (su: number, sv: number) => {
        const p = [0, 0, 0];
        p[axis] = sign * h[axis];
        p[u] = su * h[u];
        p[v] = sv * h[v];
        return b.vertex(p[0], p[1], p[2], n[0], n[1], n[2]);
      };
      const q = [corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1)];
      if (sign > 0) {
        b.triangle(q[0], q[1], q[2]);
        b.triangle(q[0], q[2], q[3]);
      } else {
        b.triangle(q[0], q[2], q[1]);
        b.triangle(q[0], q[3], q[2]);
      }
    }
  }
  return b.mesh();
}

/** A rectangle in the xz plane about the origin, facing up; a picture on it has its top at −z. */
export function plane(width: number, depth: number): Mesh {
  const b = builder();
  const [w, d] = [width / 2, depth / 2];
  const q = [
    b.vertex(-w, 0, d, 0, 1, 0),
    b.vertex(w, 0, d, 0, 1, 0),
    b.vertex(w, 0, -d, 0, 1, 0),
    b.vertex(-w, 0, -d, 0, 1, 0),
  ];
  b.triangle(q[0], q[1], q[2]);
  b.triangle(q[0], q[2], q[3]);
  return { ...b.mesh(), uvs: new Float32Array([0, 1, 1, 1, 1, 0, 0, 0]) };
}

/** A ball about the origin. */
export function sphere(radius: number, segments: number): Mesh {
  const rings = Math.max(2, segments >> 1);
  const profile = Array.from({ length: rings + 1 }, (_, i): [number, number] => {
    const t = -Math.PI / 2 + (Math.PI * i) / rings;
    return [i === 0 || i === rings ? 0 : radius * fmath.cos(t), radius * fmath.sin(t)];
  });
  return lathe(profile, segments, { creaseRad: Math.PI });
}

/** A round tube along a path, ends capped. Frames are carried along without twist. */
export function sweep(
  path: readonly (readonly [number, number, number])[],
  radius: number,
  segments: number,
  closed = false,
): Mesh {
  const b = builder();
  const n = path.length;
  const norm = (v: number[]) => {
    const l = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]) || 1;
    return v.map((c) => c / l);
  };
  const cross = (p: number[], q: number[]) => [
    p[1] * q[2] - p[2] * q[1],
    p[2] * q[0] - p[0] * q[2],
    p[0] * q[1] - p[1] * q[0],
  ];
  const tangent = (i: number) => {
    const p = closed ? path[(i + n - 1) % n] : path[Math.max(0, i - 1)];
    const q = closed ? path[(i + 1) % n] : path[Math.min(n - 1, i + 1)];
    return norm([q[0] - p[0], q[1] - p[1], q[2] - p[2]]);
  };
  let t = tangent(0);
  let side = norm(cross(t, Math.abs(t[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0]));
  const rings: number[] = [];
  for (let i = 0; i < n; i++) {
    t = tangent(i);
    const k = side[0] * t[0] + side[1] * t[1] + side[2] * t[2];
    side = norm(side.map((c, j) => c - k * t[j]));
    const up = cross(t, side);
    rings.push(b.count());
    for (let j = 0; j < segments; j++) {
      const a = (j / segments) * 2 * Math.PI;
      const nrm = side.map((c, m) => c * fmath.cos(a) + up[m] * fmath.sin(a));
      b.vertex(
        path[i][0] + radius * nrm[0],
        path[i][1] + radius * nrm[1],
        path[i][2] + radius * nrm[2],
        nrm[0],
        nrm[1],
        nrm[2],
      );
    }
  }
  const bands = closed ? n : n - 1;
  for (let i = 0; i < bands; i++) {
    const r0 = rings[i];
    const r1 = rings[(i + 1) % n];
    for (let j = 0; j < segments; j++) {
      const k = (j + 1) % segments;
      b.triangle(r0 + j, r0 + k, r1 + j);
      b.triangle(r0 + k, r1 + k, r1 + j);
    }
  }
  if (!closed) {
    for (const end of [0, n - 1]) {
      const d = tangent(end).map((c) => (end === 0 ? -c : c));
      const centre = b.vertex(path[end][0], path[end][1], path[end][2], d[0], d[1], d[2]);
      const ring = Array.from({ length: segments }, (_, j) => {
        const [x, y, z] = b.position(rings[end] + j);
        return b.vertex(x, y, z, d[0], d[1], d[2]);
      });
      for (let j = 0; j < segments; j++) {
        const k = (j + 1) % segments;
        if (end === 0) b.triangle(centre, ring[k], ring[j]);
        else b.triangle(centre, ring[j], ring[k]);
      }
    }
  }
  return b.mesh();
}

/** A convex polygon of (x, y) points, counter-clockwise, pulled along z from −depth/2 to depth/2. */
export function extrude(polygon: readonly (readonly [number, number])[], depth: number): Mesh {
  const b = builder();
  const n = polygon.length;
  for (const sign of [1, -1]) {
    const ring = polygon.map(([x, y]) => b.vertex(x, y, (sign * depth) / 2, 0, 0, sign));
    for (let i = 1; i < n - 1; i++) {
      if (sign > 0) b.triangle(ring[0], ring[i], ring[i + 1]);
      else b.triangle(ring[0], ring[i + 1], ring[i]);
    }
  }
  for (let i = 0; i < n; i++) {
    const [x0, y0] = polygon[i];
    const [x1, y1] = polygon[(i + 1) % n];
    const l = Math.sqrt((x1 - x0) ** 2 + (y1 - y0) ** 2) || 1;
    const [nx, ny] = [(y1 - y0) / l, (x0 - x1) / l];
    const q = [
      b.vertex(x0, y0, -depth / 2, nx, ny, 0),
      b.vertex(x1, y1, -depth / 2, nx, ny, 0),
      b.vertex(x1, y1, depth / 2, nx, ny, 0),
      b.vertex(x0, y0, depth / 2, nx, ny, 0),
    ];
    b.triangle(q[0], q[1], q[2]);
    b.triangle(q[0], q[2], q[3]);
  }
  return b.mesh();
}

/** A copy turned by `yawRad` about y and then moved. */
export function transformed(mesh: Mesh, move: readonly [number, number, number], yawRad = 0): Mesh {
  const c = fmath.cos(yawRad);
  const s = fmath.sin(yawRad);
  const turn = (src: Float32Array, add: readonly number[]) => {
    const out = new Float32Array(src.length);
    for (let i = 0; i < src.length; i += 3) {
      out[i] = src[i] * c + src[i + 2] * s + add[0];
      out[i + 1] = src[i + 1] + add[1];
      out[i + 2] = -src[i] * s + src[i + 2] * c + add[2];
    }
    return out;
  };
  return { ...mesh, positions: turn(mesh.positions, move), normals: turn(mesh.normals, [0, 0, 0]) };
}

/** Several meshes as one; texture coordinates are kept when all have them. */
export function merge(meshes: readonly Mesh[]): Mesh {
  const vertices = meshes.reduce((n, m) => n + m.positions.length, 0);
  const corners = meshes.reduce((n, m) => n + m.indices.length, 0);
  const out = {
    positions: new Float32Array(vertices),
    normals: new Float32Array(vertices),
    uvs: meshes.every((m) => m.uvs) ? new Float32Array((vertices / 3) * 2) : undefined,
    indices: new Uint32Array(corners),
  };
  let v = 0;
  let c = 0;
  for (const m of meshes) {
    out.positions.set(m.positions, v);
    out.normals.set(m.normals, v);
    if (m.uvs) out.uvs?.set(m.uvs, (v / 3) * 2);
    for (let i = 0; i < m.indices.length; i++) out.indices[c + i] = m.indices[i] + v / 3;
    v += m.positions.length;
    c += m.indices.length;
  }
  return out;
}
