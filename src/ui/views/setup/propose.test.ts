import { proposeAlbedo } from './propose';

describe('the albedo that looks like a colour under the light there', () => {
  test('gives back the surface’s own albedo when the target is what is seen', () => {
    const p = proposeAlbedo([0.2, 0.1, 0.05], [], [0.4, 0.5, 0.5], [0.4, 0.2, 0.1], 2);
    p.albedo.forEach((c, k) => {
      expect(c).toBeCloseTo([0.4, 0.5, 0.5][k], 6);
    });
    expect(p.light).toEqual([1, 0.4, 0.2]);
    expect(p.short).toBeNull();
  });

  test('names the warm lamp, not the dim sky, when blue is lacking', () => {
    const groups: { group: string; rgb: [number, number, number] }[] = [
      { group: 'sky', rgb: [0.01, 0.01, 0.02] },
      { group: 'lamp', rgb: [0.29, 0.14, 0.01] },
    ];
    const p = proposeAlbedo([0.3, 0.15, 0.03], groups, [0.5, 0.5, 0.5], [0.2, 0.2, 0.4], 1);
    expect(p.short).toMatchObject({ channel: 'blue', group: 'lamp' });
    expect(p.short!.needed).toBeCloseTo(0.4 / 0.06, 6);
    expect(p.short!.share).toBeCloseTo(0.01 / 0.44, 6);
    expect(p.albedo[2]).toBe(0.95);
  });

  test('a surface in the dark asks for more than there is, and blames nobody', () => {
    const p = proposeAlbedo([0, 0, 0], [{ group: 'lamp', rgb: [0, 0, 0] }], [0.5, 0.5, 0.5], [0.1, 0, 0], 1);
    expect(p.short).toMatchObject({ channel: 'red', needed: Infinity, group: null });
    expect(p.albedo[1]).toBe(0);
  });
});
