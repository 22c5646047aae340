import { measureTest, type TestScene } from '@/render/testing';
import { OPEN_REACHES, OPENNESS, opennessAt, reachNumber } from '../film';
import { FEATURE_NAMES } from '../recipe';
import { box, plane, sphere, transformed } from '../scene';

/** Data planes against what the scene says. */
const SIZE = 32;
const all = { film: { features: [...FEATURE_NAMES] } };
const measure = (t: TestScene, samples = 4, change: Record<string, unknown> = all) =>
  measureTest(t, samples, change, { size: SIZE });
const planes = (m: Awaited<ReturnType<typeof measure>>, layer: string) => m.layers.layers.get(layer)!.planes;
const camera = { position: [0, 0, 5], target: [0, 0, 0], focalLengthMm: 50 };
const middle = (SIZE / 2) * SIZE + SIZE / 2;

test('places, distances and texture coordinates are those of the sample nearest to the pixel’s centre', async () => {
  const m = await measure({ meshes: { wall: transformed(box(4, 4, 1), [0, 0, 0.5]) }, camera }, 64);
  const [x, y, z] = planes(m, 'P');
  // The wall stands 4 m before the camera: a pixel is 0.72 · 4 / 32 m wide there.
  const px = (0.72 * 4) / SIZE;
  for (const [i, j] of [
    [4, 7],
    [16, 16],
    [27, 3],
  ]) {
    const at = j * SIZE + i;
    expect(Math.abs(x[at] - (i + 0.5 - SIZE / 2) * px)).toBeLessThan(px / 6);
    expect(Math.abs(y[at] + (j + 0.5 - SIZE / 2) * px)).toBeLessThan(px / 6);
    expect(z[at]).toBeCloseTo(1, 5);
    expect(planes(m, 'depth')[0][at]).toBeCloseTo(4, 5);
    expect(planes(m, 'distance')[0][at]).toBeCloseTo(Math.hypot(x[at], y[at], 4), 4);
  }
  const empty = await measure({ camera });
  expect(planes(empty, 'depth')[0][0]).toBe(Infinity);
  expect(planes(empty, 'distance')[0][0]).toBe(Infinity);
  for (const layer of ['P', 'motion', 'uv', 'N', 'roughness', 'occlusion_bands'])
    for (const p of planes(empty, layer)) expect(Math.max(...p)).toBe(0);
});

test('texture coordinates run over the surface', async () => {
  const flat = plane(2, 2);
  const uvs = Float32Array.from(
    { length: (flat.positions.length / 3) * 2 },
    (_, i) => flat.positions[(i >> 1) * 3 + (i & 1) * 2] / 2 + 0.5,
  );
  const m = await measure({
    meshes: { floor: { ...flat, uvs } },
    camera: { position: [0, 4, 0], target: [0, 0, 0], up: [0, 0, -1] },
  });
  const [u, v] = planes(m, 'uv');
  const [x, , z] = planes(m, 'P');
  for (const at of [middle, middle + 5, middle - 4 * SIZE]) {
    expect(u[at]).toBeCloseTo(x[at] / 2 + 0.5, 4);
    expect(v[at]).toBeCloseTo(z[at] / 2 + 0.5, 4);
  }
});

test('normals: smooth, of the triangles, and as the camera sees them; roughness of the material', async () => {
  const m = await measure(
    {
      meshes: { ball: sphere(1.5, 8) },
      materials: { ball: { specular_roughness: 0.37 } },
      camera: { ...camera, position: [5, 0, 0] },
    },
    16,
  );
  const at = middle + 6;
  const [smooth, flat, seen] = ['N', 'Ng', 'Nc'].map((n) => planes(m, n).map((p) => p[at]));
  expect(Math.hypot(...smooth.map((v, i) => v - flat[i]))).toBeGreaterThan(0.05);
  expect(Math.hypot(...flat)).toBeCloseTo(1, 2);
  // The camera looks along −x with z to its left.
  expect(seen[0]).toBeCloseTo(-smooth[2], 5);
  expect(seen[1]).toBeCloseTo(smooth[1], 5);
  expect(seen[2]).toBeCloseTo(smooth[0], 5);
  expect(planes(m, 'roughness')[0][middle]).toBeCloseTo(0.37, 5);
});

describe('openness', () => {
  const under: TestScene = {
    meshes: { floor: plane(0.1, 0.1), ball: transformed(sphere(1, 96), [0, 2, 0]) },
    camera: { position: [0, 0.5, 0.0001], target: [0, 0, 0], up: [0, 0, -1], focalLengthMm: 2000 },
  };
  const bands = async (occlusion: object, t = under) => {
    const features = { features: ['occlusion'], occlusion: { rays: 16, ...occlusion } };
    return (await measure(t, 64, { film: features })).layers.layers.get(OPENNESS.bands)!.planes;
  };
  const meanAt = (planes: Float32Array[], metres: number | null) =>
    opennessAt(planes, metres).reduce((s, v) => s + v, 0) / planes[0].length;
  const open = async (occlusion: object, t = under) => meanAt(await bands(occlusion, t), null);

  test('under a sphere is one less its form factor r²/d²', async () => {
    expect(Math.abs((await open({})) - (1 - 1 / 4))).toBeLessThan(2e-3);
  });

  test('ends at its reach and keeps to its spread', async () => {
    expect(await open({ reachMetres: 0.9 })).toBe(1);
    expect(await open({ reachMetres: 1.1 })).toBeLessThan(1);
    // The sphere is seen under asin(1/2) = 30° from the axis.
    expect(await open({ spreadDegrees: 58 })).toBe(0);
    expect(Math.abs((await open({ spreadDegrees: 90 })) - 0.5)).toBeLessThan(2e-3);
  });
});

test('openness told for a reach after the render is that of a render with this reach, to the bit', async () => {
  const t: TestScene = {
    meshes: {
      floor: plane(6, 6),
      box: transformed(box(1, 2, 1), [0.8, 1, 0]),
      ball: transformed(sphere(0.4, 32), [-0.7, 0.4, 0]),
    },
    materials: { box: { geometry_opacity: 0.5 } },
    camera: { position: [0, 3, 4], target: [0, 0, 0], focalLengthMm: 40 },
  };
  const of = async (reachMetres: number | null) => {
    const film = { features: ['occlusion'], occlusion: { rays: 4, reachMetres } };
    return (await measure(t, 16, { film })).layers.layers.get(OPENNESS.bands)!.planes;
  };
  const whole = await of(null);
  const means: number[] = [];
  for (const number of [4, 7, 9, 11, 14]) {
    const metres = OPEN_REACHES[number];
    expect(reachNumber(metres * 1.1)).toBe(number);
    const scrubbed = opennessAt(whole, metres);
    const apart = opennessAt(await of(metres), null);
    const off = scrubbed.reduce((most, v, i) => Math.max(most, Math.abs(v - apart[i])), 0);
    expect([number, off < 1e-5]).toEqual([number, true]);
    means.push(scrubbed.reduce((s, v) => s + v, 0) / scrubbed.length);
  }
  expect([...means].sort((a, b) => b - a)).toEqual(means);
  expect(means[0] - means[4]).toBeGreaterThan(0.02);
});

test('rays a pixel are counted, and features cost no light', async () => {
  const t: TestScene = { meshes: { ball: sphere(1, 24) }, environment: [1, 1, 1], camera };
  const m = await measure(t, 8);
  const bare = await measure(t, 8, { film: { features: [] } });
  expect(planes(m, 'beauty')[0]).toEqual(planes(bare, 'beauty')[0]);
  const total = planes(m, 'rays')[0].reduce((a, b) => a + b, 0);
  expect(total / m.film.rays().total).toBeCloseTo(1, 5);
  expect(m.film.rays().occlusion).toBeGreaterThan(0);
  expect(bare.film.rays().occlusion).toBe(0);
});

test('a mask by material covers what a mask by object does, asked for alone or together', async () => {
  const t: TestScene = { meshes: { ball: sphere(1, 24), floor: transformed(plane(6, 6), [0, -1, 0]) }, camera };
  const of = async (features: string[]) => measure(t, 16, { film: { features } });
  const both = planes(await of(['coverage', 'coverage_material']), 'coverage_material');
  const alone = planes(await of(['coverage_material']), 'coverage_material');
  expect(alone).toEqual(both);
  const shares = alone.filter((_, k) => k % 2 === 1);
  const alpha = planes(await of(['alpha']), 'alpha')[0];
  alpha.forEach((a, i) => {
    expect(shares.reduce((sum, p) => sum + p[i], 0)).toBeCloseTo(a, 5);
  });
});
