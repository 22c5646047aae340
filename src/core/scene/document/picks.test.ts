import { emptyPicks, emptyShot, likeName, pickableOf, pickedBy, sceneSchema } from '..';

const from = pickableOf(
  sceneSchema.parse({
    ...emptyShot('quay'),
    materials: [{ name: 'hemp' }, { name: 'oak' }],
    objects: [
      { name: 'rope coil', mesh: 'm', material: 'hemp' },
      { name: 'rope end', mesh: 'm', material: 'hemp' },
      { name: 'hull', mesh: 'm', material: 'oak' },
    ],
    sets: { boat: ['hull', 'rope end'] },
    lights: [{ kind: 'sphere', name: 'lamp', power: 1, position: [0, 1, 0], radius: 0.1 }],
  }),
);

test.each([
  [{ kind: 'object' as const, name: 'hull' }, ['hull']],
  [{ kind: 'material' as const, name: 'hemp' }, ['rope coil', 'rope end']],
  [{ kind: 'set' as const, name: 'boat' }, ['rope end', 'hull']],
  [{ kind: 'like' as const, name: 'ROPE*' }, ['rope coil', 'rope end']],
  [{ kind: 'like' as const, name: 'l?mp' }, ['lamp']],
  [{ kind: 'set' as const, name: 'toString' }, []],
])('%o picks %o', (pick, names) => {
  const picked = pickedBy([pick], from);
  expect(picked.names).toEqual(names);
  expect(picked.numbers).toEqual(names.map((n) => from.objects.indexOf(n) + 1));
  expect(emptyPicks([pick], from)).toEqual(names.length === 0 ? [pick] : []);
});

test('what several picks have is there once', () => {
  const of = [
    { kind: 'set' as const, name: 'boat' },
    { kind: 'like' as const, name: '*e*' },
  ];
  expect(pickedBy(of, from).names).toEqual(['rope coil', 'rope end', 'hull']);
});

test('signs of patterns that are none stand for themselves', () => {
  expect(likeName('a.b(1)')('a.b(1)')).toBe(true);
  expect(likeName('a.b')('axb')).toBe(false);
});
