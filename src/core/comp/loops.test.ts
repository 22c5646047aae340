import fc from 'fast-check';
import { numbers } from '@/render/testing';
import { evaluate, type Picture, type Sources, StackMemo, stackAt } from '.';
import { HeldPlanes } from './held';
import { blurred } from './operations/blur';
import { evaluatePlainly } from './reference/evaluate';

// No multiple of a tile, nor of a lane.
const [WIDTH, HEIGHT] = [67, 65];
const SIZE = WIDTH * HEIGHT;
const next = numbers(11);
const plane = (low: number, high: number) => Float32Array.from({ length: SIZE }, () => low + next() * (high - low));
const picture = (least: number, most: number): Picture => {
  const a = plane(0, 1).map((v) => (v < 0.2 ? 0 : v > 0.8 ? 1 : v));
  const of = () => plane(least, most).map((v, i) => (a[i] === 0 ? v * 0.1 : v * a[i]));
  return { width: WIDTH, height: HEIGHT, planes: [of(), of(), of(), a] };
};
const lights: Record<string, Picture> = { one: picture(0, 2), two: picture(-0.1, 100) };
const mask = plane(0, 1).map((v) => (v < 0.3 ? 0 : v > 0.7 ? 1 : v));
const depth = plane(0, 50).map((v) => (v > 45 ? Number.POSITIVE_INFINITY : v));
const sources: Sources = {
  width: WIDTH,
  height: HEIGHT,
  light: (s) => lights[s.from === 'film' ? s.layer : s.picture],
  mask: () => mask,
  depth: () => depth,
  table: () => {
    throw new Error('no table');
  },
};
const masks = { m: { of: [{ kind: 'picked', film: 'a', names: ['x'] }] } };

const operations = fc.constantFrom(
  { does: 'exposure', stops: 0.7, tint: [1, 0.8, 1.1] },
  { does: 'exposure' },
  { does: 'white', rgb: [0.8, 0.7, 0.6] },
  { does: 'contrast', amount: 1.3, pivot: 0.2 },
  { does: 'saturation', amount: 0.6 },
  { does: 'ranges', shadows: { stops: 1, tint: [1, 0.9, 1] }, lights: { stops: -0.5 } },
  { does: 'shoulder', from: 0.7 },
  { does: 'vignette', amount: 0.4 },
  { does: 'haze', film: 'a', perMetre: 0.05 },
  { does: 'curves', all: [[0.3, 0.4]], red: [[0.6, 0.5]] },
  { does: 'soften', radius: 0.02 },
);
const effect = {
  opacity: fc.constantFrom(0, 0.25, 1),
  on: fc.boolean(),
  mask: fc.constantFrom(null, 'm'),
};
const entries = fc.letrec<{ entry: object; list: object[] }>((tie) => ({
  entry: fc.oneof(
    { depthSize: 'small' },
    fc.record({
      kind: fc.constant('layer'),
      source: fc.constantFrom(
        { from: 'film', film: 'a', layer: 'one' },
        { from: 'film', film: 'a', layer: 'two' },
        { from: 'solid', rgb: [0.2, 0.4, 3], alpha: 0.5 },
      ),
      way: fc.constantFrom('over', 'add', 'subtract', 'multiply', 'screen', 'shadow', 'occlude'),
      operations: fc.array(operations, { maxLength: 2 }),
      ...effect,
    }),
    fc.record({ kind: fc.constant('operation'), operation: operations, ...effect }),
    fc.record({ kind: fc.constant('nest'), entries: tie('list'), operations: fc.array(operations, { maxLength: 1 }) }),
  ),
  list: fc.array(tie('entry'), { maxLength: 5 }),
})).list;

/** The most by which two pictures differ, against what is there and how bright the stack was on the way. */
function differ(a: Picture, b: Picture): number {
  let most = 0;
  for (let c = 0; c < 4; c++)
    for (let i = 0; i < SIZE; i++) {
      const [v, w] = [a.planes[c][i], b.planes[c][i]];
      const off = Math.abs(v - w) / Math.max(1, Math.abs(w));
      if (!(off <= most)) most = off;
    }
  return most;
}

test('random stacks come to what one operation after the other comes to, whatever is gathered into one go', () => {
  fc.assert(
    fc.property(entries, fc.constantFrom('Rec.709', 'ACEScg'), (list, space) => {
      const stack = stackAt({ entries: list, masks, space }, 1);
      expect(differ(evaluate(stack, sources), evaluatePlainly(stack, sources))).toBeLessThan(1e-4);
    }),
    { seed: 3, numRuns: 60 },
  );
});

test('what lies below a change is kept, and the picture is what it is made anew, bit for bit', () => {
  fc.assert(
    fc.property(fc.array(entries, { minLength: 3, maxLength: 3 }), (lists) => {
      const memo = new StackMemo();
      const [first, ...rest] = lists;
      for (const list of [first, ...rest.map((l) => [...first.slice(0, 2), ...l]), first]) {
        const stack = stackAt({ entries: list, masks }, 1);
        expect(memo.evaluate(stack, sources).planes).toEqual(evaluate(stack, sources).planes);
      }
    }),
    { seed: 4, numRuns: 12 },
  );
});

test('planes that are held between pictures are read where they lie: the same picture, bit for bit, whichever entry changes', () => {
  fc.assert(
    fc.property(entries, fc.array(fc.nat(9), { minLength: 4, maxLength: 8 }), (list, changes) => {
      const memo = new StackMemo();
      const now: { opacity?: number }[] = list.map((e) => ({ ...e }));
      changes.forEach((k, i) => {
        const entry = now[k % now.length];
        if (entry) entry.opacity = i % 2 === 0 ? 0.5 : 1;
        const stack = stackAt({ entries: now, masks }, 1);
        expect(memo.evaluate(stack, sources).planes).toEqual(evaluate(stack, sources).planes);
      });
    }),
    { seed: 5, numRuns: 30 },
  );
});

test('of planes that are asked for again those are held that fit, and what is not asked for makes room for them', () => {
  const held = new HeldPlanes(64);
  const plane = (v: number) => new Float32Array(4).fill(v);
  const [a, b, c, d, e] = [1, 2, 3, 4, 5].map(plane);
  const at = (...asked: Float32Array[]) => {
    const { own, at: places } = held.room(asked, [16]);
    for (const [p, place] of places) expect(new Float32Array(own.memory, place, 4)).toEqual(p);
    // What is worked on lies beside what is held.
    new Float32Array(own.memory, own.at[0], 4).fill(-1);
    return [...places.keys()].map((p) => p[0]);
  };
  expect(at(a, b)).toEqual([]);
  expect(at(a, b)).toEqual([1, 2]);
  expect(at(a, c, d)).toEqual([1, 2]);
  expect(at(a, c, d)).toEqual([1, 2, 3, 4]);
  expect(at(a, e)).toEqual([1, 2, 3, 4]);
  expect(at(a, e)).toEqual([1, 5]);
  expect(at(a, b, c, d, e)).toEqual([1, 5, 2, 3]);
  expect(at(a, b, c, d, e)).toEqual([1, 5, 2, 3]);
});

test('of many stacks only the latest two hold planes', () => {
  const stacks = [1, 2, 3].map(() => ({ held: new HeldPlanes(), plane: new Float32Array(16) }));
  const holds = ({ held, plane }: (typeof stacks)[number]) => held.room([plane], [16]).at.has(plane);
  for (const s of stacks) expect([holds(s), holds(s)]).toEqual([false, true]);
  expect(stacks.slice(1).map(holds)).toEqual([true, true]);
  // What it had was let go; it is taken in anew, and another one's goes.
  expect(holds(stacks[0])).toBe(true);
  expect(stacks[1].held.room([], [16]).at.size).toBe(0);
  expect(stacks[2].held.room([], [16]).at.size).toBe(1);
});

test('a blur is near a Gauss: by weights where it is narrow, by boxes with its variance where it is wide, of halves where it is wider', () => {
  const [w, h] = [241, 197];
  for (const [sigma, x0, y0] of [
    [1.2, 60, 48],
    [2.5, 60, 48],
    [4, 61, 48],
    [9, 120, 97],
    [16, 121, 98],
    [16, 122, 99],
  ]) {
    const spot = new Float32Array(w * h);
    spot[y0 * w + x0] = 1;
    const got = blurred(spot, w, h, [{ sigma, share: 1 }], 'nothing');
    const gauss = (d: number) => Math.exp(-(d * d) / (2 * sigma * sigma)) / (Math.sqrt(2 * Math.PI) * sigma);
    const peak = gauss(0) ** 2;
    let most = 0;
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) most = Math.max(most, Math.abs(got[y * w + x] - gauss(x - x0) * gauss(y - y0)));
    expect(most / peak).toBeLessThan(sigma < 2.5 ? 0.005 : 0.08);
    const moment = got.reduce((s, v, i) => s + v * ((i % w) - x0) ** 2, 0);
    expect(got.reduce((s, v, i) => s + v * (Math.floor(i / w) - y0), 0)).toBeCloseTo(0, 3);
    expect(moment / (sigma * sigma)).toBeCloseTo(1, 2);
    expect(got.reduce((s, v) => s + v, 0)).toBeCloseTo(1, 3);
  }
});
