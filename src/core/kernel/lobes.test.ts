import { renderTest, testRecipe, testScene } from '@/render/testing';
import { environmentSchema, plane } from '../scene';

/**
 * The shape of the rough reflection against a numeric integral of the published terms: GGX [Walter et al. 2007],
 * height-correlated Smith masking [Heitz 2014], multiple scattering by scaling [Turquin 2019]. White metal, so that
 * Fresnel is 1 at every angle.
 */
type V = [number, number, number];
const dot = (a: V, b: V) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const unit = (v: V): V => {
  const l = Math.hypot(...v);
  return [v[0] / l, v[1] / l, v[2] / l];
};
const lambda = (cos: number, alpha: number) => {
  const tan2 = (1 - cos * cos) / (cos * cos);
  return (Math.sqrt(1 + alpha * alpha * tan2) - 1) / 2;
};

/** f·cos of the surface whose normal is +Y. */
function reflected(wi: V, wo: V, alpha: number): number {
  if (wi[1] <= 0 || wo[1] <= 0) return 0;
  const h = unit([wi[0] + wo[0], wi[1] + wo[1], wi[2] + wo[2]]);
  const c2 = h[1] * h[1];
  const a2 = alpha * alpha;
  const d = a2 / (Math.PI * (c2 * (a2 - 1) + 1) ** 2);
  return d / (4 * wo[1] * (1 + lambda(wi[1], alpha) + lambda(wo[1], alpha)));
}

const WIDTH = 512;
const HEIGHT = 256;
/** Directions of the picture's pixels with their solid angles: u = ½ + atan2(x, −z)/2π, v = acos(y)/π. */
function* sky(): Generator<{ index: number; direction: V; omega: number }> {
  for (let y = 0; y < HEIGHT; y++) {
    const theta = ((y + 0.5) / HEIGHT) * Math.PI;
    const omega = ((2 * Math.PI) / WIDTH) * (Math.cos((y / HEIGHT) * Math.PI) - Math.cos(((y + 1) / HEIGHT) * Math.PI));
    for (let x = 0; x < WIDTH; x++) {
      const phi = ((x + 0.5) / WIDTH - 0.5) * 2 * Math.PI;
      const direction: V = [Math.sin(theta) * Math.sin(phi), Math.cos(theta), -Math.sin(theta) * Math.cos(phi)];
      yield { index: y * WIDTH + x, direction, omega };
    }
  }
}

/** A sky that is white within `radius` of `middle` and black elsewhere. */
function cap(middle: V, radius: number): Float32Array {
  const pixels = new Float32Array(WIDTH * HEIGHT * 3);
  for (const { index, direction } of sky())
    if (dot(direction, middle) > Math.cos(radius)) pixels.fill(1, index * 3, index * 3 + 3);
  return pixels;
}

function expected(pixels: Float32Array, wo: V, alpha: number): number {
  let seen = 0;
  let whole = 0;
  for (const { index, direction, omega } of sky()) {
    const f = reflected(direction, wo, alpha) * omega;
    whole += f;
    seen += f * pixels[index * 3];
  }
  return seen / whole;
}

/** Radiance of a white metal plate towards wo, under the sky. */
async function rendered(pixels: Float32Array, wo: V, roughness: number): Promise<{ value: number; error: number }> {
  const scene = testScene({
    meshes: { plate: plane(0.02, 0.02) },
    materials: { plate: { base_color: [1, 1, 1], base_metalness: 1, specular_roughness: roughness } },
    camera: { position: wo.map((c) => c * 2), target: [0, 0, 0], focalLengthMm: 2000, sensorWidthMm: 5 },
  });
  const environment = environmentSchema.parse({ kind: 'picture', group: 'sky', picture: 'cap' });
  const { layers } = await renderTest(
    {
      ...scene,
      document: { ...scene.document, environment },
      pictures: new Map([['cap', { width: WIDTH, height: HEIGHT, pixels }]]),
    },
    testRecipe(16, 128),
  );
  const half = (name: string) => layers.layers.get(name)!.planes[1].reduce((a, b) => a + b, 0) / 256;
  const beauty = layers.layers.get('beauty')!.planes[1].reduce((a, b) => a + b, 0) / 256;
  return { value: beauty, error: Math.abs(half('half_a') - half('half_b')) / 2 };
}

const steep = unit([0.3, 1, 0.2]);
const slanting = unit([0.9, 0.6, -0.3]);
const mirrored = (wo: V): V => [-wo[0], wo[1], -wo[2]];

test.each([
  ['in the mirror direction', steep, mirrored(steep), 0.3, 0.5],
  ['in the mirror direction, rough', steep, mirrored(steep), 0.4, 0.8],
  ['beside it', steep, unit([0.4, 1, -0.9]), 0.4, 0.6],
  ['at a slant', slanting, mirrored(slanting), 0.35, 0.5],
  ['at a slant, very rough', slanting, unit([-0.2, 1, 0.1]), 0.5, 0.95],
])('a bright cap %s is reflected as the integral says', async (_, wo, middle, radius, roughness) => {
  const pixels = cap(middle as V, radius as number);
  const want = expected(pixels, wo as V, (roughness as number) ** 2);
  const { value, error } = await rendered(pixels, wo as V, roughness as number);
  expect(want).toBeGreaterThan(0.02);
  // Four standard errors, and 1.5 % for the kernel's table of directional albedo.
  expect(Math.abs(value - want)).toBeLessThan(4 * error + 0.015 * want + 0.002);
});

test('the whole white sky is reflected whole', async () => {
  const pixels = new Float32Array(WIDTH * HEIGHT * 3).fill(1);
  for (const roughness of [0.2, 0.6, 1]) {
    const { value } = await rendered(pixels, slanting, roughness);
    expect(Math.abs(value - 1)).toBeLessThan(0.02);
  }
});
