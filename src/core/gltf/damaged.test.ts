import { damaged, numbers } from '@/render/testing';
import { decodeHdr, PictureError } from '../image';
import { GltfError, readGlb } from '.';
import { buoyGlb } from './testing';

/** Files from outside, damaged at random: read as something valid, or refused in words; nothing else. */
const buoys = () =>
  buoyGlb((d) => {
    const [mesh] = d.getRoot().listMeshes();
    d.getRoot()
      .listScenes()[0]
      .addChild(d.createNode('second buoy').setMesh(mesh).setScale([1, -1, 1]));
  });

test('two nodes with one mesh are two objects that share it', async () => {
  const { scene } = await readGlb(await buoys(), 'buoys');
  expect(scene.document.objects.map((o) => o.mesh)).toEqual(['0.0', '0.0']);
  expect(scene.document.geometry.meshes).toHaveLength(1);
  expect(scene.document.objects[1].transform?.[5]).toBe(-1);
});

test('five hundred damaged GLBs are read or refused in words', async () => {
  const bytes = await buoys();
  const next = numbers(31);
  let refused = 0;
  for (let i = 0; i < 500; i++) {
    const file = damaged(bytes, next, i % 3 === 0 ? 0 : 12);
    try {
      const { scene } = await readGlb(file, 'buoy');
      for (const mesh of scene.document.geometry.meshes) expect(mesh.triangles).toBeGreaterThanOrEqual(0);
    } catch (error) {
      if (!(error instanceof GltfError)) throw new Error(`file ${i}: ${(error as Error).stack}`);
      expect(error.message.length).toBeGreaterThan(5);
      refused++;
    }
  }
  expect(refused).toBeGreaterThan(50);
});

test('a thousand damaged HDR pictures are read or refused in words', () => {
  const head = new TextEncoder().encode('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 6 +X 9\n');
  const row = [2, 2, 0, 9, 137, 128, 9, 1, 2, 3, 4, 5, 6, 7, 8, 9, 137, 0, 137, 129];
  const bytes = Uint8Array.from([...head, ...Array.from({ length: 6 }, () => row).flat()]);
  expect(decodeHdr(bytes)).toMatchObject({ width: 9, height: 6 });
  const next = numbers(32);
  let refused = 0;
  for (let i = 0; i < 1000; i++) {
    try {
      const { width, height, pixels } = decodeHdr(damaged(bytes, next));
      expect(pixels.length).toBe(width * height * 3);
      expect(pixels.every((v) => v >= 0)).toBe(true);
    } catch (error) {
      if (!(error instanceof PictureError)) throw new Error(`file ${i}: ${(error as Error).stack}`);
      refused++;
    }
  }
  expect(refused).toBeGreaterThan(100);
});

test('a picture that claims more pixels than its file could hold takes no memory', () => {
  const bytes = new TextEncoder().encode('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 30000 +X 30000\n1234');
  expect(() => decodeHdr(bytes)).toThrow(PictureError);
});
