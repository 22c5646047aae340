import { parseRecipe } from '@/core/recipe';
import { sceneSchema } from '@/core/scene';
import { parseSteps, proposedSteps, recipeAt, type Steppable, steppables } from './steppable';

const document = sceneSchema.parse({
  schema: 1,
  name: 'quay',
  cameras: [{ name: 'cam', position: [0, 0, 5], target: [0, 0, 0] }],
  materials: [{ name: 'stone', specular_roughness: 0.4 }, { name: 'spare' }],
  objects: [{ name: 'wall', mesh: 'wall', material: 'stone' }],
  lights: [{ kind: 'sphere', name: 'buoy lamp', power: 3, position: [0, 1, 0], radius: 0.05 }],
  fog: { density: 0.02 },
  geometry: { hash: '', bytes: 0, meshes: [], pictures: [] },
});
const recipe = parseRecipe({ sampling: { cameraMin: 16, cameraMax: 64 } });

test('a shot offers its settings, lights, used materials, camera and fog, with what they are now', () => {
  const all = steppables(recipe, document, 'cam');
  const now = (key: string) => all.find((s) => s.key === key)?.now;
  expect(now('sampling.cameraMax')).toBe(64);
  expect(now('light/buoy lamp/radius')).toBe(0.05);
  expect(now('material/stone/specular_roughness')).toBe(0.4);
  expect(now('camera/cam/exposure.stops')).toBe(0);
  expect(now('fog/fog/density')).toBe(0.02);
  expect(all.some((s) => s.key.startsWith('material/spare'))).toBe(false);
  // A sphere has no width.
  expect(now('light/buoy lamp/width')).toBeUndefined();
});

test('proposed values hold the one there is, in doublings for counts and in stops for stops', () => {
  const of = (s: Partial<Steppable>) => proposedSteps({ now: 1, whole: true, unit: '', ...s } as Steppable);
  expect(of({ now: 16 })).toEqual([4, 8, 16, 32]);
  expect(of({ now: 6 })).toContain(6);
  expect(of({ now: 0.4, whole: false })).toEqual([0.1, 0.2, 0.4, 0.8]);
  expect(of({ now: 1, whole: false, unit: 'stops' })).toEqual([-1, 0, 1, 2, 3]);
  expect(of({ now: null, whole: false }).length).toBeGreaterThan(1);
});

test('typed values are numbers, each once, in a number that can be rendered', () => {
  expect(parseSteps('1, 2 4;8', 12)).toEqual([1, 2, 4, 8]);
  expect(() => parseSteps('1, x', 12)).toThrow('“x” is not a number');
  expect(() => parseSteps('1 1', 12)).toThrow('twice');
  expect(() => parseSteps('1', 12)).toThrow('two values');
  expect(() => parseSteps('1 2 3', 2)).toThrow('2 values at most');
});

test('a step below the least camera samples takes them along, and what cannot be is refused', () => {
  expect(recipeAt(recipe, 'sampling.cameraMax', 8).sampling).toMatchObject({ cameraMin: 8, cameraMax: 8 });
  expect(recipeAt(recipe, 'rayDepth.diffuse', 0).rayDepth.diffuse).toBe(0);
  expect(() => recipeAt(recipe, 'rayDepth.diffuse', 1.5)).toThrow();
});
