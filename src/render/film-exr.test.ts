import fc from 'fast-check';
import { fromBytes, readHeaders } from '@/core/exr';
import { makeLayers } from '@/core/film';
import { cameraAxes } from '@/core/kernel';
import { plane } from '@/core/scene';
import { filmAttributes, writeFilm } from './film-exr';
import { renderTest, testRecipe, testScene } from './testing';

const notes = { recipeHash: 'a', sceneHash: 'b', seed: 1, noisePercent: 2.5, seconds: 3, version: '1' };
const sceneWith = (camera: Record<string, unknown>) => testScene({ meshes: { floor: plane(4, 4) }, camera });

/** A row vector times a matrix as OpenEXR holds it: row by row. */
const times = (p: number[], m: number[]) =>
  [0, 1, 2].map((c) => p[0] * m[c] + p[1] * m[4 + c] + p[2] * m[8 + c] + m[12 + c]);

test('worldToCamera takes the camera to the origin and what it looks at onto −Z', () => {
  const coordinate = fc.double({ min: -20, max: 20, noNaN: true });
  const point = fc.tuple(coordinate, coordinate, coordinate);
  fc.assert(
    fc.property(point, point, (position, target) => {
      const distance = Math.hypot(...position.map((c, i) => c - target[i]));
      fc.pre(distance > 0.01);
      const camera = sceneWith({ position, target }).document.cameras[0];
      const m = (filmAttributes(camera, notes).worldToCamera as { value: number[] }).value;
      times(position, m).forEach((c) => {
        expect(c).toBeCloseTo(0, 6);
      });
      const [x, y, z] = times(target, m);
      expect(x).toBeCloseTo(0, 6);
      expect(y).toBeCloseTo(0, 6);
      expect(z).toBeCloseTo(-distance, 6);
      const { right } = cameraAxes(camera);
      expect(
        times(
          position.map((c, i) => c + right[i]),
          m,
        )[0],
      ).toBeCloseTo(1, 6);
    }),
    { numRuns: 100, seed: 6 },
  );
});

test.each([
  [{ ev100: null, stops: 1 }, 2],
  [{ ev100: 3, stops: 0 }, 1 / (1.2 * 8)],
])('exposure %j is noted as the factor to the display, %f', (exposure, factor) => {
  const camera = sceneWith({ exposure }).document.cameras[0];
  expect((filmAttributes(camera, notes)['lantern:exposure'] as { value: number }).value).toBeCloseTo(factor, 12);
});

test('noise that was not measured is not noted', () => {
  const camera = sceneWith({}).document.cameras[0];
  expect(filmAttributes(camera, { ...notes, noisePercent: null })).not.toHaveProperty('lantern:noise');
});

test('a region is written as the data window within the whole frame', async () => {
  const scene = sceneWith({ position: [0, 3, 3] });
  const recipe = testRecipe(64, 2, { region: { x: 0.25, y: 0.5, w: 0.5, h: 0.25 } });
  const { film } = await renderTest(scene, recipe);
  const { bytes, partNames } = await writeFilm(
    makeLayers(film),
    film.spec,
    filmAttributes(scene.document.cameras[0], notes),
    { layers: ['beauty', 'alpha', 'depth'], depth: 'auto', compression: 'zips', multiPart: true },
  );
  const file = await readHeaders(fromBytes(bytes));
  expect(partNames).toEqual(['rgba', 'depth']);
  for (const part of file.parts) {
    expect(part.dataWindow).toEqual({ xMin: 16, yMin: 32, xMax: 47, yMax: 47 });
    expect(part.displayWindow).toEqual({ xMin: 0, yMin: 0, xMax: 63, yMax: 63 });
    expect(part.attributes['lantern:recipe']).toEqual({ type: 'string', value: 'a' });
  }
});
