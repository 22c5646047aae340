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

const MOST_CONE = 179;
/** Signs of a name; a number that tells doubles apart and a frame come after them. */
const MOST_SIGNS = 100;

/** A name as scenes take it: without control signs and halves of characters, and not too long. */
export function plainName(name: string, otherwise: string): string {
  const plain = name.replace(/[\p{Cc}\p{Surrogate}]+/gu, ' ').trim();
  return (plain.length > MOST_SIGNS ? `${[...plain].slice(0, MOST_SIGNS - 1).join('')}…` : plain) || otherwise;
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

/** Where the light of a node stands and faces at a frame. */
export function lightKey(
  animation: GltfAnimation,
  node: Node,
  light: Light,
  frame: number,
): NonNullable<Light['motion']>[number] {
  const m = animation.placeAt(node, frame);
  return {
    frame,
    ...('position' in light ? { position: [m[12], m[13], m[14]] } : {}),
    ...('facing' in light ? { facing: [-m[8], -m[9], -m[10]] } : {}),
    ...('up' in light ? { up: [m[4], m[5], m[6]] } : {}),
  };
}

const SENSOR_MM = 36;
/** Longest lens that a camera may have. */
const MOST_FOCAL_MM = 2000;

/** Width over height of a perspective camera's picture, where it says so. */
export function aspectOf(node: Node): number | null {
  const camera = node.getCamera();
  const aspect = camera?.getType() === 'perspective' ? camera.getAspectRatio() : null;
  return aspect !== null && aspect > 0 ? aspect : null;
}

/** A perspective camera of a node, for pictures of `aspect` width over height, which keep its vertical field of view. */
export function cameraOf(node: Node, aspect: number): Camera | null {
  const camera = node.getCamera();
  if (camera?.getType() !== 'perspective') return null;
  const m = node.getWorldMatrix();
  const across = 2 * fmath.tan(camera.getYFov() / 2) * aspect;
  // A long lens has a small sensor rather than a longer tube than there can be.
  const sensor = Math.min(SENSOR_MM, MOST_FOCAL_MM * across);
  return cameraSchema.parse({
    name: plainName(node.getName() || camera.getName(), 'camera'),
    position: [m[12], m[13], m[14]],
    target: [m[12] - m[8], m[13] - m[9], m[14] - m[10]],
    up: [m[4], m[5], m[6]],
    sensorWidthMm: sensor,
    focalLengthMm: sensor / across,
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
    // A cone as wide as a half space is the widest there is.
    coneDegrees: Math.min(MOST_CONE, (outer * 360) / Math.PI),
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
