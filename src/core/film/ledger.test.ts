import { depthCurve, LEDGER_LAYERS, pictureAtLimit } from '.';
import type { FilmLayers } from './layers';

/** A film of one colour whose parts by bounce are given; `hot` adds light to one pixel at one bounce. */
function filmOf(parts: number[], hot?: { bounce: number; value: number }, lost?: number): FilmLayers {
  const [width, height] = [32, 32];
  const layers: FilmLayers['layers'] = new Map();
  const plane = (v: number) => new Float32Array(width * height).fill(v);
  LEDGER_LAYERS.forEach((name, b) => {
    const planes = [0, 1, 2].map(() => plane(parts[b] ?? 0));
    if (hot?.bounce === b) for (const p of planes) p[0] += hot.value;
    layers.set(name, { name, channels: ['R', 'G', 'B'], planes, kind: 'color' });
  });
  if (lost !== undefined)
    layers.set('lost', {
      name: 'lost',
      channels: ['R', 'G', 'B'],
      planes: [0, 1, 2].map(() => plane(lost)),
      kind: 'color',
    });
  return { width, height, layers };
}

describe('the bounce ledger', () => {
  test('the picture at a limit is the sum of its parts, and nothing without a ledger', () => {
    const film = filmOf([0.1, 0.2, 0.4]);
    expect(pictureAtLimit(film, 1)![2][7]).toBeCloseTo(0.3, 6);
    expect(pictureAtLimit(film, 99)![0][0]).toBeCloseTo(0.7, 6);
    expect(pictureAtLimit({ ...film, layers: new Map() }, 3)).toBeNull();
    expect(depthCurve({ ...film, layers: new Map() }, 1)).toBeNull();
  });

  test('tells what light is missing, and the first limit beyond which nothing is seen', () => {
    const { steps, enough, lost } = depthCurve(filmOf([0.2, 0.05, 0.01, 1e-5]), 1)!;
    expect(steps).toHaveLength(17);
    expect(steps[0].missing).toBeCloseTo(0.06001 / 0.26001, 5);
    expect(steps[0].rms).toBeGreaterThan(steps[1].rms);
    expect(steps[3].missing).toBeCloseTo(0, 6);
    expect(steps[16].rms).toBe(0);
    expect(enough).toBe(2);
    expect(lost).toBeNull();
  });

  test('one bright place that goes missing keeps a limit from being enough, however dark the rest', () => {
    const { steps, enough } = depthCurve(filmOf([0.2], { bounce: 5, value: 0.4 }), 1)!;
    expect(steps[4].rms).toBeLessThan(1);
    expect(steps[4].worstCell).toBeGreaterThan(1);
    expect(enough).toBe(5);
  });

  test('light beyond what was traced means that no limit of it is enough', () => {
    const { enough, lost } = depthCurve(filmOf([0.2, 0.01], undefined, 0.02), 1)!;
    expect(lost).toBeCloseTo(0.02 / 0.21, 5);
    expect(enough).toBeNull();
    expect(depthCurve(filmOf([0.2, 0.01], undefined, 1e-6), 1)!.enough).toBe(1);
  });
});
