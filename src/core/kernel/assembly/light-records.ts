// What stands in a light's record: its group, whom it lights, in which role and how far.
import {
  H_LIGHTS, KIND_DISTANT, KIND_ENVIRONMENT, LIGHT_BYTES, L_BOUNCES, L_GAIN_SEEN, L_GROUP, L_INNER_COSINE, L_KIND,
  L_LINKS, L_OUTER_COSINE, L_RADIUS, L_SAMPLES, L_VISIBLE, SCENE_BASE,
} from './layout';

export const SEEN: i32 = 0;
export const IN_MIRRORS: i32 = 1;
export const ON_DIFFUSE: i32 = 2;
export const IN_REFLECTION: i32 = 3;
export const THROUGH: i32 = 4;
export const IN_FOG: i32 = 5;

// @ts-ignore: decorator
@inline
export function lightAt(i: i32): usize {
  return load<usize>(SCENE_BASE, H_LIGHTS) + usize(i) * LIGHT_BYTES;
}

// @ts-ignore: decorator
@inline
export function kindOf(l: usize): i32 {
  return i32(load<f32>(l, L_KIND));
}

export function groupOf(light: i32): i32 {
  return i32(load<f32>(lightAt(light), L_GROUP));
}

/** Samples of its own that a light gets at every vertex; 0 shares those of all. */
// @ts-ignore: decorator
@inline
export function ownSamples(light: i32): i32 {
  return load<i32>(lightAt(light), L_SAMPLES);
}

// @ts-ignore: decorator
@inline
export function gainOf(light: i32, role: i32): f32 {
  return load<f32>(lightAt(light) + (usize(role) << 2), L_GAIN_SEEN);
}

/** Whether light from here may be gathered at `object` after `bounce` bounces. */
export function lights(light: i32, object: i32, bounce: i32): bool {
  const l = lightAt(light);
  if (bounce > load<i32>(l, L_BOUNCES)) return false;
  const links = load<usize>(l, L_LINKS);
  return !links || ((load<u32>(links + (usize(object >> 5) << 2)) >> (object & 31)) & 1) != 0;
}

/** Whether light may be seen after `bounce` bounces, whatever sees it. */
export function reaches(light: i32, bounce: i32): bool {
  return bounce <= load<i32>(lightAt(light), L_BOUNCES);
}

/** Whether rays that look at the scene can meet the light; one they cannot is found by sampling it alone. */
export function canBeMet(light: i32): bool {
  const l = lightAt(light);
  const kind = kindOf(l);
  if (kind == KIND_DISTANT) return load<f32>(l, L_VISIBLE) != 0 && load<f32>(l, L_RADIUS) > 0;
  return load<f32>(l, L_VISIBLE) != 0 || kind == KIND_ENVIRONMENT;
}

/** How much of its light goes in a direction of this cosine to its axis: fading within a spread or cone. */
export function fadeOf(l: usize, cosine: f32): f32 {
  const outer = load<f32>(l, L_OUTER_COSINE);
  if (outer <= -1) return 1;
  const inner = load<f32>(l, L_INNER_COSINE);
  if (inner <= outer) return cosine > outer ? f32(1) : f32(0);
  const t = min<f32>(max<f32>((cosine - outer) / (inner - outer), 0), 1);
  return t * t * (f32(3) - f32(2) * t);
}
