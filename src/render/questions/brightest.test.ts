import { parseRecipe } from '@/core/recipe';
import { sceneSchema } from '@/core/scene';
import { cameraRayAt } from '../pool/inspector';
import { testScene } from '../testing';
import { brightestOf, pictureOf } from './brightest';

const scene = testScene({});
const camera = { ...scene.document.cameras[0], shift: [0.1, -0.05] as [number, number] };

test('a direction’s place in the picture is the inverse of the camera’s ray', () => {
  for (const [x, y] of [
    [0.5, 0.5],
    [0.1, 0.9],
    [1.3, -0.2],
  ]) {
    const { direction } = cameraRayAt(camera, 1, 16 / 9, x, y);
    const at = pictureOf(camera, 1, 16 / 9, direction)!;
    expect(at.x).toBeCloseTo(x, 6);
    expect(at.y).toBeCloseTo(y, 6);
    expect(
      pictureOf(
        camera,
        1,
        16 / 9,
        direction.map((c) => -c),
      ),
    ).toBeNull();
  }
});

test('the brightest place of a turned picture: where it is, how bright, and its share of the light', () => {
  const [width, height] = [72, 36];
  const pixels = new Float32Array(width * height * 3).fill(1);
  // Straight up-front: bearing 0, 42.5° high; one pixel of 5° that holds as much light as all else together.
  const row = 9;
  const omega =
    ((2 * Math.PI) / width) * (Math.cos((Math.PI * row) / height) - Math.cos((Math.PI * (row + 1)) / height));
  const bright = (4 * Math.PI) / omega;
  pixels.fill(bright, (row * width + 36) * 3, (row * width + 36) * 3 + 3);
  const document = sceneSchema.parse({
    ...scene.document,
    environment: { kind: 'picture', group: 'environment', picture: 'noon.hdr', rotationDegrees: 30 },
  });
  const lit = { ...scene, document, pictures: new Map([['noon.hdr', { width, height, pixels }]]) };
  const patient = { document, recipe: parseRecipe({}), camera: camera.name, frame: 1 };
  const found = brightestOf(lit, document.cameras[0], patient)!;
  expect(found.heightDegrees).toBeCloseTo(42.5, 3);
  // A positive turn is counter-clockwise seen from above; bearings are clockwise. The pixel's middle is at 2.5°.
  expect(found.bearingDegrees).toBeCloseTo(332.5, 3);
  expect(found.nits / bright).toBeCloseTo(1, 3);
  expect(found.share).toBeCloseTo(0.5, 2);
});

test('nothing around, nothing bright', () => {
  const document = sceneSchema.parse({ ...scene.document, environment: null });
  const patient = { document, recipe: parseRecipe({}), camera: camera.name, frame: 1 };
  expect(brightestOf({ ...scene, document }, document.cameras[0], patient)).toBeNull();
});
