import fc from 'fast-check';
import { parseStack } from '../comp';
import { makeSpec } from '../film';
import { parseOutputs } from '../outputs';
import { parseRecipe, withSetting } from '../recipe';
import { type SceneDocument, sceneSchema } from '../scene';
import { bandsFor } from './bands';
import { type Checked, leftovers } from './check';
import { inTime, summed, timeLeft, workAhead, workLeft } from './forecast';
import { FramesError, framesText, inOrder, parseFrames } from './frames';
import { verifyFiles } from './manifest';
import { filesOfFrame, runPictures, takenPictures } from './plan';
import { filmsBytes } from './space';

const fault = (text: string, within?: { first: number; last: number }) => {
  try {
    return parseFrames(text, within).length;
  } catch (error) {
    if (error instanceof FramesError) return error.message;
    throw error;
  }
};

test('frames are read as single ones, ranges and every so many', () => {
  expect(parseFrames('1-4,9, 20-26x2')).toEqual([1, 2, 3, 4, 9, 20, 22, 24, 26]);
  expect(parseFrames('5,3,3-4')).toEqual([3, 4, 5]);
  expect(parseFrames('-2-1')).toEqual([-2, -1, 0, 1]);
  expect(fault('3-1')).toBe('3-1: the last comes before the first');
  expect(fault('1-9x0')).toBe('1-9x0: a step is 1 or more');
  expect(fault('1,,2')).toMatch(/^nothing: a frame as 5/);
  expect(fault('one')).toMatch(/^one: a frame as 5/);
  expect(fault('0-4', { first: 1, last: 48 })).toBe('0-4: the shot has frames 1 to 48');
  expect(fault('1-30000')).toBe('more than 20000 frames');
});

test('any frames come back from their shortest text', () => {
  fc.assert(
    fc.property(fc.uniqueArray(fc.integer({ min: -40, max: 200 }), { minLength: 1, maxLength: 60 }), (frames) => {
      const sorted = [...frames].sort((a, b) => a - b);
      expect(parseFrames(framesText(frames))).toEqual(sorted);
    }),
  );
  expect(framesText([1, 2, 3, 7, 9, 11, 20])).toBe('1-3,7-11x2,20');
  expect(framesText([4, 8])).toBe('4,8');
});

test('first, middle and last come before the others, each once', () => {
  expect(inOrder([1, 2, 3, 4, 5, 6], 'ends')).toEqual([1, 4, 6, 2, 3, 5]);
  expect(inOrder([1, 2], 'ends')).toEqual([1, 2]);
  expect(inOrder([1, 2, 3], 'rising')).toEqual([1, 2, 3]);
});

const document: SceneDocument = sceneSchema.parse({
  schema: 1,
  name: 'quay',
  width: 64,
  height: 36,
  frames: { first: 1, last: 48, perSecond: 24 },
  cameras: [
    { name: 'main', position: [0, 1, 4], target: [0, 1, 0], focalLengthMm: 35 },
    { name: 'side', position: [4, 1, 0], target: [0, 1, 0], focalLengthMm: 35 },
  ],
  lights: [
    { kind: 'sphere', name: 'lamp', group: 'lamp', power: 1, position: [0, 3, 0], radius: 0.1 },
    { kind: 'sphere', name: 'fill', group: 'fill', power: 1, position: [1, 3, 0], radius: 0.1 },
  ],
  environment: { kind: 'gradient', group: 'sky', zenith: [1, 1, 1], horizon: [1, 1, 1], ground: [0, 0, 0] },
  objects: [],
  materials: [{ name: 'none' }],
  geometry: { hash: '', bytes: 0, meshes: [], pictures: [] },
});

const of = (change: Partial<Checked> = {}): Checked => ({
  document,
  recipe: parseRecipe({ size: { width: 64, height: 36, scale: 100 }, sampling: { cameraMin: 16, cameraMax: 64 } }),
  outputs: parseOutputs({ list: [{ id: 'a', name: 'main', layers: ['beauty', 'alpha'] }] }),
  camera: 'main',
  frames: [1],
  names: { shot: 'quay', recipe: 'Check', camera: 'main', frames: { first: 1, last: 1 }, trial: 1, date: new Date(0) },
  ...change,
});
const codes = (checked: Checked) => leftovers(checked).map((f) => f.code);

test('a shot that is as it is to be delivered has no leftovers', () => {
  expect(leftovers(of())).toEqual([]);
});

test('every planted leftover is found, told by what it is about, and gone once it is repaired', () => {
  const planted: [string, Partial<Checked>, RegExp][] = [
    [
      'region',
      { recipe: withSetting(of().recipe, 'region', { x: 0, y: 0, w: 0.5, h: 0.24 }) as never },
      /12 % of the frame/,
    ],
    ['scale', { recipe: withSetting(of().recipe, 'size.scale', 25) as never }, /25 % of 64 × 36/],
    ['clay', { recipe: withSetting(of().recipe, 'clay.on', true) as never }, /clay/],
    ['only', { recipe: withSetting(of().recipe, 'film.only', 'fog') as never }, /fog/],
    [
      'scope',
      { recipe: withSetting(of().recipe, 'scope.lights', [{ kind: 'light', name: 'lamp' }]) as never },
      /lit by lamp alone/,
    ],
    [
      'scope',
      { recipe: withSetting(of().recipe, 'scope.receivers', [{ kind: 'object', name: 'gone' }]) as never },
      /object gone/,
    ],
    [
      'dark',
      { document: { ...document, lights: document.lights.map((l) => ({ ...l, on: l.name !== 'lamp' })) } },
      /a light is off: lamp/,
    ],
    ['camera', { camera: 'side' }, /through side, not the shot's own main/],
    ['camera', { camera: 'top' }, /no camera top/],
    [
      'unassigned',
      {
        document: {
          ...document,
          lights: document.lights.map((l) => ({ ...l, group: l.name === 'fill' ? 'other' : l.group })),
        },
        outputs: parseOutputs({ list: [{ id: 'a', name: 'main', layers: ['beauty', 'group.*'] }] }),
      },
      /fill into a light group/,
    ],
    [
      'tally',
      { outputs: parseOutputs({ list: [{ id: 'a', name: 'main', layers: ['beauty', 'group.lamp'] }] }) },
      /main writes 1 of 3 light groups/,
    ],
    [
      'layer',
      { outputs: parseOutputs({ list: [{ id: 'a', name: 'main', layers: ['beauty', 'group.gone'] }] }) },
      /main writes group.gone/,
    ],
  ];
  for (const [code, change, words] of planted) {
    const checked = of(change);
    const [found, ...others] = leftovers(checked);
    expect([code, found?.code, found?.words]).toEqual([code, code, expect.stringMatching(words)]);
    expect(others).toEqual([]);
    const { repair } = found;
    const mended: Checked = {
      ...checked,
      recipe: repair?.recipe?.(checked.recipe) ?? checked.recipe,
      document: repair?.scene?.(checked.document) ?? checked.document,
      outputs: repair?.outputs?.(checked.outputs) ?? checked.outputs,
      camera: repair?.camera ?? checked.camera,
    };
    expect([code, ...codes(mended)]).toEqual([code]);
  }
});

test('films too large to be held go in bands; what needs them whole is told before the start, and put right', () => {
  const large = { ...of().recipe, size: { width: 8192, height: 8192, scale: 100 } };
  expect(leftovers(of({ recipe: large }))).toEqual([]);
  const dealt = { ...large, sampling: { ...large.sampling, adapt: 'cheapest' as const, stopNoise: 1 } };
  const [deals] = leftovers(of({ recipe: dealt }));
  expect(deals).toMatchObject({ code: 'memory', stops: true });
  expect(deals.words).toMatch(
    /^a film of the shot’s own picture takes \d+\.\d GB and must go in bands: samples cannot be dealt/,
  );
  expect(leftovers(of({ recipe: deals.repair!.recipe!(dealt) }))).toEqual([]);
  const [denoised] = leftovers(of({ recipe: { ...large, denoise: { ...large.denoise, on: true } } }));
  expect(denoised).toMatchObject({ code: 'memory', stops: true, repair: { words: 'without denoising' } });
  expect(denoised.words).toMatch(/^denoising the shot’s own picture takes \d+\.\d GB, and at most 4\.0 are held/);
});

test('frames that are too large to be denoised joined are told before the start, and may go each by itself', () => {
  const { recipe } = of();
  const joined = (width: number) => ({
    ...recipe,
    size: { width, height: width / 2, scale: 100 },
    denoise: { ...recipe.denoise, on: true, neighbours: true },
  });
  expect(leftovers(of({ recipe: joined(640) }))).toEqual([]);
  const [found, ...others] = leftovers(of({ recipe: joined(2048) }));
  expect([found, others]).toMatchObject([{ code: 'neighbours', stops: true, repair: { words: 'each by itself' } }, []]);
  expect(found.words).toMatch(
    /^a frame and those about it take \d\.\d GB to be denoised joined, and at most 1\.5 are$/,
  );
  expect(leftovers(of({ recipe: found.repair!.recipe!(joined(2048)) }))).toEqual([]);
});

test('as many bands as a film is larger than its room', () => {
  const { recipe } = of();
  expect([1, 100, 101, 950].map((bytes) => bandsFor(recipe, bytes, 100))).toEqual([1, 1, 2, 10]);
  const dealt = { ...recipe, sampling: { ...recipe.sampling, adapt: 'cheapest' as const, stopNoise: 1 } };
  expect(bandsFor(dealt, 100, 100)).toBe(1);
  expect(() => bandsFor(dealt, 200e6, 100e6)).toThrow('200 MB, of which 100 MB may be used');
});

test('a stack that lies over frames is checked: what it lacks, and blur that the camera has done already', () => {
  const comp = (entries: object[]) => ({
    stack: parseStack({ schema: 1, films: { shown: 'A' }, entries }),
    as: 'exr' as const,
  });
  const picture = { kind: 'layer', source: { from: 'film', film: 'shown', layer: 'beauty' } };
  expect(codes(of({ comp: comp([picture]) }))).toEqual([]);
  const plate = { kind: 'layer', source: { from: 'picture', picture: 'plate' } };
  const lacking = {
    ...comp([]),
    stack: parseStack({ schema: 1, pictures: { plate: { file: 'gone' } }, entries: [plate] }),
  };
  expect(codes(of({ comp: lacking }))).toEqual(['stack']);
  const cameras = document.cameras.map((c) => ({ ...c, fStop: 2 }));
  const focus = comp([picture, { kind: 'operation', operation: { does: 'focus', film: 'shown', metres: 4 } }]);
  const twice = leftovers(of({ document: { ...document, cameras }, comp: focus }));
  expect(twice.map((f) => f.code)).toEqual(['focus']);
  const named = parseOutputs({ list: [{ id: 'a', name: 'comp', layers: ['beauty'] }] });
  expect(codes(of({ outputs: named, comp: comp([picture]) }))).toEqual(['names']);
  // Without any output the stack's own file is delivered.
  const alone = of({ outputs: parseOutputs({ list: [] }), comp: comp([picture]) });
  expect(leftovers(alone)).toEqual([]);
  expect(filesOfFrame(alone, alone.names, 7).files).toEqual([
    [{ name: 'quay_comp_01.0007.exr', output: 'comp', layers: [] }],
  ]);
});

test('pictures of variants that the stack takes are known by their outputs, and one that no output is of is told', () => {
  const outputs = parseOutputs({
    list: [
      { id: 'a', name: 'main', layers: ['beauty'] },
      { id: 'b', name: 'clay', layers: ['beauty'], variant: { 'clay.on': true } },
    ],
  });
  const over = (name: string, layer: string) => ({
    as: 'exr' as const,
    stack: parseStack({
      schema: 1,
      films: { shown: 'A', other: `variant:${name}` },
      entries: [{ kind: 'layer', source: { from: 'film', film: 'other', layer } }],
    }),
  });
  const clay = of({ outputs, comp: over('clay', 'occlusion') });
  expect(takenPictures(clay)).toEqual(new Map([['variant:clay', 1]]));
  expect(runPictures(clay).map((p) => p.recipe.film.features.includes('occlusion'))).toEqual([false, true]);
  expect(codes(clay)).toEqual([]);
  const gone = of({ outputs, comp: over('gone', 'beauty') });
  expect([[...takenPictures(gone)], codes(gone)]).toEqual([[], ['stack']]);
  // A layer that films of the scene cannot keep is told, too.
  expect(codes(of({ outputs, comp: over('clay', 'group.no such light') }))).toEqual(['stack']);
});

test('films take the space of all that are kept, or of those that wait for others at once', () => {
  const plain = of({});
  expect(filmsBytes(plain, 48, false)).toBe(0);
  const one = filmsBytes(plain, 1, true);
  const { planes, region } = makeSpec(runPictures(plain)[0].recipe, document);
  expect(one).toBe(planes.count * region.width * region.height * 4);
  expect(filmsBytes(plain, 48, true)).toBe(48 * one);
  const joined = of({
    recipe: { ...plain.recipe, denoise: { ...plain.recipe.denoise, on: true, neighbours: true } },
  });
  expect(filmsBytes(joined, 48, false)).toBe(6 * filmsBytes(joined, 1, true));
  expect(filmsBytes(joined, 2, false)).toBe(2 * filmsBytes(joined, 1, true));
});

test('what cannot be delivered stops a run: no output, names that are the same', () => {
  const stops = (checked: Checked) => leftovers(checked).flatMap((f) => (f.stops ? [f.code] : []));
  expect(stops(of({ outputs: parseOutputs({ list: [] }) }))).toEqual(['outputs']);
  const twice = parseOutputs({
    list: ['a', 'b'].map((id) => ({
      id,
      name: id,
      layers: ['beauty'],
      names: [{ kind: 'shot' }, { kind: 'frame', digits: 4 }],
    })),
  });
  expect(stops(of({ outputs: twice }))).toEqual(['names']);
  const unnumbered = parseOutputs({ list: [{ id: 'a', name: 'a', layers: ['beauty'], names: [{ kind: 'shot' }] }] });
  const frames = { frames: [1, 2], names: { ...of().names, frames: { first: 1, last: 2 } } };
  expect(stops(of({ outputs: unnumbered, ...frames }))).toEqual(['names']);
  expect(codes(of(frames))).toEqual(['still']);
});

test('files of a frame lie by picture, the shot’s own first', () => {
  const outputs = parseOutputs({
    list: [
      { id: 'v', name: 'dark', layers: ['beauty'], variant: { 'scope.sky': false } },
      {
        id: 'a',
        name: 'main',
        layers: ['beauty', 'group.*'],
        grouping: 'family',
        names: [{ kind: 'output' }, { kind: 'layer' }, { kind: 'frame', digits: 3 }],
      },
    ],
  });
  const checked = of({ outputs });
  expect(runPictures(checked).map((p) => p.variant)).toEqual([null, { 'scope.sky': false }]);
  const { files, faults } = filesOfFrame(checked, checked.names, 7);
  expect(faults).toEqual([]);
  expect(files.map((p) => p.map((f) => f.name))).toEqual([
    [expect.stringMatching(/^main.*007\.exr$/), expect.stringMatching(/^main.*007\.exr$/)],
    ['quay_dark_01.0007.exr'],
  ]);
});

test('time that is left is told of the frames about each, and not before three are there', () => {
  const times = (f: number) => 10 + f / 4;
  const whole = (frames: number[]) => frames.map((frame) => ({ frame, part: 1 }));
  const done = (frames: number[]) => frames.map((frame) => ({ frame, seconds: times(frame) }));
  expect(workLeft(done([1, 48]), whole([2, 3]))).toBeNull();
  const left = Array.from({ length: 45 }, (_, i) => i + 2).filter((f) => f !== 24);
  const known = workLeft(done([1, 24, 48]), whole(left))!;
  const truth = left.reduce((sum, f) => sum + times(f), 0);
  expect(known.value / truth).toBeCloseTo(1, 6);
  expect(known.low).toBeLessThanOrEqual(truth);
  expect(known.high).toBeGreaterThanOrEqual(truth);
  // A frame that is half done leaves half of it.
  const half = workLeft(done([1, 24, 48]), [{ frame: 10, part: 0.5 }])!;
  expect(half.value).toBeCloseTo(times(10) / 2, 6);
  const told = { frame: 1, seconds: { value: 10, low: 8, high: 13 } };
  const ahead = workAhead([told, { ...told, frame: 3, seconds: { value: 20, low: 16, high: 26 } }], [1, 2, 3], 1);
  expect(ahead).toEqual({ value: 48, low: 39, high: 61.5 });
  expect(summed([ahead, ahead]).high).toBe(123);
  expect(workLeft([], [])).toEqual({ value: 0, low: 0, high: 0 });
  // Three frames on two workers take two rounds.
  expect(timeLeft({ value: 30, low: 27, high: 33 }, 3, 2).value).toBeCloseTo(20);
  expect(timeLeft({ value: 300, low: 270, high: 330 }, 30, 2)).toEqual({ value: 150, low: 135, high: 165 });
});

test('a run is in time, late, or neither for certain; then so many workers would do', () => {
  const work = { value: 3600, low: 3000, high: 4200 };
  const leftOn = (workers: number) => timeLeft(work, 100, workers);
  expect(inTime(leftOn, 5000, 1)).toEqual({ is: 'in time', seconds: 800, needed: null });
  expect(inTime(leftOn, 4000, 1)).toEqual({ is: 'open', seconds: 200, needed: 2 });
  expect(inTime(leftOn, 1500, 1)).toEqual({ is: 'late', seconds: 1500, needed: 3 });
  // A frame is no quicker on many.
  expect(inTime(leftOn, 30, 1)).toEqual({ is: 'late', seconds: 2970, needed: null });
  for (let w = 1; w < 3; w++) expect(leftOn(w).high).toBeGreaterThan(1500);
  expect(leftOn(3).high).toBeLessThanOrEqual(1500);
});

test('of noisy frame times the interval holds the truth nineteen times of twenty', () => {
  let seed = 7;
  const random = () => {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
    return seed / 2 ** 32;
  };
  const normal = () => Math.sqrt(-2 * Math.log(random() + 1e-12)) * Math.cos(2 * Math.PI * random());
  let held = 0;
  const rounds = 400;
  for (let n = 0; n < rounds; n++) {
    const all = Array.from({ length: 60 }, (_, i) => ({
      frame: i + 1,
      seconds: (20 + 5 * Math.sin(i / 9)) * Math.exp(0.1 * normal()),
    }));
    const order = inOrder(
      all.map((f) => f.frame),
      'ends',
    );
    const known = order.slice(0, 8).map((f) => all[f - 1]);
    const rest = order.slice(8).map((f) => all[f - 1]);
    const told = workLeft(
      known,
      rest.map(({ frame }) => ({ frame, part: 1 })),
    )!;
    const truth = rest.reduce((sum, r) => sum + r.seconds, 0);
    if (truth >= told.low && truth <= told.high) held++;
  }
  expect(held / rounds).toBeGreaterThan(0.9);
});

test('files are held against their manifest: gone, cut short, or changed', async () => {
  const file = (name: string) => ({
    name,
    output: 'a',
    frame: 1,
    layers: ['beauty'],
    bytes: 10,
    sha256: 'a'.repeat(64),
  });
  const there: Record<string, { bytes: number; sha256: string }> = {
    whole: { bytes: 10, sha256: 'a'.repeat(64) },
    short: { bytes: 9, sha256: 'b'.repeat(64) },
    other: { bytes: 10, sha256: 'c'.repeat(64) },
  };
  const files = ['whole', 'short', 'other', 'gone'].map(file);
  expect(await verifyFiles({ files }, async (name) => there[name] ?? null)).toEqual([
    { name: 'short', fault: 'it has 9 bytes, not 10' },
    { name: 'other', fault: 'its content is not what was delivered' },
    { name: 'gone', fault: 'it is not there' },
  ]);
});

test('frames that agree leave room for what they have in common: a machine that drifts, the less the less is left', () => {
  const agreeing = [1, 2, 3].map((frame) => ({ frame, seconds: 10 }));
  const reach = (left: number) => {
    const rest = Array.from({ length: left }, (_, i) => ({ frame: 4 + i, part: 1 }));
    const { value, low, high } = workLeft(agreeing, rest)!;
    expect(high - value).toBeCloseTo(value - low, 9);
    return high / value - 1;
  };
  expect(reach(21)).toBeCloseTo(0.3 * (21 / 24), 9);
  expect(reach(1)).toBeCloseTo(0.3 / 4, 9);
});
