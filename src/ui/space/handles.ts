import { Mesh, MeshBasicMaterial, SphereGeometry, Vector3 } from 'three';
import type { ItemRef, SceneDocument } from '@/core/scene';
import { axesOf } from './glyphs';

/** A place that can be dragged, and what dragging it changes. */
export interface Handle {
  mark: Mesh;
  label: string;
  /** The document with the handle moved to a place. */
  move: (d: SceneDocument, to: Vector3) => SceneDocument;
}

const GEOMETRY = new SphereGeometry(1, 12, 8);
const MATERIAL = new MeshBasicMaterial({ color: '#ececec', depthTest: false });

function mark(at: Vector3, size: number): Mesh {
  const out = new Mesh(GEOMETRY, MATERIAL);
  out.position.copy(at);
  out.scale.setScalar(size);
  out.renderOrder = 10;
  return out;
}

const round = (v: number) => Number(v.toPrecision(4));
const triple = (v: Vector3): [number, number, number] => [round(v.x), round(v.y), round(v.z)];

/** Handles of a light: where it points, how large it is, how wide it spreads. */
function lightHandles(light: SceneDocument['lights'][number], size: number): Handle[] {
  const out: Handle[] = [];
  const dot = size * 0.008;
  const change = (d: SceneDocument, part: object) => ({
    ...d,
    lights: d.lights.map((l) => (l.name === light.name ? ({ ...l, ...part } as typeof l) : l)),
  });
  if (light.kind === 'distant') {
    const { n } = axesOf(light.facing);
    out.push({
      mark: mark(n.clone().multiplyScalar(-size * 0.6), dot),
      label: `direction of ${light.name}`,
      move: (d, to) => change(d, { facing: triple(to.clone().negate().normalize()) }),
    });
    return out;
  }
  const p = new Vector3(...light.position);
  if (light.kind === 'sphere')
    out.push({
      mark: mark(p.clone().add(new Vector3(light.radius, 0, 0)), dot),
      label: `radius of ${light.name}`,
      move: (d, to) => change(d, { radius: Math.max(0.001, round(to.distanceTo(p))) }),
    });
  if (light.kind === 'point' || light.kind === 'sphere') return out;
  const { u, v, n } = axesOf(light.facing, light.up);
  const reach = size * 0.12;
  out.push({
    mark: mark(p.clone().addScaledVector(n, reach), dot),
    label: `direction of ${light.name}`,
    move: (d, to) => {
      const way = to.clone().sub(p);
      return way.lengthSq() > 1e-12 ? change(d, { facing: triple(way.normalize()) }) : d;
    },
  });
  if (light.kind === 'rectangle')
    out.push({
      mark: mark(
        p
          .clone()
          .addScaledVector(u, light.width / 2)
          .addScaledVector(v, light.height / 2),
        dot,
      ),
      label: `size of ${light.name}`,
      move: (d, to) => {
        const way = to.clone().sub(p);
        return change(d, {
          width: Math.max(0.001, round(2 * Math.abs(way.dot(u)))),
          height: Math.max(0.001, round(2 * Math.abs(way.dot(v)))),
        });
      },
    });
  if (light.kind === 'disk')
    out.push({
      mark: mark(p.clone().addScaledVector(u, light.radius), dot),
      label: `radius of ${light.name}`,
      move: (d, to) => change(d, { radius: Math.max(0.001, round(to.distanceTo(p))) }),
    });
  const whole = light.kind === 'spot' ? light.coneDegrees : light.spreadDegrees;
  if (light.kind === 'spot' || whole < 180) {
    const half = (Math.min(170, whole) * Math.PI) / 360;
    out.push({
      mark: mark(
        p
          .clone()
          .addScaledVector(n, Math.cos(half) * reach * 2)
          .addScaledVector(v, Math.sin(half) * reach * 2),
        dot,
      ),
      label: `spread of ${light.name}`,
      move: (d, to) => {
        const degrees = round((to.clone().sub(p).angleTo(n) * 360) / Math.PI);
        return change(
          d,
          light.kind === 'spot'
            ? { coneDegrees: Math.min(175, Math.max(1, degrees)) }
            : { spreadDegrees: Math.min(179, Math.max(2, degrees)) },
        );
      },
    });
  }
  return out;
}

/** Handles of what is chosen, when it is one light or camera. */
export function handlesOf(document: SceneDocument, chosen: readonly ItemRef[], size: number): Handle[] {
  if (chosen.length !== 1) return [];
  const [{ kind, name }] = chosen;
  const light = kind === 'light' && document.lights.find((l) => l.name === name);
  if (light) return light.motion ? [] : lightHandles(light, size);
  const camera = kind === 'camera' && document.cameras.find((c) => c.name === name);
  if (!camera || camera.motion) return [];
  return [
    {
      mark: mark(new Vector3(...camera.target), size * 0.008),
      label: `target of ${name}`,
      move: (d, to) => ({
        ...d,
        cameras: d.cameras.map((c) => (c.name === name ? { ...c, target: triple(to) } : c)),
      }),
    },
  ];
}
