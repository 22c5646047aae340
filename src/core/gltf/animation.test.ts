import type { Document, Node } from '@gltf-transform/core';
import { meshAt, type Scene, sceneAt } from '../scene';
import { readGlb } from './read';
import { buoyGlb, patchJson } from './testing';

type Values = 'SCALAR' | 'VEC3' | 'VEC4' | 'MAT4';
function animate(
  d: Document,
  node: Node,
  path: 'translation' | 'rotation' | 'scale' | 'weights',
  times: number[],
  values: number[],
  how: 'LINEAR' | 'STEP' | 'CUBICSPLINE' = 'LINEAR',
) {
  const accessor = (type: Values, array: number[]) =>
    d.createAccessor().setType(type).setArray(new Float32Array(array));
  const type = path === 'weights' ? 'SCALAR' : path === 'rotation' ? 'VEC4' : 'VEC3';
  const sampler = d
    .createAnimationSampler()
    .setInput(accessor('SCALAR', times))
    .setOutput(accessor(type, values))
    .setInterpolation(how);
  const channel = d.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(sampler);
  d.createAnimation().addSampler(sampler).addChannel(channel);
}
const buoy = (d: Document) =>
  d
    .getRoot()
    .listNodes()
    .find((n) => n.getName() === 'buoy')!;
const read = async (change: (d: Document) => void): Promise<Scene> =>
  (await readGlb(await buoyGlb(change), 'buoy')).scene;
const place = (scene: Scene, frame: number) => sceneAt(scene, frame, null).document.objects[0].transform!;
const close = (a: ArrayLike<number>, b: readonly number[], digits = 5) =>
  b.forEach((v, i) => {
    expect(a[i]).toBeCloseTo(v, digits);
  });

test('a still file has one frame and no motion', async () => {
  const { document } = await read(() => {});
  expect(document.frames).toEqual({ first: 1, last: 1, perSecond: 24 });
  expect(document.objects[0].motion).toBeUndefined();
});

test('the light of a node moves with it, place and direction', async () => {
  const half = Math.SQRT1_2;
  const bytes = patchJson(
    await buoyGlb((d) => {
      animate(d, buoy(d), 'translation', [0, 1], [0, 0, 0, 24, 0, 0]);
      animate(d, buoy(d), 'rotation', [0, 1], [0, 0, 0, 1, 0, half, 0, half]);
    }),
    (json) => {
      json.extensionsUsed = ['KHR_lights_punctual'];
      json.extensions = { KHR_lights_punctual: { lights: [{ type: 'spot', intensity: 5 }] } };
      json.nodes.find((n: { mesh?: number }) => n.mesh !== undefined).extensions = {
        KHR_lights_punctual: { light: 0 },
      };
    },
  );
  const { scene } = await readGlb(bytes, 'buoy');
  const at = (frame: number) =>
    sceneAt(scene, frame, null).document.lights[0] as { position: number[]; facing: number[] };
  close(at(1).position, [0, 0, 0]);
  close(at(1).facing, [0, 0, -1]);
  close(at(13).position, [12, 0, 0], 4);
  close(at(13).facing, [-half, 0, -half], 3);
  close(at(25).facing, [-1, 0, 0]);
  const over = sceneAt(scene, 13, { open: -0.5, close: 0.5 }).lightPoses!.get(0)!;
  expect(over.times[0]).toBe(0);
  expect(over.times.at(-1)).toBe(1);
});

test('nodes and their parents move: straight, in turns, by steps and along splines', async () => {
  const half = Math.SQRT1_2;
  const scene = await read((d) => {
    const node = buoy(d);
    const parent = d.createNode('swell').addChild(node);
    d.getRoot().listScenes()[0].addChild(parent);
    animate(d, parent, 'translation', [0, 1], [0, 0, 0, 24, 0, 0]);
    animate(d, node, 'rotation', [0, 1], [0, 0, 0, 1, 0, half, 0, half]);
    animate(d, node, 'scale', [0, 0.5], [1, 1, 1, 2, 2, 2], 'STEP');
  });
  expect(scene.document.frames).toEqual({ first: 1, last: 25, perSecond: 24 });
  // One metre a frame; 45° about y half way; the scale jumps at frame 13.
  close(place(scene, 7).slice(12, 15), [7, 2, 3]);
  const at = place(scene, 13);
  close(at.slice(0, 3), [2 * half, 0, -2 * half], 4);
  close(at.slice(8, 11), [2 * half, 0, 2 * half], 4);
  const spline = await read((d) =>
    animate(d, buoy(d), 'translation', [0, 1], [0, 0, 0, 0, 0, 0, 0, 24, 0, 0, 0, 0, 8, 0, 0, 0, 0, 0], 'CUBICSPLINE'),
  );
  // Hermite: p(u) = (3u² − 2u³)·8 across, and (u³ − 2u² + u)·24 up.
  close(place(spline, 7).slice(12, 14), [(3 / 16 - 2 / 64) * 8, (1 / 64 - 2 / 16 + 1 / 4) * 24]);
});

test('an animated camera moves', async () => {
  const { document } = await read((d) =>
    animate(
      d,
      d
        .getRoot()
        .listNodes()
        .find((n) => n.getName() === 'quay')!,
      'translation',
      [0, 0.5],
      [0, 0, 9, 0, 6, 9],
    ),
  );
  const motion = document.cameras[0].motion!;
  expect(motion[0].position).toEqual([0, 0, 9]);
  expect(motion.at(-1)).toMatchObject({ frame: 13, position: [0, 6, 9], target: [0, 6, 8] });
});

test('morph weights move vertices, a skin moves them with its joints, each at every frame', async () => {
  const morphed = await read((d) => {
    const mesh = buoy(d).getMesh()!;
    const primitive = mesh.listPrimitives()[0];
    const count = primitive.getAttribute('POSITION')!.getCount();
    const up = d
      .createAccessor()
      .setType('VEC3')
      .setArray(Float32Array.from({ length: count * 3 }, (_, i) => (i % 3 === 1 ? 0.5 : 0)));
    primitive.addTarget(d.createPrimitiveTarget().setAttribute('POSITION', up));
    animate(d, buoy(d), 'weights', [0, 0.25], [0, 1]);
  });
  const shapes = morphed.document.objects[0].shapes!;
  expect(shapes.map((s) => s.frame)).toEqual([1, 2, 3, 4, 5, 6, 7]);
  const mesh = (scene: Scene, name: string) =>
    meshAt(scene.geometry, scene.document.geometry.meshes.find((m) => m.name === name)!);
  const [first, middle] = [shapes[0], shapes[3]].map((s) => mesh(morphed, s.mesh).positions);
  for (let i = 0; i < first.length; i++) expect(middle[i] - first[i]).toBeCloseTo(i % 3 === 1 ? 0.25 : 0, 5);

  const skinned = await read((d) => {
    const node = buoy(d);
    const primitive = node.getMesh()!.listPrimitives()[0];
    const position = primitive.getAttribute('POSITION')!;
    const count = position.getCount();
    const above = (v: number) => position.getElement(v, [])[1] > 0;
    primitive.setAttribute(
      'JOINTS_0',
      d
        .createAccessor()
        .setType('VEC4')
        .setArray(Uint8Array.from({ length: count * 4 }, (_, i) => (i % 4 === 0 && above(i >> 2) ? 1 : 0))),
    );
    primitive.setAttribute(
      'WEIGHTS_0',
      d
        .createAccessor()
        .setType('VEC4')
        .setArray(Float32Array.from({ length: count * 4 }, (_, i) => (i % 4 === 0 ? 1 : 0))),
    );
    const [root, top] = [d.createNode('keel'), d.createNode('mast').setTranslation([0, 1, 0])];
    d.getRoot().listScenes()[0].addChild(root.addChild(top));
    const bind = (y: number) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, -y, 0, 1];
    const binds = d
      .createAccessor()
      .setType('MAT4')
      .setArray(new Float32Array([...bind(0), ...bind(1)]));
    node.setSkin(d.createSkin().addJoint(root).addJoint(top).setInverseBindMatrices(binds));
    animate(d, top, 'translation', [0, 0.25], [0, 1, 0, 3, 1, 0]);
  });
  const o = skinned.document.objects[0];
  expect(o.transform).toBeUndefined();
  const [a, b] = [o.shapes![0], o.shapes!.at(-1)!].map((s) => mesh(skinned, s.mesh).positions);
  for (let v = 0; v < a.length / 3; v++) expect(b[v * 3] - a[v * 3]).toBeCloseTo(a[v * 3 + 1] > 0 ? 3 : 0, 5);
});
