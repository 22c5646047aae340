import { sampled, separable, unit } from './convolve';
import type { Rgb } from './noise';

/** Pixels a degree of sight: a 0.7 m distant screen of 3840 pixels on 0.7 m, as the paper takes it. */
export const PIXELS_A_DEGREE = 67;

// Table 1 and section 4 of the paper.
const SENSITIVITY = {
  achromatic: [[1, 0.0047]],
  redGreen: [[1, 0.0053]],
  blueYellow: [
    [34.1, 0.04],
    [13.5, 0.025],
  ],
} as const;
const COLOR_EXPONENT = 0.7;
const [COLOR_KNEE, COLOR_SHARE] = [0.4, 0.95];
const FEATURE_EXPONENT = 0.5;
const FEATURE_WIDTH_DEGREES = 0.082;

type Triple = [number, number, number];
const TO_XYZ = [
  [0.4124564, 0.3575761, 0.1804375],
  [0.2126729, 0.7151522, 0.072175],
  [0.0193339, 0.119192, 0.9503041],
] as const;
const FROM_XYZ = [
  [3.2404542, -1.5371385, -0.4985314],
  [-0.969266, 1.8760108, 0.041556],
  [0.0556434, -0.2040259, 1.0572252],
] as const;
const times = (m: readonly (readonly number[])[], v: readonly number[]): Triple =>
  m.map((r) => r[0] * v[0] + r[1] * v[1] + r[2] * v[2]) as Triple;
const WHITE = times(TO_XYZ, [1, 1, 1]);

/** Linear RGB to the opponent space YCxCz, the Lab space without its cube root. */
function toOpponent(rgb: Triple): Triple {
  const [x, y, z] = times(TO_XYZ, rgb).map((v, i) => v / WHITE[i]);
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
}

function fromOpponent([l, cx, cz]: Triple): Triple {
  const y = (l + 16) / 116;
  const xyz = [cx / 500 + y, y, y - cz / 200].map((v, i) => v * WHITE[i]);
  return times(FROM_XYZ, xyz).map((v) => Math.min(1, Math.max(0, v))) as Triple;
}

/** Linear RGB to CIE L*a*b* whose chroma fades with lightness [Hunt 1952], as the paper adjusts it. */
function toHuntLab(rgb: Triple): Triple {
  const f = (t: number) => (t > 216 / 24389 ? Math.cbrt(t) : (t * (24389 / 27) + 16) / 116);
  const [x, y, z] = times(TO_XYZ, rgb).map((v, i) => f(v / WHITE[i]));
  const l = 116 * y - 16;
  return [l, 0.01 * l * 500 * (x - y), 0.01 * l * 200 * (y - z)];
}

/** Distance that adds lightness and chroma [Abasi et al. 2020]. */
const hyab = (a: Triple, b: Triple) => Math.abs(a[0] - b[0]) + Math.hypot(a[1] - b[1], a[2] - b[2]);

const LARGEST = hyab(toHuntLab([0, 1, 0]), toHuntLab([0, 0, 1])) ** COLOR_EXPONENT;

/** One opponent plane as the eye passes it: sums of Gaussians, scaled to keep an even field. */
function seen(
  plane: Float32Array,
  width: number,
  height: number,
  terms: readonly (readonly [number, number])[],
  perDegree: number,
): Float32Array {
  const radius = Math.ceil(3 * Math.sqrt(0.04 / (2 * Math.PI ** 2)) * perDegree);
  const kernels = terms.map(([a, b]) => {
    const kernel = sampled(radius, (x) => Math.exp((-(Math.PI ** 2) * (x / perDegree) ** 2) / b));
    const sum = kernel.reduce((s, v) => s + v, 0);
    return { kernel: unit(kernel), weight: a * Math.sqrt(Math.PI / b) * sum * sum };
  });
  const whole = kernels.reduce((s, k) => s + k.weight, 0);
  const out = new Float32Array(plane.length);
  for (const { kernel, weight } of kernels) {
    const part = separable(plane, width, height, kernel, kernel);
    for (let i = 0; i < out.length; i++) out[i] += (part[i] * weight) / whole;
  }
  return out;
}

/** Scaled so that what is above zero sums to 1 and what is below to −1. */
function balanced(kernel: readonly number[]): number[] {
  const above = kernel.reduce((s, v) => s + Math.max(0, v), 0);
  const below = -kernel.reduce((s, v) => s + Math.min(0, v), 0);
  return kernel.map((v) => v / (v > 0 ? above : below || 1));
}

/** How strongly a plane has an edge, or a point, at each pixel. */
function features(plane: Float32Array, width: number, height: number, perDegree: number, kind: 'edge' | 'point') {
  const sd = 0.5 * FEATURE_WIDTH_DEGREES * perDegree;
  const radius = Math.ceil(3 * sd);
  const bell = (x: number) => Math.exp((-x * x) / (2 * sd * sd));
  const across = balanced(sampled(radius, (x) => (kind === 'edge' ? -x : (x * x) / (sd * sd) - 1) * bell(x)));
  const along = unit(sampled(radius, bell));
  const x = separable(plane, width, height, across, along);
  const y = separable(plane, width, height, along, across);
  return x.map((v, i) => Math.hypot(v, y[i]));
}

/**
 * FLIP [Andersson et al. 2020, FLIP: A Difference Evaluator for Alternating Images]: how different two pictures look when
 * they alternate on a screen. Both as displayed, linear RGB in 0..1. Returns the error of each pixel, 0..1.
 */
export function flipMap(
  reference: Rgb,
  test: Rgb,
  width: number,
  height: number,
  perDegree = PIXELS_A_DEGREE,
): Float32Array {
  const size = width * height;
  const opponent = (rgb: Rgb) => {
    const out = [0, 1, 2].map(() => new Float32Array(size));
    for (let i = 0; i < size; i++) {
      const o = toOpponent([rgb[0][i], rgb[1][i], rgb[2][i]]);
      for (let c = 0; c < 3; c++) out[c][i] = o[c];
    }
    return out;
  };
  const [a, b] = [opponent(reference), opponent(test)];
  const { achromatic, redGreen, blueYellow } = SENSITIVITY;
  const filtered = [a, b].map((planes) =>
    [achromatic, redGreen, blueYellow].map((terms, c) => seen(planes[c], width, height, terms, perDegree)),
  );
  const bright = [a, b].map((planes) => planes[0].map((v) => (v + 16) / 116));
  const edges = bright.map((p) => features(p, width, height, perDegree, 'edge'));
  const points = bright.map((p) => features(p, width, height, perDegree, 'point'));
  const out = new Float32Array(size);
  for (let i = 0; i < size; i++) {
    const lab = filtered.map((p) => toHuntLab(fromOpponent([p[0][i], p[1][i], p[2][i]])));
    const color = hyab(lab[0], lab[1]) ** COLOR_EXPONENT;
    const knee = COLOR_KNEE * LARGEST;
    const spread =
      color < knee
        ? (COLOR_SHARE / knee) * color
        : COLOR_SHARE + ((color - knee) / (LARGEST - knee)) * (1 - COLOR_SHARE);
    const feature =
      (Math.max(Math.abs(edges[0][i] - edges[1][i]), Math.abs(points[0][i] - points[1][i])) / Math.SQRT2) **
      FEATURE_EXPONENT;
    out[i] = Math.min(1, Math.max(0, spread)) ** (1 - Math.min(1, feature));
  }
  return out;
}
