import fc from 'fast-check';
import { flipMap, mulberry, pictureErrors, type Rgb } from '.';
import { ssim } from './errors';

const [W, H] = [48, 40];
const even = (r: number, g = r, b = r): Rgb => [r, g, b].map((v) => new Float32Array(W * H).fill(v)) as unknown as Rgb;
const noisy = (base: number, amount: number, seed: number): Rgb => {
  const random = mulberry(seed);
  return [0, 1, 2].map(() =>
    Float32Array.from({ length: W * H }, () => base + amount * (random() - 0.5)),
  ) as unknown as Rgb;
};
const mean = (m: Float32Array) => m.reduce((s, v) => s + v, 0) / m.length;

describe('errors against a reference', () => {
  test('of a picture against itself are none', () => {
    const p = noisy(0.4, 0.5, 3);
    const { errors, flip } = pictureErrors(p, p, W, H, 1);
    expect(errors).toEqual({ rmse: 0, relMse: 0, psnr: Infinity, ssim: 1, flip: 0 });
    expect(Math.max(...flip)).toBe(0);
  });

  test('have their closed forms on even fields', () => {
    const { errors } = pictureErrors(even(0.2), even(0.3), W, H, 1);
    expect(errors.rmse).toBeCloseTo(0.1, 6);
    expect(errors.relMse).toBeCloseTo(0.01 / (0.04 + 0.01), 5);
    // sRGB of 0.2 and 0.3 lie below the shoulder.
    const srgb = (v: number) => 1.055 * v ** (1 / 2.4) - 0.055;
    expect(errors.psnr).toBeCloseTo(-20 * Math.log10(srgb(0.3) - srgb(0.2)), 2);
    const [a, b] = [srgb(0.2), srgb(0.3)];
    // Without any structure SSIM is its luminance term.
    expect(errors.ssim).toBeCloseTo((2 * a * b + 1e-4) / (a * a + b * b + 1e-4), 3);
  });

  test('SSIM of pictures whose structure is turned over is negative', () => {
    const p = noisy(0.5, 0.6, 8)[0];
    expect(
      ssim(
        p,
        p.map((v) => 1 - v),
        W,
        H,
      ),
    ).toBeLessThan(-0.5);
  });

  test('PSNR falls 6 dB and SSIM falls when noise doubles', () => {
    const quiet = pictureErrors(even(0.2), noisy(0.2, 0.02, 5), W, H, 1).errors;
    const loud = pictureErrors(even(0.2), noisy(0.2, 0.04, 5), W, H, 1).errors;
    expect(quiet.psnr - loud.psnr).toBeCloseTo(6.02, 1);
    expect(loud.ssim).toBeLessThan(quiet.ssim);
    expect(loud.flip).toBeGreaterThan(quiet.flip);
  });
});

describe('FLIP', () => {
  test('lies within 0 and 1, and is the same both ways', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 1, max: 1e6 }), (s, t) => {
        const [p, q] = [noisy(0.5, 1, s), noisy(0.5, 1, t)];
        const [there, back] = [flipMap(p, q, W, H), flipMap(q, p, W, H)];
        expect(there.every((v) => v >= 0 && v <= 1)).toBe(true);
        expect(Math.max(...there.map((v, i) => Math.abs(v - back[i])))).toBeLessThan(5e-6);
      }),
      { numRuns: 6, seed: 2 },
    );
  });

  test('the farthest colours, green and blue, have an error of 1; black and white nearly so', () => {
    expect(mean(flipMap(even(0, 1, 0), even(0, 0, 1), W, H))).toBeCloseTo(1, 4);
    // Without chroma the distance is ΔL = 100: (100^0.7 − 0.4·c) / 0.6·c beyond the knee, c = largest.
    const bw = mean(flipMap(even(0), even(1), W, H));
    expect(bw).toBeGreaterThan(0.95);
    expect(bw).toBeLessThan(1);
  });

  test('a fine checker that the eye blurs is far less than one that it resolves', () => {
    const checker = (n: number): Rgb => {
      const p = Float32Array.from({ length: W * H }, (_, i) =>
        ((i % W) / n + Math.floor(Math.floor(i / W) / n)) & 1 ? 0.6 : 0.4,
      );
      return [p, p, p] as unknown as Rgb;
    };
    const coarse = mean(flipMap(even(0.5), checker(8), W, H, 67));
    const fine = mean(flipMap(even(0.5), checker(1), W, H, 200));
    expect(fine).toBeLessThan(coarse);
  });
});
