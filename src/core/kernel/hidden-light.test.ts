import { measureTest, type TestScene } from '@/render/testing';
import { lathe, sphere } from '../scene';

/** Light that paths find hardly: through a small hole, behind a pane, out of milk glass in fog. Against what the integrating sphere [Hardy & Pineo 1931] makes of it. */
const near = (value: number, truth: number, tolerance: number) => {
  expect(value).toBeGreaterThan(truth - tolerance);
  expect(value).toBeLessThan(truth + tolerance);
};
const white: [number, number, number] = [1, 1, 1];
const matt = (albedo: number) => ({ base_color: [albedo, albedo, albedo], specular_weight: 0 });

/** Radius of the sphere, and the angle at its middle from the axis to the rim of its port. */
const [RADIUS, RIM] = [1, 0.4];
const STEPS = 96;
/** A sphere with a round port at its top. */
const hollow = lathe(
  Array.from({ length: STEPS + 1 }, (_, i): [number, number] => {
    const t = -Math.PI / 2 + ((Math.PI - RIM) * i) / STEPS;
    return [i === 0 ? 0 : RADIUS * Math.cos(t), RADIUS * Math.sin(t)];
  }),
  128,
  { creaseRad: Math.PI },
);
/** The port's share of the sphere, and of light that comes through it what the wall beside the middle gets: π of radiance times that share. */
const PORT = (1 - Math.cos(RIM)) / 2;
/** Half way up the wall, from just before it on the other side. */
const camera = { position: [-0.9, 0, 0], target: [1, 0, 0], focalLengthMm: 400 };
const deep = { rayDepth: { diffuse: 48, all: 64, reflection: 8, transmission: 8, rouletteStart: 16 } };

test('a closed room with a small hole to a bright world: ρf / (1 − ρ(1 − f))', async () => {
  const albedo = 0.8;
  const { mean, error } = await measureTest(
    { meshes: { hollow }, materials: { hollow: matt(albedo) }, environment: white, camera },
    256,
    deep,
  );
  // Every place of a sphere sees a patch of it alike, and the port as the cap that it closes with.
  near(mean, (albedo * PORT) / (1 - albedo * (1 - PORT)), error + 0.002);
  expect(error / mean).toBeLessThan(0.05);
});

test('the same behind a pane, which keeps some of it out and some of it in', async () => {
  const albedo = 0.8;
  const ior = 1.5;
  const fresnel = (cosine: number) => {
    const t = Math.sqrt(1 - (1 - cosine * cosine) / (ior * ior));
    const [s, p] = [(cosine - ior * t) / (cosine + ior * t), (ior * cosine - t) / (ior * cosine + t)];
    return (s * s + p * p) / 2;
  };
  const mirrored = (cosine: number) => (2 * fresnel(cosine)) / (1 + fresnel(cosine));
  // Of even light that falls on it: the mean over the cosine.
  const n = 4000;
  const even = Array.from({ length: n }, (_, i) => (i + 0.5) / n).reduce((s, c) => s + (2 * c * mirrored(c)) / n, 0);
  const top = RADIUS * Math.cos(RIM);
  const rim = RADIUS * Math.sin(RIM);
  const pane = lathe(
    [
      [0, top],
      [rim, top],
    ],
    128,
  );
  const { mean, error } = await measureTest(
    {
      meshes: { hollow, pane },
      materials: {
        hollow: matt(albedo),
        pane: {
          base_color: white,
          specular_roughness: 0,
          transmission_weight: 1,
          specular_ior: ior,
          geometry_thin_walled: true,
        },
      },
      environment: white,
      camera,
    },
    512,
    deep,
  );
  // Flux on the wall, in parts of π times the sphere's surface: what comes in, and of what the wall sends on that which stays within.
  const flux = (PORT * (1 - even)) / (1 - albedo * (1 - PORT + PORT * even));
  // This place gets light straight from the world and mirrored light at the angles at which it sees the pane, and from the wall what all of it sends on.
  const slant = Math.cos(Math.atan2(RADIUS, top));
  const straight = (cosine: number) => PORT * (1 - mirrored(cosine));
  let seen = 0;
  let back = 0;
  const rings = 200;
  const spokes = 200;
  for (let i = 0; i < rings; i++)
    for (let k = 0; k < spokes; k++) {
      const r = (rim * (i + 0.5)) / rings;
      const a = (2 * Math.PI * (k + 0.5)) / spokes;
      const d = [r * Math.cos(a) - RADIUS, top, r * Math.sin(a)];
      const square = d[0] ** 2 + d[1] ** 2 + d[2] ** 2;
      const [up, wall] = [d[1] / Math.sqrt(square), -d[0] / Math.sqrt(square)];
      const share = ((up * wall) / (Math.PI * square)) * r * (rim / rings) * ((2 * Math.PI) / spokes);
      seen += share * (1 - mirrored(up));
      back += share * mirrored(up);
    }
  expect(Math.abs(seen / straight(slant) - 1)).toBeLessThan(0.1);
  // L = ρ (seen + ρ flux + back · L), the mirrored wall as bright as this place.
  const truth = (albedo * (seen + albedo * flux)) / (1 - albedo * back);
  near(mean, truth, error + 0.01 * truth);
  expect(error / mean).toBeLessThan(0.05);
});

test('a lamp in milk glass in fog, none of which takes light away, leaves on a wall what the lamp sends', async () => {
  const albedo = 0.5;
  const [lampRadius, wallRadius, radiance] = [0.4, 1.5, 10];
  const scene: TestScene = {
    meshes: {
      room: sphere(wallRadius, 128),
      // Its own surface sends back what comes to it.
      lamp: sphere(lampRadius, 64),
      inner: sphere(0.45, 64),
      outer: sphere(0.6, 64),
      bank: sphere(0.9, 64),
    },
    materials: {
      room: matt(albedo),
      lamp: { ...matt(1), emission_luminance: radiance },
      outer: {
        base_color: white,
        transmission_weight: 1,
        specular_roughness: 0,
        transmission_depth: 0.2,
        transmission_color: white,
        transmission_scatter: white,
      },
      // Air within the glass: of higher priority than it.
      inner: {
        base_color: white,
        transmission_weight: 1,
        specular_ior: 1,
        specular_roughness: 0,
        transmission_priority: 2,
      },
    },
    fogs: [{ density: 0.8, albedo: white, anisotropy: 0.4, within: 'bank' }],
    // Along the wall, past the fog.
    camera: { position: [-1, 1, 0], target: [0.4, 1.35, 0], focalLengthMm: 200 },
  };
  const { mean, error } = await measureTest(scene, 768, {
    rayDepth: { all: 64, diffuse: 64, reflection: 64, transmission: 64, fog: 64, rouletteStart: 16 },
  });
  // E = Φ / (4πR²) + ρE on the wall, and Φ = π L · 4πr².
  const truth = (albedo * radiance * (lampRadius / wallRadius) ** 2) / (1 - albedo);
  near(mean, truth, error + 0.01 * truth);
  expect(error / mean).toBeLessThan(0.1);
});
