import { validateBytes } from 'gltf-validator';
import { buoyGlb, patchJson } from '@/core/gltf/testing';
import { encodePng } from '@/core/image';
import { damaged, numbers } from '../testing';
import { readSceneFiles } from './read-scene';

/** A buoy that moves, bends and has a picture: all that a damaged file may break. */
async function rich(): Promise<Uint8Array> {
  return buoyGlb((d) => {
    const root = d.getRoot();
    const [buffer] = root.listBuffers();
    const [node] = root.listNodes();
    const [mesh] = root.listMeshes();
    const [primitive] = mesh.listPrimitives();
    const accessor = (type: 'SCALAR' | 'VEC2' | 'VEC3', values: number[]) =>
      d.createAccessor().setType(type).setArray(new Float32Array(values)).setBuffer(buffer);
    const count = primitive.getAttribute('POSITION')!.getCount();
    const pushed = Array.from({ length: count * 3 }, (_, i) => (i % 3 === 1 ? 0.2 : 0));
    primitive.addTarget(d.createPrimitiveTarget().setAttribute('POSITION', accessor('VEC3', pushed)));
    primitive.setAttribute(
      'TEXCOORD_0',
      accessor(
        'VEC2',
        Array.from({ length: count * 2 }, (_, i) => (i % 7) / 7),
      ),
    );
    const picture = d
      .createTexture('rust')
      .setMimeType('image/png')
      .setImage(encodePng(2, 2, new Uint8Array(16).fill(90)) as Uint8Array<ArrayBuffer>);
    root.listMaterials()[0].setBaseColorTexture(picture);
    mesh.setWeights([0.5]);
    const times = accessor('SCALAR', [0, 0.25]);
    const sway = d
      .createAnimationSampler()
      .setInput(times)
      .setOutput(accessor('VEC3', [1, 2, 3, 1, 2.5, 3]));
    const bend = d
      .createAnimationSampler()
      .setInput(times)
      .setOutput(accessor('SCALAR', [0, 1]));
    d.createAnimation('swell')
      .addSampler(sway)
      .addSampler(bend)
      .addChannel(d.createAnimationChannel().setTargetNode(node).setTargetPath('translation').setSampler(sway))
      .addChannel(d.createAnimationChannel().setTargetNode(node).setTargetPath('weights').setSampler(bend));
    node.addChild(d.createNode('top mark').setMesh(mesh).setScale([1, -1, 1]));
  });
}

const WILD = [-1, 0, 1, 2, 7, 65536, 1e6, 1e9, 4294967295, 0.5, -1e30, 1e300, null, true, '', 'POSITION', [], {}];

/** The JSON with one value of it replaced by another. */
function twisted(bytes: Uint8Array, next: () => number): Uint8Array {
  return patchJson(bytes, (json) => {
    const places: [object, string][] = [];
    const walk = (at: object) => {
      for (const key of Object.keys(at)) {
        places.push([at, key]);
        const value = (at as Record<string, unknown>)[key];
        if (typeof value === 'object' && value !== null) walk(value);
      }
    };
    walk(json);
    const [at, key] = places[Math.floor(next() * places.length)];
    (at as Record<string, unknown>)[key] = WILD[Math.floor(next() * WILD.length)];
  });
}

const ENGINE =
  /undefined|not a function|DataView|Invalid array|Invalid typed|Maximum call|is not iterable|of null|cy'/i;
const read = (bytes: Uint8Array) => readSceneFiles([{ path: 'buoy.glb', bytes }], validateBytes);

test('the whole file is read with all that moves', async () => {
  const { scene, warnings } = await read(await rich());
  expect(warnings).toEqual([]);
  expect(scene.document.objects).toHaveLength(2);
  expect(scene.document.objects[0].shapes?.length).toBeGreaterThan(2);
});

test.each([
  ['changed bytes', damaged],
  ['changed values', twisted],
])('hundreds of GLBs with %s are read as scenes, or refused by their name in words', async (_, change) => {
  const whole = await rich();
  const next = numbers(77);
  let refused = 0;
  for (let i = 0; i < 400; i++) {
    const bytes = change(whole, next);
    try {
      const { scene } = await read(bytes);
      for (const mesh of scene.document.geometry.meshes) expect(mesh.triangles).toBeGreaterThanOrEqual(0);
    } catch (error) {
      const { message } = error as Error;
      if (!/^buoy\.glb: .{3,}/.test(message) || ENGINE.test(message) || message.includes('\n'))
        throw new Error(`file ${i}: ${(error as Error).stack}`);
      refused++;
    }
  }
  expect(refused).toBeGreaterThan(80);
});
