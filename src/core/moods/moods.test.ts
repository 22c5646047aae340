import fc from 'fast-check';
import { kelvinToRgb, luminance } from '../image';
import {
  AS_RENDERED,
  asEarlier,
  between,
  broughtBack,
  emittedColor,
  emptyChannels,
  forgotten,
  isKept,
  isNeutral,
  kept,
  type Mix,
  MoodsError,
  missingGroups,
  mixFactors,
  moved,
  NO_MOODS,
  parseGain,
  parseMoodFile,
  parseMoods,
  renamed,
  stopsText,
  taken,
  withNow,
} from '.';

const mix = (change: Record<string, object>): Mix =>
  Object.fromEntries(Object.entries(change).map(([g, c]) => [g, { ...AS_RENDERED, ...c }]));
const GROUPS = ['lamp', 'sky'];

describe('a gain', () => {
  test.each([
    ['+1', 1],
    ['x2', 1],
    ['× 2', 1],
    ['200 %', 1],
    ['200%', 1],
    ['-1', -1],
    ['−1', -1],
    ['50 %', -1],
    ['*0,5', -1],
    ['1.5', 1.5],
    ['0', 0],
    ['-0', 0],
    ['100%', 0],
  ])('%s', (text, stops) => {
    expect(parseGain(text)).toEqual({ stops });
  });

  test.each([
    ['', /stops as \+1/],
    ['two', /stops as \+1/],
    ['x', /stops as \+1/],
    ['-50 %', /stops as \+1/],
    ['x0', /switch the group off/],
    ['0 %', /switch the group off/],
    ['21', /between −20 and \+20/],
    ['1e3', /stops as \+1/],
  ])('%j is refused', (text, why) => {
    expect(parseGain(text)).toEqual({ fault: expect.stringMatching(why) });
  });

  test('what is written is read again', () => {
    fc.assert(
      fc.property(fc.integer({ min: -2000, max: 2000 }), (n) => {
        expect(parseGain(stopsText(n / 100))).toEqual({ stops: n === 0 ? 0 : n / 100 });
      }),
      { seed: 1 },
    );
  });
});

describe('factors', () => {
  test('gains in stops, off and alone', () => {
    expect(mixFactors(GROUPS, {}, {})).toEqual({ lamp: [1, 1, 1], sky: [1, 1, 1] });
    const own = mix({ lamp: { stops: 1 }, sky: { on: false } });
    expect(mixFactors(GROUPS, own, {})).toEqual({ lamp: [2, 2, 2], sky: [0, 0, 0] });
    // What is heard alone is heard, also where the mix has it off.
    expect(mixFactors(GROUPS, own, {}, ['sky'])).toEqual({ lamp: [0, 0, 0], sky: [1, 1, 1] });
    expect(mixFactors(GROUPS, own, {}, ['elsewhere'])).toEqual(mixFactors(GROUPS, own, {}));
  });

  test('a colour that is emitted is that whatever it was before, at the brightness that there was', () => {
    const warm = kelvinToRgb(2800);
    const cold = mixFactors(['lamp'], mix({ lamp: { color: { kind: 'kelvin', kelvin: 9500 } } }), { lamp: warm }).lamp;
    const want = kelvinToRgb(9500);
    cold.forEach((k, c) => {
      expect(k * warm[c]).toBeCloseTo(want[c], 9);
    });
    const green = emittedColor({ kind: 'emitted', rgb: [0, 0.5, 0] }, warm);
    expect(green).toEqual([0, 1 / 0.7152, 0]);
    expect(luminance(...green)).toBeCloseTo(1, 9);
  });

  test('a tint goes with what there is; a channel that is not emitted stays black', () => {
    const tinted = mix({ lamp: { color: { kind: 'tint', rgb: [0.5, 1, 2] }, stops: 1 } });
    expect(mixFactors(['lamp'], tinted, { lamp: [1.5, 0.9, 0] }).lamp).toEqual([1, 2, 4]);
    const white = mix({ lamp: { color: { kind: 'emitted', rgb: [1, 1, 1] } } });
    expect(mixFactors(['lamp'], white, { lamp: [1.5, 0.9, 0] }).lamp[2]).toBe(1);
    expect(emptyChannels([1.5, 0.9, 0])).toEqual(['blue']);
    expect(emptyChannels([1, 1, 0.3])).toEqual([]);
  });
});

describe('between two mixes', () => {
  const [a, b] = [mix({ lamp: { stops: -2 } }), mix({ lamp: { stops: 2 }, sky: { on: false } })];

  test('its ends are they', () => {
    expect(between(a, b, 0, {})).toEqual(a);
    expect(between(a, b, 1, {})).toEqual(b);
  });

  test('gains go evenly in stops, colours in linear light, and what is off comes from below', () => {
    expect(between(a, b, 0.5, {}).lamp).toBeUndefined();
    expect(between(a, b, 0.75, {}).lamp.stops).toBeCloseTo(1, 9);
    expect(between(a, b, 0.3, {}).sky).toEqual({ on: true, stops: -3, color: { kind: 'own' } });
    const colors = [{ kind: 'own' }, { kind: 'tint', rgb: [0, 1, 3] }].map((color) => mix({ lamp: { color } }));
    expect(between(colors[0], colors[1], 0.5, {}).lamp.color).toEqual({ kind: 'tint', rgb: [0.5, 1, 2] });
  });

  test('factors go from one end to the other without a step', () => {
    const own = { lamp: kelvinToRgb(3000), sky: [1, 1, 1] };
    const kelvin = (k: number) => ({ color: { kind: 'kelvin', kelvin: k } });
    const [warm, cold] = [mix({ lamp: kelvin(2800) }), mix({ lamp: { ...kelvin(9500), stops: 1 } })];
    let before = mixFactors(GROUPS, warm, own).lamp;
    for (let i = 1; i <= 100; i++) {
      const now = mixFactors(GROUPS, between(warm, cold, i / 100, own), own).lamp;
      now.forEach((k, c) => {
        expect(Math.abs(k - before[c])).toBeLessThan(0.2);
      });
      before = now;
    }
  });
});

test('a mix tells what it changes, and what of that is not there', () => {
  const own = mix({ lamp: {}, beam: { stops: 1 } });
  expect(isNeutral(own, GROUPS)).toBe(true);
  expect(isNeutral(own, ['beam'])).toBe(false);
  expect(missingGroups(own, GROUPS)).toEqual(['beam']);
});

describe('moods of a shot', () => {
  const night = mix({ sky: { stops: -4 } });
  const dawn = mix({ sky: { stops: -1, color: { kind: 'kelvin', kelvin: 3000 } } });
  const two = kept(withNow(kept(withNow(NO_MOODS, night), 'Night', 'n'), dawn), ' Dawn ', 'd');

  test('the mix at hand is kept under a name, and known again', () => {
    expect(two.list.map((m) => [m.id, m.name, m.mix])).toEqual([
      ['n', 'Night', night],
      ['d', 'Dawn', dawn],
    ]);
    expect(isKept(two)).toBe(true);
    expect(isKept(withNow(two, night))).toBe(false);
    expect(taken(two, two.list[0]).now).toEqual({ mix: night, keys: [], mood: 'n' });
    expect(taken(two, null).now).toEqual({ mix: {}, keys: [], mood: null });
    // Databases turn keys around.
    const turned = { sky: { color: { kelvin: 3000, kind: 'kelvin' as const }, on: true, stops: -1 } };
    expect(isKept(withNow(two, turned))).toBe(true);
    expect(() => parseMoods(two)).not.toThrow();
  });

  test('a mood that gets another mix keeps what it was, and can go back and forth', () => {
    const changed = kept(withNow(two, night), 'Dawn', 'x');
    expect(changed.list[1]).toEqual({
      ...{ id: 'd', name: 'Dawn', mix: night, keys: [] },
      earlier: [{ mix: dawn, keys: [] }],
    });
    expect(kept(changed, 'Dawn', 'x')).toEqual(changed);
    const back = asEarlier(changed, 'd', 0);
    expect(back.list[1]).toEqual({
      ...{ id: 'd', name: 'Dawn', mix: dawn, keys: [] },
      earlier: [{ mix: night, keys: [] }],
    });
    expect(back.now).toEqual({ mix: dawn, keys: [], mood: 'd' });
    expect(asEarlier(changed, 'd', 5)).toBe(changed);
  });

  test('they are renamed, moved, forgotten and brought back under a free name', () => {
    expect(moved(two, 'd', 0).list.map((m) => m.id)).toEqual(['d', 'n']);
    expect(renamed(two, 'n', 'Storm ').list[0].name).toBe('Storm');
    const without = forgotten(two, 'd');
    expect(without.list.map((m) => m.id)).toEqual(['n']);
    expect(without.now).toEqual({ mix: dawn, keys: [], mood: null });
    const again = broughtBack(renamed(without, 'n', 'Dawn'), 'd');
    expect(again.list.map((m) => m.name)).toEqual(['Dawn', 'Dawn 2']);
    expect(again.forgotten).toEqual([]);
  });

  test.each([
    [{ list: [two.list[0], two.list[0]] }, 'list.1.id'],
    [{ list: [{ ...two.list[0], name: ' ' }] }, 'list.0.name'],
    [{ now: { mix: { lamp: { stops: 21 } }, mood: null } }, 'now.mix.lamp.stops'],
    [{ now: { mix: { lamp: { color: { kind: 'emitted', rgb: [0, 0, 0] } } }, mood: null } }, 'now.mix.lamp.color.rgb'],
    [{ lamps: 1 }, ''],
  ])('%j is refused by its key', (value, path) => {
    const refused = () => parseMoods(value);
    expect(refused).toThrow(MoodsError);
    try {
      refused();
    } catch (error) {
      expect((error as MoodsError).path).toBe(path);
    }
  });

  test('a mood as a file of its own', () => {
    expect(parseMoodFile({ name: 'Night', mix: { sky: { stops: -4 } } })).toEqual({
      schema: 1,
      name: 'Night',
      mix: night,
      keys: [],
    });
    expect(() => parseMoodFile({ name: 'Night', mix: {}, gains: 1 })).toThrow(/gains/);
  });
});
