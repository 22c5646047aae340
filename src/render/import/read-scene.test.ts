import { validateBytes } from 'gltf-validator';
import { type Finding, findingsOf, fixFinding, GltfError } from '@/core/gltf';
import { buoyGlb, patchJson } from '@/core/gltf/testing';
import { joinGeometry, lightGroups, makeGradient, meshAt, type Scene, sceneSchema, sphere } from '@/core/scene';
import { numbers } from '../testing';
import { type GivenFile, readSceneFiles } from './read-scene';

const read = (files: GivenFile[]) => readSceneFiles(files, validateBytes);
const glb = async (bytes: Uint8Array) => read([{ path: 'buoy.glb', bytes }]);

/** A .gltf and its .bin: an open box without top, corners shared, no normals, camera, light or material. */
function crate({
  scale = 1,
  uri = 'crate.bin',
  json = {},
}: {
  scale?: number;
  uri?: string;
  json?: object;
} = {}): GivenFile[] {
  const p = [0, 1].flatMap((x) => [0, 1].flatMap((y) => [0, 1].map((z) => [x * scale, y * scale, z * scale])));
  const positions = new Float32Array(p.flat());
  const i = (x: number, y: number, z: number) => x * 4 + y * 2 + z;
  const quad = (a: number, b: number, c: number, d: number) => [a, b, c, a, c, d];
  const indices = new Uint16Array([
    ...quad(i(0, 0, 0), i(1, 0, 0), i(1, 0, 1), i(0, 0, 1)),
    ...quad(i(0, 0, 1), i(1, 0, 1), i(1, 1, 1), i(0, 1, 1)),
    ...quad(i(1, 0, 0), i(0, 0, 0), i(0, 1, 0), i(1, 1, 0)),
    ...quad(i(1, 0, 1), i(1, 0, 0), i(1, 1, 0), i(1, 1, 1)),
    ...quad(i(0, 0, 0), i(0, 0, 1), i(0, 1, 1), i(0, 1, 0)),
  ]);
  const bin = new Uint8Array(positions.byteLength + indices.byteLength);
  bin.set(new Uint8Array(positions.buffer));
  bin.set(new Uint8Array(indices.buffer), positions.byteLength);
  const document = {
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ name: 'crate', mesh: 0 }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0 }, indices: 1 }] }],
    accessors: [
      { bufferView: 0, componentType: 5126, count: 8, type: 'VEC3', min: [0, 0, 0], max: [scale, scale, scale] },
      { bufferView: 1, componentType: 5123, count: indices.length, type: 'SCALAR' },
    ],
    bufferViews: [
      { buffer: 0, byteLength: positions.byteLength },
      { buffer: 0, byteOffset: positions.byteLength, byteLength: indices.byteLength },
    ],
    buffers: [{ uri, byteLength: bin.byteLength }],
    ...json,
  };
  return [
    { path: 'wares/crate.gltf', bytes: new TextEncoder().encode(JSON.stringify(document)) },
    { path: 'wares/crate.bin', bytes: bin },
  ];
}

const meshAtName = (s: Scene, name: string) =>
  meshAt(s.geometry, s.document.geometry.meshes.find((m) => m.name === name)!);
const codes = (findings: Finding[]) => findings.map((f) => f.code);

test('lamps and what glows share a light group until one for each is taken, which is proposed', async () => {
  const lamps = ['hall', 'stair', 'desk', 'porch', 'cellar'];
  const { scene, findings } = await read(
    crate({
      json: {
        extensionsUsed: ['KHR_lights_punctual'],
        extensions: { KHR_lights_punctual: { lights: lamps.map((_, i) => ({ type: 'point', intensity: i + 1 })) } },
        materials: [{ name: 'ember', emissiveFactor: [1, 0.4, 0.1] }],
        meshes: [{ primitives: [{ attributes: { POSITION: 0 }, indices: 1, material: 0 }] }],
        nodes: [
          { name: 'crate', mesh: 0 },
          ...lamps.map((name, light) => ({ name, extensions: { KHR_lights_punctual: { light } } })),
        ],
        scenes: [{ nodes: [0, 1, 2, 3, 4, 5] }],
      },
    }),
  );
  expect(lightGroups(scene.document)).toEqual(['lights', 'other']);
  const found = findings.find((f) => f.code === 'light-groups')!;
  expect(found.words).toMatch(/^6 sources of light/);
  const grouped = fixFinding(scene, found).document;
  expect(lightGroups({ ...grouped, environment: makeGradient() })).toEqual([...lamps, 'sky', 'crate']);
});

test('a glTF with its file is read, what it lacks is found, and fixes mend it', async () => {
  const { scene, findings, name } = await read(crate());
  expect(name).toBe('crate');
  expect(scene.document.objects).toHaveLength(1);
  expect(codes(findings)).toEqual(['no-camera', 'no-light', 'no-normals', 'no-material']);
  const fix = (code: string) => fixFinding(scene, findings.find((f) => f.code === code)!);
  const flat = meshAtName(scene, '0.0');
  const smooth = meshAtName(fix('no-normals'), '0.0');
  // Flat: three corners in one place look three ways; smooth: one way.
  const at = (m: typeof flat) => {
    const seen = new Set<string>();
    for (let v = 0; v < m.positions.length / 3; v++)
      if (m.positions[v * 3] === 0 && m.positions[v * 3 + 1] === 0 && m.positions[v * 3 + 2] === 0)
        seen.add(Array.from(m.normals.slice(v * 3, v * 3 + 3), (c) => c.toFixed(3)).join());
    return seen.size;
  };
  expect(at(flat)).toBe(3);
  expect(at(smooth)).toBe(1);
  expect(fix('no-material').document.materials[0]).toMatchObject({ base_metalness: 0, base_color: [0.18, 0.18, 0.18] });
});

test('a scene in centimetres is asked about, and shrunk with its cameras and lights', async () => {
  const { scene, findings } = await read(crate({ scale: 300 }));
  const large = findings.find((f) => f.code === 'too-large')!;
  expect(large.words).toMatch(/300 m across/);
  const small = fixFinding(scene, large);
  expect(small.document.objects[0].transform![0]).toBeCloseTo(0.01);
  expect(small.document.cameras[0].position[2]).toBeCloseTo(scene.document.cameras[0].position[2] / 100);
});

test('glass without thickness and shells turned inside out are found', async () => {
  const open = await read(
    crate({
      json: {
        materials: [
          {
            name: 'glass',
            extensions: {
              KHR_materials_transmission: { transmissionFactor: 1 },
              KHR_materials_volume: { thicknessFactor: 1 },
            },
          },
        ],
        extensionsUsed: ['KHR_materials_transmission', 'KHR_materials_volume'],
        meshes: [{ primitives: [{ attributes: { POSITION: 0 }, indices: 1, material: 0 }] }],
      },
    }),
  );
  const finding = open.findings.find((f) => f.code === 'open-glass')!;
  expect(finding.about).toEqual(['crate']);
  expect(fixFinding(open.scene, finding).document.materials[0].geometry_thin_walled).toBe(true);
  const inside = await glb(
    await buoyGlb((d) => {
      const indices = d.getRoot().listMeshes()[0].listPrimitives()[0].getIndices()!;
      const a = indices.getArray()!.slice();
      for (let t = 0; t < a.length; t += 3) [a[t + 1], a[t + 2]] = [a[t + 2], a[t + 1]];
      indices.setArray(a);
    }),
  );
  const turned = inside.findings.find((f) => f.code === 'inverted')!;
  expect(turned.about).toEqual(['buoy']);
  const mended = fixFinding(inside.scene, turned);
  expect(
    codes(findingsOf(mended, { withoutNormals: [], withoutMaterial: [], doubled: [], cameraMade: false })),
  ).not.toContain('inverted');
});

test('names given twice are told apart and said; an extension that is not read warns by name', async () => {
  const bytes = await buoyGlb((d) => {
    const [mesh] = d.getRoot().listMeshes();
    d.getRoot()
      .listScenes()[0]
      .addChild(d.createNode('buoy').setMesh(mesh).setTranslation([4, 0, 0]));
  });
  const { findings, scene } = await glb(bytes);
  expect(findings.find((f) => f.code === 'doubled-names')!.about).toEqual(['buoy']);
  expect(scene.document.objects.map((o) => o.name)).toEqual(['buoy', 'buoy 2']);
  const odd = await glb(patchJson(await buoyGlb(), (j) => (j.extensionsUsed = ['KHR_materials_sheen'])));
  expect(odd.warnings.join()).toMatch(/KHR_materials_sheen/);
});

/** Ways to break a file, each of which must be refused in words. */
const hostile: [string, () => Promise<GivenFile[]> | GivenFile[]][] = [
  ['nothing at all', () => [{ path: 'a.glb', bytes: new Uint8Array(0) }]],
  ['text under another name', () => [{ path: 'a.glb', bytes: new TextEncoder().encode('hello') }]],
  ['a picture alone', () => [{ path: 'a.png', bytes: new Uint8Array(8) }]],
  ['an absolute URI', () => crate({ uri: '/etc/passwd' })],
  ['a URI that leaves the folder', () => crate({ uri: '../../secret.bin' })],
  ['an escaped URI that leaves the folder', () => crate({ uri: '%2e%2e/secret.bin' })],
  ['a web address', () => crate({ uri: 'https://example.org/crate.bin' })],
  ['a file address', () => crate({ uri: 'file:///etc/passwd' })],
  ['a missing file', () => crate({ uri: 'other.bin' })],
  ['a short data URI', () => crate({ uri: 'data:application/octet-stream;base64,AAAA' })],
  ['a data URI that is no base64', () => crate({ uri: 'data:application/octet-stream;base64,@@@' })],
  ['a buffer larger than its file', () => crate({ json: { buffers: [{ uri: 'crate.bin', byteLength: 2 ** 31 }] } })],
  ['a list that is a number', () => crate({ json: { bufferViews: 7 } })],
  ['nodes in a circle', () => crate({ json: { nodes: [{ mesh: 0, children: [1] }, { children: [0] }] } })],
  ['a node that is its own child', () => crate({ json: { nodes: [{ mesh: 0, children: [0] }] } })],
  [
    'a required extension nobody knows',
    () => crate({ json: { extensionsRequired: ['ACME_fog'], extensionsUsed: ['ACME_fog'] } }),
  ],
  ['version 1', () => crate({ json: { asset: { version: '1.0' } } })],
  ['no scene', () => crate({ json: { scene: undefined, scenes: [] } })],
  [
    'an accessor beyond its buffer',
    () =>
      crate({
        json: {
          accessors: [
            { bufferView: 0, componentType: 5126, count: 1e9, type: 'VEC3' },
            { bufferView: 1, componentType: 5123, count: 30, type: 'SCALAR' },
          ],
        },
      }),
  ],
  [
    'a negative count',
    () => crate({ json: { accessors: [{ bufferView: 0, componentType: 5126, count: -1, type: 'VEC3' }] } }),
  ],
];

test.each(hostile)('%s is refused in words that name the file', async (_, make) => {
  const files = await make();
  await expect(read(files)).rejects.toBeInstanceOf(GltfError);
  const error = await read(files).catch((e) => e as Error);
  expect((error as Error).message.length).toBeGreaterThan(10);
  expect((error as Error).message).not.toMatch(/undefined|\[object|TypeError|Cannot read/);
});

test('one hundred and eighty truncated, flipped and swollen files are each refused, or are whole', async () => {
  const bytes = await buoyGlb();
  const jsonEnd = 20 + new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true);
  const next = numbers(77);
  let refused = 0;
  let whole = 0;
  for (let i = 0; i < 180; i++) {
    let file = bytes.slice();
    if (i % 3 === 0) file = bytes.slice(0, Math.floor(next() * (bytes.length - 1)));
    // A bit of the container or the JSON, where every one of them means something.
    else if (i % 3 === 1) file[Math.floor(next() * jsonEnd)] ^= 1 << Math.floor(next() * 8);
    else
      new DataView(file.buffer).setUint32(
        [8, 12, jsonEnd][i % 9 === 2 ? 0 : i % 9 === 5 ? 1 : 2],
        2 ** 30 + Math.floor(next() * 2 ** 31),
        true,
      );
    try {
      const { scene } = await glb(file);
      // A bit in a name or a colour leaves a file that is right.
      expect(scene.document.objects.length).toBeGreaterThan(0);
      whole++;
    } catch (error) {
      if (!(error instanceof GltfError)) throw new Error(`file ${i}: ${(error as Error).stack}`);
      expect(error.message).toMatch(/^buoy\.glb: .{5,}/);
      refused++;
    }
  }
  expect(refused).toBeGreaterThan(140);
  expect(refused + whole).toBe(180);
});

test('a liquid that does not reach its vessel’s glass is found, one that overlaps it is not', () => {
  const make = (water: number): Scene => {
    const { bytes, entries } = joinGeometry({ cup: shell(0.05, 0.046), water: sphere(water, 48) });
    const document = sceneSchema.parse({
      schema: 1,
      name: 'cup',
      cameras: [{ name: 'c', position: [0, 0, 1], target: [0, 0, 0] }],
      materials: [
        { name: 'glass', transmission_weight: 1, specular_ior: 1.52 },
        { name: 'water', transmission_weight: 1, specular_ior: 1.333 },
      ],
      objects: [
        { name: 'cup', mesh: 'cup', material: 'glass' },
        { name: 'water', mesh: 'water', material: 'water' },
      ],
      geometry: { hash: '', bytes: bytes.byteLength, meshes: entries },
    });
    return { document, geometry: bytes, pictures: new Map() };
  };
  const shell = (outer: number, inner: number) => {
    const [a, b] = [sphere(outer, 48), sphere(inner, 48)];
    const n = a.positions.length / 3;
    const turned = b.indices.slice();
    for (let t = 0; t < turned.length; t += 3) [turned[t + 1], turned[t + 2]] = [turned[t + 2], turned[t + 1]];
    return {
      positions: Float32Array.from([...a.positions, ...b.positions]),
      normals: Float32Array.from([...a.normals, ...b.normals.map((v) => -v)]),
      indices: Uint32Array.from([...a.indices, ...turned.map((i) => i + n)]),
    };
  };
  const notes = { withoutNormals: [], withoutMaterial: [], doubled: [], cameraMade: false };
  const gap = findingsOf(make(0.044), notes).find((f) => f.code === 'liquid-gap');
  expect(gap?.words).toMatch(/water ends \d+\.\d\d mm before the wall of cup/);
  expect(codes(findingsOf(make(0.047), notes))).not.toContain('liquid-gap');
});
