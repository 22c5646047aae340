import * as fmath from '../fmath';
import { box, lathe, type Mesh, merge, type Picture, sweep, transformed } from '../scene';
import { chance, detail3, loft, noise3, type Point, paint, rope, roundedBox, stone } from './forms';

/** Meshes of the quay below Skerrow Light. Metres; the sea is at 0, the quay's top at `QUAY`. */

export const QUAY = 1.15;
export const TOWER: Point = [5.4, QUAY, -24];
type Profile = [number, number][];

/** Height of the sea at a place: a swell and ripples. */
function swell(x: number, z: number): number {
  const long = 0.035 * fmath.sin(0.5 * x + 0.8 * z) + 0.022 * fmath.sin(1.3 * x - 0.6 * z + 1);
  return long + 0.05 * (detail3(x * 1.1, 0, z * 1.5, 4, 2) - 0.5) - 0.03;
}

/** The sea: fine near the quay, coarse far out. */
export function sea(): Mesh {
  const line = (from: number, to: number, count: number, power: number) =>
    Array.from({ length: count + 1 }, (_, i) => {
      const t = (i / count) * 2 - 1;
      const s = t < 0 ? -1 : 1;
      return (from + to) / 2 + ((to - from) / 2) * s * fmath.pow(Math.abs(t) || 1e-9, power);
    });
  const xs = line(-4000, 4000, 240, 4.6);
  const zs = line(-4000, 4000, 280, 4.6);
  return loft(
    zs.map((z) => xs.map((x): Point => [x - 2, Math.abs(x) + Math.abs(z) < 90 ? swell(x - 2, z) : -0.03, -z])),
  );
}

/** The quay: coping stones along its edge, courses of blocks below, paving behind. */
export function quay(): { blocks: Mesh; coping: Mesh; paving: Mesh } {
  const next = chance(21);
  const blocks: Mesh[] = [];
  const coping: Mesh[] = [];
  for (let z = 8; z > -34; ) {
    const long = 1.1 + 0.7 * next();
    coping.push(
      transformed(roundedBox(0.72, 0.26, long - 0.012, 0.028, 3), [
        1.55 + 0.012 * next(),
        QUAY - 0.13 + 0.006 * next(),
        z - long / 2,
      ]),
    );
    z -= long;
  }
  for (let course = 0; course < 4; course++) {
    const y = QUAY - 0.26 - 0.19 - course * 0.38;
    for (let z = 8 - 0.4 * next(); z > -34; ) {
      const long = 0.7 + 0.6 * next();
      blocks.push(transformed(roundedBox(0.5, 0.372, long - 0.014, 0.03, 2), [1.52 + 0.035 * next(), y, z - long / 2]));
      z -= long;
    }
  }
  const paving = transformed(box(14, 1.6, 44), [8.85, QUAY - 0.83, -12]);
  return { blocks: merge(blocks), coping: merge(coping), paving };
}

/** Setts of the paving: shapes, and where each lies. */
export function setts(): { shapes: Mesh[]; places: { shape: number; transform: number[] }[] } {
  const next = chance(5);
  const shapes = [3, 8, 13, 21, 34].map((seed) => stone([0.105, 0.055, 0.085], seed, 22));
  const places: { shape: number; transform: number[] }[] = [];
  for (let row = 0; row < 56; row++) {
    for (let k = 0; k < 34; k++) {
      const z = 6.6 - row * 0.172 + 0.012 * next();
      const x = 2.06 + k * 0.2 + (row % 2) * 0.1 + 0.02 * next();
      const a = 0.25 * (next() - 0.5);
      const [c, s] = [fmath.cos(a), fmath.sin(a)];
      const k2 = 0.93 + 0.14 * next();
      places.push({
        shape: Math.floor(next() * shapes.length),
        transform: [c * k2, 0, -s * k2, 0, 0, k2, 0, 0, s * k2, 0, c * k2, 0, x, QUAY - 0.042 + 0.012 * next(), z, 1],
      });
    }
  }
  return { shapes, places };
}

/** The tower with its gallery, and the glass of its lantern. */
export function tower(): { stone: Mesh; band: Mesh; iron: Mesh; glass: Mesh } {
  const wall = (from: number, to: number): Mesh => {
    const radius = (y: number) => 2.35 - 0.085 * y + 0.5 * fmath.exp(-y * 1.1);
    const rows: Profile = Array.from({ length: 25 }, (_, i) => {
      const y = from + ((to - from) * i) / 24;
      return [radius(y), y];
    });
    return lathe(rows, 96, { creaseRad: 0.6 });
  };
  const top = 11;
  const gallery = lathe(
    [
      [1.42, top - 0.5],
      [1.6, top - 0.2],
      [1.95, top - 0.05],
      [1.98, top + 0.08],
      [1.2, top + 0.1],
    ],
    96,
  );
  const rails = [0.5, 0.95].map((h) =>
    sweep(
      Array.from({ length: 64 }, (_, i): Point => {
        const a = (2 * Math.PI * i) / 64;
        return [1.88 * fmath.cos(a), top + 0.08 + h, -1.88 * fmath.sin(a)];
      }),
      0.025,
      6,
      true,
    ),
  );
  const posts = Array.from({ length: 24 }, (_, i) => {
    const a = (2 * Math.PI * i) / 24;
    return transformed(
      lathe(
        [
          [0.02, 0],
          [0.02, 0.97],
        ],
        6,
      ),
      [1.88 * fmath.cos(a), top + 0.08, -1.88 * fmath.sin(a)],
    );
  });
  const bars = Array.from({ length: 12 }, (_, i) => {
    const a = (2 * Math.PI * i) / 12;
    return transformed(box(0.05, 2, 0.05), [1.16 * fmath.cos(a), top + 1.1, -1.16 * fmath.sin(a)], a);
  });
  const roof = lathe(
    [
      [1.3, top + 2.05],
      [1.34, top + 2.15],
      [0.95, top + 2.6],
      [0.3, top + 2.95],
      [0.12, top + 3],
      [0.16, top + 3.15],
      [0.1, top + 3.3],
      [0.012, top + 3.35],
      [0.012, top + 4.4],
      [0, top + 4.4],
    ],
    64,
  );
  const glass = lathe(
    [
      [1.14, top + 0.1],
      [1.14, top + 2.05],
    ],
    96,
  );
  const at = (m: Mesh) => transformed(m, TOWER);
  return {
    stone: at(merge([wall(0, 4.1), wall(6.6, top - 0.3)])),
    band: at(merge([wall(4.1, 6.6), roof])),
    iron: at(
      merge([
        gallery,
        ...rails,
        ...posts,
        ...bars,
        lathe(
          [
            [1.2, top + 0.1],
            [1.2, top + 0.35],
          ],
          64,
        ),
      ]),
    ),
    glass: at(glass),
  };
}

/** A clinker boat about its own middle, its keel along x: hull with honest thickness, thwarts, oars. */
export function boat(): { hull: Mesh; wood: Mesh } {
  const long = 1.75;
  const half = (t: number) => 0.66 * fmath.pow(Math.max(0, 1 - fmath.pow(Math.abs(t), 2.6)), 0.62) * (t < 0 ? 1 : 1);
  const sheer = (t: number) => 0.42 + 0.2 * t * t;
  const skin = (inset: number): Point[][] => {
    const rows: Point[][] = [];
    for (let j = 0; j <= 40; j++) {
      const u = (j / 40) * 2 - 1;
      rows.push(
        Array.from({ length: 81 }, (_, i): Point => {
          const t = -0.999 + (1.998 * i) / 80;
          const b = Math.max(0.004, half(t) - inset);
          const depth = sheer(t) + 0.12 * (1 - t * t) - inset;
          const a = Math.abs(u);
          // Lands of the planks: a small step each.
          const step = 0.009 * ((a * 7) % 1) * (a < 0.98 ? 1 : 0);
          const y = -0.12 * (1 - t * t) + inset + depth * fmath.pow(a, 2.1);
          const out =
            b * fmath.pow(Math.max(1e-6, Math.abs(fmath.sin((a * Math.PI) / 2))), 0.72) + (inset === 0 ? step : 0);
          return [t * (long - inset), y, (u < 0 ? -1 : 1) * out];
        }),
      );
    }
    return rows;
  };
  const outer = skin(0);
  const inner = skin(0.022);
  const rim = (row: number) => loft(row === 0 ? [inner[0], outer[0]] : [outer[40], inner[40]]);
  const hull = merge([loft(outer), loft(inner.map((r) => r.slice().reverse())), rim(0), rim(40)]);
  const thwart = (x: number) => transformed(roundedBox(0.24, 0.03, 2 * half(x / long) - 0.06, 0.006), [x, 0.22, 0]);
  const oar = (z: number, yaw: number) =>
    transformed(
      merge([
        sweep(
          [
            [-1.2, 0, 0],
            [0.9, 0.02, 0],
          ],
          0.021,
          12,
        ),
        transformed(roundedBox(0.5, 0.014, 0.12, 0.006), [-1.4, 0, 0]),
      ]),
      [0.15, 0.43, z],
      yaw,
    );
  const rail = (side: 1 | -1) =>
    sweep(
      outer[side > 0 ? 40 : 0].map(([x, y, z]): Point => [x, y + 0.012, z]),
      0.02,
      10,
    );
  const keel = sweep(
    Array.from({ length: 41 }, (_, i): Point => {
      const t = -1 + i / 20;
      return [t * long, -0.135 * (1 - t * t) + 0.62 * fmath.pow(Math.abs(t), 9), 0];
    }),
    0.03,
    10,
  );
  return {
    hull,
    wood: merge([thwart(-0.75), thwart(0.05), thwart(0.85), oar(0.3, 0.1), oar(-0.3, -0.07), rail(1), rail(-1), keel]),
  };
}

/** A can buoy about its waterline, with its cage and top mark. */
export function buoy(): { body: Mesh; band: Mesh } {
  const body = lathe(
    [
      [0, -0.7],
      [0.52, -0.62],
      [0.62, -0.3],
      [0.62, 0.28],
      [0.56, 0.36],
      [0.2, 0.44],
      [0, 0.44],
    ],
    72,
  );
  const legs = [0, 1, 2, 3].map((k) => {
    const a = (Math.PI * k) / 2 + 0.3;
    return sweep(
      [
        [0.36 * fmath.cos(a), 0.36, -0.36 * fmath.sin(a)],
        [0.12 * fmath.cos(a), 1.5, -0.12 * fmath.sin(a)],
      ],
      0.025,
      10,
    );
  });
  const rings = [0.75, 1.15].map((y) => {
    const r = 0.36 - 0.24 * ((y - 0.36) / 1.14);
    return sweep(
      Array.from(
        { length: 32 },
        (_, i): Point => [r * fmath.cos((2 * Math.PI * i) / 32), y, -r * fmath.sin((2 * Math.PI * i) / 32)],
      ),
      0.016,
      8,
      true,
    );
  });
  const mark = lathe(
    [
      [0, 1.52],
      [0.2, 1.52],
      [0.2, 1.86],
      [0, 1.86],
    ],
    48,
  );
  const band = lathe(
    [
      [0.622, -0.08],
      [0.632, -0.06],
      [0.632, 0.12],
      [0.622, 0.14],
    ],
    72,
  );
  return { body: merge([body, ...legs, ...rings, mark]), band };
}

/** A bollard with three turns of rope about it. */
export function bollard(): { iron: Mesh; rope: Mesh } {
  const at: Point = [1.6, QUAY, 2.1];
  const iron = lathe(
    [
      [0.16, 0],
      [0.16, 0.03],
      [0.11, 0.06],
      [0.1, 0.26],
      [0.15, 0.31],
      [0.15, 0.37],
      [0.1, 0.42],
      [0, 0.43],
    ],
    64,
  );
  const path: Point[] = [];
  for (let i = 0; i <= 240; i++) {
    const a = (2 * Math.PI * 3.2 * i) / 240;
    path.push([at[0] + 0.128 * fmath.cos(a), at[1] + 0.1 + 0.033 * (a / 6.28), at[2] - 0.128 * fmath.sin(a)]);
  }
  const end: Point = [-1.5, 0.56, 0.72];
  const from = path[path.length - 1];
  for (let i = 1; i <= 90; i++) {
    const t = i / 90;
    path.push([
      from[0] + (end[0] - from[0]) * t,
      from[1] + (end[1] - from[1]) * t - 0.55 * t * (1 - t),
      from[2] + (end[2] - from[2]) * t,
    ]);
  }
  return { iron: transformed(iron, at), rope: merge(rope(path, 0.02, 14)) };
}

/** A pennant from x = 0 outwards, at one moment of its waving. */
export function pennant(phase: number): Mesh {
  const rows: Point[][] = [];
  for (let j = 0; j <= 10; j++) {
    rows.push(
      Array.from({ length: 41 }, (_, i): Point => {
        const t = i / 40;
        const y = (0.5 - j / 10) * 0.34 * (1 - 0.82 * t);
        const wave = 0.1 * t * fmath.sin(7.5 * t - phase) + 0.04 * t * fmath.sin(15 * t - 2 * phase + y * 6);
        return [0.95 * t * (1 - 0.04 * t), y - 0.1 * t * t, wave];
      }),
    );
  }
  const front = loft(rows);
  const back = loft(rows.map((r) => r.slice().reverse()).map((r) => r.map(([x, y, z]): Point => [x, y, z - 0.004])));
  return merge([front, back]);
}

export function rocks(): Mesh {
  const next = chance(17);
  const out: Mesh[] = [];
  const put = (x: number, z: number, size: number, seed: number) =>
    out.push(transformed(stone([size, size * 0.45, size * 0.8], seed, 64), [x, -0.12 * size, z], next() * 6));
  put(-17, -34, 6.5, 71);
  put(-8.5, -40, 4.2, 72);
  put(-28, -52, 9, 73);
  put(-3, -58, 3.6, 74);
  for (let i = 0; i < 14; i++) put(-1.5 - 9 * next(), -12 - 12 * next(), 0.3 + 0.8 * next(), 80 + i);
  for (let i = 0; i < 10; i++) put(0.6 + 0.5 * next(), 4 - 18 * next(), 0.25 + 0.3 * next(), 95 + i);
  return merge(out);
}

/** Granite: mottled grey, darker where it is wet. */
export function granite(size: number): Picture {
  return paint(size, (u, v) => {
    const g = 0.42 + 0.22 * detail3(u * 9, v * 9, 0, 4, 4) + 0.16 * (noise3(u * 160, v * 160, 0, 6) - 0.5);
    return [g * 1.02, g, g * 0.96];
  });
}
