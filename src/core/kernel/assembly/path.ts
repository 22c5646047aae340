// The path integrator: first-hit splits; depth limits that cut continuation rays only; every contribution booked
// once under its group, class and bounce. Roulette and lobe choices never look at the limits, so a render at a
// lower limit is the same render with later parts missing.
import { hitInstance, hitTriangle, hitU, hitV } from './bvh-trace';
import {
  cameraRay, dx as camDX, dy as camDY, dz as camDZ, far as camFar, moveCamera, off2, ox as camX, oy as camY, oz as camZ,
} from './camera';
import { catchShadow } from './catch';
import { recordNoSurface, recordSurface } from './features';
import { beginSample, endSample, keepsLost, ledgerOf, loseTo, setLedger } from './film';
import {
  drawScatter, drawScatterSurely, fogAlbedo, fogAnisotropy, fogChance, fogLeft, fogLength, fogLight, hasFog, pickFogLight, recallFogAt,
} from './fog';
import { FAR, NOTHING, SKY, SURFACE, bindFollow, findCameraMedia, follow, restoreSeen, seenLight, seenNothing, seenT } from './follow';
import {
  FOCUSED, MATT, NO_CAUSTIC, PAIR_DIRECTION, PAIR_FLIGHT, PAIR_LIGHT, PAIR_LOBE, PAIR_PHASE, PAIR_PICK, PAIR_ROULETTE, beginStream, causticAfter, classOf,
  clearWavelength, gather, gatherFog, keepWavelength, loadSurface, pairAt, shadeFog, spreadB, spreadG, spreadR, stream,
} from './gather';
import {
  AXIS_REACH, CLASS_DIRECT_FOG, CLASS_EMISSION, H_OBJECT_COUNT, LEDGER_PLANES, LIMIT_ALL, LIMIT_DIFFUSE, LIMIT_OBJECT, LIMIT_REACH,
  MOST_LOST_RAYS, MOST_WALK_EVENTS, OBJECT_CATCHER, OBJECT_HOLDOUT, ONLY_FOG, ONLY_SURFACES, P_CAM_X, P_CAM_Y, P_CAM_Z,
  P_DEPTH_ALL, P_DEPTH_DIFFUSE, P_DEPTH_FOG, P_DEPTH_REFLECTION, P_DEPTH_TRANSMISSION, P_HOLES, P_LIGHT_SAMPLES, P_LOST_CHANCE,
  P_ONLY, P_REACH, P_ROULETTE_START, P_SEED, P_SOFTEN_CAUSTICS, P_SPLITS_DIFFUSE, P_SPLITS_FOG, P_SPLITS_REFLECTION,
  P_SPLITS_TRANSMISSION, P_WIDTH, RAY_CAMERA, RAY_DIFFUSE, RAY_FOG, RAY_TRANSMISSION, RAY_TWIN, REACH_EXPONENT, SCENE_BASE,
  SCRATCH_PARAMS,
} from './layout';
import { IN_FOG, SEEN, THROUGH } from './light-records';
import {
  DIFFUSE, FOG, REFLECTION, TRANSMISSION, density, dirX, dirY, dirZ, hasRoughReflection, sampleLobe, weightB, weightG, weightR,
} from './lobes';
import { albedoD, albedoR, albedoT, eb, eg, er, isClearPane, mirrorT, softenTo } from './material';
import {
  CAMERA_LIST, FIRST_LIST, TWIN_LIST, anisotropyOf, cross, drawFlight, drawPhase, fade, isSolid, keepMedia, leftB, leftG, leftR, medium, phX, phY, phZ,
  recallMedia, scatters, weighFlight,
} from './media';
import { bookEmission, bookSeen, leave, leaveUnlit, roleOf } from './met';
import { beginTime } from './poses';
import { allows, hasRules, needsTwin, samplesFor } from './rules';
import { draw, hash, r0, r1, streamOf } from './sobol';
import {
  epsilon, front, gx, gy, gz, loadVertex, lookAsCamera, objectFlags, objectIndex, px, py, pz, record,
} from './vertex';

let seed: u32 = 0;
let width: i32 = 0;
let splitsD: i32 = 1, splitsR: i32 = 1, splitsT: i32 = 1, splitsF: i32 = 1;
let only: i32 = 0;
let lightSamples: i32 = 1;
let depthAll: i32 = 0, depthD: i32 = 0, depthR: i32 = 0, depthT: i32 = 0, depthF: i32 = 0;
let rouletteStart: i32 = 0;
let reach: f32 = 0;
let soften: f32 = 0;
let lostChance: f32 = 0;

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
  soften = load<f32>(p, P_SOFTEN_CAUSTICS);
  lostChance = load<f32>(p, P_LOST_CHANCE);
  bindFollow(load<i32>(p, P_HOLES));
  if (width > 0) findCameraMedia(load<f32>(p, P_CAM_X), load<f32>(p, P_CAM_Y), load<f32>(p, P_CAM_Z));
}

// @ts-ignore: decorator
@inline
function hasGather(): bool {
  return albedoD > 0 || hasRoughReflection() || (albedoT > 0 && !mirrorT);
}

/**
 * Follows one path from the loaded first vertex through `lobe`, whose direction has just been sampled.
 * `copies` is how many such paths share the vertex, `firstPicks` how many light samples were taken there, w what is left of light on the way to the camera.
 */
function walk(index: u32, lobe: i32, copies: i32, firstPicks: i32, wr: f32, wg: f32, wb: f32): void {
  beginBooking();
  const firstLobe = lobe;
  const share = f32(1) / f32(copies);
  const begins = lobe == FOG;
  let tr = begins ? wr : wr * weightR, tg = begins ? wg : wg * weightG, tb = begins ? wb : wb * weightB;
  let count = 0, countD = 0, countR = 0, countT = 0, countF = 0;
  let vertices = 1, step = 1;
  let state = causticAfter(NO_CAUSTIC, lobe);
  let leaving = begins ? -1 : objectIndex;
  let gathered = begins || hasGather();
  let delta = begins || density == 0;
  // Whether the camera still sees what is to come: only mirrors and clear glass so far.
  let inView = delta && !begins;
  leave(px, py, pz, objectIndex, roleOf(lobe, delta), delta, density * f32(copies), f32(firstPicks));
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
    keepWavelength();
    if (isSolid(record)) cross(record, front);
  }
  // Whether the ray is one of a walk inside a scattering interior, which counts as the ray that began it.
  let walking = false, alive = true;
  let events = 0;
  // Whether a limit has been met, and whether this path is one of those followed beyond it.
  let limit = -1;
  let beyond = false;
  const survives = keepsLost() && f32(hash(stream ^ hash(index + 0x51f15e9d)) >> 8) * f32(5.9604644775390625e-8) < lostChance;
  let longest: f32 = 0;
  let stepsBefore = 0, stepsNow = 0;
  while (true) {
    if (!walking) {
      count++;
      const axis = ledgerOf();
      stepsBefore = stepsNow;
      let ofKind = 0, most = 0;
      if (current == DIFFUSE) { ofKind = ++countD; most = depthD; }
      else if (current == REFLECTION) { ofKind = ++countR; most = depthR; }
      else if (current == TRANSMISSION) { ofKind = ++countT; most = depthT; }
      else { ofKind = ++countF; most = depthF; }
      if (axis != AXIS_REACH && current == axis - 1) stepsNow = ofKind;
      setLedger(count, stepsNow, stepsBefore);
      if (beyond) {
        if (count > MOST_LOST_RAYS) return;
      } else {
        if (count > depthAll) limit = LIMIT_ALL;
        else if (ofKind > most) limit = LIMIT_DIFFUSE + current;
        else if (leaving >= 0 && hasRules() && !allows(leaving, current, count, ofKind)) limit = LIMIT_OBJECT;
        alive = limit < 0;
        if (!alive && delta) {
          if (!survives) return;
          beyond = true; alive = true;
          loseTo(limit);
        }
      }
      events = 0;
    }
    const inside = medium();
    const murky = scatters(inside);
    if (!walking && !delta && !straight && !murky && needsTwin(current)) {
      lookForLight(inside, ox, oy, oz, dx, dy, dz, index, step, tr, tg, tb, share, classOf(state, vertices, firstLobe), count);
      if (!alive) {
        if (!survives) return;
        beyond = true; alive = true;
        loseTo(limit);
      }
      straight = true;
    }
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
        if (++events > MOST_WALK_EVENTS) return;
        if (!alive) {
          if (!survives) return;
          beyond = true; alive = true;
          loseTo(limit);
        }
        // Light that has scattered is no longer focused: what it makes is no caustic.
        if (state >= FOCUSED) state = MATT;
        walking = true;
        delta = true;
        leaveUnlit(THROUGH);
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
        if (!alive) {
          if (!survives) return;
          beyond = true; alive = true;
          loseTo(limit);
        }
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
        leaving = -1;
        walking = false;
        state = MATT;
        delta = true;
        leaveUnlit(IN_FOG);
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
    const far = !beyond && seenT > reach;
    if (ledgerOf() == AXIS_REACH && !walking) {
      stepsBefore = bandOf(longest);
      longest = max<f32>(longest, seenLight == SKY ? FAR : seenT);
      stepsNow = bandOf(longest);
      setLedger(count, stepsNow, stepsBefore);
    }
    if (far && delta) {
      if (!survives) return;
      beyond = true; alive = true;
      loseTo(LIMIT_REACH);
    }
    if (seenLight != SURFACE) {
      if (!straight) bookSeen(dx, dy, dz, tr, tg, tb, share, classOf(state, vertices, firstLobe), count);
      return;
    }
    softenTo(state == NO_CAUSTIC ? f32(0) : soften);
    loadSurface(index);
    softenTo(0);
    if (er + eg + eb > 0 && !straight) bookEmission(dx, dy, dz, tr, tg, tb, share, classOf(state, vertices, firstLobe), count);
    if (!beyond && (!alive || far)) {
      if (!survives) return;
      beyond = true; alive = true;
      loseTo(far ? LIMIT_REACH : limit);
    }
    const whole = albedoD + albedoR + albedoT;
    if (whole <= 0) return;
    const qD = albedoD / whole, qR = albedoR / whole, qT = albedoT / whole;
    let picks = 1;
    if (hasGather()) {
      picks = gathered ? 1 : lightSamples;
      gathered = true;
      gather(step, vertices, index, picks, qD, qR, qT, tr, tg, tb, share, state, firstLobe, count);
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
    leaving = objectIndex;
    leave(px, py, pz, objectIndex, roleOf(current, delta), delta, density * q, f32(picks));
    inView = inView && delta;
    if (!walking) vertices++;
    step++;
    if (current == TRANSMISSION) {
      tr *= spreadR; tg *= spreadG; tb *= spreadB;
      keepWavelength();
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

/**
 * Books the light that a direction chosen by a lobe meets as light samples would see it, where continuation rays of that
 * lobe see other things.
 */
function lookForLight(
  inside: usize, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32, index: u32, step: i32,
  tr: f32, tg: f32, tb: f32, share: f32, pathClass: i32, bounce: i32,
): void {
  keepMedia(TWIN_LIST);
  follow(ox, oy, oz, dx, dy, dz, FAR, RAY_TWIN, stream, index, step);
  recallMedia(TWIN_LIST);
  if (seenNothing) return;
  if (inside) { fade(inside, seenT); tr *= leftR; tg *= leftG; tb *= leftB; }
  if (hasFog() && fogLength > 0) { tr *= fogLeft; tg *= fogLeft; tb *= fogLeft; }
  if (seenLight != SURFACE) { bookSeen(dx, dy, dz, tr, tg, tb, share, pathClass, bounce); return; }
  loadSurface(index);
  if (er + eg + eb > 0) bookEmission(dx, dy, dz, tr, tg, tb, share, pathClass, bounce);
}

/** Band of a ray's length on the ledger's axis of reach. */
function bandOf(metres: f32): i32 {
  let band = 0;
  let most: f32 = f32(1.0 / f64(1 << -REACH_EXPONENT));
  while (metres > most && band < LEDGER_PLANES - 1) { band++; most *= 2; }
  return band;
}

let fogX: f32 = 0, fogY: f32 = 0, fogZ: f32 = 0;

/** Light that the fog between camera and first hit scatters: direct, and by paths that go on from there. */
function lightFog(index: u32, dx: f32, dy: f32, dz: f32, wr: f32, wg: f32, wb: f32): void {
  const left = fogLeft;
  gatherFog(0, index, splitsF, camX, camY, camZ, dx, dy, dz, wr, wg, wb, 1, CLASS_DIRECT_FOG, 0);
  if ((depthF == 0 || depthAll == 0) && !keepsLost()) return;
  const own = hash(stream ^ 0x2545f491);
  const k = f32(1) - left;
  for (let j = 0; j < splitsF; j++) {
    const i = index * u32(splitsF) + u32(j);
    if (j > 0) {
      // Paths before have left their own fog behind.
      recallMedia(CAMERA_LIST);
      follow(camX, camY, camZ, dx, dy, dz, camFar, RAY_FOG, stream, index, 0);
    }
    clearWavelength();
    draw(own, i, pairAt(0, PAIR_FLIGHT));
    const t = drawScatterSurely(r0);
    recallMedia(CAMERA_LIST);
    recallFogAt(t);
    fogX = camX + dx * t; fogY = camY + dy * t; fogZ = camZ + dz * t;
    draw(own, i, pairAt(0, PAIR_PHASE));
    drawPhase(dx, dy, dz, fogAnisotropy(), r0, r1);
    walk(i, FOG, splitsF, lightSamples, wr * k * fogAlbedo(0), wg * k * fogAlbedo(1), wb * k * fogAlbedo(2));
  }
  clearWavelength();
}

/** Makes what comes next light of a path without continuation rays, within all limits. */
function beginBooking(): void {
  loseTo(-1);
  setLedger(0, 0, 0);
}

/** Number of the object that the camera ray of the sample hit first; -1 = none. */
let firstObject: i32 = -1;

/** Renders sample `sample` of the pixel (x, y) into the bound tile. */
export function renderSample(x: i32, y: i32, sample: i32): void {
  firstObject = -1;
  traceSample(x, y, sample);
  endSample(firstObject);
}

function traceSample(x: i32, y: i32, sample: i32): void {
  const half = sample & 1;
  const index = u32(sample >> 1);
  beginSample(half);
  beginBooking();
  beginStream(streamOf(seed, u32(y * width + x), u32(half)));
  clearWavelength();
  draw(stream, index, 1);
  const lensU = r0, lensV = r1;
  draw(stream, index, 0);
  const u1 = r0, v1 = r1;
  draw(stream, index, 2);
  beginTime(r0);
  moveCamera(r0);
  cameraRay(x, y, u1, v1, lensU, lensV);
  const dx = camDX, dy = camDY, dz = camDZ;
  recallMedia(CAMERA_LIST);
  follow(camX, camY, camZ, dx, dy, dz, camFar, RAY_CAMERA, stream, index, 0);
  if (seenNothing) return;
  const beyond = seenLight == NOTHING;
  keepMedia(FIRST_LIST);
  let wr: f32 = 1, wg: f32 = 1, wb: f32 = 1;
  const inside = medium();
  if (inside) { fade(inside, seenT); wr = leftR; wg = leftG; wb = leftB; }
  leaveUnlit(SEEN);
  const kind = seenLight, triangle = hitTriangle, instance = hitInstance, u = hitU, v = hitV, seen = seenT;
  if (hasFog() && fogLength > 0) {
    const left = fogLeft;
    if (only != ONLY_SURFACES) {
      lightFog(index, dx, dy, dz, wr, wg, wb);
      beginBooking();
    }
    wr *= left; wg *= left; wb *= left;
    // The fog's paths have met other surfaces.
    if (kind == SURFACE) { recallMedia(FIRST_LIST); lookAsCamera(true); loadVertex(triangle, instance, u, v, dx, dy, dz); }
    leaveUnlit(SEEN);
  }
  restoreSeen(kind, seen);
  if (seenLight != SURFACE) {
    if (beyond) return;
    const shape = seenLight >= 0;
    recordNoSurface(
      off2, load<i32>(SCENE_BASE, H_OBJECT_COUNT) + seenLight, shape, camX + dx * seenT, camY + dy * seenT, camZ + dz * seenT, seenT,
    );
    if (only != ONLY_FOG) bookSeen(dx, dy, dz, wr, wg, wb, 1, CLASS_EMISSION, 0);
    return;
  }
  loadSurface(index);
  firstObject = objectIndex;
  const withheld = (objectFlags & (OBJECT_CATCHER | OBJECT_HOLDOUT)) != 0;
  recordSurface(off2, index, !withheld, instance, triangle, u, v);
  if (only == ONLY_FOG) return;
  if (withheld) {
    if (objectFlags & OBJECT_CATCHER) catchShadow(index, lightSamples);
    return;
  }
  let splitD = splitsD, splitR = splitsR, splitT = splitsT, picks = lightSamples;
  if (hasRules()) {
    splitD = samplesFor(objectIndex, splitD); splitR = samplesFor(objectIndex, splitR); splitT = samplesFor(objectIndex, splitT);
    picks = samplesFor(objectIndex, picks);
  }
  if (er + eg + eb > 0) bookEmission(dx, dy, dz, wr, wg, wb, 1, CLASS_EMISSION, 0);
  const useD = albedoD > 0, useR = albedoR > 0, useT = albedoT > 0;
  if (hasGather()) {
    gather(0, 0, index, picks, f32(splitD), f32(splitR), f32(splitT), wr, wg, wb, 1, NO_CAUSTIC, DIFFUSE, 0);
  }
  let fresh = true;
  for (let lobe = DIFFUSE; lobe <= TRANSMISSION; lobe++) {
    if (lobe == DIFFUSE ? !useD : lobe == REFLECTION ? !useR : !useT) continue;
    const copies = lobe == DIFFUSE ? splitD : lobe == REFLECTION ? splitR : splitT;
    for (let j = 0; j < copies; j++) {
      if (!fresh) {
        clearWavelength();
        recallMedia(FIRST_LIST);
        lookAsCamera(true);
        loadVertex(triangle, instance, u, v, dx, dy, dz);
        loadSurface(index);
      }
      fresh = false;
      const i = index * u32(copies) + u32(j);
      draw(stream, i, pairAt(0, PAIR_LOBE));
      const pick = r1;
      draw(stream, i, pairAt(0, PAIR_DIRECTION));
      if (sampleLobe(lobe, r0, r1, pick)) walk(i, lobe, copies, picks, wr, wg, wb);
    }
  }
}
