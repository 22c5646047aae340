import { headroom } from '@/render/advice/headroom';
import { meanOf, renderTest, testRecipe, testScene } from '@/render/testing';
import { balancedFilm, RelitHalves } from '../film';
import { kelvinToRgb } from '../image';
import { groupColors } from '../kernel';
import { box, type Scene, sphere } from '../scene';
import { AS_RENDERED, type Mix, mixFactors, whitened, writtenBack } from '.';

const GROUPS = ['lamp', 'key', 'sky', 'ember'];
const scene = (): Scene =>
  testScene({
    meshes: { block: box(2, 2, 2), coal: sphere(0.4, 8) },
    materials: {
      coal: { emission_luminance: 6, emission_color: [1, 0.4, 0.1], light_group: 'ember' },
    },
    environment: {
      kind: 'gradient',
      group: 'sky',
      zenith: [0.2, 0.3, 0.5],
      horizon: [0.3, 0.3, 0.3],
      ground: [0.1, 0.1, 0.1],
    },
    lights: [
      { kind: 'sphere', name: 'lamp', group: 'lamp', position: [3, 3, 3], radius: 0.5, power: 60, kelvin: 3000 },
      { kind: 'point', name: 'key', group: 'key', position: [-2, 3, 4], power: 40, color: [0.5, 1, 0.7] },
      { kind: 'point', name: 'fill', group: 'key', position: [-3, 1, 4], power: 10, color: [0.5, 1, 0.7] },
    ],
  });
const mix = (change: Record<string, object>): Mix =>
  Object.fromEntries(Object.entries(change).map(([g, c]) => [g, { ...AS_RENDERED, ...c }]));
const DAWN = mix({
  lamp: { stops: -1, color: { kind: 'kelvin', kelvin: 6500 } },
  key: { color: { kind: 'emitted', rgb: [1, 0.2, 0.1] } },
  sky: { stops: 1, color: { kind: 'tint', rgb: [1.5, 1, 0.5] } },
  ember: { stops: 2 },
});
const recipe = testRecipe(16, 64);
const withDocument = (s: Scene, document: Scene['document']): Scene => ({ ...s, document });

/** Means by channel, and four standard errors of a mean, from the halves. */
async function rendered(s: Scene) {
  const { layers } = await renderTest(s, recipe);
  const error = (c: number) => {
    const [a, b] = ['half_a', 'half_b'].map((h) => layers.layers.get(h)!.planes[c]);
    return (4 * Math.sqrt(a.reduce((sum, v, i) => sum + (v - b[i]) ** 2 / 4, 0))) / a.length;
  };
  return { layers, mean: [0, 1, 2].map((c) => meanOf(layers, 'beauty', c)), error: [0, 1, 2].map(error) };
}

test('what is written to the lights renders to what the mix showed, twice over; every kind of source follows', async () => {
  let own = scene();
  for (const wanted of [
    DAWN,
    mix({ lamp: { on: false }, key: { stops: 1 }, sky: { color: { kind: 'tint', rgb: [0, 1, 1] } } }),
  ]) {
    const { layers } = await rendered(own);
    const shown = balancedFilm(layers, GROUPS, mixFactors(GROUPS, wanted, groupColors(own)))!.film;
    const back = writtenBack(own.document, wanted, groupColors(own));
    expect(back.left).toEqual([]);
    expect(back.written).toEqual(GROUPS.filter((g) => wanted[g]));
    own = withDocument(own, back.document);
    const again = await rendered(own);
    [0, 1, 2].forEach((c) => {
      // Twice the noise of one render: both have it, and the mix has lifted that of the first.
      expect(Math.abs(meanOf(shown, 'beauty', c) - again.mean[c])).toBeLessThan(4 * again.error[c] + 1e-6);
    });
  }
});

test('a lamp takes the temperature that it was given, other colours are brought to a strongest channel of one', () => {
  const { document } = writtenBack(scene().document, DAWN, groupColors(scene()));
  const [lamp, key] = document.lights;
  expect(lamp.kelvin).toBe(6500);
  lamp.color.forEach((c) => {
    expect(c).toBeCloseTo(1, 9);
  });
  expect(lamp.stops).toBeCloseTo(-1, 9);
  expect(Math.max(...key.color)).toBe(1);
  expect(key.color[1] / key.color[0]).toBeCloseTo(0.2, 9);
  expect(document.environment).toMatchObject({ stops: 1, tint: [1.5, 1, 0.5] });
  const coal = document.materials.find((m) => m.name === 'coal')!;
  expect([coal.emission_luminance, coal.emission_color]).toEqual([24, [1, 0.4, 0.1]]);
});

test('a sun has a gain and a tint of its own', () => {
  const sunny = testScene({ meshes: { block: box(1, 1, 1) }, environment: { kind: 'sky', group: 'sky' } });
  const wanted = mix({ sun: { stops: -2, color: { kind: 'kelvin', kelvin: 2800 } }, sky: { on: false } });
  const own = groupColors(sunny);
  const { document } = writtenBack(sunny.document, wanted, own);
  const { environment } = document;
  if (environment?.kind !== 'sky') throw new Error('no sky');
  expect(environment.on).toBe(false);
  expect(environment.sun).toMatchObject({ on: true, stops: -2 });
  const warm = kelvinToRgb(2800);
  environment.sun.tint.forEach((t, c) => {
    expect(t * own.sun[c]).toBeCloseTo(warm[c], 6);
  });
});

test('a surface that glows in two groups follows neither alone, and says so', () => {
  const two = scene();
  const coal = two.document.objects.find((o) => o.material === 'coal')!;
  const document = {
    ...two.document,
    objects: [...two.document.objects, { ...coal, name: 'other coal', lightGroup: 'lamp' }],
  };
  const back = writtenBack(document, mix({ ember: { stops: 1 }, sky: { stops: 1 } }), {});
  expect(back.written).toEqual(['sky']);
  expect(back.left).toEqual([{ group: 'ember', why: 'coal glows in ember and lamp' }]);
  expect(back.document.materials).toEqual(document.materials);
});

test('a mix that changes nothing of the scene changes no bit of it', () => {
  const { document } = scene();
  expect(writtenBack(document, mix({ elsewhere: { stops: 3 } }), {}).document).toEqual(document);
});

test('lights recorded white, with their colours in the mix, show what they showed in colour; what has no one colour stays', async () => {
  const own = scene();
  const before = mix({ key: { stops: 1, color: { kind: 'tint', rgb: [1, 0.5, 0.5] } } });
  const made = whitened(own.document, GROUPS, before, groupColors(own));
  expect(made.left).toEqual([{ group: 'sky', why: 'surroundings have no one colour' }]);
  expect(made.white).toEqual(['lamp', 'key', 'ember']);
  const white = withDocument(own, made.document);
  for (const g of made.white)
    groupColors(white)[g].forEach((c) => {
      expect(c).toBeCloseTo(1, 6);
    });
  const [colored, recorded] = [await rendered(own), await rendered(white)];
  const shown = (layers: typeof colored.layers, m: Mix, s: Scene) =>
    balancedFilm(layers, GROUPS, mixFactors(GROUPS, m, groupColors(s)))!.film;
  const [a, b] = [shown(colored.layers, before, own), shown(recorded.layers, made.mix, white)];
  [0, 1, 2].forEach((c) => {
    expect(Math.abs(meanOf(a, 'beauty', c) - meanOf(b, 'beauty', c))).toBeLessThan(4 * colored.error[c] + 1e-6);
  });
  // Written back, the lights have the colours that they had, and the tint.
  const back = writtenBack(made.document, made.mix, groupColors(white)).document;
  const [was, is] = [own.document.lights[0], back.lights[0]];
  const warm = kelvinToRgb(was.kelvin!);
  is.color.forEach((v, c) => {
    expect(v * 2 ** is.stops).toBeCloseTo(warm[c], 5);
  });
});

test('lights of one group in two colours, or without a channel, cannot be recorded white', () => {
  const { document } = scene();
  const [lamp, key, fill] = document.lights;
  const two = { ...document, lights: [lamp, key, { ...fill, color: [1, 0, 0] as [number, number, number] }] };
  const colors = { lamp: kelvinToRgb(3000), key: [0.7, 1.1, 0.8], sky: [1, 1, 1], ember: [2, 0.8, 0] };
  expect(whitened(two, ['key', 'ember'], {}, colors)).toMatchObject({
    white: [],
    left: [
      { group: 'key', why: 'its lights emit different colours' },
      { group: 'ember', why: 'its lights emit different colours' },
    ],
  });
  expect(whitened(two, ['sky'], {}, colors)).toMatchObject({ white: [], left: [] });
});

test('lifted to the end of its headroom, a group brings the picture to the noise target', async () => {
  const { layers } = await rendered(scene());
  // Dark enough that nothing of it is beyond white.
  const exposure = 0.02;
  const noise = (stops: number) => {
    const factors = mixFactors(GROUPS, mix({ lamp: { stops } }), {});
    return RelitHalves.of(layers, GROUPS, factors, exposure)!.noise().rms;
  };
  const target = noise(0) * 1.6;
  const room = (await headroom(layers, GROUPS, {}, target, exposure))!.lamp;
  expect(room).toBeGreaterThan(0.2);
  expect(Math.abs(noise(room) / target - 1)).toBeLessThan(0.1);
});
