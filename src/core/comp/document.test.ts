import fc from 'fast-check';
import {
  at,
  fitted,
  freeName,
  inserted,
  keyedAt,
  keyedValues,
  movedKey,
  movedTo,
  NO_STACK,
  nested,
  type Path,
  parseStack,
  partsIn,
  type StackDocument,
  setAt,
  stackAt,
  stackNeeds,
  unkeyedAt,
  unnested,
  withAt,
} from '.';

const layer = (name: string, more: object = {}) => ({
  kind: 'layer',
  source: { from: 'film', film: 'shown', layer: name },
  ...more,
});
const stackOf = (entries: object[], more: object = {}): StackDocument => parseStack({ ...NO_STACK, entries, ...more });

describe('numbers of a stack at frames', () => {
  const path = ['entries', 0, 'opacity'];
  const begun = stackOf([layer('beauty')]);
  const opacityAt = (s: StackDocument, frame: number) => stackAt(s, frame).entries[0].opacity;

  test('are the same everywhere until one is keyed, then set at the frame they are changed at', () => {
    const plain = setAt(begun, path, 0.5, 7);
    expect(at(plain, path)).toBe(0.5);
    const keyed = setAt(keyedAt(plain, path, 1, 0.5), path, 1, 11);
    expect([1, 6, 11, 20].map((f) => opacityAt(keyed, f))).toEqual([0.5, 0.75, 1, 1]);
    expect(keyedValues(keyed).map((k) => k.path)).toEqual([path]);
    // Keyed where it is between two, it stays what it is there.
    expect(opacityAt(keyedAt(keyed, path, 6, 0), 6)).toBeCloseTo(0.75, 9);
  });

  test('keys move, give way and go; without the last the number stays', () => {
    const keyed = setAt(keyedAt(begun, path, 1, 0), path, 0.8, 9);
    expect(opacityAt(movedKey(keyed, path, 9, 5), 5)).toBe(0.8);
    expect(keyedValues(movedKey(keyed, path, 9, 1))[0].keyed.keys).toEqual([{ frame: 1, value: 0.8 }]);
    expect(movedKey(keyed, path, 4, 5)).toBe(keyed);
    const one = unkeyedAt(keyed, path, 1);
    expect(at(unkeyedAt(one, path, 9), path)).toBe(0.8);
  });
});

describe('entries of a stack', () => {
  const names = (s: StackDocument, list: Path = ['entries']) =>
    (at(s, list) as { name: string }[]).map(({ name }) => name);
  const abc = stackOf(['a', 'b', 'c'].map((name) => layer('beauty', { name })));

  test('are put in, moved, made one layer and taken apart, and taken away', () => {
    expect(names(inserted(abc, { list: ['entries'], index: 1 }, layer('beauty', { name: 'x' })))).toEqual([
      ...['a', 'x', 'b', 'c'],
    ]);
    const to = (from: number, index: number) => names(movedTo(abc, ['entries', from], { list: ['entries'], index }));
    expect(to(0, 3)).toEqual(['b', 'c', 'a']);
    expect(to(2, 0)).toEqual(['c', 'a', 'b']);
    expect(to(1, 2)).toEqual(['a', 'b', 'c']);
    const nest = nested(abc, ['entries', 0], 2, 'n');
    expect(names(nest)).toEqual(['n', 'c']);
    expect(names(nest, ['entries', 0, 'entries'])).toEqual(['a', 'b']);
    // Into the nest that moves up when what lay below it is gone, and never a nest into itself.
    const first = movedTo(nest, ['entries', 1], { list: ['entries'], index: 0 });
    const into = movedTo(first, ['entries', 0], { list: ['entries', 1, 'entries'], index: 2 });
    expect(names(into, ['entries', 0, 'entries'])).toEqual(['a', 'b', 'c']);
    expect(movedTo(nest, ['entries', 0], { list: ['entries', 0, 'entries'], index: 0 })).toBe(nest);
    expect(names(unnested(nest, ['entries', 0]))).toEqual(['a', 'b', 'c']);
    expect(names(withAt(abc, ['entries', 1], undefined))).toEqual(['a', 'c']);
    expect(freeName({ m: 1, 'm 2': 1 }, 'm')).toBe('m 3');
  });

  test('none is lost or doubled, wherever it is moved', () => {
    const nest = nested(abc, ['entries', 0], 2, 'n');
    const all = (s: StackDocument) =>
      JSON.stringify(s)
        .match(/"name":"[abcn]"/g)!
        .sort();
    const lists: Path[] = [['entries'], ['entries', 0, 'entries'], ['entries', 1, 'entries']];
    fc.assert(
      fc.property(fc.constantFrom(...lists), fc.nat(1), fc.constantFrom(...lists), fc.nat(2), (list, i, to, index) => {
        if (at(nest, [...list, i]) === undefined || at(nest, to) === undefined) return;
        expect(all(movedTo(nest, [...list, i], { list: to, index }))).toEqual(all(nest));
      }),
    );
  });
});

test('films keep what a stack needs of them, and what one lacks is switched off and told', () => {
  const document = stackOf(
    [
      layer('group.sun'),
      layer('occlusion', { mask: 'far' }),
      { kind: 'operation', operation: { does: 'focus', film: 'shown', metres: 3 } },
      { kind: 'layer', source: { from: 'picture', picture: 'gone' } },
      layer('class.caustic', { on: false }),
    ],
    {
      masks: {
        far: { of: [{ kind: 'ramp', film: 'shown', layer: 'roughness', channel: 'Y', low: 0, high: 1 }] },
      },
      pictures: { gone: { file: 'gone' } },
    },
  );
  expect(stackNeeds(document)).toEqual(['group.sun', 'occlusion', 'roughness', 'alpha', 'depth']);
  expect(stackNeeds(NO_STACK)).toEqual([]);
  const { stack, missing } = fitted(stackAt(document, 1), {
    layer: ({ layer: l }) => l !== 'depth' && l !== 'roughness',
    picture: () => false,
  });
  expect([...missing].map(([path, needs]) => [path, needs.map((n) => n.layer)])).toEqual([
    ['entries.1', ['roughness']],
    ['entries.2', ['depth']],
    ['entries.3', ['gone']],
  ]);
  expect(stack.entries.map((e) => e.on)).toEqual([true, false, false, false, false]);
});

test('whether all parts are in, each once, is told, also of single lights and in nests', () => {
  const kept = ['beauty', 'group.sun', 'group.lamps.desk', 'group.lamps.wall', 'class.caustic'];
  const of = (entries: object[]) => partsIn(stackAt(stackOf(entries), 1), () => kept);
  const whole = of([{ kind: 'nest', entries: [layer('group.sun'), layer('group.lamps')] }]);
  expect(whole).toMatchObject({ family: 'group', missing: [], twice: [], changed: [] });
  expect(of([layer('group.sun'), layer('group.lamps.desk')])?.missing).toEqual(['group.lamps.wall']);
  expect(of([layer('group.sun'), layer('group.sun'), layer('group.lamps', { opacity: 0.5 })])).toMatchObject({
    twice: ['group.sun'],
    changed: ['group.lamps'],
  });
  expect(of([layer('beauty')])).toBeNull();
  expect(of([layer('group.sun'), layer('group.lamps', { on: false })])).toBeNull();
});
