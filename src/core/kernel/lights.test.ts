import { meanOf, measureTest, numbers, renderTest, type TestScene, testRecipe, testScene } from '@/render/testing';
import { box, plane, type Scene, sphere, transformed } from '../scene';
import { skyPicture } from '../sky';
import { buildLightTree } from './light-tree';
import { resolveLight, resolveSun } from './resolve-lights';

/** Lights against closed forms, on a white matt floor at the origin, seen in its middle. */
const floor = plane(0.1, 0.1);
const matt = { base_color: [1, 1, 1], specular_weight: 0 };
const view = { position: [0, 0.5, 0.0001], target: [0, 0, 0], up: [0, 0, -1], focalLengthMm: 2000 };

const measure = (t: TestScene, samples = 64, change: Record<string, unknown> = {}) => measureTest(t, samples, change);
const onFloor = (lights: Record<string, unknown>[], samples = 64, more: Partial<TestScene> = {}, change = {}) =>
  measure({ meshes: { floor }, materials: { floor: matt }, lights, camera: view, ...more }, samples, change);
const near = (value: number, truth: number, tolerance: number) => {
  expect(value).toBeGreaterThan(truth - tolerance);
  expect(value).toBeLessThan(truth + tolerance);
};

describe('what falls on a floor', () => {
  test.each([1, 2, 5])('of a point of 8 cd at %f m: inverse square', async (d) => {
    const { mean } = await onFloor([{ kind: 'point', name: 'p', power: 8, position: [0, d, 0] }], 2);
    near(mean, 8 / (d * d) / Math.PI, 2e-3 * mean);
  });

  test('of a point of 100 lm, aslant', async () => {
    const { mean } = await onFloor([{ kind: 'point', name: 'p', unit: 'lumens', power: 100, position: [3, 4, 0] }], 2);
    near(mean, ((100 / (4 * Math.PI)) * 0.8) / 25 / Math.PI, 2e-3 * mean);
  });

  test('of a spot: full in its middle, half way down its soft edge, none outside', async () => {
    const spot = (tilt: number) => ({
      kind: 'spot',
      name: 's',
      power: 50,
      position: [0, 2, 0],
      facing: [Math.sin(tilt), -Math.cos(tilt), 0],
      up: [0, 0, 1],
      coneDegrees: 60,
      softness: 0.5,
    });
    const at = async (degrees: number) => (await onFloor([spot((degrees * Math.PI) / 180)], 2)).mean;
    const full = 50 / 4 / Math.PI;
    near(await at(0), full, 2e-3 * full);
    near(await at(14), full, 2e-3 * full);
    const [outer, inner] = [Math.cos(Math.PI / 6), Math.cos(Math.PI / 12)];
    near(await at((Math.acos((outer + inner) / 2) * 180) / Math.PI), full / 2, 0.01 * full);
    expect(await at(31)).toBe(0);
  });

  test('of a disk overhead: E = π L r²/(r² + d²)', async () => {
    const disk = {
      kind: 'disk',
      name: 'd',
      power: 10,
      position: [0, 1, 0],
      facing: [0, -1, 0],
      up: [0, 0, 1],
      radius: 0.7,
    };
    const { mean, error } = await onFloor([disk], 256);
    near(mean, (10 * 0.49) / 1.49, error + 0.003);
  });

  test('of a rectangle far away, by its lumens, whatever its spread', async () => {
    // Far off all light of a narrow cone falls on the axis as I/d², I = Φ / ∫ fade cos dω · fade.
    const of = async (spreadDegrees: number) => {
      const light = {
        kind: 'rectangle',
        name: 'r',
        unit: 'lumens',
        power: 1000,
        position: [0, 50, 0],
        facing: [0, -1, 0],
        up: [0, 0, 1],
        width: 0.2,
        height: 0.2,
        spreadDegrees,
      };
      return (await onFloor([light], 16)).mean;
    };
    near(await of(180), 1000 / Math.PI / 2500 / Math.PI, 1e-3 * 0.05);
    const narrow = await of(20);
    expect(narrow / (await of(180))).toBeGreaterThan(20);
    // A spread cuts nothing off: caught in a white box of the cone's own size, the flux is the same by construction.
    const scene = testScene({
      lights: [
        {
          kind: 'rectangle',
          name: 'r',
          unit: 'lumens',
          power: 1000,
          position: [0, 1, 0],
          facing: [0, -1, 0],
          width: 1,
          height: 1,
          spreadDegrees: 20,
        },
      ],
    });
    const l = resolveLight(scene, scene.document.lights[0]);
    let flux = 0;
    for (let i = 0; i < 20000; i++) {
      const c = (i + 0.5) / 20000;
      const t = Math.min(1, Math.max(0, (c - l.outerCosine) / (l.innerCosine - l.outerCosine)));
      flux += (l.radiance[1] * t * t * (3 - 2 * t) * c * 2 * Math.PI) / 20000;
    }
    near(flux, 1000, 2);
  });

  test.each([
    ['rectangle', { width: 0.2, height: 0.1 }, [0, -1, 0]],
    ['disk', { radius: 0.1 }, [0, -1, 0]],
    ['sphere', { radius: 0.1 }, undefined],
  ])('of 40 cd of a far %s', async (kind, size, facing) => {
    const light = {
      kind,
      name: 'l',
      unit: 'candela',
      power: 40,
      position: [0, 20, 0],
      ...(facing ? { facing, up: [0, 0, 1] } : {}),
      ...size,
    };
    near((await onFloor([light], 16)).mean, 40 / 400 / Math.PI, 1e-4);
  });

  test.each([0, 0.53, 20])('of a distant light of 300 lx and %f° at 60°', async (angleDegrees) => {
    const light = { kind: 'distant', name: 'd', power: 300, facing: [0.5, -Math.sqrt(0.75), 0], angleDegrees };
    const { mean, error } = await onFloor([light], 64);
    near(mean, (300 * Math.sqrt(0.75)) / Math.PI, error + 0.003 * mean);
  });

  test('stops double', async () => {
    const at = async (stops: number) =>
      (await onFloor([{ kind: 'point', name: 'p', power: 8, stops, position: [0, 2, 0] }], 2)).mean;
    near((await at(3)) / (await at(0)), 8, 1e-4);
  });
});

test('penumbra of a sun: as wide as its angle makes it', async () => {
  // The edge of a roof 1 m up throws a shadow whose soft edge is 2·tan(½ angle) wide.
  const angleDegrees = 10;
  const roof = transformed(box(4, 0.001, 4), [-2, 1, 0]);
  const ground = plane(4, 4);
  const { layers } = await measure(
    {
      meshes: { ground, roof },
      materials: { ground: matt, roof: { base_color: [0, 0, 0], specular_weight: 0 } },
      lights: [{ kind: 'distant', name: 'sun', power: Math.PI, facing: [0, -1, 0], angleDegrees }],
      camera: { position: [0, 0.5, 0], target: [0, 0, 0], up: [0, 0, -1], focalLengthMm: 45 },
    },
    512,
    { size: { width: 64, height: 16 }, rayDepth: { diffuse: 0 } },
  );
  const plane_ = layers.layers.get('beauty')!.planes[1];
  const columns = Array.from({ length: 64 }, (_, x) => {
    let s = 0;
    for (let y = 0; y < 16; y++) s += plane_[y * 64 + x] / 16;
    return s;
  });
  // Light over the edge grows as the part of the disc that is seen; its spread is a quarter of the diameter.
  const pixel = (0.5 * 36) / 45 / 64;
  let [m1, m2, whole] = [0, 0, 0];
  for (let x = 1; x < 64; x++) {
    const slope = columns[x] - columns[x - 1];
    whole += slope;
    m1 += slope * x;
    m2 += slope * x * x;
  }
  const spread = Math.sqrt(m2 / whole - (m1 / whole) ** 2) * pixel;
  near(spread * 4, 2 * Math.tan((angleDegrees * Math.PI) / 360), 0.012);
});

describe('emissive meshes', () => {
  const quad = (m: object) => ({ base_color: [0, 0, 0], specular_weight: 0, emission_luminance: 5, ...m });
  const lamp = transformed(box(0.6, 0.001, 0.4), [0, 1, 0]);

  test('light as the rectangle of their shape does, and are sampled', async () => {
    const light = {
      kind: 'rectangle',
      name: 'r',
      power: 5,
      position: [0, 0.9995, 0],
      facing: [0, -1, 0],
      up: [0, 0, 1],
      width: 0.6,
      height: 0.4,
      visible: false,
    };
    const shape = await onFloor([light], 64);
    const mesh = await onFloor([], 64, { meshes: { floor, lamp }, materials: { floor: matt, lamp: quad({}) } });
    near(mesh.mean, shape.mean, mesh.error + shape.error + 0.002);
    // Sampling by chance alone, at a small solid angle, would be noisier by far.
    expect(mesh.error / mesh.mean).toBeLessThan(0.02);
  });

  test('with a picture: each part as bright as its texel', async () => {
    const values = new Float32Array([0, 0, 0, 8, 8, 8]);
    const panel = { ...plane(1, 1) };
    const turned = {
      ...panel,
      positions: panel.positions.map((v, i) => (i % 3 === 1 ? 1 : i % 3 === 0 ? -v : v)),
      normals: panel.normals.map((v) => -v),
      indices: Uint32Array.from([0, 2, 1, 0, 3, 2]),
    };
    const glow = quad({
      emission_luminance: 1,
      emission_double_sided: true,
      textures: [{ input: 'emission_color', picture: 'p', wrap: 'clamp' }],
    });
    const pictured = await onFloor([], 256, {
      meshes: { floor, turned },
      materials: { floor: matt, turned: glow },
      pictures: { p: { width: 2, height: 1, channels: 3, values } },
    });
    const blind = await onFloor([], 4096, {
      meshes: { floor, turned },
      materials: { floor: matt, turned: { ...glow, light: { samples: 1, include: [] } } },
      pictures: { p: { width: 2, height: 1, channels: 3, values } },
    });
    expect(blind.mean).toBe(0);
    // Between the texels' centres it runs from 0 to 8, so the mean over the panel is 4.
    const even = await onFloor([], 256, {
      meshes: { floor, turned },
      materials: { floor: matt, turned: { ...glow, emission_luminance: 4, textures: [] } },
    });
    near(pictured.mean, even.mean, pictured.error + even.error + 0.01);
  });
});

describe('whom and how a light lights', () => {
  const bulb = { kind: 'sphere', name: 'bulb', group: 'bulb', power: 60, position: [0.6, 1.4, 0.5], radius: 0.2 };
  const scene: TestScene = {
    meshes: {
      ground: plane(6, 6),
      ball: transformed(sphere(0.4, 32), [-0.5, 0.4, 0]),
      mirror: transformed(box(0.05, 1, 1), [1.2, 0.5, 0]),
      pane: transformed(box(0.8, 0.8, 0.004), [0.2, 0.6, 1]),
    },
    materials: {
      ground: { base_color: [0.5, 0.5, 0.5], specular_roughness: 0.4 },
      ball: { base_color: [0.8, 0.5, 0.3], base_metalness: 0.5, specular_roughness: 0.3 },
      mirror: { base_color: [0.9, 0.9, 0.9], base_metalness: 1, specular_roughness: 0 },
      pane: { base_color: [1, 1, 1], specular_roughness: 0.3, transmission_weight: 1, geometry_thin_walled: true },
    },
    camera: { position: [0, 1.2, 3.2], target: [0, 0.5, 0], focalLengthMm: 30 },
  };
  const recipe = { rayDepth: { diffuse: 2, reflection: 3, transmission: 4 } };
  const lit = (change: Record<string, unknown>) => measure({ ...scene, lights: [{ ...bulb, ...change }] }, 32, recipe);
  const ROLES = ['seen', 'mirrors', 'diffuse', 'reflection', 'transmission', 'fog'];

  test('roles add up: the picture is the sum of the pictures of each role alone', async () => {
    const whole = await lit({});
    const only = (role: string) => Object.fromEntries(ROLES.map((r) => [r, r === role ? 1 : 0]));
    const parts: Awaited<ReturnType<typeof lit>>[] = [];
    for (const role of ROLES) parts.push(await lit({ gains: only(role) }));
    const sums = whole.layers.layers
      .get('beauty')!
      .planes[1].map((_, i) => parts.reduce((s, p) => s + p.layers.layers.get('beauty')!.planes[1][i], 0));
    const worst = Math.max(...sums.map((s, i) => Math.abs(s - whole.layers.layers.get('beauty')!.planes[1][i])));
    expect(worst).toBeLessThan(2e-5 * Math.max(...sums));
    for (const p of parts.slice(0, 5)) expect(p.mean).toBeGreaterThan(0);
    expect(parts[5].mean).toBe(0);
    const twice = await lit({ gains: { diffuse: 2 } });
    near(twice.mean, whole.mean + parts[2].mean, 1e-5 * whole.mean);
  });

  test('an excluded object gets none of its light, an included one alone gets it', async () => {
    const without = await lit({ exclude: ['ground'] });
    const alone = await lit({ include: ['ground'] });
    const whole = await lit({ gains: { seen: 0, mirrors: 0 } });
    const noMirrors = { gains: { seen: 0, mirrors: 0 } };
    const [a, b] = [await lit({ exclude: ['ground'], ...noMirrors }), await lit({ include: ['ground'], ...noMirrors })];
    expect(without.mean).toBeLessThan(alone.mean);
    near(a.mean + b.mean, whole.mean, 1e-4 * whole.mean);
  });

  test('a set stands for its objects', async () => {
    const base = testScene({ ...scene, lights: [{ ...bulb, exclude: ['things'] }] });
    const t: Scene = { ...base, document: { ...base.document, sets: { things: ['ball', 'mirror'] } } };
    const { layers } = await renderTest(t, testRecipe(16, 8, recipe));
    const named = await measure({ ...scene, lights: [{ ...bulb, exclude: ['ball', 'mirror'] }] }, 8, recipe);
    expect(layers.layers.get('beauty')!.planes[0]).toEqual(named.layers.layers.get('beauty')!.planes[0]);
    await expect(lit({ exclude: ['nobody'] })).rejects.toThrow('light bulb: neither object nor set is named nobody');
  });

  test('a limit of bounces is what a render of that depth shows', async () => {
    const limited = await measure({ ...scene, lights: [{ ...bulb, bounces: 0 }] }, 16, {
      ...recipe,
      film: { ledger: 'all' },
    });
    const whole = await measure({ ...scene, lights: [bulb] }, 16, { ...recipe, film: { ledger: 'all' } });
    expect(limited.layers.layers.get('bounce.00')!.planes[0]).toEqual(whole.layers.layers.get('bounce.00')!.planes[0]);
    expect(meanOf(limited.layers, 'bounce.01', 1)).toBe(0);
    expect(meanOf(whole.layers, 'bounce.01', 1)).toBeGreaterThan(0);
  });

  test('samples of its own change the noise, not the light, and are counted', async () => {
    const [shared, own] = [await lit({}), await lit({ samples: 8 })];
    near(own.mean, shared.mean, own.error + shared.error);
    expect(own.film.rays().shadow).toBeGreaterThan(4 * shared.film.rays().shadow);
  });

  test('a light moves with its parent and follows an object’s place, direction and size', async () => {
    const base = testScene({ ...scene, lights: [{ ...bulb, parent: 'ball' }] });
    const objects = base.document.objects.map((o) =>
      o.name === 'ball' ? { ...o, transform: [0, 0, -1, 0, 0, 1, 0, 0, 1, 0, 0, 0, 10, 0, 0, 1] } : o,
    );
    const moved = { ...base, document: { ...base.document, objects } };
    const l = resolveLight(moved, moved.document.lights[0]);
    [10.5, 1.4, -0.6].forEach((c, i) => {
      near(l.position[i], c, 1e-6);
    });
    const follower = testScene({ ...scene, lights: [{ ...bulb, follow: 'ball' }] });
    const f = resolveLight(follower, follower.document.lights[0]);
    [-0.5, 0.4, 0].forEach((c, i) => {
      near(f.position[i], c, 0.01);
    });
    near(f.radius, 0.4, 0.01);
  });
});

describe('the choice of lights', () => {
  const many = (samples: number | null) => {
    const next = numbers(3);
    return Array.from({ length: 60 }, (_, i) => ({
      kind: i % 3 === 0 ? 'spot' : i % 3 === 1 ? 'rectangle' : 'sphere',
      name: `l${i}`,
      power: i % 3 === 0 ? 2 : 5,
      position: [next() * 8 - 4, 0.3 + next() * 2, next() * 8 - 4],
      ...(i % 3 === 2 ? { radius: 0.1 } : { facing: [next() - 0.5, -1, next() - 0.5], up: [0, 0, 1] }),
      ...(i % 3 === 1 ? { width: 0.2, height: 0.3 } : {}),
      samples,
    }));
  };

  test('down the tree gives the same light as every light each time', async () => {
    const ground = plane(8, 8);
    const look = { position: [0, 6, 0.01], target: [0, 0, 0], up: [0, 0, -1], focalLengthMm: 24 };
    const t = { meshes: { ground }, materials: { ground: matt }, camera: look };
    const tree = await measure({ ...t, lights: many(null) }, 256, { rayDepth: { all: 1 } });
    const each = await measure({ ...t, lights: many(1) }, 16, { rayDepth: { all: 1 } });
    near(tree.mean, each.mean, tree.error + each.error);
  });

  test('every light is in one leaf, and each node bounds what is below it', () => {
    const next = numbers(8);
    const lights = Array.from({ length: 100 }, (_, number) => {
      const at = [next(), next(), next()];
      const d = [next() - 0.5, next() - 0.5, next() - 0.5];
      const l = Math.hypot(...d);
      return {
        number,
        low: at,
        high: at.map((c) => c + 0.1),
        power: next(),
        axis: d.map((c) => c / l),
        cosine: number % 5 === 0 ? -1 : Math.cos(next()),
      };
    });
    const nodes = buildLightTree(lights);
    const seen = nodes.flatMap((n) => n.lights).sort((a, b) => a - b);
    expect(seen).toEqual(lights.map((l) => l.number));
    const below = (i: number): number[] => [...nodes[i].lights, ...(nodes[i].children ?? []).flatMap(below)];
    nodes.forEach((n, i) => {
      const own = below(i).map((k) => lights[k]);
      near(
        n.power,
        own.reduce((s, l) => s + l.power, 0),
        1e-9,
      );
      for (const l of own) {
        l.low.forEach((c, a) => {
          expect(n.low[a]).toBeLessThanOrEqual(c);
        });
        if (n.cosine <= -1) continue;
        const between = Math.acos(
          Math.min(
            1,
            l.axis.reduce((s, c, a) => s + c * n.axis[a], 0),
          ),
        );
        expect(between + Math.acos(l.cosine)).toBeLessThan(Math.acos(n.cosine) + 1e-6);
      }
    });
  });
});

test('portals change the noise of a room with a window, not its light', async () => {
  const wall = (w: number, h: number, d: number, at: [number, number, number]) => transformed(box(w, h, d), at);
  const meshes = {
    ground: transformed(box(4, 0.1, 4), [0, -0.05, 0]),
    top: wall(4, 0.1, 4, [0, 2.05, 0]),
    left: wall(0.1, 2, 4, [-2, 1, 0]),
    right: wall(0.1, 2, 4, [2, 1, 0]),
    back: wall(4, 2, 0.1, [0, 1, -2]),
    sill: wall(4, 0.8, 0.1, [0, 0.4, 2]),
    lintel: wall(4, 0.8, 0.1, [0, 1.6, 2]),
  };
  const t: TestScene = {
    meshes,
    environment: [1, 1, 1],
    camera: { position: [0, 1, 1.8], target: [0, 0.7, 0], focalLengthMm: 20 },
  };
  const portal = { name: 'window', position: [0, 1, 2], facing: [0, 0, -1], up: [0, 1, 0], width: 4, height: 0.4 };
  const render = async (portals: unknown[]) => {
    const base = testScene(t);
    const { layers } = await renderTest(
      { ...base, document: { ...base.document, portals: portals as never } },
      testRecipe(16, 256, { rayDepth: { all: 1 } }),
    );
    const [a, b] = ['half_a', 'half_b'].map((n) => layers.layers.get(n)!.planes[1]);
    const squares = a.reduce((s, v, i) => s + (v - b[i]) ** 2 / 4, 0);
    return { mean: meanOf(layers, 'beauty', 1), error: (4 * Math.sqrt(squares)) / a.length };
  };
  const [without, guided] = [await render([]), await render([portal])];
  near(guided.mean, without.mean, guided.error + without.error);
  expect(guided.error).toBeLessThan(without.error);
});

describe('analytic skies', () => {
  const sky = (heightDegrees: number, change: Record<string, unknown> = {}) => {
    const scene = testScene({ environment: { kind: 'sky', sun: { heightDegrees }, ...change } });
    return { scene, env: scene.document.environment as Extract<Scene['document']['environment'], { kind: 'sky' }> };
  };
  /** Horizontal illuminance of the upper half, in lux. */
  const illuminance = (p: ReturnType<typeof skyPicture>) => {
    let sum = 0;
    for (let y = 0; y < p.height / 2; y++) {
      const theta = ((y + 0.5) / p.height) * Math.PI;
      for (let x = 0; x < p.width; x++) {
        const o = (y * p.width + x) * 3;
        const Y = 0.2126 * p.pixels[o] + 0.7152 * p.pixels[o + 1] + 0.0722 * p.pixels[o + 2];
        sum += Y * Math.cos(theta) * Math.sin(theta) * ((2 * Math.PI) / p.width) * (Math.PI / p.height);
      }
    }
    return sum;
  };

  test.each(['daylight', 'scattering'])('%s: of a clear day’s strength, blue overhead, dusk after sunset', (model) => {
    const day = skyPicture(sky(45, { model }).env);
    // Skies without cloud give some 5 to 35 klx of their own, the more the hazier (CIE 110-1994).
    expect(illuminance(day)).toBeGreaterThan(5e3);
    expect(illuminance(day)).toBeLessThan(35e3);
    expect(day.pixels[2]).toBeGreaterThan(1.5 * day.pixels[0]);
    const heights = [45, 10, -2, -20].map((h) => illuminance(skyPicture(sky(h, { model }).env)));
    heights.slice(1).forEach((v, i) => {
      expect(v).toBeLessThan(heights[i]);
    });
    // Moonlight: hundredths of a lux.
    expect(heights[3]).toBeLessThan(0.05);
    expect(heights[3]).toBeGreaterThan(1e-4);
    expect(day.pixels.every((v) => Number.isFinite(v) && v >= 0)).toBe(true);
  });

  test.each(['daylight', 'scattering'])('%s: the sun reddens as it sets and is gone below the horizon', (model) => {
    const high = resolveSun(sky(60, { model }).scene)!;
    const low = resolveSun(sky(3, { model }).scene)!;
    expect(high.power).toBeGreaterThan(6e4);
    expect(high.power).toBeLessThan(1.3e5);
    expect(low.power).toBeLessThan(high.power / 3);
    expect(low.radiance[0] / low.radiance[2]).toBeGreaterThan(3 * (high.radiance[0] / high.radiance[2]));
    expect(resolveSun(sky(-1, { model }).scene)).toBeNull();
  });

  test('sky and sun fall on a floor as their illuminances say, in groups of their own', async () => {
    const { env } = sky(40, { group: 'sky', sun: { heightDegrees: 40, bearingDegrees: 30 } });
    const scene = testScene({ meshes: { floor }, materials: { floor: matt }, environment: env as never, camera: view });
    const { layers } = await renderTest(scene, testRecipe(16, 256));
    const sun = resolveSun(scene)!;
    const green =
      (sun.radiance[1] / (0.2126 * sun.radiance[0] + 0.7152 * sun.radiance[1] + 0.0722 * sun.radiance[2])) * sun.power;
    near(meanOf(layers, 'group.sun', 1), (green * Math.sin((40 * Math.PI) / 180)) / Math.PI, 0.005 * green);
    const p = skyPicture(env);
    const y = [0, 1, 2].map((c) => meanOf(layers, 'group.sky', c));
    near(0.2126 * y[0] + 0.7152 * y[1] + 0.0722 * y[2], illuminance(p) / Math.PI, 0.02 * (illuminance(p) / Math.PI));
  });
});
