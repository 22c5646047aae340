import fc from 'fast-check';
import { fromBytes, readHeaders } from '@/core/exr';
import { makeLayers } from '@/core/film';
import { cameraAxes } from '@/core/kernel';
import { plane } from '@/core/scene';
import { renderTest, testRecipe, testScene } from '../testing';
import { captureDate, filmAttributes, writeFilm } from './film-exr';

const rendering = { recipeHash: 'a', sceneHash: 'b', seed: 1, noisePercent: 2.5, seconds: 3, version: '1' };
const notes = {
  ...rendering,
  frame: 7,
  framesPerSecond: 23.976,
  date: '2031:01:02 03:04:05',
  aspect: 9 / 16,
  groupColors: { lamp: [1.5, 0.9, 0.4] },
};
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

test('worldToNDC takes a point to its place in the frame, from −1 to 1, with the lens shifted too', () => {
  const place = (camera: object, p: number[]) => {
    const c = sceneWith({ position: [0, 0, 5], target: [0, 0, 0], focalLengthMm: 18, ...camera }).document.cameras[0];
    const m = (filmAttributes(c, notes).worldToNDC as { value: number[] }).value;
    const w = p[0] * m[3] + p[1] * m[7] + p[2] * m[11] + m[15];
    return times(p, m).map((v) => v / w);
  };
  // At 5 m, a lens of half its sensor's width sees 5 m to either side and 9/16 of that up.
  const [x, y] = place({}, [2.5, 1.40625, 0]);
  expect(x).toBeCloseTo(0.5, 6);
  expect(y).toBeCloseTo(0.5, 6);
  const [u, v] = place({ shift: [0.25, 0.1] }, [2.5, 1.40625, 0]);
  expect(u).toBeCloseTo(0, 6);
  expect(v).toBeCloseTo(0.5 - (2 * 0.1 * 16) / 9, 6);
});

test('frame rate, date and what each group emits are noted', () => {
  const a = filmAttributes(sceneWith({}).document.cameras[0], notes);
  expect(a.framesPerSecond).toEqual({ type: 'rational', value: [23976, 1000] });
  expect(a.capDate).toEqual({ type: 'string', value: '2031:01:02 03:04:05' });
  expect(a['lantern:emits.lamp']).toEqual({ type: 'string', value: '1.50000 0.90000 0.40000' });
  expect(captureDate(new Date(2031, 0, 2, 3, 4, 5))).toBe('2031:01:02 03:04:05');
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
