import type { Display } from '../image';
import { TABLE } from '../kernel';
import {
  DARKER_STOPS,
  darker,
  type HotPixels,
  hotPixels,
  type Noise,
  noiseFigures,
  noiseOf,
  noiseSquares,
  type Rgb,
} from '../stats';
import { LAYER } from './catalogue';
import { seenWeight2 } from './cell-error';
import type { Film, RayCounts } from './film';
import type { FilmLayers, Layer } from './layers';
import { type TimeShares, timeShares } from './ray-costs';
import { limitShares, type NoiseShares, noiseShares, type ObjectShare, objectShares } from './shares';

/** What is measured of a film. */
export interface FilmFigures {
  noise: Noise | null;
  /** Noise at `DARKER_STOPS` below the camera's exposure, in percent, and hot pixels; left out in films from before they were told. */
  darker?: number | null;
  hot?: HotPixels | null;
  rays: RayCounts;
  /** Share of the time by kind of ray; not the same on every machine, and left out in films from before it was told. */
  times?: TimeShares | null;
  /** Camera samples of all pixels together. */
  samples: number;
  /** Least and most samples a pixel has. */
  sampleRange: [number, number];
  clampedLight: number;
  /** Contributions left out for being no finite numbers; above 0 the scene or the kernel is at fault. */
  invalid: number;
  /** Camera samples whose object found no room in its pixel's mask; left out in films from before it was counted. */
  unmasked?: number;
  shares: NoiseShares | null;
  /** Shares by object of the first hit; null before the first sample. */
  objects: ObjectShare[] | null;
  /** Light that limits kept away, as a multiple of the light in the picture, and by kind of limit; null when not looked for. */
  lost: { ofLight: number; byLimit: ReturnType<typeof limitShares> } | null;
}

/** Halves of a film as means of their own samples. */
export function halvesOf(film: Film): { a: Rgb; b: Rgb } {
  const plane = (i: number) => film.plane(i, 'half');
  return { a: [plane(0), plane(1), plane(2)], b: [plane(3), plane(4), plane(5)] };
}

/** Noise of layers' beauty, told by its halves. */
export function noiseOfLayers({ width, height, layers }: FilmLayers, exposure: Display): Noise {
  const half = (name: string) => layers.get(name)!.planes as unknown as Rgb;
  return noiseOf(half(LAYER.half('a')), half(LAYER.half('b')), width, height, exposure);
}

/** Noise figures of halves. */
function noisesOf(halves: { a: Rgb; b: Rgb } | null, width: number, height: number, exposure: Display) {
  return {
    noise: halves && noiseFigures(noiseSquares(halves.a, halves.b, exposure), width, height),
    darker: halves && noiseOf(halves.a, halves.b, width, height, darker(exposure, DARKER_STOPS)).rms,
    hot: halves && hotPixels(halves.a, halves.b, exposure),
  };
}

function addRays(a: RayCounts, b: RayCounts): RayCounts {
  const sum = { ...a };
  for (const key of Object.keys(a) as (keyof RayCounts)[]) {
    if (key !== 'shadowByGroup') sum[key] = a[key] + b[key];
  }
  sum.shadowByGroup = Object.fromEntries(Object.entries(a.shadowByGroup).map(([g, n]) => [g, n + b.shadowByGroup[g]]));
  return sum;
}

/**
 * Figures of a frame that was rendered in bands, by those of its bands and by its halves, which `half` gives where they are asked for. Shares by source, by object and
 * of lost light weigh with the whole film and are not told.
 */
export function joinedFigures(
  bands: readonly FilmFigures[],
  half: (name: string) => Layer,
  { width, height }: { width: number; height: number },
  exposure: Display,
): FilmFigures {
  const sum = (of: (f: FilmFigures) => number) => bands.reduce((s, f) => s + of(f), 0);
  const sampleRange: [number, number] = [
    Math.min(...bands.map((f) => f.sampleRange[0])),
    Math.max(...bands.map((f) => f.sampleRange[1])),
  ];
  const planes = (h: 'a' | 'b') => half(LAYER.half(h)).planes as unknown as Rgb;
  const halves = sampleRange[0] >= 2 ? { a: planes('a'), b: planes('b') } : null;
  return {
    ...noisesOf(halves, width, height, exposure),
    rays: bands.map((f) => f.rays).reduce(addRays),
    samples: sum((f) => f.samples),
    sampleRange,
    clampedLight: sum((f) => f.clampedLight),
    invalid: sum((f) => f.invalid),
    unmasked: sum((f) => f.unmasked ?? 0),
    shares: null,
    objects: null,
    lost: null,
  };
}

/** Measures a film. Noise needs two samples in every cell; before that it is null. */
export function measureFilm(film: Film, exposure: Display): FilmFigures {
  let least = Infinity;
  let most = 0;
  for (const n of film.samples) {
    least = Math.min(least, n);
    most = Math.max(most, n);
  }
  const { width, height } = film.spec.region;
  const halves = least >= 2 ? halvesOf(film) : null;
  const weights = Array.from({ length: film.tileCount }, (_, t) =>
    film.samples[t] >= 2 ? seenWeight2(film, t, exposure) : 0,
  );
  const weight2 = (t: number) => weights[t];
  const objects = objectShares(film, weight2, exposure);
  return {
    ...noisesOf(halves, width, height, exposure),
    rays: film.rays(),
    times: timeShares(film),
    samples: film.sampleTotal(),
    sampleRange: [least, most],
    clampedLight: film.clampedLight(),
    invalid: film.invalidCount(),
    unmasked: film.tableSums(TABLE.unmasked, 1)[0],
    shares: noiseShares(film, weight2),
    objects,
    lost:
      film.spec.planes.lost < 0
        ? null
        : { ofLight: objects?.reduce((sum, o) => sum + o.lost, 0) ?? 0, byLimit: limitShares(film) },
  };
}
