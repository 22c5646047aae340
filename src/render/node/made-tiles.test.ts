import { evaluate, helpWithTiles, type Picture, type Sources, StackMemo, stackAt, type TileWork } from '@/core/comp';
import { numbers } from '../testing';
import { spawnNode } from './threads';

const [WIDTH, HEIGHT] = [640, 450];
const SIZE = WIDTH * HEIGHT;
const next = numbers(7);
const plane = () => Float32Array.from({ length: SIZE }, () => next() * 4 - 0.2);
const alpha = plane().map((v) => Math.min(1, Math.max(0, v)));
const pictures = Array.from(
  { length: 3 },
  (): Picture => ({ width: WIDTH, height: HEIGHT, planes: [plane(), plane(), plane(), alpha] }),
);
const depth = plane().map((v) => v + 1);
const sources: Sources = {
  width: WIDTH,
  height: HEIGHT,
  light: (s) => pictures[Number(s.from === 'film' ? s.layer.slice('group.l'.length) : 0)],
  mask: () => alpha,
  depth: () => depth,
  table: () => {
    throw new Error('there is none');
  },
};
const layer = (k: number, more: object) => ({
  kind: 'layer',
  source: { from: 'film', film: 'a', layer: `group.l${k}` },
  ...more,
});
const stack = (opacity: number) =>
  stackAt(
    {
      entries: [
        layer(0, { opacity }),
        layer(1, { way: 'add', mask: 'm' }),
        layer(2, { way: 'screen', operations: [{ does: 'saturation', amount: 1.4 }] }),
        { kind: 'operation', operation: { does: 'contrast', amount: 1.2 }, opacity: 0.7 },
        { kind: 'operation', operation: { does: 'haze', film: 'a', rgb: [0.2, 0.3, 0.4], perMetre: 0.2 } },
      ],
      masks: { m: { of: [{ kind: 'picked', film: 'a', names: ['x'] }] } },
    },
    1,
  );

afterEach(() => helpWithTiles(() => []));

test('a thread that helps makes tiles of the same picture, bit for bit', () => {
  const thread = spawnNode(new URL('../../../build/thread.mjs', `file://${__filename}`))();
  const faults: unknown[] = [];
  thread.listen(
    (m) => faults.push(m),
    (e) => faults.push(e),
  );
  let asked = 0;
  helpWithTiles(() => [
    (work) => {
      asked++;
      thread.post({ type: 'make tiles', work });
      // Until it is at work: else this thread may have made all tiles before the other has started.
      const words = new Int32Array(work.control);
      while (Atomics.load(words, 2) === 0 && Atomics.load(words, 1) === 0) Atomics.wait(words, 2, 0, 10);
    },
  ]);
  const memo = new StackMemo();
  try {
    for (const opacity of [1, 0.5, 0.8, 0.3, 1])
      expect(memo.evaluate(stack(opacity), sources)).toEqual(evaluate(stack(opacity), sources));
  } finally {
    thread.terminate();
  }
  expect(faults).toEqual([]);
  // Planes are held from the second picture on, and shared from then.
  expect(asked).toBe(4);
});

test('a thread that comes to grief costs time, and no pixel', () => {
  let asked = 0;
  helpWithTiles(() => [
    ({ control }: TileWork) => {
      asked++;
      // It takes a tile, and is never heard of again.
      Atomics.add(new Int32Array(control), 0, 1);
      Atomics.add(new Int32Array(control), 2, 1);
    },
  ]);
  const memo = new StackMemo();
  for (const opacity of [1, 0.5, 0.8])
    expect(memo.evaluate(stack(opacity), sources).planes).toEqual(evaluate(stack(opacity), sources).planes);
  expect(asked).toBe(1);
});
