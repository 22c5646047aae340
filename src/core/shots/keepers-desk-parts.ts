import * as fmath from '../fmath';
import { box, extrude, lathe, type Mesh, merge, type Picture, plane, sweep, transformed } from '../scene';
import { chance, detail3, laidFlat, loft, noise3, type Point, paint, rope, roundedBox } from './forms';

// Taken out of the global once: hosts that wrap it make each look-up slow.
const { PI, abs, floor, max, min } = Math;

/** Meshes and pictures of the keeper's desk, each where it stands. Metres; the desk's top is at `TOP`. */

type Profile = [number, number][];

export const TOP = 0.76;
export const LAMP: Point = [-0.34, TOP, -0.2];
export const FLAME_HEIGHT = 0.285;
const BAROMETER: Point = [0.2, TOP, -0.26];
/** The window in the back wall: middle, half width, sill and head. */
export const WINDOW = { x: 0.52, half: 0.36, sill: 0.98, head: 2.0, z: -0.72, deep: 0.28 };

/** A copy turned about x, before it is moved. */
function pitched(mesh: Mesh, rad: number, move: Point = [0, 0, 0]): Mesh {
  const [c, s] = [fmath.cos(rad), fmath.sin(rad)];
  const turn = (src: Float32Array, add: Point) => {
    const out = new Float32Array(src.length);
    for (let i = 0; i < src.length; i += 3) {
      out[i] = src[i] + add[0];
      out[i + 1] = src[i + 1] * c - src[i + 2] * s + add[1];
      out[i + 2] = src[i + 1] * s + src[i + 2] * c + add[2];
    }
    return out;
  };
  return { ...mesh, positions: turn(mesh.positions, move), normals: turn(mesh.normals, [0, 0, 0]) };
}

/** An arc of a circle as (radius, height) points, from angle a to b in degrees. */
function arc(cx: number, cy: number, r: number, a: number, b: number, steps: number): Profile {
  return Array.from({ length: steps + 1 }, (_, i) => {
    const t = ((a + ((b - a) * i) / steps) * PI) / 180;
    return [cx + r * fmath.cos(t), cy + r * fmath.sin(t)];
  });
}

/** A vessel's wall: the outer profile up, then the inner one down. */
const walled = (outer: Profile, inner: Profile, segments = 128): Mesh =>
  lathe([...outer, ...inner.slice().reverse()], segments, { closed: true, creaseRad: 0.7 });

export function lamp(): { brass: Mesh; shade: Mesh; wick: Mesh } {
  const brass = lathe(
    [
      [0, 0],
      [0.078, 0],
      [0.08, 0.006],
      [0.072, 0.013],
      [0.046, 0.02],
      [0.022, 0.034],
      [0.014, 0.055],
      [0.017, 0.07],
      [0.012, 0.08],
      [0.02, 0.092],
      [0.052, 0.108],
      [0.064, 0.128],
      [0.062, 0.146],
      [0.042, 0.166],
      [0.024, 0.176],
      [0.026, 0.186],
      [0.034, 0.19],
      [0.034, 0.2],
      [0.012, 0.203],
      [0, 0.203],
    ],
    128,
  );
  const gallery = sweep(
    Array.from({ length: 64 }, (_, i): Point => {
      const a = (2 * PI * i) / 64;
      return [0.058 * fmath.cos(a), 0.205, -0.058 * fmath.sin(a)];
    }),
    0.003,
    10,
    true,
  );
  const arms = [0, 1, 2].map((k) => {
    const a = (2 * PI * k) / 3 + 0.4;
    const at = (r: number, y: number): Point => [r * fmath.cos(a), y, -r * fmath.sin(a)];
    return sweep([at(0.03, 0.19), at(0.045, 0.194), at(0.058, 0.205)], 0.0022, 8);
  });
  const centre = 0.29;
  const outer = arc(0, centre, 0.112, -58, 62, 40);
  const inner = arc(0, centre, 0.1085, -58, 62, 40);
  const at = (m: Mesh) => transformed(m, LAMP);
  return {
    brass: at(merge([brass, gallery, ...arms])),
    shade: at(walled(outer, inner, 160)),
    wick: at(
      lathe(
        [
          [0, 0.2],
          [0.009, 0.2],
          [0.009, FLAME_HEIGHT - 0.04],
          [0, FLAME_HEIGHT - 0.04],
        ],
        32,
      ),
    ),
  };
}

export function barometer(): { brass: Mesh; face: Mesh; needle: Mesh; plinth: Mesh; dome: Mesh } {
  const at = (m: Mesh) => transformed(m, BAROMETER, 0.18);
  const drum = lathe(
    [
      [0, 0],
      [0.052, 0],
      [0.056, 0.004],
      [0.056, 0.03],
      [0.06, 0.034],
      [0.06, 0.04],
      [0.055, 0.043],
      [0.051, 0.04],
      [0.051, 0.033],
      [0, 0.033],
    ],
    128,
  );
  const leg = lathe(
    [
      [0, 0],
      [0.012, 0],
      [0.009, 0.006],
      [0.005, 0.012],
      [0.004, 0.04],
      [0.007, 0.046],
      [0, 0.05],
    ],
    32,
  );
  const face = lathe(
    [
      [0, 0],
      [0.0508, 0],
      [0.0508, 0.0012],
      [0, 0.0012],
    ],
    96,
  );
  const pointer = (length: number, turn: number) =>
    rolled(
      extrude(
        [
          [-0.0016, -0.012],
          [0.0016, -0.012],
          [0.0004, length],
          [-0.0004, length],
        ],
        0.0008,
      ),
      turn,
    );
  const tip = 1.25;
  const stand: Point = [0, 0.108, 0.005];
  const ticks = Array.from({ length: 41 }, (_, i) => {
    const a = ((i / 40) * 1.6 - 0.8) * PI;
    return rolled(
      transformed(box(i % 5 === 0 ? 0.0012 : 0.0006, i % 5 === 0 ? 0.008 : 0.005, 0.0004), [0, 0.044, 0]),
      a,
    );
  });
  const dome = 0.112;
  const outer: Profile = [[dome, 0.014], [dome, 0.13], ...arc(0, 0.13, dome, 0, 90, 28).slice(1, -1), [0, 0.13 + dome]];
  const thick = 0.0028;
  const inner: Profile = [
    [dome - thick, 0.014],
    [dome - thick, 0.13],
    ...arc(0, 0.13, dome - thick, 0, 90, 28).slice(1, -1),
    [0, 0.13 + dome - thick],
  ];
  const plinth = lathe(
    [
      [0, 0],
      [0.128, 0],
      [0.13, 0.006],
      [0.124, 0.014],
      [0, 0.014],
    ],
    128,
  );
  const knob = lathe(
    [
      [0, 0],
      [0.006, 0],
      [0.005, 0.004],
      [0.009, 0.011],
      [0.006, 0.018],
      [0, 0.02],
    ],
    48,
  );
  return {
    brass: at(
      merge([
        pitched(drum, PI / 2 - 0.12, [0, 0.108, -0.03]),
        ...[-0.03, 0.03].map((x) => transformed(leg, [x, 0.014, 0])),
        transformed(leg, [0, 0.014, -0.035]),
        transformed(roundedBox(0.1, 0.008, 0.08, 0.003), [0, 0.058, -0.012]),
      ]),
    ),
    face: at(pitched(face, PI / 2 - 0.12, [0, 0.112, 0.003])),
    needle: at(
      pitched(merge([...ticks, transformed(pointer(0.04, tip), [0, 0, 0.002])]), -0.12, [
        0,
        stand[1] + 0.0045,
        stand[2],
      ]),
    ),
    plinth: at(plinth),
    dome: at(
      merge([
        lathe([...outer, ...inner.slice().reverse()], 160, { closed: true, creaseRad: 0.7 }),
        transformed(knob, [0, 0.13 + dome - 0.001, 0]),
      ]),
    ),
  };
}

/** A copy turned about z. */
function rolled(mesh: Mesh, rad: number): Mesh {
  const [c, s] = [fmath.cos(rad), fmath.sin(rad)];
  const turn = (src: Float32Array) => {
    const out = src.slice();
    for (let i = 0; i < src.length; i += 3) {
      out[i] = src[i] * c - src[i + 1] * s;
      out[i + 1] = src[i] * s + src[i + 1] * c;
    }
    return out;
  };
  return { ...mesh, positions: turn(mesh.positions), normals: turn(mesh.normals) };
}

/** An open book: two leaves of pages that rise from the spine and fall to the edges, in a cover. */
export function logbook(): { pages: Mesh; cover: Mesh } {
  const [width, depth] = [0.17, 0.24];
  const height = (t: number) => 0.004 + 0.019 * fmath.pow(t, 0.45) * (1 - 0.72 * t * t);
  const leaf = (side: 1 | -1): Mesh => {
    const rows = Array.from({ length: 2 }, (_, j) =>
      Array.from({ length: 33 }, (_, i): Point => {
        const t = side > 0 ? i / 32 : 1 - i / 32;
        return [side * t * width, height(t), (0.5 - j) * depth];
      }),
    );
    const top = loft(rows);
    const uvs = Float32Array.from({ length: (top.positions.length / 3) * 2 }, (_, k) => {
      const v = k >> 1;
      if (k % 2 === 0) return 0.5 + top.positions[v * 3] / (2 * width);
      return 0.5 + top.positions[v * 3 + 2] / depth;
    });
    return { ...top, uvs };
  };
  const block = (side: 1 | -1): Mesh => {
    const steps = 32;
    const edge = Array.from({ length: steps + 1 }, (_, i): [number, number] => [
      (side * width * i) / steps,
      height(i / steps) - 0.0004,
    ]);
    const walls = Array.from({ length: steps }, (_, i) => {
      const [a, b] = [edge[i], edge[i + 1]];
      const quad: [number, number][] = [[a[0], 0.001], [b[0], 0.001], b, a];
      return extrude(side > 0 ? quad : quad.slice().reverse(), depth);
    });
    const m = merge(walls);
    return { ...m, uvs: new Float32Array((m.positions.length / 3) * 2).fill(0.02) };
  };
  const cover = roundedBox(width * 2 + 0.012, 0.004, depth + 0.012, 0.0018);
  const place = (m: Mesh) => transformed(m, [0.02, TOP + 0.002, 0.2], 0.16);
  return { pages: place(merge([leaf(1), leaf(-1), block(1), block(-1)])), cover: place(cover) };
}

export function mug(): { body: Mesh; tea: Mesh } {
  const at: Point = [-0.29, TOP, 0.16];
  const outer: Profile = [
    [0.001, 0],
    [0.034, 0],
    [0.037, 0.004],
    [0.039, 0.05],
    [0.04, 0.092],
    [0.0385, 0.0945],
  ];
  const inner: Profile = [
    [0.001, 0.006],
    [0.032, 0.006],
    [0.0345, 0.01],
    [0.036, 0.05],
    [0.037, 0.092],
    [0.0378, 0.0942],
  ];
  const handle = sweep(
    Array.from({ length: 25 }, (_, i): Point => {
      const a = ((-100 + (200 * i) / 24) * PI) / 180;
      return [0.036 + 0.026 * fmath.cos(a), 0.048 + 0.029 * fmath.sin(a), 0];
    }),
    0.0048,
    16,
  );
  // The tea reaches half a millimetre into the wall.
  const tea = lathe(
    [
      [0, 0.0055],
      [0.0325, 0.0055],
      [0.0365, 0.05],
      [0.0372, 0.078],
      [0.0362, 0.0772],
      [0, 0.0772],
    ],
    96,
  );
  return { body: transformed(merge([walled(outer, inner, 96), handle]), at, 0.9), tea: transformed(tea, at) };
}

export function pen(): Mesh {
  const shaft = lathe(
    [
      [0, 0],
      [0.0008, 0],
      [0.0022, 0.018],
      [0.0038, 0.024],
      [0.0042, 0.09],
      [0.0034, 0.15],
      [0, 0.152],
    ],
    40,
  );
  return transformed(pitched(shaft, -PI / 2 + 0.02, [0, 0, 0]), [0.15, TOP + 0.0275, 0.28], 0.75);
}

export function coil(): Mesh {
  const path: Point[] = [];
  const turns = 4.6;
  for (let i = 0; i <= 620; i++) {
    const t = i / 620;
    const a = 2 * PI * turns * t;
    const layer = floor(turns * t) % 2;
    const r = 0.085 - 0.006 * fmath.sin(a * 0.31) - 0.012 * layer;
    path.push([
      0.47 + r * fmath.cos(a),
      TOP + 0.012 + 0.0115 * turns * t * 0.9 + 0.002 * fmath.sin(a * 2.3),
      0.13 - r * fmath.sin(a),
    ]);
  }
  const last = path[path.length - 1];
  for (let i = 1; i <= 60; i++) {
    const t = i / 60;
    path.push([
      last[0] + 0.14 * t,
      max(TOP + 0.012, last[1] - 0.075 * t * t * 1.4),
      last[2] + 0.16 * t + 0.03 * fmath.sin(5 * t),
    ]);
  }
  return merge(rope(path, 0.0115, 26));
}

/** Books on end against the wall, each with its number of three colours. */
export function books(): Mesh[] {
  const next = chance(4);
  const piles: Mesh[][] = [[], [], []];
  let x = -0.78;
  for (let i = 0; i < 9; i++) {
    const [w, h, d] = [0.022 + 0.026 * next(), 0.17 + 0.08 * next(), 0.13 + 0.03 * next()];
    const lean = i === 8 ? -0.22 : 0;
    const book = rolled(transformed(roundedBox(w, h, d, 0.003), [0, h / 2, 0]), lean);
    piles[i % 3].push(transformed(book, [x + w / 2 + (lean ? 0.045 : 0), TOP, -0.5 + 0.02 * next()]));
    x += w + 0.002;
  }
  return piles.map((p) => merge(p));
}

/** The room: walls with the window's opening, floor, ceiling, and the window itself. */
export function room(): { walls: Mesh; planks: Mesh; frame: Mesh; panes: Mesh } {
  const { x, half, sill, head, z, deep } = WINDOW;
  const [left, right, top] = [-1.35, 1.75, 2.45];
  const back = (x0: number, x1: number, y0: number, y1: number) =>
    transformed(box(x1 - x0, y1 - y0, deep), [(x0 + x1) / 2, (y0 + y1) / 2, z - deep / 2]);
  const walls = merge([
    back(left, x - half, 0, top),
    back(x + half, right, 0, top),
    back(x - half, x + half, 0, sill),
    back(x - half, x + half, head, top),
    transformed(box(0.1, top, 3.4), [left - 0.05, top / 2, 0.95]),
    transformed(box(0.1, top, 3.4), [right + 0.05, top / 2, 0.95]),
    transformed(box(right - left, top, 0.1), [(left + right) / 2, top / 2, 2.6]),
    transformed(box(right - left + 0.2, 0.1, 3.6), [(left + right) / 2, top + 0.05, 0.9]),
    transformed(roundedBox(half * 2 + 0.1, 0.03, 0.09, 0.008), [x, sill - 0.005, z + 0.03]),
  ]);
  const planks = laidFlat(plane(right - left, 3.4), 1.1);
  const bar = (w: number, h: number, px: number, py: number) =>
    transformed(roundedBox(w, h, 0.035, 0.006), [px, py, z - deep + 0.06]);
  const middle = (sill + head) / 2;
  const frame = merge([
    bar(half * 2, 0.045, x, sill + 0.022),
    bar(half * 2, 0.045, x, head - 0.022),
    bar(0.045, head - sill, x - half + 0.022, middle),
    bar(0.045, head - sill, x + half - 0.022, middle),
    bar(0.022, head - sill, x, middle),
    bar(half * 2, 0.022, x, middle + 0.02),
  ]);
  const panes = pitched(plane(half * 2, head - sill), PI / 2, [x, middle, z - deep + 0.06]);
  return { walls, planks: transformed(planks, [0.2, 0, 0.95]), frame, panes };
}

export function desk(): Mesh {
  return laidFlat(transformed(roundedBox(1.7, 0.045, 0.9, 0.009), [0.05, TOP - 0.0225, 0]), 1.15);
}

/** Two ruled pages with entries in ink. */
export function writing(size: number): Picture {
  const next = chance(11);
  const ink: { row: number; from: number; to: number; seed: number }[] = [];
  const rows = 24;
  for (let row = 3; row < rows - 1; row++) {
    for (const side of [0, 1]) {
      if (side === 1 && row > 11) continue;
      const start = side * 0.5 + 0.055;
      let x = start;
      const end = start + 0.39 * (row % 5 === 2 ? 0.5 : 0.8 + 0.2 * next());
      while (x < end) {
        const word = 0.012 + 0.05 * next();
        ink.push({ row, from: x, to: min(end, x + word), seed: floor(next() * 1000) });
        x += word + 0.011;
      }
    }
  }
  const byRow = Array.from({ length: rows }, (_, r) => ink.filter((w) => w.row === r));
  return paint(size, (u, v) => {
    const paper = 0.86 - 0.07 * detail3(u * 6, v * 6, 1, 3, 2) - 0.12 * fmath.pow(abs(u - 0.5) * 2, 14);
    let shade = paper;
    const y = v * rows;
    const row = floor(y);
    const within = y - row;
    if (within < 0.045 && row > 2) shade -= 0.13;
    if (abs(u - 0.09) < 0.0009 || abs(u - 0.575) < 0.0009) shade -= 0.2;
    if (row >= 0 && row < rows) {
      for (const w of byRow[row]) {
        if (u < w.from || u > w.to) continue;
        const t = (u - w.from) * 260;
        const line =
          0.62 +
          0.24 * fmath.sin(t + w.seed) * noise3(t * 0.55, w.seed, 0, 3) +
          0.16 * fmath.sin(t * 0.43 + w.seed * 3);
        const d = abs(within - line);
        if (d < 0.11) shade = min(shade, 0.16 + 6 * max(0, d - 0.06));
      }
    }
    return [shade, shade * 0.955, shade * 0.85];
  });
}
