import { measureTest, type TestScene } from '@/render/testing';
import { box, plane, sphere, transformed } from '../scene';
import { STUDY } from './layout';

/** Fog lit by what fills much of what it sees: light samples and directions of the phase function together. */
const speck = transformed(box(0.001, 0.001, 0.001), [0, 5, 0]);
const black = { base_color: [0, 0, 0], specular_weight: 0 };
const camera = { position: [0, 0, 4], target: [0, 0, 0], focalLengthMm: 30 };
const glow = { ...black, emission_luminance: 20 };
const bright = { kind: 'gradient', zenith: [0.2, 0.2, 0.2], horizon: [4, 4, 4], ground: [0.05, 0.05, 0.05] };
const fog = (anisotropy: number, density = 0.3) => ({ density, anisotropy, radiusMetres: 12 });
const lamp = { kind: 'sphere', name: 'lamp', power: 20, position: [0.7, 0.2, 3], radius: 0.5, visible: true };

const scenes: [string, TestScene, number][] = [
  ['strongly forward fog before a bright horizon', { fog: fog(0.9), environment: bright }, 10],
  ['a lamp near the camera in forward fog', { fog: fog(0.85), lights: [lamp] }, 2],
  ['a lamp that cannot be seen, in backward fog', { fog: fog(-0.8), lights: [{ ...lamp, visible: false }] }, 2],
  [
    'a glowing thing near the camera',
    {
      fog: fog(0.8),
      meshes: { speck, ball: transformed(sphere(0.4, 24), [0.6, 0.1, 3]) },
      materials: { speck: black, ball: glow },
    },
    4,
  ],
  [
    'a glowing thing behind the edge of a room of fog',
    {
      fog: { density: 0.5, anisotropy: 0.8, within: 'room' },
      meshes: { speck, room: box(3, 3, 3), sheet: transformed(plane(3, 3), [0, -2, 0]) },
      materials: { speck: black, room: black, sheet: { ...glow, emission_double_sided: true } },
    },
    1.5,
  ],
];

describe.each(scenes)('%s', (_, t, gain) => {
  const scene: TestScene = { meshes: { speck }, materials: { speck: black }, camera, ...t };
  const measure = (study: number, samples: number, fogDepth: number) =>
    measureTest(scene, samples, { rayDepth: { fog: fogDepth } }, { size: 24, study });

  test.each([0, 2])('the same light as by light samples alone at fog depth %i, with less noise', async (depth) => {
    const ours = await measure(0, 256, depth);
    const alone = await measure(STUDY.lightsAlone, 256, depth);
    expect(Math.abs(ours.mean - alone.mean)).toBeLessThan(ours.error + alone.error);
    if (depth === 0) expect((alone.error / ours.error) ** 2).toBeGreaterThan(gain);
  });
});
