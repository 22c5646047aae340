import { type Display, decodeSrgb, displayValue, luminance } from '../image';
import { sampled, separable, unit } from './convolve';
import { flipMap } from './flip';
import type { Rgb } from './noise';

/** How far a picture is from a reference. */
export interface PictureErrors {
  /** Root mean square of linear differences over all channels. */
  rmse: number;
  /** Mean of (difference² / (reference² + 0.01)) over all channels, linear [Rousselle et al. 2011]. */
  relMse: number;
  /** Peak signal to noise in dB, as displayed; infinite for the same picture. */
  psnr: number;
  /** Structural similarity of displayed luminance, at most 1. */
  ssim: number;
  /** Mean FLIP, 0..1. */
  flip: number;
}

const RELATIVE_FLOOR = 0.01;

/** A picture as the screen shows it, encoded 0..1. */
const displayed = (rgb: Rgb, exposure: Display): Rgb =>
  rgb.map((p) => p.map((v) => displayValue(v, exposure))) as unknown as Rgb;

/**
 * Structural similarity [Wang et al. 2004]: Gaussian windows of 11×11, σ = 1.5, K1 = 0.01, K2 = 0.03, of values in 0..1.
 */
export function ssim(a: Float32Array, b: Float32Array, width: number, height: number): number {
  const kernel = unit(sampled(5, (x) => Math.exp((-x * x) / (2 * 1.5 * 1.5))));
  const blur = (p: Float32Array) => separable(p, width, height, kernel, kernel);
  const [ma, mb] = [blur(a), blur(b)];
  const aa = blur(a.map((v) => v * v));
  const bb = blur(b.map((v) => v * v));
  const ab = blur(a.map((v, i) => v * b[i]));
  const [c1, c2] = [0.01 ** 2, 0.03 ** 2];
  let sum = 0;
  for (let i = 0; i < a.length; i++) {
    const [va, vb, cov] = [aa[i] - ma[i] ** 2, bb[i] - mb[i] ** 2, ab[i] - ma[i] * mb[i]];
    sum += ((2 * ma[i] * mb[i] + c1) * (2 * cov + c2)) / ((ma[i] ** 2 + mb[i] ** 2 + c1) * (va + vb + c2));
  }
  return sum / a.length;
}

/** Errors of `test` against `reference`, both scene-linear and of the same size, and the map of FLIP. */
export function pictureErrors(
  reference: Rgb,
  test: Rgb,
  width: number,
  height: number,
  exposure: Display,
): { errors: PictureErrors; flip: Float32Array } {
  const size = width * height;
  const [shownA, shownB] = [displayed(reference, exposure), displayed(test, exposure)];
  let [square, relative, seen] = [0, 0, 0];
  for (let c = 0; c < 3; c++)
    for (let i = 0; i < size; i++) {
      const d = test[c][i] - reference[c][i];
      square += d * d;
      relative += (d * d) / (reference[c][i] ** 2 + RELATIVE_FLOOR);
      seen += (shownA[c][i] - shownB[c][i]) ** 2;
    }
  const count = size * 3;
  const grey = (p: Rgb) => p[0].map((_, i) => luminance(p[0][i], p[1][i], p[2][i]));
  const linear = (p: Rgb) => p.map((plane) => plane.map(decodeSrgb)) as unknown as Rgb;
  const flip = flipMap(linear(shownA), linear(shownB), width, height);
  return {
    errors: {
      rmse: Math.sqrt(square / count),
      relMse: relative / count,
      psnr: seen > 0 ? 10 * Math.log10(count / seen) : Infinity,
      ssim: ssim(grey(shownA), grey(shownB), width, height),
      flip: flip.reduce((s, v) => s + v, 0) / size,
    },
    flip,
  };
}
