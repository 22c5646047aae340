import { parseStack } from '../comp';
import { parseOutputs } from '../outputs';
import { outputAt, pictureNeeds, variantsIn, withRenamed } from './variants';

const variant = { 'scope.sky': false };
const { list } = parseOutputs({
  list: [
    { id: 'a', name: 'main', layers: ['beauty'] },
    { id: 'b', name: 'skyless', layers: ['beauty'], variant },
    { id: 'c', name: 'again', layers: ['alpha'], variant },
  ],
});
const layer = (film: string, name: string) => ({ kind: 'layer', source: { from: 'film', film, layer: name } });
const stack = parseStack({
  schema: 1,
  films: { shown: 'A', less: 'variant:skyless', gone: 'variant:gone', old: 'trial:7' },
  entries: [
    layer('shown', 'group.sun'),
    layer('less', 'beauty'),
    layer('less', 'occlusion'),
    layer('old', 'group.key'),
  ],
});

test('a stack takes pictures of variants by the names of their outputs, and films of each keep what it needs', () => {
  expect(outputAt('variant:skyless', list)?.id).toBe('b');
  expect(['A', 'trial:7', 'variant:gone', 'skyless'].map((w) => outputAt(w, list))).toEqual(Array(4).fill(undefined));
  expect(variantsIn(stack, list)).toEqual(new Map([['variant:skyless', variant]]));
  expect(pictureNeeds(stack, list, null)).toEqual(['group.sun', 'alpha']);
  expect(pictureNeeds(stack, list, variant)).toEqual(['occlusion', 'alpha']);
  expect(pictureNeeds(stack, list, { 'clay.on': true })).toEqual([]);
});

test('a stack follows the name of an output', () => {
  const films = { shown: 'A', less: 'variant:dusk', gone: 'variant:gone', old: 'trial:7' };
  expect(withRenamed(stack, 'skyless', 'dusk')).toEqual({ ...stack, films });
  expect(withRenamed(stack, 'main', 'dusk')).toBe(stack);
});
