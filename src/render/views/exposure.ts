import { type Factors, LAYER, relight } from '@/core/film';
import { luminance, scaleOf } from '@/core/image';
import type { Kind } from './kind';
import { finiteRange, type Painted, paint, planes3, type Range } from './painting';

const MIDDLE_GREY = 0.18;
/** Stops about middle grey between which brightness is told apart. */
const ENDS: Range = [-6, 6];

/** How bright each pixel is, in stops from middle grey; `scale` brings light to display white. What has no light is as dark as it gets. */
export function stopsPainted(planes: readonly Float32Array[], scale: number): Painted {
  const [r, g, b] = planes;
  const stops = r.map((v, i) => {
    const y = (luminance(v, g[i], b[i]) * scale) / MIDDLE_GREY;
    return y > 0 ? Math.log2(y) : Number.NEGATIVE_INFINITY;
  });
  const [low, high] = ENDS;
  const [dataLow, dataHigh] = finiteRange(stops);
  // A band a stop: what is as bright as something else can be told across the picture.
  const bands = stops.map((s) => Math.floor(s) + 0.5);
  return {
    pixels: paint(bands, 'viridis', low, high),
    legend: { title: 'Exposure', unit: 'stops from grey', scale: 'viridis', low, high, dataLow, dataHigh },
  };
}

/** Brightness of the beauty, or of the light groups mixed, in stops. */
export const exposure: Kind<{ mix?: { groups: readonly string[]; factors: Factors } }> = {
  layers: ({ mix }) => (mix ? mix.groups.map(LAYER.group) : ['beauty']),
  paint: (film, { mix }, { exposure: display }) => {
    const planes = mix ? relight(film, mix.groups, mix.factors) : planes3(film, 'beauty');
    return planes && stopsPainted(planes, scaleOf(display));
  },
};
