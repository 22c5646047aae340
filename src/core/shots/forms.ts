import * as fmath from '../fmath';
import { type Mesh, type Picture, smoothNormals, sweep } from '../scene';

// Taken out of the global once: hosts that wrap it make each look-up slow.
const { PI, abs, floor, imul, max, min, round, sqrt } = Math;

/** Shapes and pictures that more than one shot is made of. Metres; all deterministic. */

export type Point = [number, number, number];

/** A fixed stream of numbers in [0, 1) (mulberry32). */
export function chance(seed: number): () => number {
  let a = seed;
  return () => {
    a = (a + 0x6d2b79f5) | 0;
    let t = imul(a ^ (a >>> 15), 1 | a);
    t = (t + imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** Products of whole coordinates that their hash is made of. */
const hashX = (x: number) => imul(x, 0x27d4eb2d);
const hashY = (y: number) => imul(y, 0x165667b1);
const hashZ = (z: number) => imul(z, 0x9e3779b1);

/** The hash of what `hashX`, `hashY` and `hashZ` of a place give, with its seed, joined by exclusive or: 0 to 1. */
function mixed(joined: number): number {
  let h = imul(joined ^ (joined >>> 15), 0x2c1b3c6d);
  h = imul(h ^ (h >>> 12), 0x297a2d39);
  return ((h ^ (h >>> 15)) >>> 0) / 4294967296;
}

const hash3 = (x: number, y: number, z: number, seed: number): number =>
  mixed(hashX(x) ^ hashY(y) ^ hashZ(z) ^ imul(seed, 0x85ebca6b));

const soft = (t: number) => t * t * (3 - 2 * t);

/** Smooth noise from 0 to 1 with features a unit wide. */
export function noise3(x: number, y: number, z: number, seed = 0): number {
  const i = floor(x);
  const j = floor(y);
  const k = floor(z);
  const u = soft(x - i);
  const v = soft(y - j);
  const w = soft(z - k);
  const [u1, v1, w1] = [1 - u, 1 - v, 1 - w];
  const [x0, x1] = [hashX(i), hashX(i + 1)];
  const [y0, y1] = [hashY(j), hashY(j + 1)];
  const own = imul(seed, 0x85ebca6b);
  const [z0, z1] = [hashZ(k) ^ own, hashZ(k + 1) ^ own];
  // Written out: shots are made of millions of these.
  let sum = mixed(x0 ^ y0 ^ z0) * u1 * v1 * w1;
  sum += mixed(x1 ^ y0 ^ z0) * u * v1 * w1;
  sum += mixed(x0 ^ y1 ^ z0) * u1 * v * w1;
  sum += mixed(x1 ^ y1 ^ z0) * u * v * w1;
  sum += mixed(x0 ^ y0 ^ z1) * u1 * v1 * w;
  sum += mixed(x1 ^ y0 ^ z1) * u * v1 * w;
  sum += mixed(x0 ^ y1 ^ z1) * u1 * v * w;
  sum += mixed(x1 ^ y1 ^ z1) * u * v * w;
  return sum;
}

/** Noise with finer detail added at half the strength, `octaves` times; from 0 to 1. */
export function detail3(x: number, y: number, z: number, octaves: number, seed = 0): number {
  let sum = 0;
  let most = 0;
  for (let o = 0, k = 1, s = 1; o < octaves; o++, k /= 2, s *= 2) {
    sum += k * noise3(x * s, y * s, z * s, seed + o);
    most += k;
  }
  return sum / most;
}

/** A surface through a grid of points, row by row; `wrap` joins the ends of each row. Its front is on the left of rows going up. */
export function loft(rows: Point[][], wrap = false): Mesh {
  const n = rows[0].length;
  const positions = new Float32Array(rows.flat(2));
  const indices: number[] = [];
  for (let r = 0; r < rows.length - 1; r++) {
    for (let c = 0; c < (wrap ? n : n - 1); c++) {
      const d = (c + 1) % n;
      const [a, b, e, f] = [r * n + c, r * n + d, (r + 1) * n + c, (r + 1) * n + d];
      indices.push(a, b, e, b, f, e);
    }
  }
  const mesh = { positions, indices: Uint32Array.from(indices) };
  return { ...mesh, normals: smoothNormals(mesh) };
}

/** A box with rounded edges about the origin. */
export function roundedBox(width: number, height: number, depth: number, radius: number, steps = 4): Mesh {
  const half = [width / 2, height / 2, depth / 2];
  const positions: number[] = [];
  const normals: number[] = [];
  const indices: number[] = [];
  const marks = (h: number) => {
    const out: number[] = [];
    for (let i = 0; i <= steps; i++) out.push(-h + radius * (1 - fmath.cos((i / steps) * (PI / 2))));
    return [...out, ...out.map((v) => -v).reverse()];
  };
  for (let axis = 0; axis < 3; axis++) {
    const [u, v] = [(axis + 1) % 3, (axis + 2) % 3];
    const [us, vs] = [marks(half[u]), marks(half[v])];
    for (const sign of [-1, 1]) {
      const first = positions.length / 3;
      for (const b of vs) {
        for (const a of us) {
          const p = [0, 0, 0];
          p[axis] = sign * half[axis];
          p[u] = a;
          p[v] = b;
          const inner = p.map((c, k) => min(half[k] - radius, max(radius - half[k], c)));
          const d = p.map((c, k) => c - inner[k]);
          const l = sqrt(d[0] * d[0] + d[1] * d[1] + d[2] * d[2]) || 1;
          normals.push(...d.map((c) => c / l));
          positions.push(...inner.map((c, k) => c + (d[k] / l) * radius));
        }
      }
      for (let j = 0; j < vs.length - 1; j++) {
        for (let i = 0; i < us.length - 1; i++) {
          const q = first + j * us.length + i;
          const r = q + us.length;
          if (sign > 0) indices.push(q, q + 1, r + 1, q, r + 1, r);
          else indices.push(q, r + 1, q + 1, q, r, r + 1);
        }
      }
    }
  }
  return {
    positions: new Float32Array(positions),
    normals: new Float32Array(normals),
    indices: Uint32Array.from(indices),
  };
}

/** Texture coordinates laid flat over x and z, `metres` wide a repeat. */
export function laidFlat(mesh: Mesh, metres: number): Mesh {
  const uvs = new Float32Array((mesh.positions.length / 3) * 2);
  for (let i = 0; i < uvs.length / 2; i++) {
    uvs[i * 2] = mesh.positions[i * 3] / metres + 0.5;
    uvs[i * 2 + 1] = mesh.positions[i * 3 + 2] / metres + 0.5;
  }
  return { ...mesh, uvs };
}

/** Three strands of rope laid along a path. */
export function rope(path: Point[], radius: number, turnsAMetre: number): Mesh[] {
  const norm = (v: number[]) => {
    const l = sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]) || 1;
    return v.map((c) => c / l);
  };
  const cross = (p: number[], q: number[]) => [
    p[1] * q[2] - p[2] * q[1],
    p[2] * q[0] - p[0] * q[2],
    p[0] * q[1] - p[1] * q[0],
  ];
  return [0, 1, 2].map((strand) => {
    let length = 0;
    let side = [0, 1, 0];
    const laid = path.map((p, i): Point => {
      const q = path[max(0, i - 1)];
      const r = path[min(path.length - 1, i + 1)];
      length += sqrt((p[0] - q[0]) ** 2 + (p[1] - q[1]) ** 2 + (p[2] - q[2]) ** 2);
      const t = norm([r[0] - q[0], r[1] - q[1], r[2] - q[2]]);
      side = norm(cross(cross(t, side), t));
      const up = cross(t, side);
      const a = 2 * PI * (length * turnsAMetre + strand / 3);
      const [c, s] = [fmath.cos(a) * radius * 0.52, fmath.sin(a) * radius * 0.52];
      return [p[0] + side[0] * c + up[0] * s, p[1] + side[1] * c + up[1] * s, p[2] + side[2] * c + up[2] * s];
    });
    return sweep(laid, radius * 0.54, 8);
  });
}

/** A stone: a ball pressed flat and worn by noise. */
export function stone(size: Point, seed: number, segments = 32): Mesh {
  const rings = segments >> 1;
  const rows = Array.from({ length: rings + 1 }, (_, j) => {
    const v = -PI / 2 + (PI * j) / rings;
    return Array.from({ length: segments }, (_, i): Point => {
      const u = (2 * PI * i) / segments;
      const d: Point = [fmath.cos(v) * fmath.cos(u), fmath.sin(v), -fmath.cos(v) * fmath.sin(u)];
      const k = 0.72 + 0.4 * detail3(d[0] * 1.3 + 7, d[1] * 1.3, d[2] * 1.3, 3, seed);
      return [d[0] * k * size[0], d[1] * k * size[1], d[2] * k * size[2]];
    });
  });
  return loft(rows, true);
}

/** A picture of bytes, three channels, from a colour (0 to 1, encoded) of each place (0 to 1, down and right). */
export function paint(size: number, color: (u: number, v: number) => readonly number[]): Picture {
  const values = new Uint8Array(size * size * 3);
  for (let y = 0; y < size; y++) {
    for (let x = 0; x < size; x++) {
      const c = color((x + 0.5) / size, (y + 0.5) / size);
      for (let k = 0; k < 3; k++) values[(y * size + x) * 3 + k] = round(255 * min(1, max(0, c[k])));
    }
  }
  return { width: size, height: size, channels: 3, values };
}

/** Planks of wood, `planks` a repeat across, the grain along v. */
export function woodPicture(
  size: number,
  planks: number,
  dark: readonly number[],
  light: readonly number[],
  seed: number,
): Picture {
  return paint(size, (u, v) => {
    const plank = floor(u * planks);
    const own = hash3(plank, 3, 1, seed);
    const x = (u * planks - plank) * 4 + own * 50;
    const y = v * 3 + own * 20;
    const bend = detail3(x * 0.7, y * 0.5, own * 9, 3, seed) * 5;
    const rings = 0.5 + 0.5 * fmath.sin((x * 2.2 + bend) * 3.1);
    const fibre = noise3(x * 40, y * 2.5, 0, seed + 5);
    const edge = min(1, abs(u * planks - plank - 0.5) > 0.492 ? 0.25 : 1);
    const t = min(1, 0.15 + 0.55 * rings * rings + 0.35 * fibre - 0.25 * own);
    return dark.map((d, k) => (d + (light[k] - d) * t) * edge);
  });
}
