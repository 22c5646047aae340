// A sample of a pixel: the camera's ray, fog on its way, the first hit with its data, light gathered there, and splits.
import { hitInstance, hitTriangle, hitU, hitV } from './bvh-trace';
import {
  cameraRay, dx as camDX, dy as camDY, dz as camDZ, far as camFar, moveCamera, off2, ox as camX, oy as camY, oz as camZ,
} from './camera';
import { catchShadow, receiveUnshadowed } from './catch';
import { recordNoSurface, recordSurface } from './features';
import { beginSample, endSample, keepsUnshadowed } from './film';
import { drawScatterSurely, fogAlbedo, fogAnisotropy, fogLeft, fogLength, hasFog, recallFogAt } from './fog';
import { NOTHING, SURFACE, bindFollow, findCameraMedia, follow, restoreSeen, seenLight, seenNothing, seenT } from './follow';
import {
  NO_CAUSTIC, PAIR_DIRECTION, PAIR_FLIGHT, PAIR_LOBE, PAIR_PHASE, beginStream, clearWavelength, gather, loadSurface,
  pairAt, stream,
} from './gather';
import {
  CLASS_DIRECT_FOG, CLASS_EMISSION, END_CLIP, END_HOLES, END_LIGHT, END_ROULETTE, END_SKY, H_MOVING, H_MOVING_LIGHTS, H_OBJECT_COUNT, OBJECT_CATCHER, OBJECT_HOLDOUT, ONLY_FOG, ONLY_SURFACES, P_CAMERA_STEPS, P_CAM_X, P_CAM_Y,
  P_CAM_Z, P_HOLES, P_LENS_RADIUS, P_LIGHT_SAMPLES, P_ONLY, P_SEED, P_SPLITS_DIFFUSE, P_SPLITS_FOG, P_SPLITS_REFLECTION, P_SPLITS_TRANSMISSION,
  P_WIDTH, RAY_CAMERA, RAY_FOG, SCENE_BASE, SCRATCH_PARAMS,
} from './layout';
import { gatherFog } from './gather-fog';
import { guideSurface, keepsGuides, noteFirst } from './guides';
import { placeLights, SEEN } from './light-records';
import { DIFFUSE, FOG, REFLECTION, TRANSMISSION, sampleLobe } from './lobes';
import { albedoD, albedoR, albedoT, eb, eg, er } from './material';
import { CAMERA_LIST, FIRST_LIST, drawPhase, fade, keepMedia, leftB, leftG, leftR, medium, recallMedia, scatters } from './media';
import { bookEmission, bookSeen, leaveUnlit } from './met';
import { beginTime } from './poses';
import { beginRoulette, bindRoulette, chanceOfLobe } from './roulette';
import { hasRules, samplesFor } from './rules';
import { beginSight } from './sight';
import { draw, hash, r0, r1, streamOf } from './sobol';
import { keepsTrail, noteEnd, noteVertex } from './trail';
import { loadVertex, lookAsCamera, objectFlags, objectIndex, px, py, pz } from './vertex';
import { beginBooking, beginInFog, bindWalk, goesOnFromFog, hasGather, walk } from './walk';

let seed: u32 = 0;
let width: i32 = 0;
let splitsD: i32 = 1, splitsR: i32 = 1, splitsT: i32 = 1, splitsF: i32 = 1;
let only: i32 = 0;
let lightSamples: i32 = 1;
/** Whether anything moves over the shutter, and whether the aperture has an extent. */
let moves: bool = false, hasLens: bool = false;

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
  moves = load<i32>(p, P_CAMERA_STEPS) > 1 || load<i32>(SCENE_BASE, H_MOVING) > 0 || load<i32>(SCENE_BASE, H_MOVING_LIGHTS) > 0;
  hasLens = load<f32>(p, P_LENS_RADIUS) > 0;
  bindWalk(base);
  bindRoulette(base);
  bindFollow(load<i32>(p, P_HOLES));
  if (width > 0) findCameraMedia(load<f32>(p, P_CAM_X), load<f32>(p, P_CAM_Y), load<f32>(p, P_CAM_Z));
}

/** Light that the fog between camera and first hit scatters: direct, and by paths that go on from there. */
function lightFog(index: u32, dx: f32, dy: f32, dz: f32, wr: f32, wg: f32, wb: f32): void {
  const left = fogLeft;
  gatherFog(0, index, splitsF, camX, camY, camZ, dx, dy, dz, wr, wg, wb, 1, CLASS_DIRECT_FOG, 0);
  if (!goesOnFromFog()) return;
  const own = hash(stream ^ 0x2545f491);
  const k = f32(1) - left;
  // What stands behind is not known yet: a middling surface.
  beginRoulette(max<f32>(wr, max<f32>(wg, wb)) * (k + f32(0.5) * left));
  const chance = chanceOfLobe(k, 1);
  let fresh = true;
  for (let j = 0; j < splitsF; j++) {
    const i = index * u32(splitsF) + u32(j);
    draw(own, i, pairAt(0, PAIR_FLIGHT));
    const u = r0;
    if (r1 >= chance) {
      if (keepsTrail()) noteEnd(END_ROULETTE, -1);
      continue;
    }
    if (!fresh) {
      // Paths before have left their own fog behind.
      recallMedia(CAMERA_LIST);
      follow(camX, camY, camZ, dx, dy, dz, camFar, RAY_FOG, stream, index, 0);
    }
    fresh = false;
    clearWavelength();
    const t = drawScatterSurely(u);
    recallMedia(CAMERA_LIST);
    recallFogAt(t);
    beginInFog(camX + dx * t, camY + dy * t, camZ + dz * t);
    draw(own, i, pairAt(0, PAIR_PHASE));
    drawPhase(dx, dy, dz, fogAnisotropy(), r0, r1);
    walk(i, FOG, f32(splitsF) * chance, lightSamples, wr * k * fogAlbedo(0), wg * k * fogAlbedo(1), wb * k * fogAlbedo(2));
  }
  clearWavelength();
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
  beginSight();
  beginStream(streamOf(seed, u32(y * width + x), u32(half)));
  clearWavelength();
  if (moves) {
    draw(stream, index, 2);
    beginTime(r0);
    placeLights();
    moveCamera(r0);
  }
  let lensU: f32 = 0, lensV: f32 = 0;
  if (hasLens) {
    draw(stream, index, 1);
    lensU = r0; lensV = r1;
  }
  draw(stream, index, 0);
  cameraRay(x, y, r0, r1, lensU, lensV);
  const dx = camDX, dy = camDY, dz = camDZ;
  recallMedia(CAMERA_LIST);
  follow(camX, camY, camZ, dx, dy, dz, camFar, RAY_CAMERA, stream, index, 0);
  if (seenNothing) { if (keepsTrail()) noteEnd(END_HOLES, -1); return; }
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
      beginSight();
    }
    wr *= left; wg *= left; wb *= left;
    // The fog's paths have met other surfaces.
    if (kind == SURFACE) { recallMedia(FIRST_LIST); lookAsCamera(true); loadVertex(triangle, instance, u, v, dx, dy, dz); }
    leaveUnlit(SEEN);
  }
  restoreSeen(kind, seen);
  if (seenLight != SURFACE) {
    if (beyond) { if (keepsTrail()) noteEnd(END_CLIP, -1); return; }
    if (keepsTrail()) noteEnd(seenLight >= 0 ? END_LIGHT : END_SKY, seenLight);
    const shape = seenLight >= 0;
    recordNoSurface(
      off2, load<i32>(SCENE_BASE, H_OBJECT_COUNT) + seenLight, shape, camX + dx * seenT, camY + dy * seenT, camZ + dz * seenT, seenT,
    );
    if (only != ONLY_FOG) bookSeen(dx, dy, dz, wr, wg, wb, 1, CLASS_EMISSION, 0);
    return;
  }
  loadSurface(index);
  firstObject = objectIndex;
  if (keepsTrail()) noteVertex(objectIndex, px, py, pz, wr, wg, wb, seen);
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
  if (keepsGuides()) {
    noteFirst(seen);
    if (hasGather()) guideSurface(wr, wg, wb, 1);
  }
  if (keepsUnshadowed() && hasGather()) receiveUnshadowed(index, picks, wr, wg, wb);
  const whole = albedoD + albedoR + albedoT;
  const chanceD = chanceOfLobe(albedoD, whole), chanceR = chanceOfLobe(albedoR, whole), chanceT = chanceOfLobe(albedoT, whole);
  if (hasGather()) {
    gather(
      0, 0, index, picks, f32(splitD) * chanceD, f32(splitR) * chanceR, f32(splitT) * chanceT, wr, wg, wb, 1, NO_CAUSTIC, DIFFUSE, 0,
    );
  }
  beginRoulette(max<f32>(wr, max<f32>(wg, wb)) * whole);
  let fresh = true;
  for (let lobe = DIFFUSE; lobe <= TRANSMISSION; lobe++) {
    if (lobe == DIFFUSE ? !useD : lobe == REFLECTION ? !useR : !useT) continue;
    const copies = lobe == DIFFUSE ? splitD : lobe == REFLECTION ? splitR : splitT;
    const chance = lobe == DIFFUSE ? chanceD : lobe == REFLECTION ? chanceR : chanceT;
    for (let j = 0; j < copies; j++) {
      const i = index * u32(copies) + u32(j);
      draw(stream, i, pairAt(0, PAIR_LOBE));
      const pick = r1;
      // One number for all lobes, from another end each, so that the same sample hardly follows two.
      if (chance < 1 && (lobe == DIFFUSE ? r0 : lobe == REFLECTION ? f32(1) - r0 : abs(r0 - f32(0.5)) * f32(2)) >= chance) {
        if (keepsTrail()) noteEnd(END_ROULETTE, -1);
        continue;
      }
      if (!fresh) {
        clearWavelength();
        recallMedia(FIRST_LIST);
        lookAsCamera(true);
        loadVertex(triangle, instance, u, v, dx, dy, dz);
        loadSurface(index);
      }
      fresh = false;
      draw(stream, i, pairAt(0, PAIR_DIRECTION));
      if (sampleLobe(lobe, r0, r1, pick)) walk(i, lobe, f32(copies) * chance, picks, wr, wg, wb);
    }
  }
}
