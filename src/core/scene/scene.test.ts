import { GltfError, readGlb } from '../gltf';
import { buoyGlb, patchJson } from '../gltf/testing';
import { SHOTS } from '../shots';
import {
  box,
  extrude,
  joinGeometry,
  lathe,
  lightGroups,
  type Mesh,
  merge,
  meshAt,
  plane,
  sphere,
  sweep,
  transformed,
} from '.';

/** Signed volume: positive when triangles face outwards. */
function volume(m: Mesh): number {
  const p = (i: number) => [m.positions[i * 3], m.positions[i * 3 + 1], m.positions[i * 3 + 2]];
  let v = 0;
  for (let t = 0; t < m.indices.length; t += 3) {
    const [a, b, c] = [p(m.indices[t]), p(m.indices[t + 1]), p(m.indices[t + 2])];
    v +=
      (a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2]) + a[2] * (b[0] * c[1] - b[1] * c[0])) /
      6;
  }
  return v;
}

/** How many edges, of vertices welded by place, are not shared by exactly two triangles in opposite order. */
function openEdges(m: Mesh): number {
  const key = (i: number) => [0, 1, 2].map((k) => Math.round(m.positions[i * 3 + k] * 1e5)).join();
  const edges = new Map<string, number>();
  for (let t = 0; t < m.indices.length; t += 3) {
    for (let k = 0; k < 3; k++) {
      const a = key(m.indices[t + k]);
      const b = key(m.indices[t + ((k + 1) % 3)]);
      if (a === b) continue;
      const name = a < b ? `${a}|${b}` : `${b}|${a}`;
      edges.set(name, (edges.get(name) ?? 0) + (a < b ? 1 : -1));
    }
  }
  return [...edges.values()].filter((n) => n !== 0).length;
}

describe('generators', () => {
  const circle = Array.from({ length: 24 }, (_, i): [number, number, number] => [
    Math.cos((i / 24) * 2 * Math.PI),
    0,
    Math.sin((i / 24) * 2 * Math.PI),
  ]);
  test.each([
    ['box', box(1, 2, 3), 6],
    ['sphere', sphere(1, 64), (4 / 3) * Math.PI],
    [
      'cylinder by lathe',
      lathe(
        [
          [0, 0],
          [1, 0],
          [1, 2],
          [0, 2],
        ],
        96,
      ),
      2 * Math.PI,
    ],
    [
      'ring by lathe',
      lathe(
        [
          [1, 0],
          [2, 0],
          [2, 1],
          [1, 1],
        ],
        96,
        { closed: true },
      ),
      3 * Math.PI,
    ],
    [
      'extruded square',
      extrude(
        [
          [0, 0],
          [1, 0],
          [1, 1],
          [0, 1],
        ],
        2,
      ),
      2,
    ],
    [
      'straight tube',
      sweep(
        [
          [0, 0, 0],
          [0, 0, 1],
          [0, 0, 2],
        ],
        0.5,
        64,
      ),
      0.5 * Math.PI,
    ],
    ['closed tube', sweep(circle, 0.1, 32, true), 2 * Math.PI ** 2 * 0.01],
  ])('%s is closed, faces outwards and has its volume', (_, mesh, expected) => {
    expect(openEdges(mesh)).toBe(0);
    expect(volume(mesh) / expected).toBeGreaterThan(0.97);
    expect(volume(mesh) / expected).toBeLessThan(1.01);
  });

  test('normals are of unit length and lie on the side of the winding', () => {
    for (const m of [
      sphere(1, 24),
      lathe(
        [
          [0.5, 0],
          [1, 1],
          [0.4, 2],
        ],
        24,
      ),
      sweep(circle, 0.2, 12, true),
      plane(1, 1),
    ]) {
      for (let t = 0; t < m.indices.length; t += 3) {
        const [a, b, c] = [0, 1, 2].map((k) =>
          Array.from(m.positions.subarray(m.indices[t + k] * 3, m.indices[t + k] * 3 + 3)),
        );
        const u = b.map((v, i) => v - a[i]);
        const w = c.map((v, i) => v - a[i]);
        const face = [u[1] * w[2] - u[2] * w[1], u[2] * w[0] - u[0] * w[2], u[0] * w[1] - u[1] * w[0]];
        if (Math.hypot(...face) < 1e-9) continue;
        const n = Array.from(m.normals.subarray(m.indices[t] * 3, m.indices[t] * 3 + 3));
        expect(Math.hypot(...n)).toBeCloseTo(1, 4);
        expect(n[0] * face[0] + n[1] * face[1] + n[2] * face[2]).toBeGreaterThan(0);
      }
    }
  });

  test('moving, turning, merging and joining keep triangles', () => {
    const m = merge([transformed(box(1, 1, 1), [5, 0, 0], 1.1), box(2, 2, 2)]);
    expect(volume(m)).toBeCloseTo(9, 4);
    const { bytes, entries } = joinGeometry({ a: box(1, 1, 1), b: m });
    const odd = new Uint8Array(bytes.length + 1);
    odd.set(bytes, 1);
    expect(volume(meshAt(bytes, entries[1]))).toBeCloseTo(9, 4);
    expect(volume(meshAt(odd.subarray(1), entries[1]))).toBeCloseTo(9, 4);
    expect(() => meshAt(bytes.subarray(0, 50), entries[1])).toThrow(/exceed the geometry/);
  });
});

describe('demo shot', () => {
  const scene = SHOTS['lantern-room']();
  test('is the same every time, large enough, and has its groups', () => {
    const again = SHOTS['lantern-room']();
    expect(Buffer.from(again.geometry).equals(Buffer.from(scene.geometry))).toBe(true);
    expect(scene.document.geometry.meshes.reduce((n, m) => n + m.triangles, 0)).toBeGreaterThan(20000);
    expect(lightGroups(scene.document)).toEqual(['lamp', 'inspection_light', 'instrument_glow', 'beam', 'night_sky']);
  });

  test('its glass has two sides', () => {
    const prisms = scene.document.geometry.meshes.find((m) => m.name === 'prisms')!;
    const mesh = meshAt(scene.geometry, prisms);
    expect(openEdges(mesh)).toBe(0);
    expect(volume(mesh)).toBeGreaterThan(0);
  });
});

describe('GLB', () => {
  test('meshes, materials and camera are read', async () => {
    const { scene, warnings } = await readGlb(await buoyGlb(), 'buoy');
    const { materials, objects, cameras } = scene.document;
    expect(warnings).toEqual([]);
    expect(materials[0]).toMatchObject({
      name: 'buoy red',
      base_metalness: 0.25,
      specular_roughness: 0.4,
      emission_luminance: 1,
    });
    expect(materials[0].emission_color).toEqual([1, 0.5, 0]);
    expect(objects[0].transform?.slice(12, 15)).toEqual([1, 2, 3]);
    expect(cameras[0].position).toEqual([0, 0, 9]);
    expect(36 / (2 * cameras[0].focalLengthMm)).toBeCloseTo(Math.tan(0.3) * 1.5, 6);
  });

  test('transmission, ior and volume become OpenPBR terms', async () => {
    const bytes = patchJson(await buoyGlb(), (json) => {
      json.extensionsUsed = [
        'KHR_materials_transmission',
        'KHR_materials_volume',
        'KHR_materials_ior',
        'KHR_materials_sheen',
      ];
      json.materials[0].extensions = {
        KHR_materials_transmission: { transmissionFactor: 1 },
        KHR_materials_volume: { thicknessFactor: 1, attenuationDistance: 2, attenuationColor: [0.5, 0.6, 0.7] },
        KHR_materials_ior: { ior: 1.33 },
      };
    });
    const { scene, warnings } = await readGlb(bytes, 'glass');
    expect(scene.document.materials[0]).toMatchObject({
      transmission_weight: 1,
      transmission_depth: 2,
      specular_ior: 1.33,
      geometry_thin_walled: false,
    });
    expect(warnings).toEqual(['extension KHR_materials_sheen is not read']);
  });

  test('a file without a camera gets one that has everything in view, and says so', async () => {
    const { scene, warnings, notes } = await readGlb(
      await buoyGlb((d) => d.getRoot().listCameras()[0].dispose()),
      'buoy',
    );
    expect(notes.cameraMade).toBe(true);
    expect(warnings.join()).toMatch(/no perspective camera/);
    const [camera] = scene.document.cameras;
    // The buoy has a radius of 1 about (1, 2, 3).
    expect(camera.target).toEqual([1, 2, 3].map((c) => expect.closeTo(c, 3)));
    expect(camera.position[2]).toBeGreaterThan(6);
  });

  test.each([
    ['not a GLB', async () => new Uint8Array(40), /must begin with glTF/],
    ['cut short', async () => (await buoyGlb()).slice(0, 200), /header says/],
    ['no triangles', () => buoyGlb((d) => d.getRoot().listMeshes()[0].dispose()), /no triangles/],
    [
      'unknown required extension',
      async () => patchJson(await buoyGlb(), (j) => (j.extensionsRequired = ['EXT_mystery'])),
      /required extension EXT_mystery is not supported/,
    ],
    [
      'broken JSON',
      async () => {
        const b = await buoyGlb();
        b[24] = 1;
        return b;
      },
      /JSON chunk/,
    ],
  ])('%s is refused in words', async (_, make, message) => {
    const bytes = await make();
    await expect(readGlb(bytes, 'x')).rejects.toThrow(message);
    await expect(readGlb(bytes, 'x')).rejects.toBeInstanceOf(GltfError);
  });
});
