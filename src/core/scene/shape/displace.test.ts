import { meanOf, renderTest, testRecipe, testScene } from '@/render/testing';
import { displacedScene, meshAt, plane } from '..';
import { displace, subdivide } from './displace';

const ramp = { width: 2, height: 1, channels: 1, values: new Float32Array([0, 1]) };
const even = (v: number) => ({ width: 1, height: 1, channels: 1, values: new Float32Array([v]) });
const options = { picture: 'p', channel: 'r' as const, heightMetres: 0.5, zero: 0, levels: 2 };

test('subdividing shares edges and keeps the surface', () => {
  const fine = subdivide(plane(2, 2), 3);
  expect(fine.indices.length / 3).toBe(2 * 4 ** 3);
  expect(fine.positions.length / 3).toBe(9 * 9);
  expect(fine.uvs!.length / 2).toBe(9 * 9);
  for (let i = 1; i < fine.positions.length; i += 3) expect(fine.positions[i]).toBe(0);
});

test('heights go along the normal from the value that stays, normals follow the slope', () => {
  const flat = displace(plane(2, 2), even(0.75), { ...options, zero: 0.25 }, 'object sheet');
  for (let i = 1; i < flat.positions.length; i += 3) expect(flat.positions[i]).toBeCloseTo(0.25, 6);
  // Between its texels' centres the ramp rises by ½ m over a metre.
  const sloped = displace(plane(2, 2), ramp, { ...options, levels: 5 }, 'object sheet');
  const middle = Array.from({ length: sloped.positions.length / 3 }, (_, i) => i).find(
    (i) => Math.abs(sloped.positions[i * 3]) < 0.01 && Math.abs(sloped.positions[i * 3 + 2]) < 0.01,
  )!;
  expect(sloped.normals[middle * 3] / sloped.normals[middle * 3 + 1]).toBeCloseTo(-0.5, 2);
});

const scene = () => {
  const base = testScene({
    meshes: { sheet: plane(2, 2) },
    pictures: { p: even(1) },
    camera: { position: [0, 3, 0], target: [0, 0, 0], up: [0, 0, -1], focalLengthMm: 2000 },
    environment: [1, 1, 1],
  });
  const objects = base.document.objects.map((o) => ({ ...o, displacement: options }));
  return { ...base, document: { ...base.document, objects } };
};

test('a render shows it, and leaves it out when the recipe says so', async () => {
  const depth = async (displacement: boolean) =>
    meanOf((await renderTest(scene(), testRecipe(16, 2, { displacement }))).layers, 'depth');
  expect(await depth(true)).toBeCloseTo(2.5, 4);
  expect(await depth(false)).toBeCloseTo(3, 4);
});

test('what is missing is named', () => {
  const base = scene();
  const object = base.document.objects[0];
  const without = {
    ...base,
    document: { ...base.document, objects: [{ ...object, displacement: { ...options, picture: 'q' } }] },
  };
  expect(() => displacedScene(without)).toThrow('object sheet: no picture q');
  const mesh = meshAt(base.geometry, base.document.geometry.meshes[0]);
  expect(() => displace({ ...mesh, uvs: undefined }, ramp, options, 'object sheet')).toThrow(
    'needs texture coordinates',
  );
});
