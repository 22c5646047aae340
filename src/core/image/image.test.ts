import { decode } from 'fast-png';
import {
  decodeHdr,
  decodeSrgb,
  displayOf,
  displaySlope,
  displayValue,
  encodePng,
  encodeSrgb,
  exposureScale,
  hexToRgb,
  kelvinToRgb,
  type Look,
  luminance,
  PictureError,
  rgbToHex,
  SHOULDER_START,
  shoulder,
  toDisplayBytes,
} from '.';

describe('display transform', () => {
  test('is continuous and rising, with one slope at the shoulder’s start', () => {
    const h = 1e-6;
    const below = (shoulder(SHOULDER_START) - shoulder(SHOULDER_START - h)) / h;
    const above = (shoulder(SHOULDER_START + h) - shoulder(SHOULDER_START)) / h;
    expect(above).toBeCloseTo(below, 4);
    let last = -1;
    for (let v = 0; v < 50; v += 0.05) {
      const d = displayValue(v, 1);
      expect(d).toBeGreaterThan(last);
      expect(d).toBeLessThan(1);
      last = d;
    }
  });

  test('slope is the derivative of the value', () => {
    for (const scale of [0.1, 1, 4]) {
      for (const v of [0.001, 0.02, 0.3, 0.9, 5]) {
        const h = v * 1e-5;
        const numeric = (displayValue(v + h, scale) - displayValue(v - h, scale)) / (2 * h);
        expect(displaySlope(v, scale) / numeric).toBeCloseTo(1, 4);
      }
    }
  });

  test('screen bytes follow it to half a step', () => {
    const values = Float32Array.from({ length: 400 }, (_, i) => (i / 40) ** 3 / 40);
    const out = new Uint8ClampedArray(values.length * 4);
    toDisplayBytes(values, values, values, values.length, 0.7, out);
    values.forEach((v, i) => {
      expect(Math.abs(out[i * 4] - displayValue(v, 0.7) * 255)).toBeLessThan(1.6);
      expect(out[i * 4 + 3]).toBe(255);
    });
  });

  test('exposure by stops and by EV', () => {
    expect(exposureScale({ ev100: null, stops: -2 })).toBe(0.25);
    expect(exposureScale({ ev100: 0, stops: 0 })).toBeCloseTo(1 / 1.2, 12);
    expect(exposureScale({ ev100: 3, stops: 1 })).toBeCloseTo(2 / (1.2 * 8), 12);
  });
});

describe('colour', () => {
  test('sRGB goes there and back', () => {
    for (let v = 0; v <= 1; v += 0.01) expect(decodeSrgb(encodeSrgb(v))).toBeCloseTo(v, 9);
    expect(encodeSrgb(0.18)).toBeCloseTo(0.4613, 3);
  });

  test('black bodies have luminance 1 and turn from red to blue', () => {
    for (const k of [1700, 2800, 4300, 6504, 9500, 20000]) expect(luminance(...kelvinToRgb(k))).toBeCloseTo(1, 9);
    const [warm, cold] = [kelvinToRgb(2800), kelvinToRgb(9500)];
    expect(warm[0] / warm[2]).toBeGreaterThan(4);
    expect(cold[2] / cold[0]).toBeGreaterThan(1.2);
    const d65 = kelvinToRgb(6504);
    for (const c of d65) expect(Math.abs(c - 1)).toBeLessThan(0.05);
  });

  test('hex colours', () => {
    expect(rgbToHex(hexToRgb('#ff8000'))).toBe('#ff8000');
  });
});

describe('picture files', () => {
  test('PNG is read back by another decoder path with the same pixels', () => {
    const rgba = Uint8Array.from({ length: 5 * 3 * 4 }, (_, i) => (i * 37) & 255);
    const png = decode(encodePng(5, 3, rgba));
    expect([png.width, png.height]).toEqual([5, 3]);
    expect(Array.from(png.data)).toEqual(Array.from(rgba));
  });

  const header = (size: string) => new TextEncoder().encode(`#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n${size}\n`);
  const join = (...parts: Uint8Array[]) => Uint8Array.from(parts.flatMap((p) => Array.from(p)));

  test('flat RGBE decodes by m/256·2^(e−128)', () => {
    const file = join(header('-Y 1 +X 2'), Uint8Array.from([128, 64, 32, 129, 255, 0, 0, 0]));
    const { width, height, pixels } = decodeHdr(file);
    expect([width, height]).toEqual([2, 1]);
    expect(Array.from(pixels)).toEqual([1, 0.5, 0.25, 0, 0, 0]);
  });

  test('run-length rows decode', () => {
    const row = [2, 2, 0, 8, 136, 128, 8, 1, 2, 3, 4, 5, 6, 7, 8, 136, 0, 136, 129];
    const { pixels } = decodeHdr(join(header('-Y 1 +X 8'), Uint8Array.from(row)));
    expect(pixels[0]).toBe(1);
    expect(pixels[4]).toBe(2 / 128);
    expect(pixels[21]).toBe(1);
  });

  test.each([
    ['not a picture', new TextEncoder().encode('hello\n'), /must begin with #\?/],
    ['other orientation', join(header('+X 2 -Y 1'), new Uint8Array(8)), /resolution line/],
    ['cut short', join(header('-Y 4 +X 4'), new Uint8Array(8)), /ends in row 0/],
    ['run too long', join(header('-Y 1 +X 8'), Uint8Array.from([2, 2, 0, 8, 255, 1])), /exceeds the width/],
  ])('%s is refused', (_, bytes, message) => {
    expect(() => decodeHdr(bytes)).toThrow(message);
    expect(() => decodeHdr(bytes)).toThrow(PictureError);
  });
});

describe('a look', () => {
  const plain: Look = { whiteKelvin: null, shoulder: SHOULDER_START, contrast: 1, curve: [] };
  const looks: [string, Look][] = [
    ['contrast', { ...plain, contrast: 1.4 }],
    ['a low shoulder', { ...plain, shoulder: 0.3 }],
    ['a clipping one', { ...plain, shoulder: 1 }],
    [
      'a curve',
      {
        ...plain,
        curve: [
          [0.3, 0.2],
          [0.7, 0.85],
        ],
      },
    ],
  ];

  test('a plain one is an exposure and nothing else', () => {
    expect(displayOf({ ev100: null, stops: 1 }, plain)).toBe(2);
    for (const v of [0, 0.01, 0.18, 0.7, 3])
      expect(displayValue(v, { scale: 2, look: plain })).toBe(displayValue(v, 2));
  });

  test.each(looks)('%s rises everywhere, and its slope is its derivative', (_, look) => {
    const display = { scale: 1.5, look };
    let before = -1;
    for (let v = 0; v < 4; v += 0.01) {
      const y = displayValue(v, display);
      expect(y).toBeGreaterThanOrEqual(before);
      expect(y).toBeLessThanOrEqual(1);
      before = y;
    }
    for (const v of [0.05, 0.2, 0.37]) {
      const h = 1e-4;
      const slope = (displayValue(v + h, display) - displayValue(v - h, display)) / (2 * h);
      expect(displaySlope(v, display) / slope).toBeCloseTo(1, 1);
    }
  });

  test('light of the white’s colour shows grey, at the luminance it has', () => {
    const look = { ...plain, whiteKelvin: 3200 };
    const light = kelvinToRgb(3200).map((c) => Float32Array.of(c * 0.2));
    const out = new Uint8ClampedArray(4);
    toDisplayBytes(light[0], light[1], light[2], 1, { scale: 1, look }, out);
    expect(Math.max(out[0], out[1], out[2]) - Math.min(out[0], out[1], out[2])).toBeLessThanOrEqual(2);
    const grey = new Uint8ClampedArray(4);
    const even = Float32Array.of(0.2);
    toDisplayBytes(even, even, even, 1, 1, grey);
    expect(Math.abs(out[1] - grey[1])).toBeLessThan(40);
  });

  test('a curve goes through its points', () => {
    const look = { ...plain, shoulder: 1, curve: [[0.5, 0.3]] as const };
    expect(displayValue(decodeSrgb(0.5), { scale: 1, look })).toBeCloseTo(0.3, 6);
  });
});
