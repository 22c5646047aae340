import { type FilmLayers, type Layer, relight } from '../film';
import { kelvinToRgb, luminance } from '../image';
import {
  AS_RENDERED,
  eachMix,
  isKept,
  kept,
  keyedAt,
  type Mix,
  mixAt,
  mixFactors,
  movedKey,
  NO_MOODS,
  parseMoods,
  unkeyedAt,
  withNow,
} from '.';

const mix = (change: Record<string, object>): Mix =>
  Object.fromEntries(Object.entries(change).map(([g, c]) => [g, { ...AS_RENDERED, ...c }]));
const [WARM, SKY] = [kelvinToRgb(2800), [1, 1, 1]];
const own = { lamp: WARM, sky: SKY };
const GROUPS = ['lamp', 'sky'];
const dusk = mix({ lamp: { stops: -2 }, sky: { stops: 1, color: { kind: 'tint', rgb: [1, 1, 1] } } });
const night = mix({ lamp: { stops: 1 }, sky: { stops: -3, color: { kind: 'tint', rgb: [0.2, 0.4, 1] } } });
const evening = keyedAt(keyedAt({ keys: [] }, 25, night), 1, dusk);

test('frames of a keyed mix are sums of gain times part: stops go evenly, colours in linear light', () => {
  const part = (name: string, values: number[]): Layer => ({
    name: `group.${name}`,
    channels: ['R', 'G', 'B'],
    planes: [values, values.map((v) => v / 2), values.map((v) => v * 3)].map((p) => Float32Array.from(p)),
    kind: 'color',
  });
  const [lamp, sky] = [part('lamp', [1, 0.5]), part('sky', [0.25, 2])];
  const film: FilmLayers = { width: 2, height: 1, layers: new Map([lamp, sky].map((l) => [l.name, l])) };
  for (const [frame, stops, tint] of [
    [1, [-2, 1], [1, 1, 1]],
    [13, [-0.5, -1], [0.6, 0.7, 1]],
    [25, [1, -3], [0.2, 0.4, 1]],
  ] as const) {
    const shown = relight(film, GROUPS, mixFactors(GROUPS, mixAt(evening, frame, own), own))!;
    shown.forEach((plane, c) => {
      plane.forEach((v, i) => {
        const want = lamp.planes[c][i] * 2 ** stops[0] + sky.planes[c][i] * 2 ** stops[1] * tint[c];
        expect(v).toBeCloseTo(want, 5);
      });
    });
  }
});

test('before the first key and after the last it stays; colours that are set go from what is emitted', () => {
  expect(mixAt(evening, -5, own)).toEqual(dusk);
  expect(mixAt(evening, 99, own)).toEqual(night);
  expect(mixAt({ mix: dusk, keys: [] }, 7, own)).toBe(dusk);
  const colder = keyedAt(
    keyedAt({ keys: [] }, 1, mix({ lamp: { stops: 1 } })),
    3,
    mix({ lamp: { stops: 1, color: { kind: 'kelvin', kelvin: 9500 } } }),
  );
  const middle = mixFactors(['lamp'], mixAt(colder, 2, own), own).lamp;
  const cold = kelvinToRgb(9500);
  const y = luminance(...cold);
  middle.forEach((k, c) => {
    expect(k * WARM[c]).toBeCloseTo(WARM[c] + cold[c] / y, 6);
  });
});

test('a key is set, moved and taken away; the last one stays as the mix of all frames', () => {
  const three = keyedAt(evening, 13, {});
  expect(three.keys.map((k) => k.frame)).toEqual([1, 13, 25]);
  expect(keyedAt(three, 13, dusk).keys[1].mix).toEqual(dusk);
  expect(movedKey(three, 13, 30).keys.map((k) => k.frame)).toEqual([1, 25, 30]);
  expect(movedKey(three, 13, 25).keys.map((k) => [k.frame, k.mix])).toEqual([
    [1, dusk],
    [25, {}],
  ]);
  expect(movedKey(three, 7, 8).keys).toEqual(three.keys);
  expect(unkeyedAt(evening, 1)).toEqual({ mix: night, keys: [{ frame: 25, mix: night }] });
  expect(unkeyedAt(unkeyedAt(evening, 1), 25)).toEqual({ mix: night, keys: [] });
  expect(eachMix(evening, () => ({})).keys.map((k) => k.mix)).toEqual([{}, {}]);
});

test('a mix that changes over frames is edited at the frame looked at, and kept as a mood with its keys', () => {
  const moods = { ...NO_MOODS, now: { ...evening, mood: null } };
  const edited = withNow(moods, dusk, 13);
  expect(edited.now.keys.map((k) => [k.frame, k.mix])).toEqual([
    [1, dusk],
    [13, dusk],
    [25, night],
  ]);
  const named = kept(edited, 'Evening', 'e');
  expect([named.list[0].keys.length, isKept(named)]).toEqual([3, true]);
  expect(isKept(withNow(named, night, 13))).toBe(false);
  expect(parseMoods(JSON.parse(JSON.stringify(named)))).toEqual(named);
});

test('moods that were kept before there were keys are read, and keys out of order are refused', () => {
  const before = { id: 'n', name: 'Night', mix: night, earlier: [dusk, {}, { mix: { stops: 1 } }] };
  const { list } = parseMoods({ list: [before] });
  expect(list[0].keys).toEqual([]);
  expect(list[0].earlier).toEqual([
    { mix: dusk, keys: [] },
    { mix: {}, keys: [] },
    { mix: mix({ mix: { stops: 1 } }), keys: [] },
  ]);
  const keys = [2, 1].map((frame) => ({ frame, mix: {} }));
  expect(() => parseMoods({ list: [{ ...before, keys }] })).toThrow(/ascend/);
});
