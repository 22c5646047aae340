import { isAnimated, lightGroups, meshAt, type Scene } from '../scene';
import { SHOTS } from '.';

/** Edges of a mesh that no second triangle shares the other way round; places, not vertices, tell corners apart. */
function openEdges(positions: Float32Array, indices: Uint32Array): number {
  const key = (i: number) => [0, 1, 2].map((k) => Math.round(positions[i * 3 + k] * 1e6)).join(',');
  const edges = new Map<string, number>();
  for (let t = 0; t < indices.length; t += 3) {
    const corners = [0, 1, 2].map((k) => key(indices[t + k]));
    if (new Set(corners).size < 3) continue;
    for (let k = 0; k < 3; k++) {
      const [a, b] = [corners[k], corners[(k + 1) % 3]];
      const back = `${b} ${a}`;
      const here = `${a} ${b}`;
      if ((edges.get(back) ?? 0) > 0) edges.set(back, edges.get(back)! - 1);
      else edges.set(here, (edges.get(here) ?? 0) + 1);
    }
  }
  return [...edges.values()].reduce((sum, n) => sum + n, 0);
}

describe.each(Object.keys(SHOTS))('%s', (name) => {
  let scene: Scene;
  beforeAll(() => {
    scene = SHOTS[name]();
  });

  test('is the same every time, of honest size, with names of its own and several light groups', () => {
    const again = SHOTS[name]();
    expect(again.document).toEqual(scene.document);
    expect(Buffer.compare(Buffer.from(again.geometry), Buffer.from(scene.geometry))).toBe(0);
    const triangles = scene.document.geometry.meshes.reduce((n, m) => n + m.triangles, 0);
    expect(triangles).toBeGreaterThan(50e3);
    expect(triangles).toBeLessThan(500e3);
    const names = scene.document.objects.map((o) => o.name);
    expect(new Set(names).size).toBe(names.length);
    expect(lightGroups(scene.document).length).toBeGreaterThanOrEqual(2);
  });

  test('its glass and liquids are closed solids', () => {
    const { objects, materials, geometry } = scene.document;
    for (const o of objects) {
      const m = materials.find((x) => x.name === o.material)!;
      if (m.transmission_weight === 0 || m.geometry_thin_walled) continue;
      const mesh = meshAt(scene.geometry, geometry.meshes.find((x) => x.name === o.mesh)!);
      expect([o.name, openEdges(mesh.positions, mesh.indices)]).toEqual([o.name, 0]);
    }
  });
});

test('the quay has 48 frames in which boat, buoy and pennant move', () => {
  const { document } = SHOTS['quay-dawn']();
  expect(document.frames).toMatchObject({ first: 1, last: 48 });
  expect(isAnimated(document)).toBe(true);
  for (const name of ['boat', 'buoy', 'pennant']) {
    const { motion } = document.objects.find((o) => o.name === name)!;
    expect(motion!.at(-1)!.frame).toBeGreaterThanOrEqual(48.25);
  }
});
