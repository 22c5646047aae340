import { validateBytes } from 'gltf-validator';
import { filmHash } from '@/render/node/film-digest';
import { MAX_PLANES } from '@/render/pool/protocol';
import { renderTest, testKernel, testRecipe } from '@/render/testing';
import { prepareScene } from '../kernel';
import { assembleRead, emptyShot, type Form, formMesh, joinGeometry, meshAt, type Scene, sceneSchema } from '../scene';
import { SHOTS } from '../shots';
import { readGlb, writeGlb } from '.';

/** A scene of some forms, with everything that glTF has words for. */
function scene(): Scene {
  const forms: Form[] = [
    { kind: 'ball', name: 'ball', radius: 0.5, segments: 24 },
    { kind: 'box', name: 'crate', width: 1, height: 0.6, depth: 0.4 },
    { kind: 'plane', name: 'floor', width: 8, depth: 8 },
  ];
  const { bytes, entries, pictures } = joinGeometry(Object.fromEntries(forms.map((f) => [f.name, formMesh(f)])), {
    stripes: {
      width: 2,
      height: 2,
      channels: 3,
      values: new Uint8Array([255, 0, 0, 0, 255, 0, 0, 0, 255, 90, 80, 70]),
    },
    glowing: { width: 1, height: 1, channels: 3, values: new Float32Array([1.5, 0.5, 0.25]) },
  });
  const at = (x: number, y: number, z: number) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, z, 1];
  const document = sceneSchema.parse({
    schema: 1,
    name: 'pier',
    cameras: [
      { name: 'front', position: [0, 1.2, 4], target: [0, 0.4, 0], clipNear: 0.1, clipFar: 60, fStop: 2.8 },
      { name: 'high', position: [0, 4, 0.1], target: [0, 0, 0] },
    ],
    materials: [
      {
        name: 'glass',
        transmission_weight: 1,
        specular_ior: 1.52,
        transmission_depth: 0.2,
        transmission_color: [0.7, 0.9, 0.8],
        specular_roughness: 0,
      },
      {
        name: 'paint',
        base_color: [0.6, 0.1, 0.05],
        coat_weight: 0.5,
        textures: [{ input: 'base_color', picture: 'stripes', scale: [2, 2] }],
      },
      { name: 'stone', specular_weight: 0.4, base_diffuse_roughness: 0.7 },
      { name: 'ember', emission_luminance: 6, emission_color: [1, 0.4, 0.1], light_group: 'ember' },
    ],
    objects: [
      { name: 'float', mesh: 'ball', material: 'glass', transform: at(-0.8, 0.6, 0) },
      { name: 'crate', mesh: 'crate', material: 'paint', transform: at(0.6, 0.3, 0), rules: { samples: 2 } },
      { name: 'pier', mesh: 'floor', material: 'stone' },
      {
        name: 'coal',
        mesh: 'ball',
        material: 'ember',
        transform: [0.1, 0, 0, 0, 0, 0.1, 0, 0, 0, 0, 0.1, 0, 0, 0.1, 0.7, 1],
      },
    ],
    lights: [
      {
        kind: 'rectangle',
        name: 'window',
        group: 'key',
        power: 12,
        position: [2, 3, 2],
        facing: [-2, -3, -2],
        width: 1,
        height: 1,
      },
      { kind: 'spot', name: 'torch', group: 'torch', power: 20, position: [-2, 2, 2], facing: [2, -2, -2] },
      { kind: 'point', name: 'bulb', group: 'torch', power: 3, position: [0, 2, 1] },
      { kind: 'distant', name: 'moon', power: 0.2, facing: [0, -1, -0.4] },
    ],
    environment: { kind: 'sky', group: 'sky', stops: -12, sun: { heightDegrees: 20, stops: -12 } },
    sets: { wares: ['crate', 'float'] },
    geometry: { hash: '', bytes: bytes.byteLength, meshes: entries, pictures },
  });
  return { document, geometry: bytes, pictures: new Map() };
}

const errorsOf = async (bytes: Uint8Array) =>
  (await validateBytes(bytes, { maxIssues: 50 })).issues.messages
    .filter((m) => m.severity < 2)
    .map((m) => `${m.pointer}: ${m.message}`);

test('a scene goes out as a GLB that the standard’s validator passes, and comes back to the same film', async () => {
  const before = scene();
  const bytes = writeGlb(before.document, before);
  expect(await errorsOf(bytes)).toEqual([]);
  const read = await readGlb(bytes, 'pier');
  expect(read.warnings).toEqual([]);
  const after = assembleRead(read.scene, read.contents);
  expect({ ...after.document, geometry: null }).toEqual({ ...before.document, geometry: null });
  const recipe = testRecipe(32, 4);
  expect(filmHash((await renderTest(after, recipe)).film)).toBe(filmHash((await renderTest(before, recipe)).film));
});

test('what is in the standard’s own terms is enough for others: without ours it still reads as the same shapes', async () => {
  const before = scene();
  const bytes = writeGlb({ ...before.document, cameras: before.document.cameras.slice(0, 1) }, before);
  const view = new DataView(bytes.buffer);
  const length = view.getUint32(12, true);
  const json = JSON.parse(new TextDecoder().decode(bytes.slice(20, 20 + length)));
  json.extras = {};
  const text = new TextEncoder().encode(JSON.stringify(json).padEnd(length, ' '));
  bytes.set(text, 20);
  const { scene: foreign, warnings } = await readGlb(bytes, 'pier');
  expect(warnings).toEqual([]);
  expect(foreign.document.objects.map((o) => o.name)).toEqual(['float', 'crate', 'pier', 'coal']);
  const mesh = (s: Scene, object: string) =>
    meshAt(
      s.geometry,
      s.document.geometry.meshes.find((m) => m.name === s.document.objects.find((o) => o.name === object)!.mesh)!,
    );
  expect(mesh(foreign, 'float').positions).toEqual(mesh(before, 'float').positions);
  const glass = foreign.document.materials.find((m) => m.name === 'glass')!;
  expect(glass).toMatchObject({
    transmission_weight: 1,
    specular_ior: 1.52,
    transmission_depth: 0.2,
    geometry_thin_walled: false,
  });
  expect(foreign.document.lights.map((l) => [l.kind, l.power])).toEqual([
    ['spot', 20],
    ['point', 3],
    ['distant', 0.2],
  ]);
  const camera = foreign.document.cameras[0];
  expect(camera.focalLengthMm * (36 / camera.sensorWidthMm)).toBeCloseTo(35, 2);
  expect(foreign.document.materials.find((m) => m.name === 'ember')!.emission_luminance).toBeCloseTo(6, 5);
});

test('forms and a shot of its own begin as something to see, and travel as forms', async () => {
  const document = { ...emptyShot('begun'), geometry: { hash: '', bytes: 0, meshes: [], pictures: [] } };
  const whole = assembleRead({ document, geometry: new Uint8Array(0), pictures: new Map() }, new Map());
  const { layers } = await renderTest(whole, testRecipe(48, 8));
  const green = layers.layers.get('beauty')!.planes[1];
  expect(green.reduce((a, b) => a + b, 0) / green.length).toBeGreaterThan(0.05);
  const bytes = writeGlb(document, whole);
  expect(await errorsOf(bytes)).toEqual([]);
  const read = await readGlb(bytes, 'begun');
  expect(read.scene.document.forms.map((f) => f.kind).sort()).toEqual(['ball', 'plane']);
});

test.each(Object.keys(SHOTS))('%s goes out as a valid GLB and packs again', async (name) => {
  const shot = SHOTS[name]();
  const bytes = writeGlb(shot.document, shot);
  expect(await errorsOf(bytes)).toEqual([]);
  const read = await readGlb(bytes, name);
  const after = assembleRead(read.scene, read.contents);
  expect(after.document.objects.length).toBe(shot.document.objects.length);
  const triangles = prepareScene(testKernel(), after, MAX_PLANES, 1).triangleCount;
  expect(triangles).toBe(prepareScene(testKernel(), shot, MAX_PLANES, 1).triangleCount);
});

test('an extras.lantern that does not fit its file is refused by the place', async () => {
  const before = scene();
  const broken = writeGlb({ ...before.document, name: '' }, before);
  await expect(readGlb(broken, 'x')).rejects.toThrow(/extras\.lantern\.document\.name/);
});
