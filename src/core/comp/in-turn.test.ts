import fc from 'fast-check';
import { numbers } from '@/render/testing';
import { type Entry, evaluate, evaluateInTurn, type Picture, type Sources, StackError, stackAt } from '.';

const [width, height] = [40, 31];
const SIZE = width * height;
const next = numbers(21);
const plane = (most: number) => Float32Array.from({ length: SIZE }, () => next() * most);
const picture = (most: number): Picture => ({
  width,
  height,
  planes: [plane(most), plane(most), plane(most), plane(1)],
});
const lights: Record<string, Picture> = { one: picture(2), two: picture(40) };
const mask = plane(1);
const depth = plane(30);
const sources: Sources = {
  width,
  height,
  light: (s) => lights[s.from === 'film' ? s.layer : s.picture],
  mask: () => mask,
  depth: () => depth,
  table: () => {
    throw new Error('no table');
  },
};
const masks = { m: { of: [{ kind: 'picked', film: 'a', names: ['x'] }] } };
const operation = fc.constantFrom(
  { does: 'exposure', stops: 0.7 },
  { does: 'contrast', amount: 1.3 },
  { does: 'soften', radius: 0.05 },
  { does: 'glow', amount: 0.2, above: 0.5 },
  { does: 'focus', film: 'a', metres: 8, fStop: 1.4, focalMm: 80 },
);
const effect = { opacity: fc.constantFrom(0, 0.5, 1), on: fc.boolean(), mask: fc.constantFrom(null, 'm') };
const list = fc.letrec<{ entry: object; list: object[] }>((tie) => ({
  entry: fc.oneof(
    { depthSize: 'small' },
    fc.record({
      kind: fc.constant('layer'),
      source: fc.constantFrom({ from: 'film', film: 'a', layer: 'one' }, { from: 'film', film: 'a', layer: 'two' }),
      way: fc.constantFrom('over', 'add', 'multiply', 'screen'),
      operations: fc.array(operation, { maxLength: 1 }),
      ...effect,
    }),
    fc.record({ kind: fc.constant('operation'), operation, ...effect }),
    fc.record({
      kind: fc.constant('nest'),
      entries: tie('list'),
      way: fc.constantFrom('by itself', 'add'),
      operations: fc.array(operation, { maxLength: 1 }),
      ...effect,
    }),
  ),
  list: fc.array(tie('entry'), { maxLength: 4 }),
})).list;

test('one entry after the other comes to the same bits as all of them, and asks for what is there one at a time', async () => {
  await fc.assert(
    fc.asyncProperty(list, fc.constantFrom('Rec.709', 'ACEScg'), async (entries, space) => {
      const stack = stackAt({ entries, masks, space }, 1);
      const asked: Entry[] = [];
      const made = await evaluateInTurn(stack, { width, height }, async (entry) => {
        asked.push(entry);
        return sources;
      });
      expect(made.planes).toEqual(evaluate(stack, sources).planes);
      expect(asked.every((e) => e.on && e.opacity > 0)).toBe(true);
    }),
    { seed: 8, numRuns: 60 },
  );
});

test('a fault names where it stands, in nests too', async () => {
  const data = { kind: 'layer', source: { from: 'film', film: 'a', layer: 'depth' } };
  const light = { kind: 'layer', source: { from: 'film', film: 'a', layer: 'one' }, way: 'add' };
  const stack = stackAt({ entries: [light, { kind: 'nest', entries: [light, light, data] }] }, 1);
  const made = evaluateInTurn(stack, { width, height }, async () => sources);
  await expect(made).rejects.toThrow(StackError);
  await expect(made).rejects.toThrow(/^entries\.1\.entries\.2\.source: data never shows/);
});
