import * as fmath from '../fmath';
import type { Environment, Scene } from '../scene';
import { SKY_SIZE, skyPicture } from './sky';

/**
 * An equirectangular picture of radiance in nits: u = ½ + atan2(x, −z)/2π, v = acos(y)/π. 3 floats a pixel. Direction u is
 * seen at column u·width + shift: what a turn leaves over beyond whole pixels, 0 to 1.
 */
export interface EnvironmentPicture {
  width: number;
  height: number;
  pixels: Float32Array;
  shift?: number;
}

// Taken out of the global once: hosts that wrap it make each look-up slow.
const { PI, floor, sqrt } = Math;

const GRADIENT_WIDTH = 512;
const GRADIENT_HEIGHT = 256;

function gradientPicture(env: Extract<Environment, { kind: 'gradient' }>): EnvironmentPicture {
  const pixels = new Float32Array(GRADIENT_WIDTH * GRADIENT_HEIGHT * 3);
  const moon = env.moon;
  let moonDirection = [0, 1, 0];
  let edge = 2;
  if (moon) {
    const [x, y, z] = moon.direction;
    const l = sqrt(x * x + y * y + z * z);
    moonDirection = [x / l, y / l, z / l];
    edge = fmath.cos((moon.angleDegrees * PI) / 180);
  }
  for (let y = 0; y < GRADIENT_HEIGHT; y++) {
    const theta = ((y + 0.5) / GRADIENT_HEIGHT) * PI;
    const up = fmath.cos(theta);
    const s = fmath.sin(theta);
    const t = sqrt(up < 0 ? -up : up);
    const far = up >= 0 ? env.zenith : env.ground;
    const row = env.horizon.map((h, c) => h + (far[c] - h) * t);
    for (let x = 0; x < GRADIENT_WIDTH; x++) pixels.set(row, (y * GRADIENT_WIDTH + x) * 3);
    if (!moon) continue;
    for (let x = 0; x < GRADIENT_WIDTH; x++) {
      const phi = ((x + 0.5) / GRADIENT_WIDTH - 0.5) * 2 * PI;
      const o = (y * GRADIENT_WIDTH + x) * 3;
      const d = s * fmath.sin(phi) * moonDirection[0] + up * moonDirection[1] - s * fmath.cos(phi) * moonDirection[2];
      if (d <= edge) continue;
      const k = (d - edge) / (1 - edge);
      for (let c = 0; c < 3; c++) pixels[o + c] += moon.luminance * moon.color[c] * k * k;
    }
  }
  return { width: GRADIENT_WIDTH, height: GRADIENT_HEIGHT, pixels };
}

/** Size of the picture that a scene's environment makes. */
export function environmentSize(scene: Scene): { width: number; height: number } {
  const env = scene.document.environment;
  if (env?.kind === 'picture') {
    const source = scene.pictures.get(env.picture);
    if (!source) throw new Error(`environment picture ${env.picture} is missing`);
    return { width: source.width, height: source.height };
  }
  return env?.kind === 'sky' ? SKY_SIZE : { width: GRADIENT_WIDTH, height: GRADIENT_HEIGHT };
}

/** The light of a picture times a tint and a gain, in place. */
function tinted(picture: EnvironmentPicture, tint: readonly number[], gain: number): EnvironmentPicture {
  const k = tint.map((c) => c * gain);
  if (k.some((c) => c !== 1)) for (let i = 0; i < picture.pixels.length; i++) picture.pixels[i] *= k[i % 3];
  return picture;
}

/** The environment of a scene as a picture, or null when it is black. Throws when its picture is missing. */
export function environmentPicture(scene: Scene): EnvironmentPicture | null {
  const env = scene.document.environment;
  if (!env) return null;
  // A sky has its stops already.
  if (env.kind === 'sky') return tinted(skyPicture(env), env.tint, 1);
  if (env.kind === 'gradient') return tinted(gradientPicture(env), env.tint, 2 ** env.stops);
  const source = scene.pictures.get(env.picture);
  if (!source) throw new Error(`environment picture ${env.picture} is missing`);
  const { width, height } = source;
  const pixels = new Float32Array(width * height * 3);
  // A positive turn is counter-clockwise seen from above: content moves to smaller u.
  const turn = (env.rotationDegrees / 360) * width;
  const shift = floor(turn);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const from = (y * width + ((((x + shift) % width) + width) % width)) * 3;
      for (let c = 0; c < 3; c++)
        pixels[(y * width + x) * 3 + c] = source.pixels[from + c] * env.scale * env.tint[c] * 2 ** env.stops;
    }
  }
  return { width, height, pixels, shift: turn - shift };
}

/**
 * Cumulative distributions for sampling by luminance × solid angle: rows (`marginal`, height values)
 * and columns within each row (`conditional`), each ascending to exactly 1. `rows` has 4 floats a row: the cosines
 * of its upper and lower edge, the row's share of all samples over the solid angle of one of its pixels, and 0.
 * `total` is the integral of luminance over the sphere, in nits × sr.
 */
export function environmentDistribution(picture: EnvironmentPicture): {
  marginal: Float32Array;
  conditional: Float32Array;
  rows: Float32Array;
  total: number;
} {
  const { width, height, pixels } = picture;
  const marginal = new Float32Array(height);
  const conditional = new Float32Array(width * height);
  const sums = new Float64Array(height);
  const rows = new Float32Array(height * 4);
  let total = 0;
  for (let y = 0; y < height; y++) {
    const [upper, lower] = [fmath.cos((PI * y) / height), fmath.cos((PI * (y + 1)) / height)];
    const omega = ((2 * PI) / width) * (upper - lower);
    rows.set([upper, lower, 1 / omega], y * 4);
    let sum = 0;
    const cumulative = new Float64Array(width);
    for (let x = 0; x < width; x++) {
      const o = (y * width + x) * 3;
      sum += 0.2126 * pixels[o] + 0.7152 * pixels[o + 1] + 0.0722 * pixels[o + 2];
      cumulative[x] = sum;
    }
    for (let x = 0; x < width; x++) conditional[y * width + x] = sum > 0 ? cumulative[x] / sum : (x + 1) / width;
    conditional[y * width + width - 1] = 1;
    total += sum * omega;
    sums[y] = total;
  }
  for (let y = 0; y < height; y++) marginal[y] = total > 0 ? sums[y] / total : (y + 1) / height;
  marginal[height - 1] = 1;
  for (let y = 0; y < height; y++) rows[y * 4 + 2] *= y === 0 ? marginal[0] : marginal[y] - marginal[y - 1];
  return { marginal, conditional, rows, total };
}

/** An environment as a picture, and how it is sampled. */
export interface MadeEnvironment {
  picture: EnvironmentPicture;
  distribution: ReturnType<typeof environmentDistribution>;
}

/** What was made last, since skies take longer to make than to look at: of each picture one, of all else the last few. */
const ofPictures = new WeakMap<object, { key: string; made: MadeEnvironment }>();
const ofSkies = new Map<string, MadeEnvironment>();
const MOST_SKIES = 3;

/** The same as `environmentPicture` with its distribution, made once for as long as it stays the same; not to be written to. */
export function madeEnvironment(scene: Scene): MadeEnvironment | null {
  const { environment } = scene.document;
  if (!environment) return null;
  const key = JSON.stringify(environment);
  const source = environment.kind === 'picture' ? scene.pictures.get(environment.picture) : undefined;
  const kept = source && ofPictures.get(source);
  const known = source ? (kept?.key === key ? kept.made : undefined) : ofSkies.get(key);
  if (known) return known;
  const picture = environmentPicture(scene)!;
  const made = { picture, distribution: environmentDistribution(picture) };
  if (source) ofPictures.set(source, { key, made });
  else {
    if (ofSkies.size >= MOST_SKIES) ofSkies.delete(ofSkies.keys().next().value!);
    ofSkies.set(key, made);
  }
  return made;
}

/** Half angle of the patch about the brightest pixel that counts as the brightest place. */
const PATCH_DEGREES = 3;

/**
 * The brightest place of an environment: the middle, weighed by light, of the patch of 3° about its brightest pixel; the
 * patch's mean luminance in nits and its share of all light. Null when the picture is black.
 */
export function brightestDirection(
  picture: EnvironmentPicture,
): { direction: [number, number, number]; nits: number; share: number } | null {
  const { width, height, pixels, shift = 0 } = picture;
  const y709 = (i: number) => 0.2126 * pixels[i * 3] + 0.7152 * pixels[i * 3 + 1] + 0.0722 * pixels[i * 3 + 2];
  let best = 0;
  for (let i = 1; i < width * height; i++) if (y709(i) > y709(best)) best = i;
  if (!(y709(best) > 0)) return null;
  const direction = (i: number): [number, number, number] => {
    const theta = (PI * (((i / width) | 0) + 0.5)) / height;
    const phi = (((i % width) + 0.5 - shift) / width - 0.5) * 2 * PI;
    const s = fmath.sin(theta);
    return [s * fmath.sin(phi), fmath.cos(theta), -s * fmath.cos(phi)];
  };
  const middle = direction(best);
  const edge = fmath.cos((PATCH_DEGREES * PI) / 180);
  const sum = [0, 0, 0];
  let [light, solid, all] = [0, 0, 0];
  for (let y = 0; y < height; y++) {
    const omega = ((2 * PI) / width) * (fmath.cos((PI * y) / height) - fmath.cos((PI * (y + 1)) / height));
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const l = y709(i) * omega;
      all += l;
      const d = direction(i);
      if (i !== best && d[0] * middle[0] + d[1] * middle[1] + d[2] * middle[2] < edge) continue;
      light += l;
      solid += omega;
      for (let c = 0; c < 3; c++) sum[c] += d[c] * l;
    }
  }
  const length = sqrt(sum[0] * sum[0] + sum[1] * sum[1] + sum[2] * sum[2]);
  return { direction: sum.map((c) => c / length) as [number, number, number], nits: light / solid, share: light / all };
}
