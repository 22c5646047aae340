import * as fmath from '@/core/fmath';
import type { PreparedScene } from '@/core/kernel';
import type { Camera } from '@/core/scene';
import { cameraRayAt, type Inspector, type Vec } from './inspector';

/** Points of the picture that are looked from, and directions from each in which a sky is looked for. */
const COLUMNS = 24;
const ROWS = 14;
const DIRECTIONS = 4;
/** Added to what was found open, so that no light is left out. */
const LEAST = 0.003;

/** Fractional parts of multiples of the plastic number's inverses: even over a square [Roberts 2018, "The Unreasonable Effectiveness of Quasirandom Sequences"]. */
const even = (i: number): [number, number] => [(0.5 + i * 0.7548776662466927) % 1, (0.5 + i * 0.5698402909980532) % 1];

/** A direction about a unit normal, its density as the cosine to it. */
function aboutNormal(n: Vec, u: number, v: number): Vec {
  const r = Math.sqrt(u);
  const [x, y, z] = [r * fmath.cos(2 * Math.PI * v), r * fmath.sin(2 * Math.PI * v), Math.sqrt(1 - u)];
  const sign = n[2] >= 0 ? 1 : -1;
  const p = -1 / (sign + n[2]);
  const q = n[0] * n[1] * p;
  return [
    x * (1 + sign * n[0] * n[0] * p) + y * q + z * n[0],
    x * sign * q + y * (sign + n[1] * n[1] * p) + z * n[1],
    -x * sign * n[0] - y * n[1] + z * n[2],
  ];
}

/**
 * How open the surfaces that a camera sees are to each light without a place, in the order of `light.far`, in (0, 1]: the share of shadow rays towards it that arrive, from points spread evenly over the picture.
 * Null where nothing is seen that could tell. The same on every machine, for any part of the frame.
 */
export function opennessOf(
  inspector: Inspector,
  { plan, scene }: PreparedScene,
  camera: Camera,
  frame: number,
  aspect: number,
): number[] | null {
  const { document } = scene;
  const clear = new Set(document.materials.filter((m) => m.transmission_weight > 0).map((m) => m.name));
  const seeThrough = new Set(document.objects.filter((o) => clear.has(o.material)).map((o) => o.name));
  const points = Array.from({ length: COLUMNS * ROWS }, (_, i) => {
    const { origin, direction, near, far } = cameraRayAt(
      camera,
      frame,
      aspect,
      ((i % COLUMNS) + 0.5) / COLUMNS,
      (Math.floor(i / COLUMNS) + 0.5) / ROWS,
    );
    return { origin: origin.map((c, k) => c + direction[k] * near) as Vec, direction, metres: far - near };
  });
  const seen = inspector.look(points).filter((s) => s.object !== null && !seeThrough.has(s.object));
  if (seen.length === 0) return null;
  const from = seen.map(({ position, normal }) => ({
    normal,
    origin: position.map((c, k) => c + normal[k] * 1e-4 * Math.max(1, Math.abs(c))) as Vec,
  }));
  return plan.light.far.map((number) => {
    const light = plan.light.lights[number];
    const rays =
      light.kind === 'environment'
        ? from.flatMap(({ origin, normal }, i) =>
            Array.from({ length: DIRECTIONS }, (_, k) => ({
              origin,
              direction: aboutNormal(normal, ...even(i * DIRECTIONS + k)),
            })),
          )
        : from
            .map(({ origin, normal }) => ({ origin, normal, direction: light.n.map((c) => -c) as Vec }))
            .filter(({ direction, normal }) => direction.reduce((s, c, k) => s + c * normal[k], 0) > 0);
    const asked = light.kind === 'environment' ? rays.length : from.length;
    return Math.min(1, (rays.length - inspector.blocked(rays)) / asked + LEAST);
  });
}
