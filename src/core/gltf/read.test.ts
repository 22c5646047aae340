import { encode } from 'fast-png';
import { encode as encodeJpeg } from 'jpeg-js';
import { pictureAt } from '../scene';
import { readGlb } from '.';
import { buoyGlb, patchJson } from './testing';

/** A 2×1 picture: red beside half-transparent blue. */
const pixels = new Uint8Array([255, 0, 0, 255, 0, 0, 255, 100]);
const png = encode({ width: 2, height: 1, channels: 4, depth: 8, data: pixels });
const jpeg = new Uint8Array(encodeJpeg({ width: 2, height: 1, data: Buffer.from(pixels) }, 100).data);

/** The buoy with texture coordinates, pictures in its buffer, and its JSON changed. */
// biome-ignore lint/suspicious/noExplicitAny: a test changes raw JSON at will
async function pictured(change: (json: any) => void, picture = png): Promise<Uint8Array> {
  const bytes = await buoyGlb((d) => {
    const buffer = d.getRoot().listBuffers()[0];
    const primitive = d.getRoot().listMeshes()[0].listPrimitives()[0];
    const count = primitive.getAttribute('POSITION')!.getCount();
    const uv = d
      .createAccessor()
      .setType('VEC2')
      .setArray(new Float32Array(count * 2).fill(0.25))
      .setBuffer(buffer);
    primitive.setAttribute('TEXCOORD_0', uv);
    const texture = d
      .createTexture('paint')
      .setImage(picture)
      .setMimeType(picture === png ? 'image/png' : 'image/jpeg');
    d.getRoot().listMaterials()[0].setBaseColorTexture(texture);
  });
  return patchJson(bytes, change);
}

describe('textures of a GLB', () => {
  test.each([
    ['PNG', png],
    ['JPEG', jpeg],
  ])('a %s is taken with its coordinates, placement and wrapping', async (_, picture) => {
    const bytes = await pictured((json) => {
      json.extensionsUsed = ['KHR_texture_transform'];
      json.samplers = [{ wrapS: 33071 }];
      json.textures[0].sampler = 0;
      json.materials[0].pbrMetallicRoughness.baseColorTexture.extensions = {
        KHR_texture_transform: { offset: [0.1, 0.2], rotation: Math.PI / 2, scale: [2, 3] },
      };
    }, picture);
    const { scene, warnings } = await readGlb(bytes, 'buoy');
    expect(warnings).toEqual([]);
    expect(scene.document.materials[0].textures).toEqual([
      expect.objectContaining({
        input: 'base_color',
        offset: [0.1, 0.2],
        rotationDegrees: 90,
        scale: [2, 3],
        wrap: 'clamp',
      }),
    ]);
    const entry = scene.document.geometry.pictures[0];
    const read = pictureAt(scene.geometry, entry);
    expect([read.width, read.height, read.channels]).toEqual([2, 1, 4]);
    if (picture === png) expect([...read.values]).toEqual([...pixels]);
    else expect(read.values[3]).toBe(255);
    expect(scene.document.geometry.meshes[0].uvs).toBe(true);
  });

  test('MASK cuts the picture at its cutoff, BLEND keeps its alpha', async () => {
    const mask = await readGlb(
      await pictured((json) => {
        json.materials[0].alphaMode = 'MASK';
        json.materials[0].alphaCutoff = 0.6;
      }),
      'buoy',
    );
    const cut = mask.scene.document.materials[0].textures.find((t) => t.input === 'geometry_opacity')!;
    const entry = mask.scene.document.geometry.pictures.find((p) => p.name === cut.picture)!;
    expect([...pictureAt(mask.scene.geometry, entry).values]).toEqual([255, 0]);
    const blend = await readGlb(
      await pictured((json) => {
        json.materials[0].alphaMode = 'BLEND';
        json.materials[0].pbrMetallicRoughness.baseColorFactor = [1, 1, 1, 0.5];
      }),
      'buoy',
    );
    expect(blend.scene.document.materials[0]).toMatchObject({ geometry_opacity: 0.5 });
    expect(blend.scene.document.materials[0].textures.map((t) => [t.input, t.channel])).toContainEqual([
      'geometry_opacity',
      'a',
    ]);
  });

  test.each([
    [
      'a picture outside the file',
      (json: { images: unknown[] }) => (json.images[0] = { uri: 'paint.png' }),
      /only pictures within the file/,
    ],
    [
      'a picture cut short',
      (json: { bufferViews: { byteLength: number }[]; images: { bufferView: number }[] }) =>
        (json.bufferViews[json.images[0].bufferView].byteLength = 9),
      /picture 0: /,
    ],
  ])('%s is left out with a warning', async (_, change, message) => {
    const bytes = await pictured(change as never);
    const read = await readGlb(bytes, 'buoy').catch((error: Error) => error);
    // Either the container is refused in words, or the picture alone is left out.
    if (read instanceof Error) expect(read.message.length).toBeGreaterThan(5);
    else {
      expect(read.warnings.join('\n')).toMatch(message);
      expect(read.scene.document.materials[0].textures).toEqual([]);
    }
  });
});

test('coat, specular, anisotropy and dispersion become OpenPBR terms', async () => {
  const bytes = patchJson(await buoyGlb(), (json) => {
    json.materials[0].extensions = {
      KHR_materials_clearcoat: { clearcoatFactor: 0.7, clearcoatRoughnessFactor: 0.1 },
      KHR_materials_specular: { specularFactor: 0.4, specularColorFactor: [1, 0.5, 0.25] },
      KHR_materials_anisotropy: { anisotropyStrength: 0.6, anisotropyRotation: Math.PI / 4 },
      KHR_materials_dispersion: { dispersion: 0.5 },
    };
    json.extensionsUsed = Object.keys(json.materials[0].extensions);
  });
  const { scene, warnings } = await readGlb(bytes, 'buoy');
  expect(warnings).toEqual(['material buoy red: where it is metal its specular colour tints the edges']);
  expect(scene.document.materials[0]).toMatchObject({
    coat_weight: 0.7,
    coat_roughness: 0.1,
    specular_weight: 0.4,
    specular_color: [1, 0.5, 0.25],
    geometry_tangent_degrees: 45,
    transmission_dispersion_abbe_number: 40,
  });
});

test('punctual lights stand where their nodes do, in candela and lux', async () => {
  const bytes = patchJson(await buoyGlb(), (json) => {
    json.extensionsUsed = ['KHR_lights_punctual'];
    json.extensions = {
      KHR_lights_punctual: {
        lights: [
          { type: 'point', intensity: 20, color: [1, 0.5, 0.2] },
          { type: 'spot', intensity: 50, spot: { innerConeAngle: 0.2, outerConeAngle: 0.4 } },
          { type: 'directional', intensity: 3 },
        ],
      },
    };
    const [buoy, quay] = [
      json.nodes.findIndex((n: { mesh?: number }) => n.mesh !== undefined),
      json.nodes.findIndex((n: { camera?: number }) => n.camera !== undefined),
    ];
    json.nodes[buoy].extensions = { KHR_lights_punctual: { light: 0 } };
    json.nodes[quay].extensions = { KHR_lights_punctual: { light: 1 } };
    json.nodes.push({
      rotation: [-Math.SQRT1_2, 0, 0, Math.SQRT1_2],
      extensions: { KHR_lights_punctual: { light: 2 } },
    });
    json.scenes[0].nodes.push(json.nodes.length - 1);
  });
  const { scene } = await readGlb(bytes, 'buoy');
  const [point, spot, sun] = ['point', 'spot', 'distant'].map((k) => scene.document.lights.find((l) => l.kind === k)!);
  expect(point).toMatchObject({ power: 20, unit: 'candela', position: [1, 2, 3], color: [1, 0.5, 0.2] });
  expect(spot).toMatchObject({ power: 50, position: [0, 0, 9], softness: 0.5 });
  expect(spot.kind === 'spot' && spot.facing[2]).toBeCloseTo(-1, 6);
  expect(spot.kind === 'spot' && spot.coneDegrees).toBeCloseTo((0.8 * 180) / Math.PI, 4);
  // Turned by −90° about x, −z points down.
  expect(sun.kind === 'distant' && sun.facing[1]).toBeCloseTo(-1, 6);
});

test('a node that places its mesh many times', async () => {
  const bytes = await buoyGlb((d) => {
    const buffer = d.getRoot().listBuffers()[0];
    const array = new Float32Array([0, 0, 0, 5, 0, 0, 0, 0, -7]);
    // Held by the file through a mesh of its own, so that it is written.
    const accessor = d.createAccessor('places').setType('VEC3').setArray(array).setBuffer(buffer);
    d.getRoot().listMeshes()[0].listPrimitives()[0].setAttribute('_PLACES', accessor);
  });
  const placed = patchJson(bytes, (json) => {
    const primitive = json.meshes[0].primitives[0];
    const index = primitive.attributes._PLACES;
    delete primitive.attributes._PLACES;
    json.extensionsUsed = ['EXT_mesh_gpu_instancing'];
    json.nodes.find((n: { mesh?: number }) => n.mesh !== undefined).extensions = {
      EXT_mesh_gpu_instancing: { attributes: { TRANSLATION: index } },
    };
  });
  const { scene } = await readGlb(placed, 'buoys');
  expect(scene.document.objects.map((o) => o.transform!.slice(12, 15))).toEqual([
    [1, 2, 3],
    [6, 2, 3],
    [1, 2, -4],
  ]);
});
