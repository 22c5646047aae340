import { plane, sphere } from '@/core/scene';
import { testScene } from '../testing';
import { spaceGeometry } from './geometry';

const scene = testScene({ meshes: { floor: plane(6, 4), ball: sphere(0.8, 24) } });

test('meshes are drawn as they are while they are few enough', () => {
  const { bytes, boxes, meshes } = spaceGeometry(scene);
  expect(boxes).toBeNull();
  expect(Buffer.compare(Buffer.from(bytes), scene.geometry)).toBe(0);
  expect(meshes.map((m) => m.name)).toEqual(['floor', 'ball']);
});

test('beyond that their boxes stand for them', () => {
  const { bytes, boxes } = spaceGeometry(scene, 10);
  expect(bytes.byteLength).toBe(0);
  const [low, high] = boxes!.floor;
  expect(high.map((c, k) => c - low[k])).toEqual([6, 0, 4]);
  boxes!.ball[1].forEach((c) => {
    expect(c).toBeCloseTo(0.8, 2);
  });
});
