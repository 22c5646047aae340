import { box, merge, plane, sphere, transformed } from '@/core/scene';
import type { TestScene } from './testing';

const turned = (m: ReturnType<typeof box>) => ({
  ...m,
  normals: m.normals.map((v) => -v),
  indices: m.indices.map((_, i, all) => all[i - (i % 3) + [0, 2, 1][i % 3]]),
});
const room = turned(transformed(box(4, 3, 4), [0, 1.5, 0]));
const stone = { base_color: [0.7, 0.65, 0.6], specular_roughness: 0.5 };
const inside = { position: [0, 1.4, 1.9], target: [0, 0.8, 0], focalLengthMm: 24 };
/** Small scenes of rare and of plain light, by what makes their noise. */
export const NOISY_SCENES: Record<string, TestScene> = {
  'a spot on a brass ball': {
    meshes: { room, ball: transformed(sphere(0.4, 48), [0, 0.6, 0]) },
    materials: {
      room: stone,
      ball: { base_metalness: 1, base_color: [0.9, 0.7, 0.3], specular_roughness: 0.12 },
    },
    lights: [
      { kind: 'spot', name: 's', power: 60, position: [1, 2.7, 1], facing: [-0.4, -0.85, -0.4], coneDegrees: 50 },
    ],
    camera: inside,
  },
  'a room lit by a small lamp': {
    meshes: { room, crate: transformed(box(0.8, 0.8, 0.8), [0.4, 0.4, -0.4]) },
    materials: { room: stone, crate: { base_color: [0.3, 0.4, 0.5] } },
    lights: [{ kind: 'sphere', name: 'l', power: 400, position: [-0.8, 2.2, 0.3], radius: 0.06 }],
    camera: inside,
  },
  'glass under the sky': {
    meshes: { floor: plane(6, 6), ball: transformed(sphere(0.7, 48), [0, 0.7, 0]) },
    materials: { floor: stone, ball: { transmission_weight: 1, specular_roughness: 0 } },
    lights: [{ kind: 'distant', name: 'sun', power: 3, facing: [-0.5, -1, -0.3], angleDegrees: 40 }],
    environment: [0.3, 0.35, 0.5],
    camera: { position: [0, 1.2, 4], target: [0, 0.5, 0], focalLengthMm: 45 },
  },
  'a lamp in fog': {
    meshes: { floor: plane(6, 6) },
    materials: { floor: stone },
    lights: [{ kind: 'sphere', name: 'l', power: 30, position: [0, 1, 0], radius: 0.1 }],
    fog: { density: 0.25, anisotropy: 0.4 },
    camera: { position: [0, 1.2, 4], target: [0, 0.8, 0], focalLengthMm: 40 },
  },
  'dark and bright beside each other': {
    meshes: {
      walls: merge([transformed(box(1, 2, 1), [-1.2, 1, 0]), transformed(box(1, 2, 1), [1.2, 1, 0])]),
      floor: plane(8, 8),
    },
    materials: { walls: { base_color: [0.02, 0.02, 0.02], specular_roughness: 0.7 }, floor: stone },
    lights: [
      { kind: 'rectangle', name: 'r', power: 40, width: 1, height: 0.3, position: [0, 2.5, 1], facing: [0, -1, -0.3] },
    ],
    environment: [2, 2.2, 2.6],
    camera: { position: [0, 1.3, 4.5], target: [0, 0.9, 0], focalLengthMm: 35 },
  },
};
