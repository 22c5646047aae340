import {
  BufferGeometry,
  Color,
  Float32BufferAttribute,
  Group,
  LineBasicMaterial,
  LineSegments,
  Matrix4,
  Vector3,
} from 'three';
import { type Camera, cameraAt, type SceneDocument } from '@/core/scene';
import type { TrailStep } from '@/render/pool/inspector';

type Vec = readonly [number, number, number];
const vec = (v: readonly number[]) => new Vector3(v[0], v[1], v[2]);

const PLAIN = new Color('#b4b4b4');
const CHOSEN = new Color('#ffffff');
const FAINT = new Color('#5c5c5c');
const OFF = new Color('#6a6a6a');

/** Lines between pairs of points. */
function lines(points: Vector3[], color: Color, name = ''): LineSegments {
  const geometry = new BufferGeometry();
  geometry.setAttribute(
    'position',
    new Float32BufferAttribute(
      points.flatMap((p) => [p.x, p.y, p.z]),
      3,
    ),
  );
  const out = new LineSegments(geometry, new LineBasicMaterial({ color }));
  out.name = name;
  return out;
}

function ring(centre: Vector3, u: Vector3, v: Vector3, radius: number, steps = 32): Vector3[] {
  const at = (i: number) => {
    const a = (i / steps) * Math.PI * 2;
    return centre
      .clone()
      .addScaledVector(u, Math.cos(a) * radius)
      .addScaledVector(v, Math.sin(a) * radius);
  };
  return Array.from({ length: steps }, (_, i) => [at(i), at(i + 1)]).flat();
}

/** Axes of a thing that faces a direction. */
export function axesOf(facing: Vec, up: Vec = [0, 1, 0]): { u: Vector3; v: Vector3; n: Vector3 } {
  const n = vec(facing).normalize();
  let u = vec(up).cross(n);
  if (u.lengthSq() < 1e-12) u = new Vector3(1, 0, 0).cross(n);
  u.normalize();
  return { u, v: n.clone().cross(u), n };
}

/** What a light looks like in the space: its shape, and where its light goes. */
export function lightGlyph(light: SceneDocument['lights'][number], size: number, chosen: boolean): Group {
  const out = new Group();
  const color = chosen ? CHOSEN : light.on ? PLAIN : OFF;
  const add = (points: Vector3[], c = color) => out.add(lines(points, c));
  if (light.kind === 'distant') {
    const { u, v, n } = axesOf(light.facing);
    const from = n.clone().multiplyScalar(-size * 0.6);
    for (const [a, b] of [
      [0, 0],
      [1, 0],
      [-1, 0],
      [0, 1],
      [0, -1],
    ] as const) {
      const p = from
        .clone()
        .addScaledVector(u, a * size * 0.06)
        .addScaledVector(v, b * size * 0.06);
      add([p, p.clone().addScaledVector(n, size * 0.18)]);
    }
    return out;
  }
  const p = vec(light.position);
  if (light.kind === 'point' || light.kind === 'sphere') {
    const radius = light.kind === 'sphere' ? light.radius : size * 0.015;
    add(ring(p, new Vector3(1, 0, 0), new Vector3(0, 1, 0), radius));
    add(ring(p, new Vector3(0, 0, 1), new Vector3(0, 1, 0), radius));
    add(ring(p, new Vector3(1, 0, 0), new Vector3(0, 0, 1), radius));
    return out;
  }
  const { u, v, n } = axesOf(light.facing, light.up);
  const reach = size * 0.12;
  if (light.kind === 'rectangle') {
    const corner = (a: number, b: number) =>
      p
        .clone()
        .addScaledVector(u, (a * light.width) / 2)
        .addScaledVector(v, (b * light.height) / 2);
    const c = [corner(-1, -1), corner(1, -1), corner(1, 1), corner(-1, 1)];
    add(c.flatMap((q, i) => [q, c[(i + 1) % 4]]));
  } else if (light.kind === 'disk') add(ring(p, u, v, light.radius));
  add([p, p.clone().addScaledVector(n, reach)]);
  const whole = light.kind === 'spot' ? light.coneDegrees : light.spreadDegrees;
  if (light.kind === 'spot' || whole < 180) {
    const half = (Math.min(170, whole) * Math.PI) / 360;
    const end = p.clone().addScaledVector(n, Math.cos(half) * reach * 2);
    const r = Math.sin(half) * reach * 2;
    add(ring(end, u, v, r), chosen ? PLAIN : FAINT);
    add(
      [u, v, u.clone().negate(), v.clone().negate()].flatMap((d) => [p, end.clone().addScaledVector(d, r)]),
      chosen ? PLAIN : FAINT,
    );
  }
  return out;
}

/** A camera's frustum to what it looks at, its clip planes and the plane that is sharp. */
export function cameraGlyph(camera: Camera, frame: number, aspect: number, looked: boolean, chosen: boolean): Group {
  const placed = cameraAt(camera, frame);
  const out = new Group();
  const eye = vec(placed.position);
  const way = vec(placed.target).sub(eye);
  const metres = way.length() || 1;
  const { u, v, n } = axesOf([way.x, way.y, way.z], placed.up);
  const tan = camera.sensorWidthMm / (2 * camera.focalLengthMm);
  const corners = (d: number) =>
    (
      [
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, 1],
      ] as const
    ).map(([a, b]) =>
      eye
        .clone()
        .addScaledVector(n, d)
        // The frame's right is against the axes' u, which looks back along n.
        .addScaledVector(u, -a * d * tan)
        .addScaledVector(v, (b * d * tan) / aspect),
    );
  const color = chosen ? CHOSEN : looked ? PLAIN : OFF;
  const box = (c: Vector3[]) => c.flatMap((q, i) => [q, c[(i + 1) % 4]]);
  const front = corners(metres * 0.22);
  out.add(lines([...box(front), ...front.flatMap((q) => [eye, q])], color));
  out.add(
    lines(
      corners(metres).flatMap((q) => [eye, q]),
      FAINT,
    ),
  );
  if (camera.clipNear > 0) out.add(lines(box(corners(camera.clipNear)), PLAIN));
  if (camera.clipFar !== null) out.add(lines(box(corners(camera.clipFar)), FAINT));
  const sharp = camera.focusMetres ?? metres;
  if (camera.fStop > 0) {
    const c = corners(sharp);
    out.add(lines([...box(c), c[0], c[2], c[1], c[3]], chosen ? CHOSEN : PLAIN));
  }
  return out;
}

/** Paths of a pixel as lines from vertex to vertex; the one that is read stands out. */
export function trailGlyph(trails: TrailStep[][], shown: number, eye: Vec): Group {
  const out = new Group();
  trails.forEach((t, i) => {
    const places = [
      vec(eye),
      ...t.filter((s) => s.event === 'vertex' || s.event === 'fog').map((s) => vec(s.position)),
    ];
    const points = places.slice(1).flatMap((p, k) => [places[k], p]);
    if (points.length > 0) out.add(lines(points, i === shown ? CHOSEN : FAINT));
  });
  return out;
}

/** A floor of squares, a metre each or a power of ten of it. */
export function floorGlyph(size: number): LineSegments {
  const step = 10 ** Math.round(Math.log10(Math.max(1e-3, size)) - 1);
  const n = 10;
  const points: Vector3[] = [];
  for (let i = -n; i <= n; i++) {
    points.push(new Vector3(i * step, 0, -n * step), new Vector3(i * step, 0, n * step));
    points.push(new Vector3(-n * step, 0, i * step), new Vector3(n * step, 0, i * step));
  }
  return lines(points, new Color('#303030'));
}

export const matrixOf = (m: readonly number[]) => new Matrix4().fromArray([...m]);
