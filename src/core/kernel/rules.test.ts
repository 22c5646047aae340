import { meanOf, measureTest, type TestScene } from '@/render/testing';
import { measureFilm } from '../film';
import { box, type Mesh, merge, plane, sphere, transformed } from '../scene';

/** Rules of objects, each in a scene whose picture is another without it. */
const at = (mesh: Mesh, x: number, y: number, z: number) => transformed(mesh, [x, y, z]);
const matt = { base_color: [0.8, 0.8, 0.8], specular_weight: 0 };
const black = { base_color: [0, 0, 0], specular_weight: 0 };
const mirror = { base_metalness: 1, base_color: [1, 1, 1], specular_roughness: 0 };
const glass = { transmission_weight: 1, specular_roughness: 0 };
const view = { position: [0, 0.5, 0.0001], target: [0, 0, 0], up: [0, 0, -1], focalLengthMm: 400 };
const floor = plane(6, 6);
const lamp = { kind: 'sphere', name: 'lamp', power: 20, position: [0, 2, 0], radius: 0.5 };
const straight = { rayDepth: { all: 0 } };
const roof = at(box(4, 0.1, 4), 0, 1, 0);

const measure = (t: TestScene, samples = 64, change: Record<string, unknown> = {}, study = 0) =>
  measureTest(t, samples, change, { study, size: 16 });
const near = (a: { mean: number; error: number }, b: { mean: number; error: number }) =>
  expect(Math.abs(a.mean - b.mean)).toBeLessThan(a.error + b.error + 2e-3 * b.mean);

describe('rays that look for light', () => {
  const under = (rules?: TestScene['rules']): TestScene => ({
    meshes: { floor, roof },
    materials: { floor: matt, roof: black },
    lights: [lamp],
    camera: view,
    rules,
  });
  const open: TestScene = { ...under(), meshes: { floor } };

  test('an object hidden from shadow rays blocks no light, by either technique and by both', async () => {
    const truth = await measure(open, 256, straight);
    expect((await measure(under(), 16, straight)).mean).toBe(0);
    for (const study of [0, 2, 4])
      near(await measure(under({ roof: { seenBy: { shadow: false } } }), 256, straight, study), truth);
  });

  test('an object hidden from diffuse rays alone blocks light all the same', async () => {
    for (const study of [0, 2, 4]) {
      expect((await measure(under({ roof: { seenBy: { diffuse: false } } }), 16, straight, study)).mean).toBe(0);
    }
  });

  test('what is hidden from both is as good as gone', async () => {
    near(await measure(under({ roof: { seenBy: { shadow: false, diffuse: false } } }), 256), await measure(open, 256));
  });

  test('a glowing object hidden from shadow rays still lights, and mirrors see it', async () => {
    const ball = at(sphere(0.5, 48), 0, 2, 0);
    const glow: TestScene = {
      meshes: { floor, ball },
      materials: { floor: matt, ball: { ...black, emission_luminance: 20 } },
      camera: view,
    };
    const truth = await measure(glow, 256, straight);
    const rules = { ball: { seenBy: { shadow: false } } };
    near(await measure({ ...glow, rules }, 256, straight), truth);
    const shiny = { ...glow, materials: { ...glow.materials, floor: mirror }, rules };
    expect((await measure(shiny, 4)).mean).toBeGreaterThan(19);
  });
});

describe('rays that look at the scene', () => {
  const glowing = (material: Record<string, unknown>, rules?: TestScene['rules']): TestScene => ({
    meshes: { floor, ball: at(sphere(0.5, 32), 0, 2, 0) },
    materials: { floor: material, ball: { ...black, emission_luminance: 20 } },
    camera: view,
    rules,
  });

  test('the camera passes what is hidden from it, and its shadow stays', async () => {
    const cap = at(box(0.4, 0.01, 0.4), 0, 0.3, 0);
    const t: TestScene = {
      meshes: { floor, cap },
      materials: { floor: matt, cap: matt },
      lights: [lamp],
      camera: view,
    };
    const seen = await measure(t, 16, straight);
    const hidden = await measure({ ...t, rules: { cap: { seenBy: { camera: false } } } }, 16, straight);
    const without = await measure({ ...t, meshes: { floor } }, 16, straight);
    expect(seen.mean).toBeGreaterThan(without.mean);
    expect(hidden.mean).toBe(0);
    expect(meanOf(hidden.layers, 'depth')).toBeGreaterThan(0.45);
  });

  test('mirrors and glass do not show what is hidden from reflection and transmission', async () => {
    expect((await measure(glowing(mirror), 4)).mean).toBeGreaterThan(19);
    expect((await measure(glowing(mirror, { ball: { seenBy: { reflection: false } } }), 4)).mean).toBe(0);
    const pane: TestScene = {
      meshes: { pane: plane(2, 2), ball: at(sphere(0.5, 32), 0, -2, 0) },
      materials: { pane: { ...glass, geometry_thin_walled: true }, ball: { ...black, emission_luminance: 20 } },
      camera: view,
    };
    expect((await measure(pane, 16)).mean).toBeGreaterThan(14);
    expect((await measure({ ...pane, rules: { ball: { seenBy: { transmission: false } } } }, 16)).mean).toBe(0);
  });

  test('diffuse rays do not gather from what is hidden from them', async () => {
    const wall: TestScene = {
      meshes: { floor, wall: at(box(0.1, 3, 3), 1, 1.5, 0) },
      materials: { floor: matt, wall: matt },
      lights: [{ ...lamp, position: [-1, 2, 0] }],
      camera: view,
    };
    expect(meanOf((await measure(wall, 64)).layers, 'class.indirect_diffuse')).toBeGreaterThan(0.05);
    const hidden = await measure({ ...wall, rules: { wall: { seenBy: { diffuse: false } } } }, 64);
    expect(meanOf(hidden.layers, 'class.indirect_diffuse')).toBe(0);
  });

  test('fog does not gather from what is hidden from fog rays', async () => {
    const t: TestScene = {
      meshes: { wall: at(box(3, 3, 0.1), 0, 0, -2) },
      materials: { wall: matt },
      lights: [{ ...lamp, position: [0, 0, 1] }],
      fog: { density: 0.2 },
      camera: { position: [2, 0, 5], target: [2.5, 0, 0], focalLengthMm: 200 },
    };
    expect(meanOf((await measure(t, 64)).layers, 'class.indirect_fog')).toBeGreaterThan(0);
    const hidden = await measure(
      { ...t, fog: { density: 0.2, albedo: [0.9, 0.9, 0.9] }, rules: { wall: { seenBy: { fog: false } } } },
      64,
      {
        rayDepth: { fog: 1 },
      },
    );
    expect(meanOf(hidden.layers, 'class.indirect_fog')).toBeLessThan(
      meanOf(
        (await measure({ ...t, fog: { density: 0.2, albedo: [0.9, 0.9, 0.9] } }, 64, { rayDepth: { fog: 1 } })).layers,
        'class.indirect_fog',
      ),
    );
  });
});

describe('second materials', () => {
  test('a bright screen is seen without lighting', async () => {
    const t: TestScene = {
      meshes: { floor, screen: at(box(1, 1, 0.05), 0, 0.6, -1) },
      materials: { floor: matt, screen: { ...black, emission_luminance: 10 }, dark: black },
      camera: { position: [0, 0.5, 4], target: [0, 0.4, -1] },
    };
    const lit = await measure(t, 64);
    const unlit = await measure({ ...t, rules: { screen: { secondaryMaterial: 'dark' } } }, 64);
    expect(meanOf(unlit.layers, 'class.emission')).toBe(meanOf(lit.layers, 'class.emission'));
    expect(meanOf(lit.layers, 'class.direct_diffuse')).toBeGreaterThan(0.01);
    expect(meanOf(unlit.layers, 'class.direct_diffuse')).toBe(0);
  });

  test('a lamp unseen by the camera lights by its second material', async () => {
    const ball = at(sphere(0.5, 48), 0, 2, 0);
    const t: TestScene = {
      meshes: { floor, ball },
      materials: { floor: matt, ball: black, glow: { ...black, emission_luminance: 20 } },
      camera: view,
    };
    const truth = await measure(
      { ...t, materials: { ...t.materials, ball: { ...black, emission_luminance: 20 } } },
      128,
      straight,
    );
    expect((await measure(t, 8, straight)).mean).toBe(0);
    near(await measure({ ...t, rules: { ball: { secondaryMaterial: 'glow' } } }, 128, straight), truth);
  });

  test('glass is left as the glass that was entered, and lets shadow rays through when the second material does', async () => {
    const t: TestScene = {
      meshes: { floor: at(floor, 0, -1, 0), ball: sphere(0.5, 48) },
      materials: { floor: matt, ball: glass, chalk: matt },
      environment: [1, 1, 1],
      camera: { position: [0, 2, 0.0001], target: [0, 0, 0], up: [0, 0, -1], focalLengthMm: 200 },
      rules: { ball: { secondaryMaterial: 'chalk' } },
    };
    const { layers } = await measure(t, 64);
    expect(meanOf(layers, 'class.indirect_transmission')).toBeGreaterThan(0.1);
    const solid = await measure({ ...t, materials: { ...t.materials, ball: matt }, rules: undefined }, 64);
    expect(meanOf(solid.layers, 'class.indirect_transmission')).toBe(0);
  });
});

test('limits of an object end paths that leave it, and no others', async () => {
  const t: TestScene = {
    meshes: { floor, wall: at(box(0.1, 3, 3), 1, 1.5, 0) },
    materials: { floor: matt, wall: matt },
    lights: [{ ...lamp, position: [-1, 2, 0] }],
    camera: view,
  };
  const cut = await measure({ ...t, rules: { floor: { rayDepth: { diffuse: 0 } } } }, 32);
  expect(meanOf(cut.layers, 'class.indirect_diffuse')).toBe(0);
  const ledger = { film: { ledger: 'all' } };
  const free = await measure(t, 32, ledger);
  const wallLimited = await measure({ ...t, rules: { wall: { rayDepth: { all: 1 } } } }, 32, ledger);
  const bounce = (m: typeof free, n: number) => meanOf(m.layers, `bounce.${String(n).padStart(2, '0')}`);
  expect(bounce(wallLimited, 1)).toBe(bounce(free, 1));
  expect(bounce(free, 2)).toBeGreaterThan(0);
  expect(bounce(wallLimited, 2)).toBe(0);
});

test('an object may get more splits and light samples where the camera sees it', async () => {
  const t: TestScene = {
    meshes: { floor },
    materials: { floor: matt },
    lights: [lamp],
    environment: [0.5, 0.5, 0.5],
    camera: view,
  };
  const plain = await measure(t, 32);
  const more = await measure({ ...t, rules: { floor: { samples: 4 } } }, 32);
  near(more, plain);
  const rays = (m: typeof plain) => measureFilm(m.film, 1).rays.diffuse;
  expect(rays(more)).toBe(4 * rays(plain));
});

describe('caustics', () => {
  const t: TestScene = {
    meshes: { floor, ball: at(sphere(0.3, 48), 0, 0.6, 0) },
    materials: { floor: matt, ball: glass },
    lights: [lamp],
    camera: { position: [1, 0.6, 0], target: [0, 0, 0], focalLengthMm: 60 },
  };

  test.each(['castsCaustics', 'receivesCaustics'] as const)('%s off leaves out exactly the caustics', async (rule) => {
    const all = await measure(t, 64);
    expect(meanOf(all.layers, 'class.caustic')).toBeGreaterThan(0);
    const off = await measure(
      { ...t, rules: { [rule === 'castsCaustics' ? 'ball' : 'floor']: { [rule]: false } } },
      64,
    );
    expect(meanOf(off.layers, 'class.caustic')).toBe(0);
    for (const c of ['direct_diffuse', 'indirect_diffuse', 'indirect_transmission', 'emission'])
      expect(meanOf(off.layers, `class.${c}`)).toBe(meanOf(all.layers, `class.${c}`));
  });

  test('softened, they keep their class and get less noisy; mirrors that the camera looks into stay sharp', async () => {
    const small = { ...t, lights: [{ ...lamp, power: 2000, radius: 0.05 }] };
    const sharp = await measure(small, 256);
    const soft = await measure(small, 256, { rayDepth: { softenCaustics: 0.3 } });
    expect(meanOf(soft.layers, 'class.caustic')).toBeGreaterThan(0.3 * meanOf(sharp.layers, 'class.caustic'));
    expect(soft.error).toBeLessThan(0.7 * sharp.error);
    const seen: TestScene = { meshes: { floor }, materials: { floor: mirror }, lights: [lamp], camera: view };
    expect((await measure(seen, 8, { rayDepth: { softenCaustics: 0.5 } })).mean).toBe((await measure(seen, 8)).mean);
  });
});

describe('withheld from the camera', () => {
  const ball = at(sphere(0.3, 64), 0, 0.3, 0);
  const ground = merge([floor, at(box(0.2, 0.4, 0.2), 0.9, 0.2, 0)]);
  const t: TestScene = {
    meshes: { ground, ball },
    materials: { ground: { ...matt, base_color: [0.7, 0.5, 0.3] }, ball: { ...matt, base_color: [0.2, 0.5, 0.8] } },
    lights: [{ ...lamp, position: [1, 2, 1] }],
    environment: {
      kind: 'gradient',
      zenith: [0.3, 0.4, 0.5],
      horizon: [0.3, 0.4, 0.5],
      ground: [0, 0, 0],
      gains: { seen: 0 },
    },
    camera: { position: [0, 1.2, 2.5], target: [0, 0.2, 0] },
  };
  const film = { rayDepth: { all: 0 }, film: { features: ['alpha', 'shadow', 'depth'] } };

  test('a plate under beauty and shadow of a catcher makes the full render', async () => {
    const size = 24;
    const full = await measureTest(t, 256, film, { size });
    const plate = await measureTest({ ...t, meshes: { ground } }, 256, film, { size });
    const caught = await measureTest({ ...t, rules: { ground: { role: 'catcher' } } }, 256, film, { size });
    const layer = (m: typeof full, name: string) => m.layers.layers.get(name)!.planes;
    const alpha = layer(caught, 'alpha')[0];
    let worst = 0;
    let dark = 0;
    for (let c = 0; c < 3; c++) {
      for (let i = 0; i < size * size; i++) {
        const shadow = layer(caught, 'shadow')[c][i];
        const made = layer(caught, 'beauty')[c][i] + layer(plate, 'beauty')[c][i] * (1 - alpha[i] - shadow);
        // At the ball's edge the plate has no single value behind a pixel.
        if (alpha[i] === 0 || alpha[i] === 1) worst = Math.max(worst, Math.abs(made - layer(full, 'beauty')[c][i]));
        dark = Math.max(dark, shadow);
      }
    }
    expect(dark).toBeGreaterThan(0.5);
    expect(worst).toBeLessThan(0.02);
  });

  test('a catcher still blocks and bounces for other objects', async () => {
    const deep = { film: film.film };
    const caught = await measure({ ...t, rules: { ground: { role: 'catcher' } } }, 64, deep);
    const bare = await measure({ ...t, meshes: { ball } }, 64, deep);
    expect(meanOf(caught.layers, 'class.indirect_diffuse', 0)).toBeGreaterThan(
      2 * meanOf(bare.layers, 'class.indirect_diffuse', 0),
    );
  });

  test('a holdout cuts a hole into what is behind it', async () => {
    const card = at(box(0.3, 0.6, 0.02), 0, 0.3, 1);
    const held = await measure({ ...t, meshes: { ...t.meshes, card }, rules: { card: { role: 'holdout' } } }, 16, film);
    const without = await measure(t, 16, film);
    const [a, b] = [held, without].map((m) => m.layers.layers.get('alpha')!.planes[0]);
    const holes = a.filter((v, i) => v === 0 && b[i] === 1).length;
    expect(holes).toBeGreaterThan(3);
    held.layers.layers.get('beauty')!.planes[0].forEach((v, i) => {
      if (a[i] === 0) expect(v).toBe(0);
    });
  });
});

test('one looks into a closed room through walls whose backs are not seen, and they still keep light out', async () => {
  const inwards = box(2, 2, 2);
  for (let i = 0; i < inwards.indices.length; i += 3)
    [inwards.indices[i + 1], inwards.indices[i + 2]] = [inwards.indices[i + 2], inwards.indices[i + 1]];
  for (let i = 0; i < inwards.normals.length; i++) inwards.normals[i] *= -1;
  const t: TestScene = {
    meshes: { room: inwards },
    materials: { room: matt },
    lights: [
      { kind: 'point', name: 'outside', power: 100, position: [0, 0, 4], group: 'outside' },
      { kind: 'point', name: 'inside', power: 1, position: [0, 0, 0], group: 'inside' },
    ],
    camera: { position: [0, 0, 5], target: [0, 0, 0], focalLengthMm: 60 },
    rules: { room: { backs: false } },
  };
  const { layers } = await measure(t, 16);
  expect(meanOf(layers, 'group.outside')).toBe(0);
  expect(meanOf(layers, 'group.inside')).toBeGreaterThan(0.01);
  expect(meanOf((await measure({ ...t, rules: undefined }, 16)).layers, 'group.inside')).toBe(0);
});

test('rules of sets hold for their members, later sets first, an object before its sets', async () => {
  const t: TestScene = {
    meshes: { floor, roof },
    materials: { floor: matt, roof: black },
    lights: [lamp],
    camera: view,
    sets: { a: ['roof'], b: ['roof'] },
    setRules: { a: { seenBy: { shadow: true } }, b: { seenBy: { shadow: false } } },
  };
  expect((await measure(t, 8, straight)).mean).toBeGreaterThan(0);
  expect((await measure({ ...t, rules: { roof: { seenBy: { shadow: true } } } }, 8, straight)).mean).toBe(0);
  await expect(measure({ ...t, rules: { roof: { secondaryMaterial: 'tin' } } }, 8)).rejects.toThrow(
    'object roof: no material tin',
  );
});
