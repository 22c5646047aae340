import { emptyShot, type SceneDocument } from '@/core/scene';
import { cameraNamed, SceneLoader } from './scenes';

const document: SceneDocument = {
  ...emptyShot('test'),
  contents: [
    {
      name: 'sky',
      use: 'environment',
      hash: 'a'.repeat(64),
      bytes: 24,
      width: 2,
      height: 1,
      channels: 3,
      format: 'float',
    },
    {
      name: 'seen',
      use: 'reference',
      hash: 'b'.repeat(64),
      bytes: 6,
      width: 2,
      height: 1,
      channels: 3,
      format: 'byte',
    },
    {
      name: 'stripes',
      use: 'texture',
      hash: 'c'.repeat(64),
      bytes: 6,
      width: 2,
      height: 1,
      channels: 3,
      format: 'byte',
    },
  ],
};
const bytesOf = (hash: string) =>
  hash.startsWith('a')
    ? new Uint8Array(new Float32Array([1, 2, 3, 4, 5, 6]).buffer)
    : new Uint8Array([1, 2, 3, 4, 5, 6]);

test('content is asked for once, however many scenes need it, and never what is only looked at', async () => {
  const asked: string[] = [];
  const loader = new SceneLoader(async (hash) => {
    asked.push(hash[0]);
    await new Promise((r) => setTimeout(r, 5));
    return bytesOf(hash);
  });
  await Promise.all([loader.checked(document), loader.checked(document), loader.twin().checked(document)]);
  expect(asked.sort()).toEqual(['a', 'c']);
});

test('what did not change from one document to the next stays the same object', async () => {
  const loader = new SceneLoader(async (hash) => bytesOf(hash));
  const one = await loader.checked(document);
  const two = await loader.checked({ ...document, lights: [] });
  expect(two.geometry).toBe(one.geometry);
  expect(two.pictures.get('sky')).toBe(one.pictures.get('sky'));
  const bigger = await loader.checked({
    ...document,
    forms: document.forms.map((f) => (f.kind === 'ball' ? { ...f, radius: f.radius * 2 } : f)),
  });
  expect(bigger.geometry).not.toBe(one.geometry);
  expect(one.document.geometry.pictures.map((p) => p.name)).toEqual(['stripes']);
  expect(one.document.geometry.meshes.map((m) => m.name).sort()).toEqual(['ball', 'plane']);
});

test('content that fails to come may be asked for again', async () => {
  let down = true;
  const loader = new SceneLoader(async (hash) => {
    if (down) throw new Error('away');
    return bytesOf(hash);
  });
  await expect(loader.checked(document)).rejects.toThrow('away');
  down = false;
  expect((await loader.checked(document)).pictures.size).toBe(1);
});

test('a document that is not valid is refused; cameras go by name', async () => {
  const loader = new SceneLoader(async (hash) => bytesOf(hash));
  await expect(loader.scene({ ...document, cameras: [] })).rejects.toThrow();
  const scene = await loader.scene(document);
  expect(cameraNamed(scene, undefined)!.name).toBe('camera');
  expect(cameraNamed(scene, 'nobody')).toBeNull();
});
