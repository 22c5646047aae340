// The path integrator: direct light by multiple importance sampling, each lobe apart; first-hit splits;
// depth limits that cut continuation rays only; every contribution booked once under its group, class
// and bounce. Roulette and lobe choices never look at the limits, so a render at a lower limit is the
// same render with later parts missing.
import { fogCrossings, fogMetres, occluded, clearB, clearCrossed, clearG, clearR, hitInstance, hitTriangle, hitU, hitV } from './bvh-trace';
import { axialDepth, cameraRay, dx as camDX, dy as camDY, dz as camDZ, off2, ox as camX, oy as camY, oz as camZ } from './camera';
import { beginSample, contribute, countRay, countShadow, recordFeatures } from './film';
import {
  ballLeft, drawLitPlace, drawScatter, drawScatterSurely, fogAlbedo, fogAnisotropy, fogChance, fogDensity, fogLeft, fogLength, fogLight, fogT,
  hasFog, meshFogLeft, pickFogLight, recallFogAt, scatteredAt,
} from './fog';
import { FAR, bindFollow, follow, findCameraMedia, seenLight, seenNothing, seenT, NOTHING, SURFACE, restoreSeen } from './follow';
import {
  CLASS_CAUSTIC, CLASS_DIRECT_DIFFUSE, CLASS_DIRECT_FOG, CLASS_EMISSION, CLASS_INDIRECT_DIFFUSE, H_OBJECT_COUNT, H_OWN_COUNT, H_OWN_LIGHTS, MOST_WALK_EVENTS,
  M_STRAIGHT_SHADOWS, P_CAM_X, P_CAM_Y, P_CAM_Z,
  P_DEPTH_ALL, P_DEPTH_DIFFUSE, P_DEPTH_FOG, P_DEPTH_REFLECTION, P_DEPTH_TRANSMISSION, P_HOLES, P_LIGHT_SAMPLES, P_ONLY, P_REACH, P_ROULETTE_START,
  P_SEED, P_SPLITS_DIFFUSE, P_SPLITS_FOG, P_SPLITS_REFLECTION, P_SPLITS_TRANSMISSION, P_WIDTH, ONLY_FOG, ONLY_SURFACES, RAY_CAMERA, RAY_DIFFUSE, RAY_FOG, RAY_TRANSMISSION, RAY_TWIN,
  SCENE_BASE, SCRATCH_PARAMS,
} from './layout';
import { picked, pickedChance, pickLight } from './light-choice';
import {
  IN_FOG, IN_MIRRORS, IN_REFLECTION, ON_DIFFUSE, SEEN, THROUGH, canBeMet, gainOf, groupOf, lights, ownSamples, reaches,
} from './light-records';
import {
  farCount, farLight, farRadiance, lb, lg, lightBlocks, lightStrength, lr, radianceOf, sDistance, sPdf, sampleLight, setLight, sx, sy, sz,
} from './lights';
import { meshLightOf } from './mesh-lights';
import {
  DIFFUSE, FOG, REFLECTION, TRANSMISSION, density, dirX, dirY, dirZ, evaluate, fDB, fDG, fDR, fRB, fRG, fRR, fTB, fTG, fTR,
  hasRoughReflection, pD, pR, pT, sampleLobe, weightB, weightG, weightR,
} from './lobes';
import {
  albedoD, albedoR, albedoT, disperses, eb, eg, er, featureAlbedo, isClearPane, loadMaterial, mirrorT, sharpR, sharpT,
} from './material';
import {
  FIRST_LIST, anisotropyOf, cross, drawFlight, drawPhase, fade, isInFog, isSolid, keepMedia, leftB, leftG, leftR, medium, phase, outerIndex,
  mediumBeyond, phX, phY, phZ, recallMedia, scatters, setInFog, weighFlight, CAMERA_LIST,
} from './media';
import { draw, hash, r0, r1, streamOf } from './sobol';
import { lightsAlone, lobesAlone } from './study';
import { drawWavelength, hueB, hueG, hueR, nanometres } from './spectrum';
import { epsilon, front, gx, gy, gz, loadVertex, nx, ny, nz, objectIndex, px, py, pz, record } from './vertex';

/** Pairs of dimensions: 0 pixel, 1 lens, 2 time and wavelength, then eight an event of the path. */
const FIRST_VERTEX_PAIR: u32 = 3;
const VERTEX_PAIRS: u32 = 8;
const PAIR_DIRECTION: u32 = 0;
const PAIR_LIGHT: u32 = 1;
const PAIR_PICK: u32 = 2;
const PAIR_ROULETTE: u32 = 3;
const PAIR_LOBE: u32 = 4;
const PAIR_FLIGHT: u32 = 5;
const PAIR_PHASE: u32 = 6;

let seed: u32 = 0;
let width: i32 = 0;
let splitsD: i32 = 1, splitsR: i32 = 1, splitsT: i32 = 1, splitsF: i32 = 1;
let only: i32 = 0;
let lightSamples: i32 = 1;
let depthAll: i32 = 0, depthD: i32 = 0, depthR: i32 = 0, depthT: i32 = 0, depthF: i32 = 0;
let rouletteStart: i32 = 0;
let reach: f32 = 0;
let stream: u32 = 0;

export function bindPath(base: usize): void {
  const p = base + SCRATCH_PARAMS;
  seed = load<u32>(p, P_SEED);
  width = load<i32>(p, P_WIDTH);
  splitsD = load<i32>(p, P_SPLITS_DIFFUSE);
  splitsR = load<i32>(p, P_SPLITS_REFLECTION);
  splitsT = load<i32>(p, P_SPLITS_TRANSMISSION);
  splitsF = load<i32>(p, P_SPLITS_FOG);
  only = load<i32>(p, P_ONLY);
  lightSamples = load<i32>(p, P_LIGHT_SAMPLES);
  depthAll = load<i32>(p, P_DEPTH_ALL);
  depthD = load<i32>(p, P_DEPTH_DIFFUSE);
  depthR = load<i32>(p, P_DEPTH_REFLECTION);
  depthT = load<i32>(p, P_DEPTH_TRANSMISSION);
  depthF = load<i32>(p, P_DEPTH_FOG);
  rouletteStart = load<i32>(p, P_ROULETTE_START);
  reach = load<f32>(p, P_REACH);
  bindFollow(load<i32>(p, P_HOLES));
  if (width > 0) findCameraMedia(load<f32>(p, P_CAM_X), load<f32>(p, P_CAM_Y), load<f32>(p, P_CAM_Z));
}

// @ts-ignore: decorator
@inline
function pairAt(step: i32, pair: u32): u32 {
  return FIRST_VERTEX_PAIR + u32(step) * VERTEX_PAIRS + pair;
}

/** 0 = no diffuse vertex yet, 1 = the last scattering was diffuse, 2 = only sharp lobes since: a caustic. */
// @ts-ignore: decorator
@inline
function causticAfter(state: i32, lobe: i32): i32 {
  if (lobe == DIFFUSE) return 1;
  return state > 0 && (lobe == REFLECTION ? sharpR : sharpT) ? 2 : 0;
}

// @ts-ignore: decorator
@inline
function classOf(state: i32, vertices: i32, firstLobe: i32): i32 {
  if (state == 2) return CLASS_CAUSTIC;
  return vertices == 1 ? CLASS_DIRECT_DIFFUSE + firstLobe : CLASS_INDIRECT_DIFFUSE + firstLobe;
}

/** Wavelength of the path under way in nm (0 = all), and the colour that transmission at this vertex takes from it. */
let wavelength: f32 = 0;
let spreadR: f32 = 1, spreadG: f32 = 1, spreadB: f32 = 1;

/** Readies the lobes of the loaded vertex; glass that spreads colours makes the path choose a wavelength. */
function loadSurface(index: u32): void {
  spreadR = 1; spreadG = 1; spreadB = 1;
  if (wavelength == 0 && disperses()) {
    draw(stream, index, 2);
    drawWavelength(r1);
    spreadR = hueR; spreadG = hueG; spreadB = hueB;
    loadMaterial(outerIndex(record, front), nanometres);
  } else loadMaterial(outerIndex(record, front), wavelength);
}

/** What is left of light from `distance` away in direction d, by the solid between here and there. */
function fadeToLight(up: bool, distance: f32): bool {
  const m = up ? medium() : mediumBeyond(record, front);
  if (!m || load<f32>(m, M_STRAIGHT_SHADOWS) > 0) return false;
  fade(m, distance);
  return true;
}

/** What fog leaves of light along the shadow ray last traced. */
function fogToLight(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, distance: f32): f32 {
  return ballLeft(ox, oy, oz, dx, dy, dz, distance) * meshFogLeft(fogMetres, (isInFog() ? 1 : 0) + fogCrossings > 0, distance);
}

/** Light of one light sample that fog at (x, y, z) scatters against the direction d; its parts as for `gather`. */
function shadeFog(
  light: i32, chance: f32, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32, u: f32, v: f32,
  tr: f32, tg: f32, tb: f32, part: f32, pathClass: i32, bounce: i32,
): void {
  if (!reaches(light, bounce) || !sampleLight(light, chance, x, y, z, u, v)) return;
  const sdx = sx, sdy = sy, sdz = sz, distance = sDistance;
  const far = distance * f32(0.9999);
  const group = groupOf(light);
  countShadow(group);
  if (lightBlocks(x, y, z, sdx, sdy, sdz, 0, far, light) || occluded(x, y, z, sdx, sdy, sdz, 0, far)) return;
  const k = gainOf(light, IN_FOG) * phase(sdx * dx + sdy * dy + sdz * dz, fogAnisotropy()) *
    fogToLight(x, y, z, sdx, sdy, sdz, distance) / sPdf;
  contribute(
    tr * lr * clearR * k * fogAlbedo(0), tg * lg * clearG * k * fogAlbedo(1), tb * lb * clearB * k * fogAlbedo(2),
    part, group, pathClass, bounce,
  );
}

/** Direct light in the fog on the ray just followed, at `count` places of one light each. */
function gatherFog(
  step: i32, index: u32, count: i32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32,
  tr: f32, tg: f32, tb: f32, share: f32, pathClass: i32, bounce: i32,
): void {
  const own = hash(stream ^ 0x51ed270b);
  const after = isInFog();
  for (let j = 0; j < count; j++) {
    const i = index * u32(count) + u32(j);
    draw(own, i, pairAt(step, PAIR_FLIGHT));
    const place = r0, technique = r1;
    draw(own, i, pairAt(step, PAIR_PICK));
    if (!drawLitPlace(ox, oy, oz, dx, dy, dz, bounce, r0, place, technique)) continue;
    recallFogAt(fogT);
    const k = scatteredAt(fogT) / fogDensity;
    draw(own, i, pairAt(step, PAIR_LIGHT));
    shadeFog(
      fogLight, fogChance, ox + dx * fogT, oy + dy * fogT, oz + dz * fogT, dx, dy, dz, r0, r1,
      tr * k, tg * k, tb * k, share / f32(count), pathClass, bounce,
    );
  }
  setInFog(after);
}

/** Of the vertex where light is gathered: what a ray sees there goes into which parts. */
let atVertices: i32 = 0, atState: i32 = 0, atLobe: i32 = 0, atBounce: i32 = 0;

/**
 * Direct light at the loaded vertex: `count` picks among all lights, and as many samples as each light with samples
 * of its own asks for. sD, sR, sT: how many continuation samples each lobe gets there (or the probability of its
 * one). `step` tells the event of the path, `vertices` how many it has before.
 */
function gather(
  step: i32, vertices: i32, index: u32, count: i32, sD: f32, sR: f32, sT: f32,
  tr: f32, tg: f32, tb: f32, share: f32, state: i32, firstLobe: i32, bounce: i32,
): void {
  atVertices = vertices; atState = state; atLobe = firstLobe; atBounce = bounce;
  for (let j = 0; j < count; j++) {
    const i = index * u32(count) + u32(j);
    draw(stream, i, pairAt(step, PAIR_PICK));
    if (!pickLight(px, py, pz, r0)) continue;
    draw(stream, i, pairAt(step, PAIR_LIGHT));
    shade(picked, pickedChance, f32(count), sD, sR, sT, tr, tg, tb, share / f32(count));
  }
  const own = load<i32>(SCENE_BASE, H_OWN_COUNT);
  for (let k = 0; k < own; k++) {
    const light = load<i32>(load<usize>(SCENE_BASE, H_OWN_LIGHTS) + (usize(k) << 2));
    const n = ownSamples(light);
    for (let j = 0; j < n; j++) {
      draw(stream ^ hash(u32(light + 1)), index * u32(n) + u32(j), pairAt(step, PAIR_LIGHT));
      shade(light, 1, f32(n), sD, sR, sT, tr, tg, tb, share / f32(n));
    }
  }
}

/** One light sample at the loaded vertex, its place chosen by the pair last drawn; `count` samples share the light. */
function shade(
  light: i32, chance: f32, count: f32, sD: f32, sR: f32, sT: f32, tr: f32, tg: f32, tb: f32, part: f32,
): void {
  if (!lights(light, objectIndex, atBounce) || (lobesAlone && canBeMet(light))) return;
  if (!sampleLight(light, chance, px, py, pz, r0, r1)) return;
  evaluate(sx, sy, sz);
  if (fDR + fDG + fDB + fRR + fRG + fRB + fTR + fTG + fTB <= 0) return;
  const dx = sx, dy = sy, dz = sz;
  const up = dx * gx + dy * gy + dz * gz > 0;
  const out: f32 = up ? epsilon : -epsilon;
  const ox = px + gx * out, oy = py + gy * out, oz = pz + gz * out;
  const far = sDistance * f32(0.9999) - epsilon;
  const group = groupOf(light);
  countShadow(group);
  if (lightBlocks(ox, oy, oz, dx, dy, dz, 0, far, light) || occluded(ox, oy, oz, dx, dy, dz, 0, far)) return;
  const n = count * sPdf;
  let kr = tr * lr * clearR / sPdf, kg = tg * lg * clearG / sPdf, kb = tb * lb * clearB / sPdf;
  if (fadeToLight(up, sDistance)) { kr *= leftR; kg *= leftG; kb *= leftB; }
  if (hasFog()) {
    const left = fogToLight(ox, oy, oz, dx, dy, dz, sDistance);
    kr *= left; kg *= left; kb *= left;
  }
  // Light that came straight through a pane, or from a light no ray can meet, is counted here alone.
  const alone = lightsAlone || clearCrossed || !canBeMet(light);
  if (pD > 0) {
    const w = gainOf(light, ON_DIFFUSE) * (alone ? f32(1) : n / (n + sD * pD));
    contribute(kr * fDR * w, kg * fDG * w, kb * fDB * w, part, group, classOf(causticAfter(atState, DIFFUSE), atVertices + 1, atVertices ? atLobe : DIFFUSE), atBounce);
  }
  if (pR > 0) {
    const w = gainOf(light, IN_REFLECTION) * (alone ? f32(1) : n / (n + sR * pR));
    contribute(kr * fRR * w, kg * fRG * w, kb * fRB * w, part, group, classOf(causticAfter(atState, REFLECTION), atVertices + 1, atVertices ? atLobe : REFLECTION), atBounce);
  }
  if (pT > 0) {
    const w = gainOf(light, THROUGH) * (alone ? f32(1) : n / (n + sT * pT));
    contribute(kr * fTR * spreadR * w, kg * fTG * spreadG * w, kb * fTB * spreadB * w, part, group, classOf(causticAfter(atState, TRANSMISSION), atVertices + 1, atVertices ? atLobe : TRANSMISSION), atBounce);
  }
}

/** Of the ray under way: the vertex it left, as far as the light it may meet is concerned. */
let fromX: f32 = 0, fromY: f32 = 0, fromZ: f32 = 0;
let fromObject: i32 = 0, fromRole: i32 = 0;
/** Whether its lobe is a delta, its MIS strength, and how many light samples were picked there. */
let fromDelta: bool = false;
let fromStrength: f32 = 0, fromCount: f32 = 0;

/**
 * Books the light in lr, lg, lb that a ray along d met at distance t, weighed against light sampling at the vertex it
 * left; triangle and cosine where it met a mesh. `bounce` as of a delta vertex, one less for others.
 */
function bookMet(
  light: i32, dx: f32, dy: f32, dz: f32, t: f32, triangle: i32, cosine: f32,
  tr: f32, tg: f32, tb: f32, share: f32, pathClass: i32, bounce: i32,
): void {
  let w = gainOf(light, fromRole);
  if (fromDelta) {
    if (!reaches(light, bounce)) return;
  } else {
    bounce--;
    if (lightsAlone || !lights(light, fromObject, bounce)) return;
    const p = lightStrength(light, fromCount, fromX, fromY, fromZ, dx, dy, dz, t, triangle, cosine);
    if (!lobesAlone) w *= fromStrength / (fromStrength + p);
  }
  contribute(tr * lr * w, tg * lg * w, tb * lb * w, share, groupOf(light), pathClass, bounce);
}

/** Books what a ray along d sees: a light's shape, or all that has no place. */
function bookSeen(dx: f32, dy: f32, dz: f32, tr: f32, tg: f32, tb: f32, share: f32, pathClass: i32, bounce: i32): void {
  if (seenLight >= 0) {
    radianceOf(seenLight, dx, dy, dz);
    if (lr + lg + lb > 0) bookMet(seenLight, dx, dy, dz, seenT, -1, 1, tr, tg, tb, share, pathClass, bounce);
    return;
  }
  const n = farCount();
  for (let k = 0; k < n; k++) {
    const light = farLight(k);
    if (farRadiance(light, dx, dy, dz)) bookMet(light, dx, dy, dz, seenT, -1, 1, tr, tg, tb, share, pathClass, bounce);
  }
}

/** Books what the surface at the loaded vertex emits towards the ray along d. */
function bookEmission(dx: f32, dy: f32, dz: f32, tr: f32, tg: f32, tb: f32, share: f32, pathClass: i32, bounce: i32): void {
  const light = meshLightOf(objectIndex);
  if (light < 0) return;
  setLight(er, eg, eb);
  bookMet(light, dx, dy, dz, seenT, hitTriangle, abs(dx * gx + dy * gy + dz * gz), tr, tg, tb, share, pathClass, bounce);
}

/** The role in which light is met through a lobe. */
// @ts-ignore: decorator
@inline
function roleOf(lobe: i32, delta: bool): i32 {
  return lobe == DIFFUSE ? ON_DIFFUSE : lobe == TRANSMISSION ? THROUGH : delta ? IN_MIRRORS : IN_REFLECTION;
}

// @ts-ignore: decorator
@inline
function hasGather(): bool {
  return albedoD > 0 || hasRoughReflection() || (albedoT > 0 && !mirrorT);
}

/**
 * Follows one path from the loaded first vertex through `lobe`, whose direction has just been sampled.
 * `copies` is how many such paths share the vertex, w what is left of light on the way to the camera.
 */
function walk(index: u32, lobe: i32, copies: i32, wr: f32, wg: f32, wb: f32): void {
  const firstLobe = lobe;
  const share = f32(1) / f32(copies);
  const begins = lobe == FOG;
  let tr = begins ? wr : wr * weightR, tg = begins ? wg : wg * weightG, tb = begins ? wb : wb * weightB;
  let count = 0, countD = 0, countR = 0, countT = 0, countF = 0;
  let vertices = 1, step = 1;
  let state = causticAfter(0, lobe);
  let gathered = begins || hasGather();
  let delta = begins || density == 0;
  // Whether the camera still sees what is to come: only mirrors and clear glass so far.
  let inView = delta && !begins;
  fromX = px; fromY = py; fromZ = pz;
  fromObject = objectIndex; fromRole = roleOf(lobe, delta);
  fromDelta = delta; fromStrength = density * f32(copies); fromCount = f32(lightSamples);
  // Whether only clear panes lie between here and the last vertex that gathered light.
  // Light that fog sees by itself has been gathered there too.
  let straight = begins || (isClearPane() && lobe == TRANSMISSION && !delta);
  let current = lobe;
  let out: f32 = current == TRANSMISSION ? -epsilon : epsilon;
  let ox = px + gx * out, oy = py + gy * out, oz = pz + gz * out;
  let dx = dirX, dy = dirY, dz = dirZ;
  if (begins) {
    ox = fogX; oy = fogY; oz = fogZ;
    dx = phX; dy = phY; dz = phZ;
  } else if (current == TRANSMISSION) {
    tr *= spreadR; tg *= spreadG; tb *= spreadB;
    if (spreadR + spreadG + spreadB != 3) wavelength = nanometres;
    if (isSolid(record)) cross(record, front);
  }
  // Whether the ray is one of a walk inside a scattering interior, which counts as the ray that began it.
  let walking = false, alive = true;
  let before = 0, events = 0;
  while (true) {
    if (!walking) {
      before = count;
      count++;
      alive = count <= depthAll;
      if (current == DIFFUSE) { countD++; alive = alive && countD <= depthD; }
      else if (current == REFLECTION) { countR++; alive = alive && countR <= depthR; }
      else if (current == TRANSMISSION) { countT++; alive = alive && countT <= depthT; }
      else { countF++; alive = alive && countF <= depthF; }
      if (!alive && delta) return;
      events = 0;
    }
    const inside = medium();
    const murky = scatters(inside);
    let flight: f32 = FAR;
    if (murky) {
      draw(stream, index, pairAt(step, PAIR_FLIGHT));
      flight = drawFlight(inside, r0, r1);
    }
    follow(ox, oy, oz, dx, dy, dz, flight, walking ? RAY_TRANSMISSION : alive ? RAY_DIFFUSE + current : RAY_TWIN, stream, index, step);
    if (seenNothing) return;
    if (murky) {
      const scattered = seenLight == NOTHING;
      weighFlight(inside, min<f32>(flight, seenT), scattered);
      tr *= leftR; tg *= leftG; tb *= leftB;
      if (scattered) {
        if (!alive || ++events > MOST_WALK_EVENTS) return;
        // Light that has scattered is no longer focused: what it makes is no caustic.
        if (state == 2) state = 1;
        walking = true;
        delta = true;
        fromDelta = true;
        fromRole = THROUGH;
        straight = false;
        step++;
        draw(stream, index, pairAt(step, PAIR_PHASE));
        drawPhase(dx, dy, dz, anisotropyOf(inside), r0, r1);
        ox += dx * flight; oy += dy * flight; oz += dz * flight;
        dx = phX; dy = phY; dz = phZ;
        const p = min<f32>(max<f32>(tr, max<f32>(tg, tb)) * f32(4), 1);
        if (p < 1) {
          draw(stream, index, pairAt(step, PAIR_ROULETTE));
          if (r0 >= p) return;
          tr /= p; tg /= p; tb /= p;
        }
        continue;
      }
    } else if (inside) {
      fade(inside, seenT);
      tr *= leftR; tg *= leftG; tb *= leftB;
    }
    if (hasFog() && fogLength > 0) {
      if (inView) gatherFog(step, index, 1, ox, oy, oz, dx, dy, dz, tr, tg, tb, share, classOf(1, vertices + 1, firstLobe), count);
      const own = hash(stream ^ 0x2545f491);
      draw(own, index, pairAt(step, PAIR_FLIGHT));
      const t = drawScatter(r0);
      if (t >= 0) {
        if (!alive) return;
        const x = ox + dx * t, y = oy + dy * t, z = oz + dz * t;
        recallFogAt(t);
        if (!inView) {
          draw(own, index, pairAt(step, PAIR_PICK));
          if (pickFogLight(x, y, z, count, r0)) {
            draw(own, index, pairAt(step, PAIR_LIGHT));
            shadeFog(fogLight, fogChance, x, y, z, dx, dy, dz, r0, r1, tr, tg, tb, share, classOf(1, vertices + 1, firstLobe), count);
          }
        }
        tr *= fogAlbedo(0); tg *= fogAlbedo(1); tb *= fogAlbedo(2);
        draw(own, index, pairAt(step, PAIR_PHASE));
        drawPhase(dx, dy, dz, fogAnisotropy(), r0, r1);
        ox = x; oy = y; oz = z;
        dx = phX; dy = phY; dz = phZ;
        current = FOG;
        walking = false;
        state = 1;
        delta = true;
        fromDelta = true; fromRole = IN_FOG;
        straight = true;
        gathered = true;
        inView = false;
        vertices++;
        step++;
        if (count >= rouletteStart) {
          const p = min<f32>(max<f32>(tr, max<f32>(tg, tb)), 1);
          if (p < 1) {
            draw(stream, index, pairAt(step, PAIR_ROULETTE));
            if (r0 >= p) return;
            tr /= p; tg /= p; tb /= p;
          }
        }
        continue;
      }
    }
    const far = seenT > reach;
    if (seenLight != SURFACE) {
      if (!straight && !(delta && far)) bookSeen(dx, dy, dz, tr, tg, tb, share, classOf(state, vertices, firstLobe), count);
      return;
    }
    if (far && delta) return;
    loadSurface(index);
    if (er + eg + eb > 0 && !straight) bookEmission(dx, dy, dz, tr, tg, tb, share, classOf(state, vertices, firstLobe), count);
    if (!alive || far) return;
    const whole = albedoD + albedoR + albedoT;
    if (whole <= 0) return;
    const qD = albedoD / whole, qR = albedoR / whole, qT = albedoT / whole;
    const gathers = hasGather();
    if (gathers) {
      const n = gathered ? 1 : lightSamples;
      gathered = true;
      fromCount = f32(n);
      gather(step, vertices, index, n, qD, qR, qT, tr, tg, tb, share, state, firstLobe, count);
    }
    draw(stream, index, pairAt(step, PAIR_LOBE));
    const pick = r1;
    current = r0 < qD ? DIFFUSE : r0 < qD + qR ? REFLECTION : TRANSMISSION;
    if (current == TRANSMISSION && qT <= 0) current = qR > 0 ? REFLECTION : DIFFUSE;
    const q = current == DIFFUSE ? qD : current == REFLECTION ? qR : qT;
    draw(stream, index, pairAt(step, PAIR_DIRECTION));
    if (!sampleLobe(current, r0, r1, pick)) return;
    tr *= weightR / q; tg *= weightG / q; tb *= weightB / q;
    const passes = current == TRANSMISSION && isClearPane();
    straight = passes ? straight || !delta : false;
    // Turned back at the wall of a scattering interior, the light goes on with its walk.
    walking = murky && current == REFLECTION && !front && isSolid(record);
    if (walking) { if (++events > MOST_WALK_EVENTS) return; }
    else state = murky && events > 0 && current == TRANSMISSION ? state : causticAfter(state, current);
    delta = density == 0;
    fromX = px; fromY = py; fromZ = pz;
    fromObject = objectIndex; fromRole = roleOf(current, delta);
    fromDelta = delta; fromStrength = density * q;
    inView = inView && delta;
    if (!walking) vertices++;
    step++;
    if (current == TRANSMISSION) {
      tr *= spreadR; tg *= spreadG; tb *= spreadB;
      if (spreadR + spreadG + spreadB != 3) wavelength = nanometres;
      if (isSolid(record)) cross(record, front);
    }
    if (count >= rouletteStart) {
      const p = min<f32>(max<f32>(max<f32>(tr, max<f32>(tg, tb)), f32(0.05)), 1);
      if (p < 1) {
        draw(stream, index, pairAt(step, PAIR_ROULETTE));
        if (r0 >= p) return;
        tr /= p; tg /= p; tb /= p;
      }
    }
    out = current == TRANSMISSION ? -epsilon : epsilon;
    ox = px + gx * out; oy = py + gy * out; oz = pz + gz * out;
    dx = dirX; dy = dirY; dz = dirZ;
  }
}

let fogX: f32 = 0, fogY: f32 = 0, fogZ: f32 = 0;

/** Light that the fog between camera and first hit scatters: direct, and by paths that go on from there. */
function lightFog(index: u32, dx: f32, dy: f32, dz: f32, wr: f32, wg: f32, wb: f32): void {
  const left = fogLeft;
  gatherFog(0, index, splitsF, camX, camY, camZ, dx, dy, dz, wr, wg, wb, 1, CLASS_DIRECT_FOG, 0);
  if (depthF == 0 || depthAll == 0) return;
  const own = hash(stream ^ 0x2545f491);
  const k = f32(1) - left;
  for (let j = 0; j < splitsF; j++) {
    const i = index * u32(splitsF) + u32(j);
    if (j > 0) {
      // Paths before have left their own fog behind.
      recallMedia(CAMERA_LIST);
      follow(camX, camY, camZ, dx, dy, dz, FAR, RAY_FOG, stream, index, 0);
    }
    wavelength = 0;
    draw(own, i, pairAt(0, PAIR_FLIGHT));
    const t = drawScatterSurely(r0);
    recallMedia(CAMERA_LIST);
    recallFogAt(t);
    fogX = camX + dx * t; fogY = camY + dy * t; fogZ = camZ + dz * t;
    draw(own, i, pairAt(0, PAIR_PHASE));
    drawPhase(dx, dy, dz, fogAnisotropy(), r0, r1);
    walk(i, FOG, splitsF, wr * k * fogAlbedo(0), wg * k * fogAlbedo(1), wb * k * fogAlbedo(2));
  }
  wavelength = 0;
}

/** Renders sample `sample` of the pixel (x, y) into the bound tile. */
export function renderSample(x: i32, y: i32, sample: i32): void {
  const half = sample & 1;
  const index = u32(sample >> 1);
  beginSample(half);
  stream = streamOf(seed, u32(y * width + x), u32(half));
  wavelength = 0;
  draw(stream, index, 1);
  const lensU = r0, lensV = r1;
  draw(stream, index, 0);
  cameraRay(x, y, r0, r1, lensU, lensV);
  const dx = camDX, dy = camDY, dz = camDZ;
  recallMedia(CAMERA_LIST);
  follow(camX, camY, camZ, dx, dy, dz, FAR, RAY_CAMERA, stream, index, 0);
  if (seenNothing) return;
  keepMedia(FIRST_LIST);
  let wr: f32 = 1, wg: f32 = 1, wb: f32 = 1;
  const inside = medium();
  if (inside) { fade(inside, seenT); wr = leftR; wg = leftG; wb = leftB; }
  fromDelta = true; fromRole = SEEN;
  const kind = seenLight, triangle = hitTriangle, instance = hitInstance, u = hitU, v = hitV, seen = seenT;
  if (hasFog() && fogLength > 0) {
    const left = fogLeft;
    if (only != ONLY_SURFACES) lightFog(index, dx, dy, dz, wr, wg, wb);
    wr *= left; wg *= left; wb *= left;
    // The fog's paths have met other surfaces.
    if (kind == SURFACE) { recallMedia(FIRST_LIST); loadVertex(triangle, instance, u, v, dx, dy, dz); }
    fromDelta = true; fromRole = SEEN;
  }
  restoreSeen(kind, seen);
  if (seenLight != SURFACE) {
    const shape = seenLight >= 0;
    const depth = shape ? axialDepth(camX + dx * seenT, camY + dy * seenT, camZ + dz * seenT) : f32(Infinity);
    recordFeatures(off2, depth, 0, 0, 0, 0, 0, 0, load<i32>(SCENE_BASE, H_OBJECT_COUNT) + seenLight, shape);
    if (only != ONLY_FOG) bookSeen(dx, dy, dz, wr, wg, wb, 1, CLASS_EMISSION, 0);
    return;
  }
  loadSurface(index);
  recordFeatures(off2, axialDepth(px, py, pz), nx, ny, nz, featureAlbedo(0), featureAlbedo(1), featureAlbedo(2), objectIndex, true);
  if (only == ONLY_FOG) return;
  if (er + eg + eb > 0) bookEmission(dx, dy, dz, wr, wg, wb, 1, CLASS_EMISSION, 0);
  const useD = albedoD > 0, useR = albedoR > 0, useT = albedoT > 0;
  if (hasGather()) {
    gather(0, 0, index, lightSamples, f32(splitsD), f32(splitsR), f32(splitsT), wr, wg, wb, 1, 0, DIFFUSE, 0);
  }
  let fresh = true;
  for (let lobe = DIFFUSE; lobe <= TRANSMISSION; lobe++) {
    if (lobe == DIFFUSE ? !useD : lobe == REFLECTION ? !useR : !useT) continue;
    const copies = lobe == DIFFUSE ? splitsD : lobe == REFLECTION ? splitsR : splitsT;
    for (let j = 0; j < copies; j++) {
      if (!fresh) {
        wavelength = 0;
        recallMedia(FIRST_LIST);
        loadVertex(triangle, instance, u, v, dx, dy, dz);
        loadSurface(index);
      }
      fresh = false;
      const i = index * u32(copies) + u32(j);
      draw(stream, i, pairAt(0, PAIR_LOBE));
      const pick = r1;
      draw(stream, i, pairAt(0, PAIR_DIRECTION));
      if (sampleLobe(lobe, r0, r1, pick)) walk(i, lobe, copies, wr, wg, wb);
    }
  }
}
