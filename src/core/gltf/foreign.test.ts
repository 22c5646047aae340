import { encode } from 'fast-png';
import { meshAt, pictureAt } from '../scene';
import { GltfError, readGlb } from '.';
import { stretched } from './stretch';
import { handMade } from './testing';

/** Files written by hand as the standard has them, and what they must mean. */
const corners = new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0, 1, 1, 0]);

/** A square of two triangles with a material, and what `more` adds to the file. */
function square(
  material: object = {},
  more: (
    hand: ReturnType<typeof handMade>,
    uv: number,
  ) => { json?: object; primitive?: object; node?: object; mesh?: object } = () => ({}),
) {
  const hand = handMade();
  const position = hand.accessor('VEC3', corners);
  const uv = hand.accessor('VEC2', new Float32Array([0, 0, 1, 0, 0, 1, 1, 1]));
  const indices = hand.accessor('SCALAR', new Uint16Array([0, 1, 2, 2, 1, 3]));
  const { json, primitive, node, mesh } = more(hand, uv);
  const used = (material as { extensions?: object }).extensions ?? {};
  return readGlb(
    hand.glb({
      scenes: [{ nodes: [0] }],
      nodes: [{ mesh: 0, name: 'card', ...node }],
      meshes: [
        {
          name: 'square',
          ...mesh,
          primitives: [{ attributes: { POSITION: position, TEXCOORD_0: uv }, indices, material: 0, ...primitive }],
        },
      ],
      materials: [material],
      extensionsUsed: Object.keys(used),
      ...json,
    }),
    'square',
  );
}
const materialOf = async (material: object) => {
  const { scene, warnings } = await square(material);
  return { ...scene.document.materials[0], warnings: warnings.filter((w) => !w.includes('camera')) };
};
const shapeOf = ({ scene }: Awaited<ReturnType<typeof readGlb>>, mesh = scene.document.objects[0].mesh) => {
  const read = meshAt(scene.geometry, scene.document.geometry.meshes.find((m) => m.name === mesh)!);
  return Array.from(read.indices, (i) => Array.from(read.positions.subarray(i * 3, i * 3 + 3)));
};

describe('shapes', () => {
  test('strips and fans are the triangles they stand for, all facing one way', async () => {
    const of = async (mode: number, order: number[]) =>
      shapeOf(
        await square({}, (hand) => ({ primitive: { mode, indices: hand.accessor('SCALAR', new Uint16Array(order)) } })),
      );
    const plain = await of(4, [0, 1, 2, 2, 1, 3]);
    const sorted = (triangles: number[][]) =>
      [0, 3]
        .map((t) => {
          const three = triangles.slice(t, t + 3).map((p) => p.join());
          const first = three.indexOf([...three].sort()[0]);
          return [0, 1, 2].map((k) => three[(first + k) % 3]).join(' ');
        })
        .sort();
    expect(sorted(await of(5, [0, 1, 2, 3]))).toEqual(sorted(plain));
    expect(sorted(await of(6, [1, 3, 2, 0]))).toEqual(sorted(plain));
  });

  test('weights of the mesh and normalised deltas shape it where the node has none', async () => {
    const morphed = (node: object) =>
      square({}, (hand) => ({
        mesh: { weights: [0.5] },
        node,
        primitive: {
          targets: [
            {
              POSITION: hand.accessor(
                'VEC3',
                new Int16Array([0, 0, 32767, 0, 0, 0, 0, 0, 0, 0, 0, 0].map((v) => v)),
                true,
              ),
            },
          ],
        },
      }));
    expect(shapeOf(await morphed({}))[0][2]).toBeCloseTo(0.5, 4);
    expect(shapeOf(await morphed({ weights: [1] }))[0][2]).toBeCloseTo(1, 4);
  });

  test('colours at vertices are named, not passed over', async () => {
    const { warnings } = await square({}, (hand) => ({
      primitive: {
        attributes: {
          POSITION: hand.accessor('VEC3', corners),
          COLOR_0: hand.accessor('VEC4', new Uint8Array(16).fill(128), true),
        },
      },
    }));
    expect(warnings).toContain('mesh square: colours at its vertices are not read');
  });

  test.each([
    ['a vertex that is not there', { primitive: { indices: 'far' } }, /mesh square: triangle 0 names vertex 9 of 4/],
    [
      'a node below itself',
      { json: { nodes: [{ mesh: 0, children: [1] }, { children: [0] }] } },
      /node \d is below itself/,
    ],
    [
      'a node in two places',
      { json: { nodes: [{ mesh: 0, children: [2] }, { children: [2] }, {}] } },
      /node 2 is below node 0 and below node 1/,
    ],
    [
      'an accessor beyond its view',
      { json: { accessors: 'long' } },
      /accessor 0: 1200 bytes of buffer view 0, which has 48/,
    ],
  ])('%s is refused by its place', async (_, change, message) => {
    const reading = square({}, (hand) => {
      const { primitive, json } = change as { primitive?: { indices: string }; json?: { accessors?: unknown } };
      if (primitive) return { primitive: { indices: hand.accessor('SCALAR', new Uint16Array([0, 1, 9])) } };
      if (json?.accessors)
        return { json: { accessors: [{ bufferView: 0, componentType: 5126, type: 'VEC3', count: 100 }] } };
      return { json };
    });
    await expect(reading).rejects.toThrow(GltfError);
    await expect(reading).rejects.toThrow(message);
  });
});

describe('names, cameras, lights', () => {
  test('a long name is shortened, not refused; control signs go', async () => {
    const { scene } = await square({ name: 'x'.repeat(300) }, () => ({
      node: { name: `lamp\u0000${'y'.repeat(200)}` },
    }));
    expect(scene.document.objects[0].name).toMatch(/^lamp y+…$/);
    expect(scene.document.objects[0].name.length).toBeLessThan(121);
    expect(scene.document.materials[0].name.length).toBeLessThan(121);
  });

  const filmed = async (perspective: object) => {
    const { scene } = await square({}, () => ({
      json: {
        cameras: [{ type: 'perspective', perspective: { znear: 0.1, ...perspective } }],
        nodes: [{ mesh: 0 }, { camera: 0 }],
        scenes: [{ nodes: [0, 1] }],
      },
    }));
    const [c] = scene.document.cameras;
    const { width, height } = scene.document;
    const vertical = 2 * Math.atan(((c.sensorWidthMm / (2 * c.focalLengthMm)) * height) / width);
    return { vertical, aspect: width / height };
  };
  test.each([[0.5], [1.2], [0.01], [0.0012]])(
    'a field of view of %d rad is kept, with and without an aspect ratio',
    async (yfov) => {
      expect((await filmed({ yfov })).vertical).toBeCloseTo(yfov, 5);
      const square = await filmed({ yfov, aspectRatio: 1 });
      expect(square.vertical).toBeCloseTo(yfov, 5);
      expect(square.aspect).toBe(1);
    },
  );

  test('a spot of a quarter turn to each side is taken', async () => {
    const { scene } = await square({}, () => ({
      json: {
        extensionsUsed: ['KHR_lights_punctual'],
        extensions: { KHR_lights_punctual: { lights: [{ type: 'spot', spot: { outerConeAngle: Math.PI / 2 } }] } },
        nodes: [{ mesh: 0 }, { extensions: { KHR_lights_punctual: { light: 0 } } }],
        scenes: [{ nodes: [0, 1] }],
      },
    }));
    expect(scene.document.lights[0]).toMatchObject({ kind: 'spot', coneDegrees: 179 });
  });
});

describe('materials', () => {
  const ext = (extensions: object, pbr: object = {}) =>
    materialOf({ extensions, pbrMetallicRoughness: { metallicFactor: 0, ...pbr } });

  test('an index of 0 reflects its specular colour head on', async () => {
    const m = await ext({
      KHR_materials_ior: { ior: 0 },
      KHR_materials_specular: { specularColorFactor: [0.04, 0.04, 0.02] },
    });
    expect(m.specular_ior).toBeCloseTo(1.5, 4);
    expect(m.specular_color).toEqual([1, 1, 0.5]);
    const bright = await ext({ KHR_materials_ior: { ior: 0 } });
    expect(bright.specular_ior).toBe(4);
    expect(bright.warnings[0]).toMatch(/reflects more head on than any index/);
  });

  test('what is out of range is told by its setting, in one line', async () => {
    const reading = ext({ KHR_materials_ior: { ior: 0.4 } });
    await expect(reading).rejects.toThrow(/^material unnamed: specular_ior: /);
    await expect(reading).rejects.toThrow(GltfError);
  });

  test.each([[0.02], [0.1], [0.5], [2]])(
    'a dispersion of %d is what Abbe’s number says, however little',
    async (dispersion) => {
      const m = await ext({ KHR_materials_dispersion: { dispersion } });
      expect(m.transmission_dispersion_abbe_number / m.transmission_dispersion_scale).toBeCloseTo(20 / dispersion, 6);
    },
  );

  test('the specular colour does not darken metal', async () => {
    const colour = { KHR_materials_specular: { specularColorFactor: [0.2, 0.2, 0.2] } };
    expect((await ext(colour, { metallicFactor: 1 })).specular_color).toEqual([1, 1, 1]);
    expect((await ext(colour)).specular_color).toEqual([0.2, 0.2, 0.2]);
    expect((await ext(colour, { metallicFactor: 0.5 })).warnings[0]).toMatch(/tints the edges/);
  });

  test('a coat’s own normals are named', async () => {
    const m = await ext({ KHR_materials_clearcoat: { clearcoatFactor: 1, clearcoatNormalTexture: { index: 0 } } });
    expect(m.warnings[0]).toMatch(/coat has the surface's normals/);
  });

  test.each([
    [0.3, 0.6],
    [0.5, 1],
    [1, 0.4],
  ])('stretch of roughness %d by %d gives the extension’s two roughnesses', async (roughness, strength) => {
    const m = await ext({ KHR_materials_anisotropy: { anisotropyStrength: strength } }, { roughnessFactor: roughness });
    const k = 1 - m.specular_roughness_anisotropy;
    const along = m.specular_roughness ** 2 * Math.sqrt(2 / (1 + k * k));
    const alpha = roughness * roughness;
    expect(along).toBeCloseTo(alpha + (1 - alpha) * strength ** 2, 9);
    expect(along * k).toBeCloseTo(alpha, 9);
  });

  /** The square with a picture in its first texture. */
  const painted = (material: object, picture: Uint8Array, sampler: object = {}) =>
    square(material, (hand) => ({
      json: {
        images: [{ bufferView: hand.view(picture), mimeType: 'image/png' }],
        textures: [{ source: 0, sampler: 0 }],
        samplers: [sampler],
      },
    }));

  test('a picture of strengths and directions makes pictures of roughness and stretch', async () => {
    // Direction straight up (red 0.5, green 1), strength 0 and 1.
    const picture = encode({
      width: 2,
      height: 1,
      channels: 3,
      depth: 8,
      data: new Uint8Array([128, 255, 0, 128, 255, 255]),
    });
    const { scene } = await painted(
      {
        pbrMetallicRoughness: { roughnessFactor: 0.4 },
        extensions: { KHR_materials_anisotropy: { anisotropyStrength: 0.8, anisotropyTexture: { index: 0 } } },
      },
      picture,
    );
    const [m] = scene.document.materials;
    expect(m.geometry_tangent_degrees).toBeCloseTo(90, 0);
    const rough = m.textures.find((t) => t.input === 'specular_roughness')!;
    const { values } = pictureAt(
      scene.geometry,
      scene.document.geometry.pictures.find((p) => p.name === rough.picture)!,
    );
    const [none, full] = [stretched(0.4, 0), stretched(0.4, 0.8)];
    for (const [i, v] of [none.roughness, none.anisotropy, 0, full.roughness, full.anisotropy, 0].entries())
      expect(values[i]).toBeCloseTo(v, 5);
  });

  test('each axis wraps as the sampler says, mirrored too; hard edges are named', async () => {
    const picture = encode({ width: 1, height: 1, channels: 3, depth: 8, data: new Uint8Array([9, 9, 9]) });
    const material = { pbrMetallicRoughness: { baseColorTexture: { index: 0 } } };
    const { scene, warnings } = await painted(material, picture, { wrapS: 33648, wrapT: 33071, magFilter: 9728 });
    expect(scene.document.materials[0].textures[0]).toMatchObject({ wrap: 'mirror', wrapV: 'clamp' });
    expect(warnings.join()).toMatch(/hard edges/);
  });

  test('sixteen bits stay sixteen bits', async () => {
    const level = 12345;
    const picture = encode({
      width: 1,
      height: 1,
      channels: 3,
      depth: 16,
      data: new Uint16Array([level, level, level]),
    });
    const { scene } = await painted(
      { pbrMetallicRoughness: { baseColorTexture: { index: 0 }, metallicRoughnessTexture: { index: 0 } } },
      picture,
    );
    const drivenBy = (input: string) => {
      const use = scene.document.materials[0].textures.find((t) => t.input === input)!;
      return pictureAt(scene.geometry, scene.document.geometry.pictures.find((p) => p.name === use.picture)!).values[0];
    };
    expect(drivenBy('specular_roughness')).toBe(level);
    expect(drivenBy('base_color')).toBe(level);
    expect(scene.document.geometry.pictures.map((p) => p.format)).toEqual(['word']);
  });

  test('a picture that promises more than its bytes can hold takes no memory', async () => {
    const picture = encode({ width: 1, height: 1, channels: 3, depth: 8, data: new Uint8Array(3) });
    new DataView(picture.buffer, picture.byteOffset).setUint32(16, 16000);
    new DataView(picture.buffer, picture.byteOffset).setUint32(20, 16000);
    const { warnings } = await painted({ pbrMetallicRoughness: { baseColorTexture: { index: 0 } } }, picture);
    expect(warnings.join()).toMatch(/picture 0: it promises 16000×16000 pixels, more than its \d+ bytes can hold/);
  });
});

test('an animation of days is cut to what can be kept, and says so', async () => {
  const { scene, warnings } = await square({}, (hand) => ({
    json: {
      animations: [
        {
          samplers: [
            {
              input: hand.accessor('SCALAR', new Float32Array([0, 1e6])),
              output: hand.accessor('VEC3', new Float32Array([0, 0, 0, 1, 0, 0])),
            },
          ],
          channels: [{ sampler: 0, target: { node: 0, path: 'translation' } }],
        },
      ],
    },
  }));
  expect(scene.document.frames.last).toBe(10000);
  expect(warnings.join()).toMatch(/its last \d+ frames are not read/);
});
