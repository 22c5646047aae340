import { ranksOf } from '@/core/exr';
import { isMask, type Layer, layerInfo } from '@/core/film';
import type { Kind } from './kind';
import { finiteRange, type Painted, paint, percentiles, type Range } from './painting';

/** Okabe–Ito colours, for telling objects apart. */
const CATEGORIES = [
  [230, 159, 0],
  [86, 180, 233],
  [0, 158, 115],
  [240, 228, 66],
  [0, 114, 178],
  [213, 94, 0],
  [204, 121, 167],
  [150, 150, 150],
];

function coverage(layer: Layer): Painted {
  const size = layer.planes[0].length;
  const pixels = new Uint8ClampedArray(size * 4);
  const { numbered, ranks } = ranksOf(layer.channels, layer.planes);
  for (let i = 0; i < size; i++) pixels[i * 4 + 3] = 255;
  const sum = new Float32Array(size * 3);
  for (const { id, share } of ranks) {
    const ids = numbered ? id : new Uint32Array(id.buffer, id.byteOffset, size);
    for (let i = 0; i < size; i++) {
      if (ids[i] === 0) continue;
      const c = CATEGORIES[(numbered ? ids[i] : ids[i] >>> 3) % CATEGORIES.length];
      for (let k = 0; k < 3; k++) sum[i * 3 + k] += c[k] * share[i];
    }
  }
  for (let i = 0; i < size; i++) for (let k = 0; k < 3; k++) pixels[i * 4 + k] = sum[i * 3 + k];
  return { pixels, legend: null };
}

/** Vectors as colours: directions from −1 to 1, positions over the range they have, all else from 0 to 1. */
function channelsAsColors(layer: Layer): Uint8ClampedArray<ArrayBuffer> {
  const { span } = layerInfo(layer.name);
  const spans = layer.planes.map((plane): Range => {
    if (span === 'signed') return [-1, 1];
    return span === 'own' ? (percentiles(plane, [0.01, 0.99]) as [number, number]) : [0, 1];
  });
  const size = layer.planes[0].length;
  const pixels = new Uint8ClampedArray(size * 4);
  for (let i = 0; i < size; i++) {
    layer.planes.forEach((plane, c) => {
      const [low, high] = spans[c];
      pixels[i * 4 + c] = (255 * (plane[i] - low)) / (high - low || 1);
    });
    pixels[i * 4 + 3] = 255;
  }
  return pixels;
}

function painted(layer: Layer, range: Range | null): Painted {
  if (isMask(layer.name)) return coverage(layer);
  if (layer.planes.length === 3 || layer.name === 'uv') return { pixels: channelsAsColors(layer), legend: null };
  const plane =
    layer.planes.length === 2
      ? layer.planes[0].map((x, i) => Math.sqrt(x * x + layer.planes[1][i] ** 2))
      : layer.planes[0];
  const [dataLow, dataHigh] = finiteRange(plane);
  const { span, title, unit } = layerInfo(layer.name);
  const [low, high] = range ?? (span === 'unit' ? [0, 1] : percentiles(plane, [0.01, 0.99]));
  return {
    pixels: paint(plane, 'viridis', low, high),
    legend: { title, unit, scale: 'viridis', low, high, dataLow, dataHigh },
  };
}

/** A data plane on a scale, or as colours that tell its values apart; `range` holds the ends of its scale. */
export const data: Kind<{ layer: string; range: [number, number] | null }> = {
  layers: ({ layer }) => [layer],
  paint: (film, { layer, range }, { scale }) => {
    const own = film.layers.get(layer);
    return own ? painted(own, range ?? scale) : null;
  },
};
