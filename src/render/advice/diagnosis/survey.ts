import type { Recipe } from '@/core/recipe';
import type { Camera, Light, SceneDocument } from '@/core/scene';
import type { Inspector, Sight, Vec } from '../../pool/inspector';

/** What the camera sees at even places of the picture, and what stands between there and the lights. */
export interface Survey {
  sights: Sight[];
  /** The same without clip planes. */
  unclipped: Sight[];
  /** By light: the share of places that face it and that it could light, and who stands in between. */
  lights: Map<string, LightSurvey>;
}

export interface LightSurvey {
  /** Share of the seen places that lie before its front. */
  before: number;
  /** Share of those that nothing keeps from it. */
  open: number;
  /** Share of those that each object keeps from it, as the nearest in the way. */
  blockers: Map<string, number>;
}

export const ACROSS = 16;
export const DOWN = 9;

const minus = (a: readonly number[], b: readonly number[]): Vec => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const dot = (a: readonly number[], b: readonly number[]) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

/** Where a light is, as seen from a place: direction and metres; null when it has no one place. */
function towards(light: Light, from: Vec): { direction: Vec; metres: number } | null {
  if (light.kind === 'distant') {
    const l = Math.hypot(...light.facing) || 1;
    return { direction: light.facing.map((c) => -c / l) as Vec, metres: 1e6 };
  }
  const way = minus(light.position, from);
  const metres = Math.hypot(...way);
  if (!(metres > 1e-6)) return null;
  return { direction: way.map((c) => c / metres) as Vec, metres };
}

/** Whether a place lies in front of what a light shines at. */
function shinesAt(light: Light, from: Vec): boolean {
  if (!('facing' in light) || light.kind === 'distant') return true;
  const away = minus(from, light.position);
  const cosine = dot(away, light.facing) / ((Math.hypot(...away) || 1) * (Math.hypot(...light.facing) || 1));
  const half = light.kind === 'spot' ? light.coneDegrees / 2 : light.spreadDegrees / 2;
  return cosine > Math.cos((half * Math.PI) / 180);
}

/** Looks about the picture with a few hundred rays. */
export function survey(
  inspector: Inspector,
  document: SceneDocument,
  recipe: Recipe,
  camera: Camera,
  frame: number,
): Survey {
  const aspect = recipe.size.width / recipe.size.height;
  const open = { ...camera, clipNear: 0, clipFar: null };
  const sights: Sight[] = [];
  const unclipped: Sight[] = [];
  for (let y = 0; y < DOWN; y++) {
    for (let x = 0; x < ACROSS; x++) {
      const [fx, fy] = [(x + 0.5) / ACROSS, (y + 0.5) / DOWN];
      sights.push(inspector.see(camera, frame, aspect, fx, fy));
      unclipped.push(inspector.see(open, frame, aspect, fx, fy));
    }
  }
  const lights = new Map<string, LightSurvey>();
  const places = sights.filter((s) => s.object !== null);
  for (const light of document.lights) {
    if (light.parent !== null || ('follow' in light && light.follow !== null)) continue;
    const blockers = new Map<string, number>();
    let before = 0;
    let free = 0;
    for (const s of places) {
      const from = s.position.map((c, k) => c + s.normal[k] * 1e-3 * Math.max(1, Math.abs(c))) as Vec;
      const way = towards(light, from);
      if (!way || !shinesAt(light, from)) continue;
      before++;
      const [met] = inspector.look([{ origin: from, direction: way.direction, metres: way.metres * 0.98 }]);
      if (met.object === null) free++;
      else blockers.set(met.object, (blockers.get(met.object) ?? 0) + 1);
    }
    for (const [name, n] of blockers) blockers.set(name, n / Math.max(1, before));
    lights.set(light.name, {
      before: places.length > 0 ? before / places.length : 0,
      open: before > 0 ? free / before : 0,
      blockers,
    });
  }
  return { sights, unclipped, lights };
}
