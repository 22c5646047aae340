// The path integrator: direct light by multiple importance sampling, each lobe apart; first-hit splits;
// depth limits that cut continuation rays only; every contribution booked once under its group, class
// and bounce. Roulette and lobe choices never look at the limits, so a render at a lower limit is the
// same render with later parts missing.
import {
  closest, clearB, clearCrossed, clearG, clearR, hitInstance, hitT, hitTriangle, hitU, hitV, occluded,
} from './bvh-trace';
import { axialDepth, cameraRay, dx as camDX, dy as camDY, dz as camDZ, off2, ox as camX, oy as camY, oz as camZ } from './camera';
import { beginSample, contribute, countRay, countShadow, recordFeatures } from './film';
import {
  CLASS_CAUSTIC, CLASS_DIRECT_DIFFUSE, CLASS_EMISSION, CLASS_INDIRECT_DIFFUSE, H_OBJECT_COUNT, M_EMIT_GROUP,
  P_DEPTH_ALL, P_DEPTH_DIFFUSE, P_DEPTH_REFLECTION, P_DEPTH_TRANSMISSION, P_LIGHT_SAMPLES, P_REACH, P_ROULETTE_START,
  P_SEED, P_SPLITS_DIFFUSE, P_SPLITS_REFLECTION, P_SPLITS_TRANSMISSION, P_WIDTH, RAY_CAMERA, RAY_DIFFUSE, RAY_TWIN,
  SCENE_BASE, SCRATCH_PARAMS,
} from './layout';
import {
  canBeMet, chosen, environmentLight, environmentRadiance, groupOf, lb, lg, lightBlocks, lightPdf, lr, meet, metLight, metT,
  radianceOf, sDistance, sPdf, sampleLight, sx, sy, sz,
} from './lights';
import { draw, r0, r1, streamOf } from './sobol';
import {
  DIFFUSE, REFLECTION, TRANSMISSION, absorption, albedoD, albedoR, albedoT, density, dirX, dirY, dirZ, eb, eg, epsilon, er,
  evaluate, fDB, fDG, fDR, fRB, fRG, fRR, fTB, fTG, fTR, featureAlbedo, gx, gy, gz, insideAbsorbs, isClearPane, isMirror,
  isSharp, loadVertex, material, nx, ny, nz, objectIndex, pD, pR, pT, px, py, pz, sampleLobe, weightB, weightG, weightR,
} from './surface';

const FAR: f32 = 1e30;
/** Pairs of dimensions: 0 pixel, 1 lens, 2 time and wavelength, then eight a vertex. */
const FIRST_VERTEX_PAIR: u32 = 3;
const VERTEX_PAIRS: u32 = 8;
const PAIR_DIRECTION: u32 = 0;
const PAIR_LIGHT: u32 = 1;
const PAIR_PICK: u32 = 2;
const PAIR_ROULETTE: u32 = 3;
const PAIR_LOBE: u32 = 4;

let seed: u32 = 0;
let width: i32 = 0;
let splitsD: i32 = 1, splitsR: i32 = 1, splitsT: i32 = 1;
let lightSamples: i32 = 1;
let depthAll: i32 = 0, depthD: i32 = 0, depthR: i32 = 0, depthT: i32 = 0;
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
  lightSamples = load<i32>(p, P_LIGHT_SAMPLES);
  depthAll = load<i32>(p, P_DEPTH_ALL);
  depthD = load<i32>(p, P_DEPTH_DIFFUSE);
  depthR = load<i32>(p, P_DEPTH_REFLECTION);
  depthT = load<i32>(p, P_DEPTH_TRANSMISSION);
  rouletteStart = load<i32>(p, P_ROULETTE_START);
  reach = load<f32>(p, P_REACH);
}

/** Result of `follow`: the light met (-1 = none; the environment counts as its light) or a triangle. */
let seenLight: i32 = -1;
let seenT: f32 = 0;

function follow(ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32): void {
  closest(ox, oy, oz, dx, dy, dz, 0, FAR);
  meet(ox, oy, oz, dx, dy, dz, 0, hitT);
  seenLight = metLight;
  seenT = metLight >= 0 ? metT : hitT;
  if (seenLight < 0 && hitTriangle < 0) seenLight = environmentLight();
}

/** Sets lr, lg, lb to what the light or environment met sends against d. */
function seenRadiance(dx: f32, dy: f32, dz: f32): void {
  if (metLight >= 0) radianceOf(metLight, dx, dy, dz); else environmentRadiance(dx, dy, dz);
}

// @ts-ignore: decorator
@inline
function pairAt(vertex: i32, pair: u32): u32 {
  return FIRST_VERTEX_PAIR + u32(vertex) * VERTEX_PAIRS + pair;
}

/** 0 = no diffuse vertex yet, 1 = the last scattering was diffuse, 2 = only sharp lobes since: a caustic. */
// @ts-ignore: decorator
@inline
function causticAfter(state: i32, lobe: i32): i32 {
  if (lobe == DIFFUSE) return 1;
  return state > 0 && isSharp ? 2 : 0;
}

// @ts-ignore: decorator
@inline
function classOf(state: i32, vertices: i32, firstLobe: i32): i32 {
  if (state == 2) return CLASS_CAUSTIC;
  return vertices == 1 ? CLASS_DIRECT_DIFFUSE + firstLobe : CLASS_INDIRECT_DIFFUSE + firstLobe;
}

/**
 * Direct light at the loaded vertex, `count` samples. sD, sR, sT: how many continuation samples each lobe
 * gets there (or the probability of its one). Vertices are numbered from 0.
 */
function gather(
  vertex: i32, index: u32, count: i32, sD: f32, sR: f32, sT: f32,
  tr: f32, tg: f32, tb: f32, share: f32, state: i32, firstLobe: i32, bounce: i32,
): void {
  const part = share / f32(count);
  for (let j = 0; j < count; j++) {
    const i = index * u32(count) + u32(j);
    draw(stream, i, pairAt(vertex, PAIR_PICK));
    const pick = r0;
    draw(stream, i, pairAt(vertex, PAIR_LIGHT));
    if (!sampleLight(px, py, pz, pick, r0, r1)) continue;
    evaluate(sx, sy, sz);
    if (fDR + fDG + fDB + fRR + fRG + fRB + fTR + fTG + fTB <= 0) continue;
    const light = chosen, group = groupOf(light);
    const dx = sx, dy = sy, dz = sz;
    const out: f32 = dx * gx + dy * gy + dz * gz > 0 ? epsilon : -epsilon;
    const ox = px + gx * out, oy = py + gy * out, oz = pz + gz * out;
    const far = sDistance * f32(0.9999) - epsilon;
    countShadow(group);
    if (lightBlocks(ox, oy, oz, dx, dy, dz, 0, far, light) || occluded(ox, oy, oz, dx, dy, dz, 0, far)) continue;
    const n = f32(count) * sPdf;
    const kr = tr * lr * clearR / sPdf, kg = tg * lg * clearG / sPdf, kb = tb * lb * clearB / sPdf;
    // Light that came straight through a pane, or from a light no ray can meet, is counted here alone.
    const alone = clearCrossed || !canBeMet(light);
    if (pD > 0) {
      const w = alone ? f32(1) : n / (n + sD * pD);
      contribute(kr * fDR * w, kg * fDG * w, kb * fDB * w, part, group, classOf(causticAfter(state, DIFFUSE), vertex + 1, vertex ? firstLobe : DIFFUSE), bounce);
    }
    if (pR > 0) {
      const w = alone ? f32(1) : n / (n + sR * pR);
      contribute(kr * fRR * w, kg * fRG * w, kb * fRB * w, part, group, classOf(causticAfter(state, REFLECTION), vertex + 1, vertex ? firstLobe : REFLECTION), bounce);
    }
    if (pT > 0) {
      const w = alone ? f32(1) : n / (n + sT * pT);
      contribute(kr * fTR * w, kg * fTG * w, kb * fTB * w, part, group, classOf(causticAfter(state, TRANSMISSION), vertex + 1, vertex ? firstLobe : TRANSMISSION), bounce);
    }
  }
}

// @ts-ignore: decorator
@inline
function hasGather(): bool {
  return albedoD > 0 || (!isMirror && (albedoR > 0 || albedoT > 0));
}

/**
 * Follows one path from the loaded first vertex through `lobe`, whose direction has just been sampled.
 * `copies` is how many such paths share the vertex.
 */
function walk(index: u32, lobe: i32, copies: i32): void {
  const firstLobe = lobe;
  const share = f32(1) / f32(copies);
  let tr = weightR, tg = weightG, tb = weightB;
  let count = 0, countD = 0, countR = 0, countT = 0;
  let vertices = 1;
  let state = causticAfter(0, lobe);
  let gathered = hasGather();
  // Of the vertex the ray leaves: whether its lobe is a delta, its MIS strength, how many light samples it took.
  let delta = density == 0;
  let strength = density * f32(copies);
  let lightCount: f32 = f32(lightSamples);
  let vx = px, vy = py, vz = pz;
  // Whether only clear panes lie between here and the last vertex that gathered light.
  let straight = false;
  let current = lobe;
  let out: f32 = current == TRANSMISSION ? -epsilon : epsilon;
  let ox = px + gx * out, oy = py + gy * out, oz = pz + gz * out;
  let dx = dirX, dy = dirY, dz = dirZ;
  while (true) {
    const before = count;
    count++;
    let alive = count <= depthAll;
    if (current == DIFFUSE) { countD++; alive = alive && countD <= depthD; }
    else if (current == REFLECTION) { countR++; alive = alive && countR <= depthR; }
    else { countT++; alive = alive && countT <= depthT; }
    if (!alive && delta) return;
    countRay(alive ? RAY_DIFFUSE + current : RAY_TWIN);
    follow(ox, oy, oz, dx, dy, dz);
    const far = seenT > reach;
    if (seenLight >= 0) {
      if (straight || (delta && far)) return;
      seenRadiance(dx, dy, dz);
      if (lr + lg + lb <= 0) return;
      let w: f32 = 1;
      if (!delta) {
        const p = lightCount * lightPdf(seenLight, vx, vy, vz, dx, dy, dz, seenT);
        w = strength / (strength + p);
      }
      contribute(tr * lr * w, tg * lg * w, tb * lb * w, share, groupOf(seenLight), classOf(state, vertices, firstLobe), delta ? count : before);
      return;
    }
    if (hitTriangle < 0) return;
    if (far && delta) return;
    loadVertex(hitTriangle, hitInstance, hitU, hitV, dx, dy, dz);
    if (insideAbsorbs()) {
      tr *= absorption(0, seenT); tg *= absorption(1, seenT); tb *= absorption(2, seenT);
    }
    if (er + eg + eb > 0) {
      contribute(tr * er, tg * eg, tb * eb, share, i32(load<f32>(material, M_EMIT_GROUP)), classOf(state, vertices, firstLobe), delta ? count : before);
    }
    if (!alive || far) return;
    const whole = albedoD + albedoR + albedoT;
    if (whole <= 0) return;
    const qD = albedoD / whole, qR = albedoR / whole, qT = albedoT / whole;
    const gathers = hasGather();
    if (gathers) {
      const n = gathered ? 1 : lightSamples;
      gathered = true;
      lightCount = f32(n);
      gather(vertices, index, n, qD, qR, qT, tr, tg, tb, share, state, firstLobe, count);
    }
    draw(stream, index, pairAt(vertices, PAIR_LOBE));
    current = r0 < qD ? DIFFUSE : r0 < qD + qR ? REFLECTION : TRANSMISSION;
    if (current == TRANSMISSION && qT <= 0) current = qR > 0 ? REFLECTION : DIFFUSE;
    const q = current == DIFFUSE ? qD : current == REFLECTION ? qR : qT;
    draw(stream, index, pairAt(vertices, PAIR_DIRECTION));
    if (!sampleLobe(current, r0, r1)) return;
    tr *= weightR / q; tg *= weightG / q; tb *= weightB / q;
    const passes = current == TRANSMISSION && isClearPane();
    straight = passes ? straight || !delta : false;
    state = causticAfter(state, current);
    delta = density == 0;
    strength = density * q;
    vx = px; vy = py; vz = pz;
    vertices++;
    if (count >= rouletteStart) {
      const p = min<f32>(max<f32>(max<f32>(tr, max<f32>(tg, tb)), f32(0.05)), 1);
      if (p < 1) {
        draw(stream, index, pairAt(vertices, PAIR_ROULETTE));
        if (r0 >= p) return;
        tr /= p; tg /= p; tb /= p;
      }
    }
    out = current == TRANSMISSION ? -epsilon : epsilon;
    ox = px + gx * out; oy = py + gy * out; oz = pz + gz * out;
    dx = dirX; dy = dirY; dz = dirZ;
  }
}

/** Renders sample `sample` of the pixel (x, y) into the bound tile. */
export function renderSample(x: i32, y: i32, sample: i32): void {
  const half = sample & 1;
  const index = u32(sample >> 1);
  beginSample(half);
  stream = streamOf(seed, u32(y * width + x), u32(half));
  draw(stream, index, 1);
  const lensU = r0, lensV = r1;
  draw(stream, index, 0);
  cameraRay(x, y, r0, r1, lensU, lensV);
  const dx = camDX, dy = camDY, dz = camDZ;
  countRay(RAY_CAMERA);
  follow(camX, camY, camZ, dx, dy, dz);
  if (seenLight >= 0 || hitTriangle < 0) {
    const shape = metLight >= 0;
    const depth = shape ? axialDepth(camX + dx * seenT, camY + dy * seenT, camZ + dz * seenT) : f32(Infinity);
    recordFeatures(off2, depth, 0, 0, 0, 0, 0, 0, load<i32>(SCENE_BASE, H_OBJECT_COUNT) + metLight, shape);
    if (seenLight < 0) return;
    seenRadiance(dx, dy, dz);
    contribute(lr, lg, lb, 1, groupOf(seenLight), CLASS_EMISSION, 0);
    return;
  }
  const triangle = hitTriangle, instance = hitInstance, u = hitU, v = hitV;
  loadVertex(triangle, instance, u, v, dx, dy, dz);
  recordFeatures(off2, axialDepth(px, py, pz), nx, ny, nz, featureAlbedo(0), featureAlbedo(1), featureAlbedo(2), objectIndex, true);
  if (er + eg + eb > 0) contribute(er, eg, eb, 1, i32(load<f32>(material, M_EMIT_GROUP)), CLASS_EMISSION, 0);
  const useD = albedoD > 0, useR = albedoR > 0, useT = albedoT > 0;
  if (hasGather()) {
    gather(0, index, lightSamples, f32(splitsD), f32(splitsR), f32(splitsT), 1, 1, 1, 1, 0, DIFFUSE, 0);
  }
  let fresh = true;
  for (let lobe = DIFFUSE; lobe <= TRANSMISSION; lobe++) {
    if (lobe == DIFFUSE ? !useD : lobe == REFLECTION ? !useR : !useT) continue;
    const copies = lobe == DIFFUSE ? splitsD : lobe == REFLECTION ? splitsR : splitsT;
    for (let j = 0; j < copies; j++) {
      if (!fresh) loadVertex(triangle, instance, u, v, dx, dy, dz);
      fresh = false;
      const i = index * u32(copies) + u32(j);
      draw(stream, i, pairAt(0, PAIR_DIRECTION));
      if (sampleLobe(lobe, r0, r1)) walk(i, lobe, copies);
    }
  }
}
