import { type Display, displaySlope, luminance } from '../image';
import { type Noise, noiseFigures, noiseSquares, type Rgb } from '../stats';
import { cellMean } from './cell-mean';
import type { Film, RayCounts } from './film';
import { type TimeShares, timeShares } from './ray-costs';
import { limitShares, type NoiseShares, noiseShares, type ObjectShare, objectShares } from './shares';

/** What is measured of a film. */
export interface FilmFigures {
  noise: Noise | null;
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

/** Squared display slope at a tile's mean luminance: the weight of its noise in the whole picture's. */
function tileSlope2(film: Film, exposure: Display): (t: number) => number {
  return (t) => {
    const s = displaySlope(luminance(...cellMean(film, t)), exposure);
    return s * s;
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
  let noise: Noise | null = null;
  if (least >= 2) {
    const { a, b } = halvesOf(film);
    const { width, height } = film.spec.region;
    noise = noiseFigures(noiseSquares(a, b, width, height, exposure), width, height);
  }
  const slope2 = tileSlope2(film, exposure);
  const objects = objectShares(film, slope2);
  return {
    noise,
    rays: film.rays(),
    times: timeShares(film),
    samples: film.sampleTotal(),
    sampleRange: [least, most],
    clampedLight: film.clampedLight(),
    invalid: film.invalidCount(),
    shares: noiseShares(film, slope2),
    objects,
    lost:
      film.spec.planes.lost < 0
        ? null
        : { ofLight: objects?.reduce((sum, o) => sum + o.lost, 0) ?? 0, byLimit: limitShares(film) },
  };
}
