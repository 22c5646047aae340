import { parseRecipe } from '../recipe';
import { sceneSchema } from '../scene';
import { fitRecipe } from './fit';

const document = sceneSchema.parse({
  schema: 1,
  name: 'quay',
  cameras: [{ name: 'cam', position: [0, 0, 5], target: [0, 0, 0] }],
  materials: [{ name: 'stone' }],
  objects: [{ name: 'wall', mesh: 'wall', material: 'stone' }],
  lights: [{ kind: 'point', name: 'buoy lamp', group: 'buoy', power: 3, position: [0, 1, 0] }],
  geometry: { hash: '', bytes: 0, meshes: [], pictures: [] },
});

test('a recipe that fits is left as it is', () => {
  const recipe = parseRecipe({
    film: { pairs: [{ group: 'buoy', class: 'direct_diffuse' }] },
    clay: { except: ['wall', 'stone'] },
  });
  expect(fitRecipe(recipe, document)).toEqual({ recipe, misfits: [] });
});

test('what names things of another shot is left out, each told in words', () => {
  const recipe = parseRecipe({
    film: { pairs: ['lamp', 'buoy'].map((group) => ({ group, class: 'caustic' })), ledger: 'fog' },
    clay: { except: ['lens', 'wall'] },
  });
  const { recipe: fitted, misfits } = fitRecipe(recipe, document);
  expect(fitted.film.pairs).toEqual([{ group: 'buoy', class: 'caustic' }]);
  expect(fitted.clay.except).toEqual(['wall']);
  expect(misfits).toEqual([
    'pair lamp × caustic: the shot has no light group lamp',
    'kept out of clay lens: the shot has nothing of that name',
    'bounce ledger of fog: the shot has no fog; the ledger stays empty',
  ]);
  expect(parseRecipe(fitted)).toEqual(fitted);
});
