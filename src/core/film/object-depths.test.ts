import { LEDGER_LAYERS } from './catalogue';
import type { FilmLayers, Layer } from './layers';
import { objectDepths } from './object-depths';

const [WIDTH, HEIGHT] = [96, 32];

/** Three objects beside each other; `light(id, limit)` is what the ledger's part holds there. */
function filmOf(light: (id: number, limit: number) => number): FilmLayers {
  const plane = (of: (x: number) => number) =>
    Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => of(Math.floor((i % WIDTH) / 32) + 1));
  const layers = new Map<string, Layer>();
  LEDGER_LAYERS.forEach((name, limit) => {
    const planes = [0, 1, 2].map(() => plane((id) => light(id, limit)));
    layers.set(name, { name, channels: ['R', 'G', 'B'], planes, kind: 'color' });
  });
  const planes = [plane((id) => id), plane(() => 1)];
  layers.set('coverage', { name: 'coverage', channels: ['id0', 'share0'], planes, kind: 'data' });
  return { width: WIDTH, height: HEIGHT, layers };
}

test('each object has its own depth: the last part that it shows', () => {
  // Object 1 shows direct light alone, 2 also its fourth part, 3 a little at every one. Borders smear over three pixels.
  const film = filmOf((id, limit) => (limit === 0 ? 0.2 : id === 2 && limit === 4 ? 0.2 : id === 3 ? 0.02 : 0));
  const depths = objectDepths(film, 1)!;
  expect(depths.map((d) => d.id).sort()).toEqual([1, 2, 3]);
  const of = (id: number) => depths.find((d) => d.id === id)!;
  expect(of(2).enough).toBe(4);
  expect(of(3).enough).toBe(LEDGER_LAYERS.length - 1);
  expect(of(1).pixels).toBe(32 * HEIGHT);
});

test('where nothing goes deeper, none is needed', () => {
  const depths = objectDepths(
    filmOf((_id, limit) => (limit === 0 ? 0.3 : 0)),
    1,
  )!;
  expect(depths.every((d) => d.enough === 0)).toBe(true);
});

test('without a mask or a ledger nothing is told', () => {
  const film = filmOf(() => 0.1);
  film.layers.delete('coverage');
  expect(objectDepths(film, 1)).toBeNull();
  expect(objectDepths({ width: 4, height: 4, layers: new Map() }, 1)).toBeNull();
});
