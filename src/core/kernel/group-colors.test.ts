import { testScene } from '@/render/testing';
import { sphere } from '../scene';
import { groupColors } from './group-colors';

test('a group’s colour is that of its lights by their power, of luminance 1; white without light', () => {
  const scene = testScene({
    meshes: { ball: sphere(1, 8) },
    materials: { ball: { emission_luminance: 3, emission_color: [1, 0, 0], light_group: 'glow' } },
    lights: [
      { kind: 'point', name: 'a', group: 'lamps', power: 3, color: [1, 1, 1], position: [0, 3, 0] },
      { kind: 'point', name: 'b', group: 'lamps', power: 1, color: [0, 1, 0], position: [0, 3, 0] },
      { kind: 'point', name: 'c', group: 'dark', power: 0, position: [0, 3, 0] },
    ],
    environment: { kind: 'gradient', group: 'sky', zenith: [0, 0, 2], horizon: [0, 0, 2], ground: [0, 0, 2] },
  });
  const c = groupColors(scene);
  expect(c.glow[0]).toBeCloseTo(1 / 0.2126, 5);
  expect(c.glow.slice(1)).toEqual([0, 0]);
  expect(c.sky[2]).toBeCloseTo(1 / 0.0722, 4);
  expect(c.dark).toEqual([1, 1, 1]);
  const y = (v: readonly number[]) => 0.2126 * v[0] + 0.7152 * v[1] + 0.0722 * v[2];
  for (const v of Object.values(c)) expect(y(v)).toBeCloseTo(1, 5);
  expect(c.lamps[1]).toBeGreaterThan(c.lamps[0]);
  expect(c.lamps[0]).toBeCloseTo(c.lamps[2], 5);
});
