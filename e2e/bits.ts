import { denoiseSquare, type Prepared, prepare, readyLead, readyWhole, SquareFilter, squaresOf } from '@/core/denoise';
import { LAYER, type Layer } from '@/core/film';

const [WIDTH, HEIGHT] = [170, 60];

/** Even numbers from 0 to 1 by whole numbers alone, the same everywhere. */
function evenNumbers(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return (state >>> 8) / 0x1000000;
  };
}

/** A noisy film of two light groups, two path classes that sum to the picture, and guides. */
function noisyFilm() {
  const next = evenNumbers(3);
  const layers = new Map<string, Layer>();
  const put = (name: string, of: (x: number, y: number, c: number) => number, channels = ['R', 'G', 'B']) => {
    const planes = channels.map((_, c) =>
      Float32Array.from({ length: WIDTH * HEIGHT }, (_, i) => of(i % WIDTH, Math.floor(i / WIDTH), c)),
    );
    layers.set(name, { name, channels, planes, kind: 'color' });
    return planes;
  };
  const at = (x: number, y: number) => y * WIDTH + x;
  const light = { key: (x: number) => (x > 80 ? 0.8 : 0.1), fill: (x: number) => 0.002 * x };
  const halves = (['a', 'b'] as const).map((half) => {
    const groups = (['key', 'fill'] as const).map((g) =>
      put(
        LAYER.half(half, g),
        (x, y, c) => light[g](x) * (1 + c / 8) * (0.3 + 1.4 * next() ** 4) + (y === 20 ? 0.1 : 0),
      ),
    );
    put(LAYER.guides(half), (_, y, k) => (k < 3 && y > 30 ? 0.5 : 0.2) + 0.02 * next(), [...'RGBXYZ', 'near']);
    return put(LAYER.half(half), (x, y, c) => groups[0][c][at(x, y)] + groups[1][c][at(x, y)]);
  });
  for (const g of Object.keys(light)) {
    const [a, b] = (['a', 'b'] as const).map((h) => layers.get(LAYER.half(h, g))!.planes);
    put(LAYER.group(g), (x, y, c) => (a[c][at(x, y)] + b[c][at(x, y)]) / 2);
  }
  const beauty = put('beauty', (x, y, c) => (halves[0][c][at(x, y)] + halves[1][c][at(x, y)]) / 2);
  put(LAYER.class('direct_diffuse'), (x, y, c) => beauty[c][at(x, y)] * 0.75);
  put(LAYER.class('indirect_diffuse'), (x, y, c) => beauty[c][at(x, y)] * 0.25);
  return { width: WIDTH, height: HEIGHT, layers };
}

/** Every bit of a film denoised with the filter's code given, as one number, and how much of the film was changed. */
export function filteredBits(wasm: Uint8Array<ArrayBuffer>): { bits: number; changed: number } {
  const prepared: Prepared = prepare(noisyFilm(), 1, (n) => new Float32Array(n));
  const { picture, results } = prepared;
  for (const lead of picture.leads) readyLead(lead, picture.size);
  readyWhole(picture);
  const filter = new SquareFilter(new WebAssembly.Module(wasm));
  for (const { x, y } of squaresOf(picture.size)) denoiseSquare(filter, picture, x, y, results);
  let bits = 0;
  let changed = 0;
  const planes = [...results.leads.flatMap((l) => [...l.a, ...l.b]), ...results.followers.flat()];
  for (const plane of planes)
    for (const word of new Uint32Array(plane.buffer)) {
      bits = (Math.imul(bits ^ word, 0x01000193) + 1) >>> 0;
      if (word !== 0) changed++;
    }
  return { bits, changed: changed / (planes.length * WIDTH * HEIGHT) };
}
