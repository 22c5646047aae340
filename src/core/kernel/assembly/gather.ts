// Light gathered at surfaces: light samples, and the parts they go into.
import { clearB, clearCrossed, clearG, clearR, fogGained, fogPassed, occluded } from './bvh-trace';
import { contribute, countShadow } from './film';
import { fogToLight, hasFog } from './fog';
import {
  CLASS_CAUSTIC, CLASS_DIRECT_DIFFUSE, CLASS_INDIRECT_DIFFUSE, H_OWN_COUNT, H_OWN_LIGHTS, M_STRAIGHT_SHADOWS, SCENE_BASE,
} from './layout';
import { picked, pickedChance, pickLight } from './light-choice';
import { IN_REFLECTION, ON_DIFFUSE, THROUGH, canBeMet, gainOf, groupOf, lights, ownSamples } from './light-records';
import { lightBlocks } from './light-shapes';
import { lb, lg, lr, sDistance, sPdf, sampleLight, sx, sy, sz } from './lights';
import {
  DIFFUSE, REFLECTION, TRANSMISSION, decideByFacets, evaluate, fDB, fDG, fDR, fRB, fRG, fRR, fTB, fTG, fTR, pD, pR, pT,
} from './lobes';
import { disperses, loadMaterial, sharpR, sharpT } from './material';
import { fade, leftB, leftG, leftR, medium, mediumBeyond, outerIndex } from './media';
import { chanceOfLight } from './roulette';
import { focuses, showsCaustics } from './rules';
import { sightPast } from './sight';
import { draw, hash, r0, r1 } from './sobol';
import { drawWavelength, hueB, hueG, hueR, nanometres } from './spectrum';
import { lightsAlone, lobesAlone } from './study';
import { keepsTrail, noteBlocked } from './trail';
import { epsilon, front, gx, gy, gz, objectFlags, objectIndex, px, py, pz, record } from './vertex';

/** Pairs of dimensions: 0 pixel, 1 lens, 2 time and wavelength, then eight an event of the path. */
const FIRST_VERTEX_PAIR: u32 = 3;
const VERTEX_PAIRS: u32 = 8;
export const PAIR_DIRECTION: u32 = 0;
export const PAIR_LIGHT: u32 = 1;
export const PAIR_PICK: u32 = 2;
export const PAIR_ROULETTE: u32 = 3;
export const PAIR_LOBE: u32 = 4;
export const PAIR_FLIGHT: u32 = 5;
export const PAIR_PHASE: u32 = 6;

/** The stream of random numbers of the pixel and half under way. */
export let stream: u32 = 0;
export function beginStream(s: u32): void {
  stream = s;
}

// @ts-ignore: decorator
@inline
export function pairAt(step: i32, pair: u32): u32 {
  return FIRST_VERTEX_PAIR + u32(step) * VERTEX_PAIRS + pair;
}

/**
 * How a path stands to caustics. `NO_CAUSTIC`: no diffuse vertex yet, or a rough one since. `MATT`: the last scattering
 * was diffuse. `FOCUSED`: only sharp lobes since, a caustic. `MATT_REFUSED` and `REFUSED`: the same, where the matt
 * object shows no caustics or a sharp one focuses no light; such light is left out.
 */
export const NO_CAUSTIC: i32 = 0;
export const MATT: i32 = 1;
const MATT_REFUSED: i32 = 2;
export const FOCUSED: i32 = 3;
const REFUSED: i32 = 4;

export function causticAfter(state: i32, lobe: i32): i32 {
  if (lobe == DIFFUSE) return showsCaustics(objectFlags) ? MATT : MATT_REFUSED;
  if (state == NO_CAUSTIC || !(lobe == REFLECTION ? sharpR : sharpT)) return NO_CAUSTIC;
  return state == MATT_REFUSED || state == REFUSED || !focuses(objectFlags) ? REFUSED : FOCUSED;
}

// @ts-ignore: decorator
@inline
export function classOf(state: i32, vertices: i32, firstLobe: i32): i32 {
  if (state >= FOCUSED) return state == FOCUSED ? CLASS_CAUSTIC : -1;
  return vertices == 1 ? CLASS_DIRECT_DIFFUSE + firstLobe : CLASS_INDIRECT_DIFFUSE + firstLobe;
}

/** Wavelength of the path under way in nm (0 = all), and the colour that transmission at this vertex takes from it. */
export let wavelength: f32 = 0;
export let spreadR: f32 = 1;
export let spreadG: f32 = 1;
export let spreadB: f32 = 1;

/** Lets the path be of all wavelengths again. */
export function clearWavelength(): void {
  wavelength = 0;
}

/** Notes that the path has gone through the vertex's glass: from there on it keeps the wavelength drawn. */
export function keepWavelength(): void {
  if (spreadR + spreadG + spreadB != 3) wavelength = nanometres;
}

/** Readies the lobes of the loaded vertex; glass that spreads colours makes the path choose a wavelength. */
export function loadSurface(index: u32): void {
  spreadR = 1; spreadG = 1; spreadB = 1;
  decideByFacets(false);
  if (wavelength == 0 && disperses()) {
    draw(stream, index, 2);
    drawWavelength(r1);
    spreadR = hueR; spreadG = hueG; spreadB = hueB;
    loadMaterial(outerIndex(record, front), nanometres);
  } else loadMaterial(outerIndex(record, front), wavelength);
}

/** What is left of light from `distance` away in direction d, by the solid between here and there. */
export function fadeToLight(up: bool, distance: f32): bool {
  const m = up ? medium() : mediumBeyond(record, front);
  if (!m || load<f32>(m, M_STRAIGHT_SHADOWS) > 0) return false;
  fade(m, distance);
  return true;
}

/** Of the vertex where light is gathered: what a ray sees there goes into which parts. */
let atVertices: i32 = 0, atState: i32 = 0, atLobe: i32 = 0, atBounce: i32 = 0;

/**
 * Direct light at the loaded vertex: `count` picks among all lights, and as many samples as each light with samples
 * of its own asks for. sD, sR, sT: how many continuation samples each lobe gets there (or the probability of its
 * one). `step` tells the event of the path, `vertices` how many it has before.
 */
export function gather(
  step: i32, vertices: i32, index: u32, count: i32, sD: f32, sR: f32, sT: f32,
  tr: f32, tg: f32, tb: f32, share: f32, state: i32, firstLobe: i32, bounce: i32,
): void {
  atVertices = vertices; atState = state; atLobe = firstLobe; atBounce = bounce;
  for (let j = 0; j < count; j++) {
    const i = index * u32(count) + u32(j);
    draw(stream, i, pairAt(step, PAIR_PICK));
    const u = r1;
    if (!pickLight(px, py, pz, r0)) continue;
    draw(stream, i, pairAt(step, PAIR_LIGHT));
    shade(picked, pickedChance, f32(count), u, sD, sR, sT, tr, tg, tb, share / f32(count));
  }
  const owned = load<i32>(SCENE_BASE, H_OWN_COUNT);
  for (let k = 0; k < owned; k++) {
    const light = load<i32>(load<usize>(SCENE_BASE, H_OWN_LIGHTS) + (usize(k) << 2));
    const n = ownSamples(light);
    for (let j = 0; j < n; j++) {
      const own = stream ^ hash(u32(light + 1)), i = index * u32(n) + u32(j);
      draw(own, i, pairAt(step, PAIR_PICK));
      const u = r1;
      draw(own, i, pairAt(step, PAIR_LIGHT));
      shade(light, 1, f32(n), u, sD, sR, sT, tr, tg, tb, share / f32(n));
    }
  }
}

/** One light sample at the loaded vertex, its place chosen by the pair last drawn; `count` samples share the light, u decides whether a dim one is taken. */
function shade(
  light: i32, chance: f32, count: f32, u: f32, sD: f32, sR: f32, sT: f32, tr: f32, tg: f32, tb: f32, part: f32,
): void {
  if (!lights(light, objectIndex, atBounce) || (lobesAlone && canBeMet(light))) return;
  if (!sampleLight(light, chance, px, py, pz, r0, r1)) return;
  evaluate(sx, sy, sz);
  if (fDR + fDG + fDB + fRR + fRG + fRB + fTR + fTG + fTB <= 0) return;
  const y = (
    tr * lr * (fDR + fRR + fTR) * f32(0.2126) + tg * lg * (fDG + fRG + fTG) * f32(0.7152) + tb * lb * (fDB + fRB + fTB) * f32(0.0722)
  ) * part / sPdf;
  const taken = chanceOfLight(atBounce, y);
  if (u >= taken) return;
  part /= taken;
  const dx = sx, dy = sy, dz = sz;
  const up = dx * gx + dy * gy + dz * gz > 0;
  const out: f32 = up ? epsilon : -epsilon;
  const ox = px + gx * out, oy = py + gy * out, oz = pz + gz * out;
  const far = sDistance * f32(0.9999) - epsilon;
  const group = groupOf(light);
  countShadow(group);
  if (lightBlocks(ox, oy, oz, dx, dy, dz, 0, far, light) || occluded(ox, oy, oz, dx, dy, dz, 0, far)) {
    if (keepsTrail()) noteBlocked(light, ox, oy, oz, dx, dy, dz, far);
    return;
  }
  const n = count * sPdf;
  let kr = tr * lr * clearR / sPdf, kg = tg * lg * clearG / sPdf, kb = tb * lb * clearB / sPdf;
  if (fadeToLight(up, sDistance)) { kr *= leftR; kg *= leftG; kb *= leftB; }
  if (hasFog()) {
    const left = fogToLight(ox, oy, oz, dx, dy, dz, sDistance, fogPassed, fogGained);
    kr *= left; kg *= left; kb *= left;
  }
  // Light that came straight through a pane, or from a light no ray can meet, is counted here alone.
  const alone = lightsAlone || clearCrossed || !canBeMet(light);
  if (pD > 0) {
    const w = gainOf(light, ON_DIFFUSE) * (alone ? f32(1) : n / (n + sD * pD));
    contribute(kr * fDR * w, kg * fDG * w, kb * fDB * w, part, group, sightPast(DIFFUSE), classOf(causticAfter(atState, DIFFUSE), atVertices + 1, atVertices ? atLobe : DIFFUSE), atBounce);
  }
  if (pR > 0) {
    const w = gainOf(light, IN_REFLECTION) * (alone ? f32(1) : n / (n + sR * pR));
    contribute(kr * fRR * w, kg * fRG * w, kb * fRB * w, part, group, sightPast(REFLECTION), classOf(causticAfter(atState, REFLECTION), atVertices + 1, atVertices ? atLobe : REFLECTION), atBounce);
  }
  if (pT > 0) {
    const w = gainOf(light, THROUGH) * (alone ? f32(1) : n / (n + sT * pT));
    contribute(kr * fTR * spreadR * w, kg * fTG * spreadG * w, kb * fTB * spreadB * w, part, group, sightPast(TRANSMISSION), classOf(causticAfter(atState, TRANSMISSION), atVertices + 1, atVertices ? atLobe : TRANSMISSION), atBounce);
  }
}
