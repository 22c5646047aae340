import type { Node } from '@gltf-transform/core';
import * as fmath from '../fmath';
import {
  type Camera,
  cameraSchema,
  type Light,
  lightSchema,
  type Scene,
  type SceneDocument,
  sceneBounds,
} from '../scene';
import type { GltfAnimation } from './animation';

/** A light as the JSON of KHR_lights_punctual has it. */
export interface RawLight {
  name?: string;
  type?: string;
  color?: number[];
  intensity?: number;
  spot?: { innerConeAngle?: number; outerConeAngle?: number };
}

/** Placements of a node over the frames; undefined when it stands still. */
export function motionOf(animation: GltfAnimation, node: Node): SceneDocument['objects'][number]['motion'] {
  if (!animation.moves(node)) return undefined;
  return animation.keys().map((frame) => ({ frame, transform: animation.placeAt(node, frame) }));
}

export function cameraKey(animation: GltfAnimation, node: Node, frame: number): NonNullable<Camera['motion']>[number] {
  const m = animation.placeAt(node, frame);
  return {
    frame,
    position: [m[12], m[13], m[14]],
    target: [m[12] - m[8], m[13] - m[9], m[14] - m[10]],
    up: [m[4], m[5], m[6]],
  };
}

export function cameraOf(node: Node): Camera | null {
  const camera = node.getCamera();
  if (camera?.getType() !== 'perspective') return null;
  const m = node.getWorldMatrix();
  const yfov = camera.getYFov();
  const aspect = camera.getAspectRatio() ?? 16 / 9;
  const sensor = 36;
  return cameraSchema.parse({
    name: node.getName() || camera.getName() || 'camera',
    position: [m[12], m[13], m[14]],
    target: [m[12] - m[8], m[13] - m[9], m[14] - m[10]],
    up: [m[4], m[5], m[6]],
    sensorWidthMm: sensor,
    focalLengthMm: sensor / (2 * fmath.tan(yfov / 2) * aspect),
  });
}

/** A punctual light; null for a type that the extension does not have. */
export function lightOf(light: RawLight, node: Node, name: string): Light | null {
  const m = node.getWorldMatrix();
  const shared = {
    name,
    power: light.intensity ?? 1,
    color: light.color ?? [1, 1, 1],
    group: 'lights',
    visible: false,
  };
  const position = [m[12], m[13], m[14]];
  const facing = [-m[8], -m[9], -m[10]];
  if (light.type === 'point') return lightSchema.parse({ kind: 'point', ...shared, position });
  if (light.type === 'directional') return lightSchema.parse({ kind: 'distant', ...shared, facing });
  if (light.type !== 'spot') return null;
  const outer = light.spot?.outerConeAngle ?? Math.PI / 4;
  const inner = light.spot?.innerConeAngle ?? 0;
  return lightSchema.parse({
    kind: 'spot',
    ...shared,
    position,
    facing,
    up: [m[4], m[5], m[6]],
    coneDegrees: (outer * 360) / Math.PI,
    softness: 1 - inner / outer,
  });
}

/** A camera in front of everything, a little above. */
export function framingCamera(scene: Pick<Scene, 'document' | 'geometry'>): Camera {
  const { low, high } = sceneBounds(scene);
  const middle = low.map((c, k) => (c + high[k]) / 2);
  const radius = Math.max(1e-3, Math.hypot(...low.map((c, k) => (high[k] - c) / 2)));
  return cameraSchema.parse({
    name: 'camera',
    position: [middle[0], middle[1] + radius * 0.35, middle[2] + radius * 2.4],
    target: middle,
    focalLengthMm: 35,
  });
}
