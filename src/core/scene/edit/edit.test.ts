import fc from 'fast-check';
import {
  aimedAt,
  copied,
  emptyShot,
  FieldError,
  fieldAt,
  fogSchema,
  freeName,
  litDocument,
  makeLight,
  makeSolid,
  mergeScenes,
  mirrored,
  moved,
  multiply,
  placementOf,
  renamed,
  SOLID_KINDS,
  sceneChanges,
  sceneSchema,
  sharedField,
  transformOf,
  withField,
  without,
} from '..';

const shot = emptyShot('test');
const lamp = shot.lights[0].name;
const light = (name: string) => ({ kind: 'light' as const, name });
const object = (name: string) => ({ kind: 'object' as const, name });

describe('making', () => {
  test.each(SOLID_KINDS)('a %s is a valid part of the shot, before the camera', (kind) => {
    const { document, made } = makeSolid(shot, shot.cameras[0], kind);
    expect(sceneSchema.safeParse(document).success).toBe(true);
    expect(document.objects.at(-1)!.name).toBe(made.name);
    expect(document.forms).toHaveLength(shot.forms.length + 1);
  });

  test('lights of every kind are strong enough for what the camera is exposed for', () => {
    const exposed = { ...shot.cameras[0], exposure: { ev100: 12, stops: 0 } };
    const [dim, bright] = [shot.cameras[0], exposed].map((c) => makeLight(shot, c, 'spot').lights.at(-1)!.power);
    expect(bright / dim).toBeCloseTo(1.2 * 2 ** 12, -2);
  });

  test('names are told apart over objects, lights and sets', () => {
    expect(freeName(shot, 'object', 'ball')).toBe('ball 2');
    expect(freeName(shot, 'light', 'ball')).toBe('ball 2');
    expect(freeName(shot, 'material', 'ball')).toBe('ball');
    expect(freeName(shot, 'object', '')).toBe('object 2');
  });
});

describe('fields', () => {
  test('a field is set by its path and checked; a wrong value is refused and changes nothing', () => {
    const next = withField(shot, light(lamp), 'gains.fog', 2);
    expect(fieldAt(next, light(lamp), 'gains.fog')).toBe(2);
    expect(fieldAt(shot, light(lamp), 'gains.fog')).toBe(1);
    expect(() => withField(shot, light(lamp), 'power', -1)).toThrow(FieldError);
    expect(() => withField(shot, light('nobody'), 'power', 1)).toThrow(/not there any more/);
    expect(withField(shot, light(lamp), 'position.1', 9).lights[0]).toMatchObject({
      position: [expect.any(Number), 9, expect.any(Number)],
    });
    expect(withField(shot, { kind: 'rules', name: 'wares' }, 'seenBy.camera', false).setRules.wares).toEqual({
      seenBy: { camera: false },
    });
  });

  test('several items share a value or differ', () => {
    const two = makeLight(shot, shot.cameras[0], 'point');
    const owners = two.lights.map((l) => light(l.name));
    expect(sharedField(two, owners, 'stops')).toEqual({ same: true, value: 0 });
    expect(sharedField(two, owners, 'power')).toEqual({ same: false });
  });
});

describe('renaming and removing', () => {
  const linked = {
    ...shot,
    sets: { wares: ['ball', 'plane'] },
    lights: shot.lights.map((l) => ({ ...l, exclude: ['ball', 'wares'], parent: 'ball' })),
  };

  test('an object keeps its links under its new name', () => {
    const next = renamed(linked, object('ball'), 'float');
    expect(next.sets.wares).toEqual(['float', 'plane']);
    expect(next.lights[0]).toMatchObject({ exclude: ['float', 'wares'], parent: 'float' });
    expect(() => renamed(linked, object('ball'), 'plane')).toThrow(/taken/);
    expect(() => renamed(linked, object('ball'), '  ')).toThrow(/1 to 120/);
  });

  test('a material and a set keep theirs', () => {
    const [material] = shot.materials;
    const next = renamed(shot, { kind: 'material', name: material.name }, 'stone');
    expect(new Set(next.objects.map((o) => o.material))).toEqual(new Set(['stone']));
    expect(renamed(linked, { kind: 'set', name: 'wares' }, 'cargo').lights[0].exclude).toEqual(['ball', 'cargo']);
  });

  test('fogs go by name, each within an object that may be renamed or go', () => {
    const [first] = shot.objects;
    const fogs = ['fog', 'bank'].map((name) => fogSchema.parse({ name, density: 0.1, within: first.name }));
    const foggy = { ...shot, fogs };
    const moved = renamed(foggy, object(first.name), 'hall');
    expect(moved.fogs.map((f) => f.within)).toEqual(['hall', 'hall']);
    expect(without(moved, [object('hall')]).fogs.map((f) => f.within)).toEqual([null, null]);
    const named = renamed(foggy, { kind: 'fog', name: 'bank' }, 'sea fog');
    expect(named.fogs.map((f) => f.name)).toEqual(['fog', 'sea fog']);
    expect(() => renamed(foggy, { kind: 'fog', name: 'bank' }, 'fog')).toThrow('the name fog is taken');
    expect(without(named, [{ kind: 'fog', name: 'fog' }]).fogs).toEqual([named.fogs[1]]);
    expect(sceneChanges(foggy, named)).toEqual(['fog sea fog added', 'fog bank removed']);
    const denser = withField(foggy, { kind: 'fog', name: 'bank' }, 'density', 0.4);
    const other = withField(foggy, { kind: 'fog', name: 'fog' }, 'density', 0.2);
    expect(mergeScenes(foggy, denser, other)).toMatchObject({
      clashes: [],
      document: { fogs: [{ density: 0.2 }, { density: 0.4 }] },
    });
    expect(sceneSchema.safeParse({ ...foggy, fogs: [fogs[0], fogs[0]] }).error?.issues[0].message).toBe(
      'two fogs have the same name',
    );
  });

  test('a document of before there could be several has its fog, or none', () => {
    const { fogs: _, ...old } = shot;
    expect(sceneSchema.parse({ ...old, fog: { density: 0.2 } }).fogs).toMatchObject([{ name: 'fog', density: 0.2 }]);
    expect(sceneSchema.parse({ ...old, fog: null }).fogs).toEqual([]);
    expect(sceneSchema.parse(old).fogs).toEqual([]);
  });

  test('what is removed leaves no link; what must stay, stays', () => {
    const next = without(linked, [object('ball')]);
    expect(next.sets.wares).toEqual(['plane']);
    expect(next.lights[0]).toMatchObject({ exclude: ['wares'], parent: null });
    expect(next.forms.map((f) => f.name)).not.toContain('ball');
    expect(() => without(shot, [{ kind: 'camera', name: 'camera' }])).toThrow(/needs a camera/);
    expect(() => without(shot, [{ kind: 'material', name: shot.materials[0].name }])).toThrow(/give it another/);
  });

  test('a copy has its own shape, a linked one shares it', () => {
    const own = copied(shot, [object('ball')], false);
    const shared = copied(shot, [object('ball')], true);
    expect(own.made[0].name).toBe('ball 2');
    expect(own.document.objects.at(-1)!.mesh).not.toBe('ball');
    expect(shared.document.objects.at(-1)!.mesh).toBe('ball');
  });
});

describe('placing', () => {
  const angle = fc.double({ min: -179, max: 179, noNaN: true });
  const place = fc.double({ min: -50, max: 50, noNaN: true });
  const scale = fc.double({ min: 0.1, max: 8, noNaN: true });

  test('a placement and its transform are the same thing', () => {
    fc.assert(
      fc.property(
        fc.tuple(place, place, place),
        fc.tuple(fc.double({ min: -88, max: 88, noNaN: true }), angle, angle),
        fc.tuple(scale, scale, scale),
        (position, degrees, size) => {
          const m = transformOf({ position, degrees, scale: size });
          const again = transformOf(placementOf(m));
          m.forEach((v, i) => {
            expect(again[i]).toBeCloseTo(v, 3);
          });
        },
      ),
      { seed: 5, numRuns: 300 },
    );
  });

  test('turns run about y, then x, then z, each against the clock seen from the axis', () => {
    const m = transformOf({ position: [0, 0, 0], degrees: [0, 90, 0], scale: [1, 1, 1] });
    // +z goes to +x.
    expect([m[8], m[9], m[10]].map((v) => Math.round(v * 1e6) / 1e6)).toEqual(
      [1, 0, 0].map((v) => expect.closeTo(v, 6)),
    );
    const both = transformOf({ position: [0, 0, 0], degrees: [30, 40, 0], scale: [1, 1, 1] });
    const y = transformOf({ position: [0, 0, 0], degrees: [0, 40, 0], scale: [1, 1, 1] });
    const x = transformOf({ position: [0, 0, 0], degrees: [30, 0, 0], scale: [1, 1, 1] });
    multiply(y, x).forEach((v, i) => {
      expect(both[i]).toBeCloseTo(v, 9);
    });
  });

  test('moving, mirroring twice and aiming are what they say', () => {
    const items = [object('ball'), light(lamp)];
    const there = moved(shot, items, [1, 2, 3]);
    expect(placementOf(there.objects[0].transform).position[1]).toBeCloseTo(
      placementOf(shot.objects[0].transform).position[1] + 2,
    );
    expect(JSON.stringify(mirrored(mirrored(shot, items, 0), items, 0).lights)).toBe(JSON.stringify(shot.lights));
    const aimed = aimedAt(shot, [light(lamp), object('ball')], [0, 0, 0]).lights[0];
    if (!('facing' in aimed) || !('position' in aimed)) throw new Error('a lamp with a front');
    const dot = aimed.facing.reduce((s, c, k) => s - c * aimed.position[k], 0);
    expect(dot / (Math.hypot(...aimed.facing) * Math.hypot(...aimed.position))).toBeCloseTo(1, 6);
  });
});

describe('changes and merging', () => {
  const mine = withField(shot, light(lamp), 'stops', 3);
  const theirs = makeSolid(shot, shot.cameras[0], 'box').document;

  test('what changed is told in words', () => {
    expect(sceneChanges(shot, mine)).toEqual([`${lamp}: stops 0 → 3`]);
    expect(sceneChanges(shot, theirs)).toEqual(['object box added', 'form box added']);
    expect(sceneChanges(theirs, shot)).toContain('object box removed');
    expect(sceneChanges(shot, { ...shot, environment: null })[0]).toMatch(/^environment .* → none$/);
    expect(sceneChanges(shot, shot)).toEqual([]);
  });

  test('edits of different things are both made', () => {
    const { document, clashes } = mergeScenes(shot, mine, theirs);
    expect(clashes).toEqual([]);
    expect(document.lights[0].stops).toBe(3);
    expect(document.objects.map((o) => o.name)).toContain('box');
    expect(sceneSchema.safeParse(document).success).toBe(true);
  });

  test('edits of one thing clash by name, and neither is lost unsaid', () => {
    const other = withField(shot, light(lamp), 'stops', -1);
    const { document, clashes } = mergeScenes(shot, mine, other);
    expect(clashes).toEqual([`light ${lamp}`]);
    expect(document.lights[0].stops).toBe(3);
    expect(mergeScenes(shot, mine, mine).clashes).toEqual([]);
    // One takes it away, the other changes it.
    const gone = without(shot, [light(lamp)]);
    expect(mergeScenes(shot, gone, other)).toMatchObject({ clashes: [`light ${lamp}`], document: { lights: [] } });
  });
});

test('what is switched off keeps its place and gives nothing', () => {
  const off = {
    ...shot,
    lights: shot.lights.map((l) => ({ ...l, on: false })),
    environment: shot.environment && { ...shot.environment, on: false },
  };
  const lit = litDocument(off);
  expect(lit.lights[0]).toMatchObject({ power: 0, visible: false, group: shot.lights[0].group });
  expect(Math.max(...Object.values(lit.environment!.gains))).toBe(0);
  expect(litDocument(shot)).toBe(shot);
});
