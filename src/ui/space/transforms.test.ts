import { emptyShot, placementOf, transformOf } from '@/core/scene';
import { handlesOf } from './handles';
import { transformed } from './transforms';

const shot = emptyShot('test');
const lamp = { kind: 'light' as const, name: shot.lights[0].name };
const ball = { kind: 'object' as const, name: 'ball' };
const step = (degrees: [number, number, number], position: [number, number, number] = [0, 0, 0], scale = 1) =>
  transformOf({ position, degrees, scale: [scale, scale, scale] });

test('moving adds, turning turns place and front, sizing leaves fronts alone', () => {
  const there = transformed(shot, [lamp, ball], step([0, 0, 0], [1, 2, 3]), 'translate');
  const before = shot.lights[0];
  const after = there.lights[0];
  if (!('position' in before) || !('position' in after) || !('facing' in before))
    throw new Error('a lamp with a place');
  expect(after.position[1] - before.position[1]).toBeCloseTo(2, 4);
  const turned = transformed(shot, [lamp], step([0, 90, 0]), 'rotate').lights[0];
  if (!('facing' in turned) || !('position' in turned)) throw new Error('a lamp with a front');
  // A quarter turn about y takes x to −z and z to x.
  expect(turned.position[0]).toBeCloseTo(before.position[2], 4);
  const unit = Math.hypot(...before.facing);
  expect(turned.facing[0]).toBeCloseTo(before.facing[2] / unit, 4);
  const sized = transformed(shot, [ball, lamp], step([0, 0, 0], [0, 0, 0], 2), 'scale');
  expect(placementOf(sized.objects[0].transform).scale).toEqual([2, 2, 2]);
  expect('facing' in sized.lights[0] && sized.lights[0].facing).toEqual(before.facing);
});

test('handles of a lamp set its front and size where they are dragged to', () => {
  const handles = handlesOf(shot, [lamp], 4);
  expect(handles.map((h) => h.label)).toEqual([`direction of ${lamp.name}`, `size of ${lamp.name}`]);
  const light = shot.lights[0];
  if (light.kind !== 'rectangle') throw new Error('a rectangle');
  const [direction, size] = handles;
  const aimed = direction.move(shot, direction.mark.position.clone().set(0, 0, 0)).lights[0];
  if (aimed.kind !== 'rectangle') throw new Error('a rectangle');
  const dot = aimed.facing.reduce((s, c, k) => s - c * light.position[k], 0);
  expect(dot / Math.hypot(...light.position)).toBeCloseTo(1, 3);
  const corner = size.mark.position.clone();
  const centre = corner.clone().set(...light.position);
  const wider = size.move(shot, centre.clone().add(corner.sub(centre).multiplyScalar(3))).lights[0];
  if (wider.kind !== 'rectangle') throw new Error('a rectangle');
  expect(wider.width / light.width).toBeCloseTo(3, 2);
  expect(handlesOf(shot, [lamp, ball], 4)).toEqual([]);
});
