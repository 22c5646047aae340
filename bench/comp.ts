import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { evaluate, helpWithTiles, type Picture, pictureExr, type Sources, StackMemo, stackAt } from '@/core/comp';
import { evaluatePlainly } from '@/core/comp/reference/evaluate';
import { nodeDeflate } from '@/node/zlib';
import { spawnNode } from '@/render/node/threads';
import { median } from './median';

const [WIDTH, HEIGHT] = [1280, 720];
const SIZE = WIDTH * HEIGHT;
const LAYERS = 12;
const ROUNDS = 9;

/** Numbers from 0 to 1 that look like noise, the same in every run. */
function plane(seed: number, most = 1): Float32Array {
  let a = seed;
  return Float32Array.from({ length: SIZE }, () => {
    a = (Math.imul(a, 1664525) + 1013904223) >>> 0;
    return (a / 2 ** 32) * most;
  });
}
const picture = (seed: number, alpha: Float32Array): Picture => ({
  width: WIDTH,
  height: HEIGHT,
  planes: [plane(seed), plane(seed + 1), plane(seed + 2), alpha],
});

export interface StackTimes {
  /** Twelve layers with masks and a grade, made anew while another thread helps; and the same by the plain reading of a stack. */
  layersMs: number;
  /** The same for the first time, before anything of it is held. */
  firstMs: number;
  plainMs: number;
  /** Copying what those layers hold, and nothing else. */
  copyMs: number;
  /** A number of the topmost entry changed, and the picture thinned as it is while it is dragged. */
  againMs: number;
  thinnedMs: number;
  /** The sums of twelve layers alone, and the OpenEXR users' tool with the same, reading them from files that are not packed. */
  sumsMs: number;
  toolMs: number;
  focusMs: number;
  glowMs: number;
}

/** Stacks at 1280×720: twelve layers, focus by depth and glow, each against what else does the same. Medians of turns. */
export async function measureStacks(): Promise<StackTimes> {
  // Layers of one film have its alpha.
  const alpha = plane(98);
  const pictures = Array.from({ length: LAYERS }, (_, k) => picture(4 * k + 1, alpha));
  const mask = plane(99);
  // A floor that goes away from the camera, and the sky.
  const depth = Float32Array.from({ length: SIZE }, (_, i) => {
    const y = Math.floor(i / WIDTH) / HEIGHT;
    return y < 0.4 ? Number.POSITIVE_INFINITY : 1.6 / (y - 0.38);
  });
  const sources: Sources = {
    width: WIDTH,
    height: HEIGHT,
    light: (s) => pictures[Number(s.from === 'film' ? s.layer.slice('group.l'.length) : 0)],
    mask: () => mask,
    depth: () => depth,
    table: () => {
      throw new Error('no table');
    },
  };
  const layer = (k: number, more: object = {}) => ({
    kind: 'layer',
    source: { from: 'film', film: 'a', layer: `group.l${k}` },
    ...more,
  });
  const toAll = (operation: object) => ({ kind: 'operation', operation });
  const masks = { m: { of: [{ kind: 'picked', film: 'a', names: ['x'] }] } };
  const stackOf = (entries: object[]) => stackAt({ entries, masks }, 1);
  const sums = Array.from({ length: LAYERS }, (_, k) => layer(k, { way: 'add' }));
  const twelve = (stops: number, bottom = 0.8) =>
    stackOf([
      ...Array.from({ length: LAYERS }, (_, k) =>
        layer(k, { way: 'add', opacity: k === 0 ? bottom : 0.8, mask: k % 3 === 0 ? 'm' : null }),
      ),
      toAll({ does: 'contrast', amount: 1.1 }),
      toAll({ does: 'saturation', amount: 1.1 }),
      toAll({ does: 'ranges', shadows: { stops: 0.2 } }),
      toAll({ does: 'exposure', stops }),
    ]);
  const time = (run: () => unknown, rounds = ROUNDS) => {
    run();
    return median(
      Array.from({ length: rounds }, () => {
        const before = performance.now();
        run();
        return performance.now() - before;
      }),
    );
  };
  const files = await Promise.all(
    pictures.map(async (p, k) => {
      const file = `build/bench-stack-${k}.exr`;
      writeFileSync(file, await pictureExr(p, { stack: '', header: null, space: 'Rec.709' }, nodeDeflate));
      const bare = `build/bench-stack-${k}-bare.exr`;
      execFileSync('oiiotool', [file, '--compression', 'none', '-o', bare]);
      return bare;
    }),
  );
  const memo = new StackMemo();
  const whole = new StackMemo();
  const helper = spawnNode(new URL('./thread.mjs', import.meta.url))();
  helper.listen(
    () => {},
    () => {},
  );
  helpWithTiles(() => [(work) => helper.post({ type: 'make tiles', work })]);
  let share = 0.8;
  let stops = 0;
  memo.evaluate(twelve(0), sources);
  const [w, h] = [WIDTH >> 1, HEIGHT >> 1];
  const scratch = new Float32Array(SIZE);
  const less = (p: Float32Array) => p.subarray(0, w * h);
  const lessAlpha = less(alpha);
  const thin = (p: Picture): Picture => ({
    width: w,
    height: h,
    planes: [less(p.planes[0]), less(p.planes[1]), less(p.planes[2]), lessAlpha],
  });
  const small: Sources = {
    ...sources,
    width: w,
    height: h,
    light: (s) => thin(sources.light(s)),
    mask: () => less(mask),
    depth: () => less(depth),
  };
  const times = {
    layersMs: time(() => {
      share = 1.5 - share;
      return whole.evaluate(twelve(0.2, share), sources);
    }, 4 * ROUNDS),
    firstMs: time(() => evaluate(twelve(0.2), sources)),
    plainMs: time(() => evaluatePlainly(twelve(0.2), sources)),
    copyMs: time(() => {
      for (const p of new Set(pictures.flatMap((of) => of.planes))) scratch.set(p);
    }),
    againMs: time(() => {
      stops += 0.1;
      return memo.evaluate(twelve(stops), sources);
    }),
    thinnedMs: time(() => evaluate(twelve(0.2), small)),
    sumsMs: time(() => evaluate(stackOf(sums), sources)),
    toolMs: time(() =>
      execFileSync('oiiotool', [
        '--threads',
        '1',
        files[0],
        ...files.slice(1).flatMap((f) => [f, '--add']),
        '-o',
        'build/bench-stack-sum.exr',
      ]),
    ),
    focusMs: time(() =>
      evaluate(
        stackOf([layer(0), toAll({ does: 'focus', film: 'a', metres: 5, fStop: 1.4, focalMm: 40, sensorMm: 20.25 })]),
        sources,
      ),
    ),
    glowMs: time(() =>
      evaluate(stackOf([layer(0), toAll({ does: 'glow', amount: 0.1, radius: 0.02, above: 0.9 })]), sources),
    ),
  };
  helper.terminate();
  return times;
}
