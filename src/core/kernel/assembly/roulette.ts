// Ending by chance what brings little, without bias: what is kept counts for what is not [Arvo & Kirk 1990, "Particle Transport and Image Synthesis"].
import { H_ENV_OPEN, P_ROULETTE_START, P_WHITE, SCENE_BASE, SCRATCH_PARAMS } from './layout';

/** The least chance of a path and of a lobe of the first hit: nothing weighs more than one over it. */
const LEAST: f32 = 0.05, LEAST_OF_LOBE: f32 = 0.1;
/** A lobe of the first hit is followed surely from this share of its light on. */
const SURE_SHARE: f32 = 0.25;
/** Walks inside solids, whose steps cost least, are ended so much later. */
const WALK_EASE: f32 = 4;
/** Where paths leave for the sky by themselves, ending them saves little and what they bring is much alike: from the first share of open sky on, up to the second, their chances rise by up to this factor. */
const SHUT: f32 = 0.25, OPEN: f32 = 0.5, SKY_EASE: f32 = 4;
/** Light samples that bring less than this share of display white are taken by chance. */
const DIM: f32 = 1.0 / 256.0;

let start: i32 = 0;
let dim: f32 = 0;
/** One over what the first hit sends on at all: a dark surface's light is seen as well as a bright one's. */
let scale: f32 = 1;
/** Under an open sky paths are ended so much later. */
let ease: f32 = 1;

export function bindRoulette(base: usize): void {
  const p = base + SCRATCH_PARAMS;
  start = load<i32>(p, P_ROULETTE_START);
  dim = DIM * load<f32>(p, P_WHITE);
  const open = min<f32>(max<f32>((load<f32>(SCENE_BASE, H_ENV_OPEN) - SHUT) / (OPEN - SHUT), 0), 1);
  ease = f32(1) + (SKY_EASE - f32(1)) * open;
}

/** Begins the paths of a first hit that sends on `share` of the light that arrives at it. */
export function beginRoulette(share: f32): void {
  scale = f32(1) / max<f32>(share, f32(1e-4));
}

/** Chance with which a path goes on that has sent `count` continuation rays and has (r, g, b) of its light left. */
export function chanceOfPath(count: i32, r: f32, g: f32, b: f32): f32 {
  if (count < start) return 1;
  return min<f32>(max<f32>(max<f32>(r, max<f32>(g, b)) * scale * ease, LEAST), 1);
}

/** The same of a step within a scattering solid, whatever rays there were. */
export function chanceOfStep(r: f32, g: f32, b: f32): f32 {
  return min<f32>(max<f32>(r, max<f32>(g, b)) * max<f32>(scale, 1) * WALK_EASE, 1);
}

/** Chance with which a lobe of the first hit is followed that sends on `part` of what all send on, `whole`. */
export function chanceOfLobe(part: f32, whole: f32): f32 {
  const sure = SURE_SHARE * whole;
  return start > 0 || part >= sure ? f32(1) : max<f32>(part / sure, LEAST_OF_LOBE);
}

/** Chance with which light of luminance y is looked for, after `count` continuation rays. */
// @ts-ignore: decorator
@inline
export function chanceOfLight(count: i32, y: f32): f32 {
  return count < start || y >= dim ? f32(1) : y / dim;
}
