import * as fmath from '../fmath';
import { box, lathe, type Mesh, merge, plane, sphere, sweep, transformed } from '../scene';

/** Meshes of the lantern room, each where it stands. Metres, the light's axis is the y axis. */

type Profile = [number, number][];

const ROOM_RADIUS = 3.1;
const SILL = 0.95;
const EAVES = 3.1;
const SIDES = 12;
/** Height of the light's centre above the floor, metres. */
export const LENS_CENTRE = 1.75;

/** A ring prism: a triangle-like section that bends light towards the horizon, `slope` up or down. */
function prismRing(radius: number, y: number, height: number, slope: number): Mesh {
  const depth = 0.085;
  const h = height / 2;
  const lean = slope * 0.055;
  const section: Profile = [
    [radius - 0.012, y - h],
    [radius + depth - Math.abs(lean), y - h + Math.max(0, lean)],
    [radius + depth, y + (slope > 0 ? h * 0.55 : -h * 0.55)],
    [radius + depth - Math.abs(lean), y + h + Math.min(0, lean)],
    [radius - 0.012, y + h],
  ];
  return lathe(section, 160, { closed: true, creaseRad: 0.2 });
}

/** The central drum: a barrel of glass, flat within and convex without. */
function drum(radius: number, height: number): Mesh {
  const steps = 14;
  const outer: Profile = Array.from({ length: steps + 1 }, (_, i) => {
    const t = (i / steps) * 2 - 1;
    return [radius + 0.03 + 0.075 * (1 - t * t), LENS_CENTRE + (t * height) / 2];
  });
  return lathe([[radius, LENS_CENTRE - height / 2], ...outer, [radius, LENS_CENTRE + height / 2]], 192, {
    closed: true,
    creaseRad: 0.5,
  });
}

export function lens(): { glass: Mesh; brass: Mesh } {
  const radius = 0.62;
  const rings: Mesh[] = [drum(radius, 0.3)];
  for (let k = 0; k < 5; k++) {
    const y = 0.205 + k * 0.104;
    const shrink = 0.0085 * k * k;
    rings.push(prismRing(radius - shrink, LENS_CENTRE + y, 0.086, 1));
    rings.push(prismRing(radius - shrink, LENS_CENTRE - y, 0.086, -1));
  }
  const brass: Mesh[] = [];
  for (let k = 0; k < 8; k++) {
    const a = (k / 8) * 2 * Math.PI + 0.2;
    const path: [number, number, number][] = [];
    for (let i = 0; i <= 24; i++) {
      const t = (i / 24) * 2 - 1;
      const r = radius + 0.135 - 0.36 * t * t * t * t;
      path.push([r * fmath.cos(a), LENS_CENTRE + t * 0.78, -r * fmath.sin(a)]);
    }
    brass.push(sweep(path, 0.017, 12));
  }
  for (const y of [-0.78, 0.78]) {
    const ring: [number, number, number][] = Array.from({ length: 96 }, (_, i) => {
      const a = (i / 96) * 2 * Math.PI;
      return [0.4 * fmath.cos(a), LENS_CENTRE + y, -0.4 * fmath.sin(a)];
    });
    brass.push(sweep(ring, 0.028, 14, true));
  }
  brass.push(
    transformed(
      lathe(
        [
          [0, 0],
          [0.16, 0],
          [0.14, 0.04],
          [0.07, 0.1],
          [0.04, 0.2],
          [0.055, 0.23],
          [0.025, 0.28],
          [0, 0.31],
        ],
        64,
      ),
      [0, LENS_CENTRE + 0.79, 0],
    ),
  );
  return { glass: merge(rings), brass: merge(brass) };
}

export function pedestal(): Mesh {
  return lathe(
    [
      [0, 0],
      [0.72, 0],
      [0.72, 0.06],
      [0.6, 0.1],
      [0.46, 0.14],
      [0.42, 0.2],
      [0.4, 0.55],
      [0.44, 0.6],
      [0.56, 0.66],
      [0.58, 0.72],
      [0.5, 0.78],
      [0, 0.78],
    ],
    96,
  );
}

/** The burner beneath the light: a stem, a gallery and a ring, seen through the glass. */
export function burner(): Mesh {
  return merge([
    transformed(
      lathe(
        [
          [0, 0],
          [0.1, 0],
          [0.1, 0.03],
          [0.035, 0.06],
          [0.03, 0.5],
          [0.075, 0.56],
          [0.085, 0.68],
          [0.06, 0.7],
          [0, 0.7],
        ],
        48,
      ),
      [0, 0.78, 0],
    ),
  ]);
}

function corner(i: number, radius: number): [number, number] {
  const a = ((i + 0.5) / SIDES) * 2 * Math.PI;
  return [radius * fmath.cos(a), -radius * fmath.sin(a)];
}

/** Low wall, glazing bars and roof of a twelve-sided room. */
export function room(): { wall: Mesh; bars: Mesh; panes: Mesh; roof: Mesh } {
  const wall: Mesh[] = [];
  const bars: Mesh[] = [];
  const panes: Mesh[] = [];
  const roof: Mesh[] = [];
  for (let i = 0; i < SIDES; i++) {
    const [x0, z0] = corner(i, ROOM_RADIUS);
    const [x1, z1] = corner(i + 1, ROOM_RADIUS);
    const length = Math.sqrt((x1 - x0) ** 2 + (z1 - z0) ** 2);
    const yaw = fmath.atan2(-(z1 - z0), x1 - x0);
    const mid: [number, number] = [(x0 + x1) / 2, (z0 + z1) / 2];
    wall.push(transformed(box(length, SILL, 0.12), [mid[0], SILL / 2, mid[1]], yaw));
    bars.push(transformed(box(length + 0.04, 0.07, 0.2), [mid[0], SILL + 0.02, mid[1]], yaw));
    bars.push(transformed(box(length, 0.035, 0.05), [mid[0], (SILL + EAVES) / 2, mid[1]], yaw));
    bars.push(transformed(box(length + 0.04, 0.12, 0.16), [mid[0], EAVES, mid[1]], yaw));
    bars.push(
      transformed(
        lathe(
          [
            [0, 0],
            [0.045, 0],
            [0.045, EAVES - SILL],
            [0, EAVES - SILL],
          ],
          20,
        ),
        [x0, SILL, z0],
      ),
    );
    const pane = plane(length, EAVES - SILL);
    panes.push(
      transformed(
        { ...pane, positions: upright(pane.positions), normals: upright(pane.normals) },
        [mid[0], (SILL + EAVES) / 2, mid[1]],
        yaw,
      ),
    );
    for (let k = 0; k < 10; k++) {
      const y = 0.12 + k * 0.08;
      wall.push(transformed(sphere(0.012, 12), [x0 * 0.979, y, z0 * 0.979]));
    }
  }
  roof.push(
    lathe(
      [
        [ROOM_RADIUS + 0.15, EAVES + 0.05],
        [ROOM_RADIUS + 0.15, EAVES + 0.1],
        [0.3, EAVES + 1.25],
        [0, EAVES + 1.25],
      ],
      SIDES * 8,
    ),
  );
  roof.push(
    lathe(
      [
        [0, EAVES + 1.2],
        [0.3, EAVES + 1.2],
        [ROOM_RADIUS + 0.15, EAVES + 0.05],
      ],
      SIDES * 8,
    ),
  );
  return { wall: merge(wall), bars: merge(bars), panes: merge(panes), roof: merge(roof) };
}

/** Turns a plane that faces up into one that faces +z. */
function upright(src: Float32Array): Float32Array {
  const out = new Float32Array(src.length);
  for (let i = 0; i < src.length; i += 3) {
    out[i] = src[i];
    out[i + 1] = -src[i + 2];
    out[i + 2] = src[i + 1];
  }
  return out;
}

/** Iron plates with raised ribs between them. */
export function floor(): Mesh {
  const parts: Mesh[] = [
    lathe(
      [
        [ROOM_RADIUS + 0.1, -0.05],
        [ROOM_RADIUS + 0.1, 0],
        [0, 0],
      ],
      SIDES * 4,
    ),
  ];
  for (let i = 0; i < 24; i++) {
    const a = (i / 24) * 2 * Math.PI;
    parts.push(transformed(box(2.1, 0.012, 0.018), [1.85 * fmath.cos(a), 0.006, -1.85 * fmath.sin(a)], a));
  }
  for (const r of [0.85, 1.6, 2.35])
    parts.push(
      lathe(
        [
          [r - 0.012, 0],
          [r + 0.012, 0],
          [r + 0.012, 0.012],
          [r - 0.012, 0.012],
        ],
        128,
        { closed: true },
      ),
    );
  return merge(parts);
}

/** The keeper's console: an instrument desk with dials beside the lens. */
export function desk(): { body: Mesh; dials: Mesh } {
  const at: [number, number, number] = [-1.35, 0, 1.05];
  const yaw = 0.75;
  const body = merge([
    transformed(box(0.72, 0.86, 0.34), [at[0], 0.43, at[2]], yaw),
    transformed(box(0.78, 0.03, 0.42), [at[0], 0.875, at[2]], yaw),
  ]);
  const dials: Mesh[] = [];
  for (let k = 0; k < 3; k++) {
    const along = (k - 1) * 0.22;
    const x = at[0] + along * fmath.cos(yaw);
    const z = at[2] - along * fmath.sin(yaw);
    dials.push(
      transformed(
        lathe(
          [
            [0, 0],
            [0.085, 0],
            [0.085, 0.03],
            [0.07, 0.05],
            [0.062, 0.035],
            [0, 0.035],
          ],
          48,
        ),
        [x, 0.89, z],
        yaw,
      ),
    );
  }
  return { body, dials: merge(dials) };
}

/** A brass handrail on posts around the lens. */
export function rail(): Mesh {
  const parts: Mesh[] = [];
  const ring = (y: number, r: number): [number, number, number][] =>
    Array.from({ length: 144 }, (_, i) => {
      const a = (i / 144) * 2 * Math.PI;
      return [r * fmath.cos(a), y, -r * fmath.sin(a)];
    });
  parts.push(sweep(ring(0.72, 1.02), 0.016, 12, true), sweep(ring(0.4, 1.02), 0.009, 10, true));
  for (let i = 0; i < 10; i++) {
    const a = (i / 10) * 2 * Math.PI;
    parts.push(
      transformed(
        lathe(
          [
            [0, 0],
            [0.04, 0],
            [0.04, 0.02],
            [0.013, 0.04],
            [0.013, 0.72],
            [0.024, 0.735],
            [0, 0.76],
          ],
          24,
        ),
        [1.02 * fmath.cos(a), 0, -1.02 * fmath.sin(a)],
      ),
    );
  }
  return merge(parts);
}
