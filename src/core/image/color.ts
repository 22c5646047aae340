import * as fmath from '../fmath';

/** Luminance weights of linear Rec.709. */
export const LUMINANCE_REC709 = [0.2126, 0.7152, 0.0722] as const;

export function luminance(r: number, g: number, b: number): number {
  return LUMINANCE_REC709[0] * r + LUMINANCE_REC709[1] * g + LUMINANCE_REC709[2] * b;
}

/** sRGB encoding of a linear value in 0..1 (IEC 61966-2-1). */
export function encodeSrgb(linear: number): number {
  return linear <= 0.0031308 ? linear * 12.92 : 1.055 * linear ** (1 / 2.4) - 0.055;
}

/** Linear value of an sRGB-encoded one in 0..1 (IEC 61966-2-1). */
export function decodeSrgb(encoded: number): number {
  return encoded <= 0.04045 ? encoded / 12.92 : fmath.pow((encoded + 0.055) / 1.055, 2.4);
}

/**
 * Linear Rec.709 colour of a black body, luminance 1; channels out of gamut are cut at 0.
 * Chromaticity by the cubic fits of [Kim et al. 2002] (1667–25000 K, clamped beyond).
 */
export function kelvinToRgb(kelvin: number): [number, number, number] {
  const t = Math.min(25000, Math.max(1667, kelvin));
  const u = 1000 / t;
  const x =
    t < 4000
      ? -0.2661239 * u * u * u - 0.234358 * u * u + 0.8776956 * u + 0.17991
      : -3.0258469 * u * u * u + 2.1070379 * u * u + 0.2226347 * u + 0.24039;
  const y =
    t < 2222
      ? -1.1063814 * x * x * x - 1.3481102 * x * x + 2.18555832 * x - 0.20219683
      : t < 4000
        ? -0.9549476 * x * x * x - 1.37418593 * x * x + 2.09137015 * x - 0.16748867
        : 3.081758 * x * x * x - 5.8733867 * x * x + 3.75112997 * x - 0.37001483;
  const X = x / y;
  const Z = (1 - x - y) / y;
  const r = Math.max(0, 3.2404542 * X - 1.5371385 - 0.4985314 * Z);
  const g = Math.max(0, -0.969266 * X + 1.8760108 + 0.041556 * Z);
  const b = Math.max(0, 0.0556434 * X - 0.2040259 + 1.0572252 * Z);
  const l = luminance(r, g, b);
  return [r / l, g / l, b / l];
}

/** `#rrggbb` of a linear colour scaled so that its largest channel is 1. */
export function rgbToHex(rgb: readonly [number, number, number]): string {
  const top = Math.max(...rgb, 1e-9);
  return `#${rgb
    .map((c) =>
      Math.round(encodeSrgb(Math.max(0, c) / top) * 255)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;
}

/** Linear Rec.709 of `#rrggbb`. */
export function hexToRgb(hex: string): [number, number, number] {
  const n = Number.parseInt(hex.slice(1), 16);
  return [(n >> 16) & 255, (n >> 8) & 255, n & 255].map((v) => decodeSrgb(v / 255)) as [number, number, number];
}
