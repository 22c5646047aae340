import { type KeptFrame, Reel } from './reel';

const picture = (samples: number, width = 4, height = 2): KeptFrame => ({
  width,
  height,
  place: { width, height, x: 0, y: 0, w: width, h: height },
  samples,
  pixels: new Uint8ClampedArray(width * height * 4),
});

describe('the reel of kept frames', () => {
  test('the better picture of a frame stays: samples times pixels', () => {
    const reel = new Reel();
    expect(reel.keep(3, picture(4))).toBe(true);
    expect(reel.keep(3, picture(2))).toBe(false);
    expect(reel.at(0, 3, 3, 24)![1].samples).toBe(4);
    reel.keep(3, picture(2, 8, 4));
    expect(reel.at(0, 3, 3, 24)![1].width).toBe(8);
  });

  test('plays at the rate, holds over gaps and goes round', () => {
    const reel = new Reel();
    for (const f of [2, 3, 5]) reel.keep(f, picture(1));
    const at = (seconds: number) => reel.at(seconds, 1, 6, 10)?.[0];
    // Frame 1 is missing: what comes before it, going round, is 5.
    expect([0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.61, 0.75].map(at)).toEqual([5, 2, 3, 3, 5, 5, 5, 2]);
  });

  test('nothing is played of nothing, and other pictures are forgotten', () => {
    const reel = new Reel();
    expect(reel.at(1, 1, 48, 24)).toBeNull();
    reel.about('exposure 1');
    reel.keep(1, picture(1));
    reel.about('exposure 1');
    expect(reel.kept()).toEqual([1]);
    expect(reel.wants(1, picture(1))).toBe(false);
    expect(reel.wants(1, picture(2))).toBe(true);
    expect(reel.about('exposure 2')).toBe(true);
    expect(reel.kept()).toEqual([]);
    expect(reel.about('exposure 3')).toBe(false);
  });

  test('those kept longest give way to a full budget', () => {
    const reel = new Reel(4 * 2 * 4 * 3);
    for (const f of [1, 2, 3, 4]) reel.keep(f, picture(1));
    expect(reel.kept()).toEqual([2, 3, 4]);
    expect(reel.keep(9, picture(1, 100, 100))).toBe(true);
    expect(reel.kept()).toEqual([9]);
  });
});
