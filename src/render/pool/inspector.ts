import { makeSpec } from '@/core/film';
import {
  cameraAxes,
  fieldOffset,
  Kernel,
  PLANE_BYTES,
  type PreparedScene,
  RAY_FLOATS,
  SEEN_FLOATS,
  TABLE_BYTES,
  TRAIL_BYTES,
  TRAIL_ENDS,
  TRAIL_EVENTS,
  TRAIL_FIELDS,
} from '@/core/kernel';
import { BEAUTY_ALONE, frameOf, parseRecipe, type Recipe } from '@/core/recipe';
import { type Camera, cameraAt } from '@/core/scene';

export type Vec = [number, number, number];

/** What a ray meets. */
export interface Sight {
  metres: number;
  /** An object's name, or a light's where its shape is met. */
  object: string | null;
  light: string | null;
  front: boolean;
  position: Vec;
  normal: Vec;
}

/** One event on a path. Colours are linear: throughput at vertices, light where light is found. */
export interface TrailStep {
  event: (typeof TRAIL_EVENTS)[number];
  object: string | null;
  lobe: 'diffuse' | 'reflection' | 'transmission' | 'fog' | null;
  /** Light group of light found; name of a light that is blocked or met. */
  light: string | null;
  /** Why it ended, or the limit beyond which light lies. */
  reason: string | null;
  position: Vec;
  rgb: Vec;
  metres: number;
}

const LOBES = ['diffuse', 'reflection', 'transmission', 'fog'] as const;
const at = (name: string) => fieldOffset(TRAIL_FIELDS, name);

/** A ray from the camera through a point of the picture, given as fractions of the frame; the lens as a pinhole. */
export function cameraRayAt(
  camera: Camera,
  frame: number,
  aspect: number,
  fx: number,
  fy: number,
): { origin: Vec; direction: Vec; near: number; far: number } {
  const placed = cameraAt(camera, frame);
  const { right, up, back } = cameraAxes(placed);
  const tanX = camera.sensorWidthMm / (2 * camera.focalLengthMm);
  const tanY = tanX / aspect;
  const x = (2 * fx - 1 + 2 * camera.shift[0]) * tanX;
  const y = (1 - 2 * fy + 2 * camera.shift[1]) * tanY;
  const d = [0, 1, 2].map((k) => right[k] * x + up[k] * y - back[k]);
  const l = Math.hypot(...d);
  return {
    origin: [...placed.position],
    direction: d.map((c) => c / l) as Vec,
    near: camera.clipNear * l,
    far: camera.clipFar === null ? 1e30 : camera.clipFar * l,
  };
}

/** Looks into a prepared scene with rays of its own, while other threads may be tracing it. */
export class Inspector {
  private readonly kernel: Kernel;

  constructor(
    module: WebAssembly.Module,
    private readonly prepared: PreparedScene,
    private readonly scratch: number,
  ) {
    this.kernel = new Kernel(module, prepared.memory);
  }

  /** Name of a light by its number: those of the document, sun, environment, then emissive objects. */
  lightName(number: number): string | null {
    const { lights, meshes } = this.prepared.plan.light;
    if (number < 0) return null;
    if (number < lights.length) return lights[number].name;
    const mesh = meshes[number - lights.length];
    return mesh ? this.prepared.scene.document.objects[mesh.object].name : null;
  }

  private objectName(number: number): string | null {
    return this.prepared.scene.document.objects[number]?.name ?? null;
  }

  /** What rays meet: any surface, whatever rules hide it from. */
  look(rays: readonly { origin: Vec; direction: Vec; metres?: number }[]): Sight[] {
    this.kernel.bindBare(this.scratch);
    const packed = new Float32Array(rays.length * RAY_FLOATS);
    rays.forEach((r, i) => {
      packed.set([...r.origin, ...r.direction, r.metres ?? 1e30], i * RAY_FLOATS);
    });
    const { floats, integers } = this.kernel.lookAlong(packed);
    return rays.map((_, i) => {
      const o = i * SEEN_FLOATS;
      const object = integers[o + 1];
      return {
        metres: object === -1 ? Infinity : floats[o],
        object: object >= 0 ? this.objectName(object) : null,
        light: object <= -2 ? this.lightName(-2 - object) : null,
        front: integers[o + 2] === 1,
        position: [floats[o + 4], floats[o + 5], floats[o + 6]],
        normal: [floats[o + 7], floats[o + 8], floats[o + 9]],
      };
    });
  }

  /** How many of some rays do not arrive, as shadow rays of lights at any distance. */
  blocked(rays: readonly { origin: Vec; direction: Vec }[]): number {
    this.kernel.bindBare(this.scratch);
    return this.kernel.shadowed(Float32Array.from(rays.flatMap((r) => [...r.origin, ...r.direction, 1e30, 0])));
  }

  /** What the camera sees at a point of the picture, given as fractions of the frame, past its near clip plane. */
  see(camera: Camera, frame: number, aspect: number, fx: number, fy: number): Sight {
    const ray = cameraRayAt(camera, frame, aspect, fx, fy);
    const origin = ray.origin.map((c, k) => c + ray.direction[k] * ray.near) as Vec;
    const [seen] = this.look([{ origin, direction: ray.direction, metres: ray.far - ray.near }]);
    return { ...seen, metres: seen.metres + ray.near };
  }

  /** The paths of some samples of a pixel at a point of the picture, given as fractions of the frame. */
  trails(recipe: Recipe, camera: Camera, frame: number, fx: number, fy: number, samples: number): TrailStep[][] {
    const { document } = this.prepared.scene;
    const bare = parseRecipe({
      ...recipe,
      region: null,
      film: { ...recipe.film, ...BEAUTY_ALONE, groups: recipe.film.groups, lostLight: true, lostChance: 1 },
    });
    const spec = makeSpec(bare, document);
    const { width, height } = frameOf(bare);
    this.kernel.bind(this.scratch, bare, camera, spec.groups.length, spec.planes, {
      frame,
      firstFrame: document.frames.first,
    });
    const x = Math.min(width - 1, Math.max(0, Math.floor(fx * width)));
    const y = Math.min(height - 1, Math.max(0, Math.floor(fy * height)));
    const tileBytes = spec.planes.count * PLANE_BYTES + TABLE_BYTES;
    return Array.from({ length: samples }, (_, s) => this.read(this.kernel.trail(x, y, s, tileBytes), spec.groups));
  }

  private read(bytes: ArrayBuffer, groups: readonly string[]): TrailStep[] {
    const view = new DataView(bytes);
    const out: TrailStep[] = [];
    for (let o = 0; o < bytes.byteLength; o += TRAIL_BYTES) {
      const whole = (name: string) => view.getInt32(o + at(name), true);
      const real = (name: string) => view.getFloat32(o + at(name), true);
      const event = TRAIL_EVENTS[whole('event')];
      const light = whole('light');
      out.push({
        event,
        object: whole('object') >= 0 ? this.objectName(whole('object')) : null,
        lobe: LOBES[whole('lobe')] ?? null,
        light: event === 'light' ? (groups[light] ?? null) : this.lightName(light),
        reason:
          event === 'end'
            ? TRAIL_ENDS[whole('reason')]
            : event === 'light'
              ? (TRAIL_ENDS[whole('reason')] ?? null)
              : null,
        position: [real('x'), real('y'), real('z')],
        rgb: [real('r'), real('g'), real('b')],
        metres: real('distance'),
      });
    }
    return out;
  }
}
