import * as fmath from '../fmath';
import { type Environment, sunDirection } from '../scene';

type Sky = Extract<Environment, { kind: 'sky' }>;
type Vec = [number, number, number];

// Taken out of the global once: hosts that wrap it make each look-up slow.
const { floor, max, min, sqrt, PI } = Math;

/** The sky is worked out at every fourth pixel of its picture; in between it is interpolated. */
const FINER = 4;
const SKY_WIDTH = 256;
const SKY_HEIGHT = 128;
export const SKY_SIZE = { width: SKY_WIDTH * FINER, height: SKY_HEIGHT * FINER };
/** Optical length of a way that the ground blocks. */
const BLOCKED = Infinity;
/** Luminance of a moonlit sky at zenith and horizon in nits, and its colour: what is left when the sun is down. */
const NIGHT = { zenith: 0.0008, horizon: 0.002, color: [0.72, 0.92, 1.55] };
/** Heights of the sun between which the day's sky gives way to the night's. */
const DUSK_DEGREES = 6;

/** Perez' five parameters [Preetham et al. 1999, appendix A.2] of luminance Y and chromaticities x, y: slope·T + offset. */
const PEREZ = {
  Y: [
    [0.1787, -1.463],
    [-0.3554, 0.4275],
    [-0.0227, 5.3251],
    [0.1206, -2.5771],
    [-0.067, 0.3703],
  ],
  x: [
    [-0.0193, -0.2592],
    [-0.0665, 0.0008],
    [-0.0004, 0.2125],
    [-0.0641, -0.8989],
    [-0.0033, 0.0452],
  ],
  y: [
    [-0.0167, -0.2608],
    [-0.095, 0.0092],
    [-0.0079, 0.2102],
    [-0.0441, -1.6537],
    [-0.0109, 0.0529],
  ],
} as const;
/** Zenith chromaticities [ibid.]: rows by T², T, 1; columns by θ³, θ², θ, 1. */
const ZENITH = {
  x: [
    [0.00166, -0.00375, 0.00209, 0],
    [-0.02903, 0.06377, -0.03202, 0.00394],
    [0.11693, -0.21196, 0.06052, 0.25886],
  ],
  y: [
    [0.00275, -0.0061, 0.00317, 0],
    [-0.04214, 0.0897, -0.04153, 0.00516],
    [0.15346, -0.26756, 0.0667, 0.26688],
  ],
} as const;

const xyzToRgb = (X: number, Y: number, Z: number): Vec => [
  max(0, 3.2404542 * X - 1.5371385 * Y - 0.4985314 * Z),
  max(0, -0.969266 * X + 1.8760108 * Y + 0.041556 * Z),
  max(0, 0.0556434 * X - 0.2040259 * Y + 1.0572252 * Z),
];

function daylight(sky: Sky, sunHeight: number): (up: number, gamma: number) => Vec {
  const T = sky.turbidity;
  const theta = PI / 2 - max(sunHeight, 0);
  const parameters = (p: readonly (readonly [number, number])[]) => p.map(([a, b]) => a * T + b);
  const perez = (c: number[], up: number, gamma: number) => {
    const g = fmath.cos(gamma);
    return (1 + c[0] * fmath.exp(c[1] / max(up, 0.01))) * (1 + c[2] * fmath.exp(c[3] * gamma) + c[4] * g * g);
  };
  const zenith = (rows: readonly (readonly number[])[]) => {
    const t = [theta ** 3, theta ** 2, theta, 1];
    const of = (row: readonly number[]) => row.reduce((s, v, i) => s + v * t[i], 0);
    return of(rows[0]) * T * T + of(rows[1]) * T + of(rows[2]);
  };
  const chi = (4 / 9 - T / 120) * (PI - 2 * theta);
  const Yz = max(1000 * ((4.0453 * T - 4.971) * fmath.tan(chi) - 0.2155 * T + 2.4192), 20);
  const [xz, yz] = [zenith(ZENITH.x), zenith(ZENITH.y)];
  const [pY, px, py] = [parameters(PEREZ.Y), parameters(PEREZ.x), parameters(PEREZ.y)];
  const at0 = [pY, px, py].map((p) => perez(p, 1, theta));
  return (up, gamma) => {
    const Y = (Yz * perez(pY, up, gamma)) / at0[0];
    const x = (xz * perez(px, up, gamma)) / at0[1];
    const y = (yz * perez(py, up, gamma)) / at0[2];
    return xyzToRgb((x / y) * Y, Y, ((1 - x - y) / y) * Y);
  };
}

/** Air [Nishita et al. 1993; Bruneton & Neyret 2008, table 1]: radii and scale heights in m, coefficients in 1/m. */
const AIR = {
  ground: 6360e3,
  top: 6420e3,
  rayleigh: [5.8e-6, 13.5e-6, 33.1e-6],
  rayleighHeight: 8000,
  mie: 4e-6,
  mieHeight: 1200,
  g: 0.76,
  /** Luminance-weighted solar illuminance above the air, lux. */
  sun: 128e3,
};

/** Length to the top of the air from a height along a direction of cosine `up`; Infinity blocked by the ground. */
function toTop(r: number, up: number): number {
  const b = r * up;
  const c = r * r - AIR.top * AIR.top;
  return -b + sqrt(b * b - c);
}

/** Optical lengths (Rayleigh, Mie) from radius r along `up` to the top, Infinity when the ground is in the way. */
function depths(r: number, up: number): [number, number] {
  if (up < 0 && r * r * (1 - up * up) < AIR.ground * AIR.ground) return [BLOCKED, BLOCKED];
  const steps = 12;
  const length = toTop(r, up);
  let [ray, mie] = [0, 0];
  for (let i = 0; i < steps; i++) {
    // Steps grow with the square, as the air thins.
    const t = length * ((i + 0.5) / steps) ** 2;
    const dt = (length * (2 * i + 1)) / (steps * steps);
    const h = sqrt(r * r + t * t + 2 * r * t * up) - AIR.ground;
    ray += fmath.exp(-h / AIR.rayleighHeight) * dt;
    mie += fmath.exp(-h / AIR.mieHeight) * dt;
  }
  return [ray, mie];
}

/** What the air lets through along optical lengths, for haze of this turbidity. */
function through(ray: number, mie: number, mieCoefficient: number): Vec {
  return AIR.rayleigh.map((b) => (ray === BLOCKED ? 0 : fmath.exp(-b * ray - 1.1 * mieCoefficient * mie))) as Vec;
}

const mieOf = (sky: Sky) => AIR.mie * max(0, (sky.turbidity - 1) / 1.5);

/** Between two optical lengths; blocked when either is. */
function mix(a: number, b: number, t: number): number {
  return a === BLOCKED || b === BLOCKED ? BLOCKED : a * (1 - t) + b * t;
}

/** Light that the air scatters once. Given the cosine `up` of a row of directions, it gives the light from one of them, `gamma` from the sun: what they share is worked out once. */
function scattering(sky: Sky, sun: Vec): (up: number) => (d: Vec, gamma: number) => Vec {
  const mie = mieOf(sky);
  const steps = 14;
  // Tables of the way to the sun by height and by the cosine there; heights by their root, as the air thins.
  const [H, C] = [24, 48];
  const table = new Float64Array(H * C * 2);
  for (let i = 0; i < H; i++) {
    const r = AIR.ground + (AIR.top - AIR.ground) * (i / (H - 1)) ** 2;
    for (let j = 0; j < C; j++) table.set(depths(r, -0.3 + (1.3 * j) / (C - 1)), (i * C + j) * 2);
  }
  const eye = AIR.ground + 1;
  const plane = () => new Float64Array(steps);
  // Of each step: how far it is, its radius, what air is in it, what is before its middle, and where it is in the tables.
  const [ts, radii, rays, hazes, rayBefore, hazeBefore, rows] = [...Array(7)].map(plane);
  const [r0, r1, r2] = AIR.rayleigh;
  return (cosineUp) => {
    const up = max(cosineUp, 0.001);
    const length = toTop(eye, up);
    let [ray, haze] = [0, 0];
    for (let i = 0; i < steps; i++) {
      const t = length * ((i + 0.5) / steps) ** 2;
      const dt = (length * (2 * i + 1)) / (steps * steps);
      const r = sqrt(eye ** 2 + t * t + 2 * eye * t * up);
      const a = fmath.exp(-(r - AIR.ground) / AIR.rayleighHeight) * dt;
      const b = fmath.exp(-(r - AIR.ground) / AIR.mieHeight) * dt;
      ts[i] = t;
      radii[i] = r;
      rays[i] = a;
      hazes[i] = b;
      rayBefore[i] = ray + a / 2;
      hazeBefore[i] = haze + b / 2;
      rows[i] = min(H - 1.001, sqrt(max(0, (r - AIR.ground) / (AIR.top - AIR.ground))) * (H - 1));
      ray = ray + a / 2 + a / 2;
      haze = haze + b / 2 + b / 2;
    }
    return (d, gamma) => {
      const g = fmath.cos(gamma);
      const phaseRayleigh = (3 / (16 * PI)) * (1 + g * g);
      const k = AIR.g;
      const phaseMie =
        ((3 / (8 * PI)) * (1 - k * k) * (1 + g * g)) / ((2 + k * k) * fmath.pow(1 + k * k - 2 * k * g, 1.5));
      const along = d[0] * sun[0] + d[1] * sun[1] + d[2] * sun[2];
      let [red, green, blue] = [0, 0, 0];
      for (let i = 0; i < steps; i++) {
        const cosine = (eye * sun[1] + ts[i] * along) / radii[i];
        const y = min(C - 1.001, max(0, ((cosine + 0.3) / 1.3) * (C - 1)));
        const [h, c] = [rows[i] | 0, y | 0];
        const [fx, fy] = [rows[i] - h, y - c];
        const [low, high] = [(h * C + c) * 2, ((h + 1) * C + c) * 2];
        const sunRay = mix(mix(table[low], table[low + 2], fy), mix(table[high], table[high + 2], fy), fx);
        if (sunRay === BLOCKED) continue;
        const sunHaze = mix(mix(table[low + 1], table[low + 3], fy), mix(table[high + 1], table[high + 3], fy), fx);
        const ray = rayBefore[i] + sunRay;
        const faded = 1.1 * mie * (hazeBefore[i] + sunHaze);
        const scattered = mie * phaseMie * hazes[i];
        red += AIR.sun * fmath.exp(-r0 * ray - faded) * (r0 * phaseRayleigh * rays[i] + scattered);
        green += AIR.sun * fmath.exp(-r1 * ray - faded) * (r1 * phaseRayleigh * rays[i] + scattered);
        blue += AIR.sun * fmath.exp(-r2 * ray - faded) * (r2 * phaseRayleigh * rays[i] + scattered);
      }
      return [red, green, blue];
    };
  };
}

/**
 * Radiance of the sun's disc in nits. `daylight`: Rayleigh and aerosol attenuation [Preetham et al. 1999, appendix A.1];
 * `scattering`: the same air as its sky.
 */
export function sunRadiance(sky: Sky): Vec {
  const { heightDegrees, angleDegrees } = sky.sun;
  const height = max(heightDegrees, 0);
  const sine = fmath.sin((angleDegrees / 2) * (PI / 180));
  // A part of the disc is below the horizon when the sun is low.
  const part = min(1, max(0, heightDegrees / angleDegrees + 0.5));
  let left: Vec;
  if (sky.model === 'scattering') {
    const [ray, mie] = depths(AIR.ground + 1, max(fmath.sin((heightDegrees * PI) / 180), 0.001));
    left = through(ray, mie, mieOf(sky));
  } else {
    const mass = 1 / (fmath.sin((height * PI) / 180) + 0.15 * fmath.pow(93.885 - (90 - height), -1.253));
    const beta = 0.04608 * sky.turbidity - 0.04586;
    left = [0.61, 0.55, 0.465].map((um) =>
      fmath.exp(-0.008735 * fmath.pow(um, -4.08) * mass - max(beta, 0) * fmath.pow(um, -1.3) * mass),
    ) as Vec;
  }
  return left.map((t) => (AIR.sun * part * t) / (PI * sine * sine)) as Vec;
}

/**
 * An analytic sky as a picture of nits, without the sun's disc. Below the horizon lies the ground, lit by the sky;
 * from a sun 6° below downwards a dim moonlit gradient is left.
 */
export function skyPicture(sky: Sky): { width: number; height: number; pixels: Float32Array } {
  const pixels = new Float32Array(SKY_WIDTH * SKY_HEIGHT * 3);
  const sun = sunDirection(sky.sun, fmath);
  const height = (sky.sun.heightDegrees * PI) / 180;
  const day = min(1, max(0, 1 + sky.sun.heightDegrees / DUSK_DEGREES));
  const ofDaylight = sky.model === 'daylight' ? daylight(sky, height) : null;
  const ofScattering = sky.model === 'scattering' ? scattering(sky, sun) : null;
  const lift = 2 ** sky.stops;
  const half = SKY_HEIGHT / 2;
  const fallen: Vec = [0, 0, 0];
  for (let y = 0; y < half; y++) {
    const theta = ((y + 0.5) / SKY_HEIGHT) * PI;
    const [up, s] = [fmath.cos(theta), fmath.sin(theta)];
    const inRow = ofScattering?.(up);
    for (let x = 0; x < SKY_WIDTH; x++) {
      const phi = ((x + 0.5) / SKY_WIDTH - 0.5) * 2 * PI;
      const d: Vec = [s * fmath.sin(phi), up, -s * fmath.cos(phi)];
      const gamma = fmath.acos(min(1, max(-1, d[0] * sun[0] + d[1] * sun[1] + d[2] * sun[2])));
      // The fitted model ends at the horizon; dusk fades it out. Scattered light fades by itself.
      const light = ofDaylight ? ofDaylight(up, gamma).map((c) => c * day * day) : inRow!(d, gamma);
      const night = NIGHT.horizon + (NIGHT.zenith - NIGHT.horizon) * sqrt(up);
      for (let c = 0; c < 3; c++) {
        const v = (max(light[c], 0) + night * NIGHT.color[c]) * lift;
        pixels[(y * SKY_WIDTH + x) * 3 + c] = v;
        fallen[c] += v * up * s * ((2 * PI) / SKY_WIDTH) * (PI / SKY_HEIGHT);
      }
    }
  }
  const sunlight = sky.sun.heightDegrees > 0 ? sunRadiance(sky) : [0, 0, 0];
  const sine = fmath.sin((sky.sun.angleDegrees / 2) * (PI / 180));
  const ground = sky.ground.map(
    (albedo, c) => (albedo / PI) * (fallen[c] + sunlight[c] * 2 ** sky.sun.stops * PI * sine * sine * max(0, sun[1])),
  );
  for (let i = half * SKY_WIDTH; i < SKY_HEIGHT * SKY_WIDTH; i++) pixels.set(ground, i * 3);
  return { ...SKY_SIZE, pixels: finer(pixels) };
}

/** The picture at its full size; the ground does not mix with the sky. */
function finer(coarse: Float32Array): Float32Array {
  const { width, height } = SKY_SIZE;
  const out = new Float32Array(width * height * 3);
  const half = SKY_HEIGHT / 2;
  // Of each column: the two that it lies between, and how far.
  const before = new Int32Array(width);
  const after = new Int32Array(width);
  const share = new Float64Array(width);
  for (let x = 0; x < width; x++) {
    const across = (x + 0.5) / FINER - 0.5;
    const left = floor(across);
    share[x] = across - left;
    const column = (left + SKY_WIDTH) % SKY_WIDTH;
    before[x] = column * 3;
    after[x] = ((column + 1) % SKY_WIDTH) * 3;
  }
  for (let y = 0, i = 0; y < height; y++) {
    const at = (y + 0.5) / FINER - 0.5;
    // Nothing is mixed across the horizon.
    const [low, high] = y < height / 2 ? [0, half - 1] : [half, SKY_HEIGHT - 1];
    const y0 = min(high, max(low, floor(at)));
    const v = min(1, max(0, at - y0));
    const top = y0 * SKY_WIDTH * 3;
    const bottom = min(high, y0 + 1) * SKY_WIDTH * 3;
    for (let x = 0; x < width; x++) {
      const [a, b, u] = [before[x], after[x], share[x]];
      for (let c = 0; c < 3; c++, i++) {
        const upper = coarse[top + a + c] * (1 - u) + coarse[top + b + c] * u;
        const lower = coarse[bottom + a + c] * (1 - u) + coarse[bottom + b + c] * u;
        out[i] = upper * (1 - v) + lower * v;
      }
    }
  }
  return out;
}
