// A path from its first vertex on: depth limits that cut continuation rays only; every contribution booked once under
// its group, class and bounce. Roulette and lobe choices never look at the limits, so a render at a lower limit is the
// same render with later parts missing; light beyond the limits is looked for by a few paths and booked apart.
import { keepsLost, ledgerOf, loseTo, setLedger } from './film';
import {
  drawScatter, fogAlbedo, fogAnisotropy, fogLeft, fogLength, hasFog, pickFogLight, recallFogAt,
} from './fog';
import { FAR, NOTHING, SKY, SURFACE, follow, seenLight, seenNothing, seenT } from './follow';
import {
  FOCUSED, MATT, NO_CAUSTIC, PAIR_DIRECTION, PAIR_FLIGHT, PAIR_LOBE, PAIR_PHASE, PAIR_PICK, PAIR_ROULETTE,
  causticAfter, classOf, gather, keepWavelength, loadSurface, pairAt, spreadB, spreadG, spreadR, stream,
} from './gather';
import { beginWay, goOn, guideSurface, keepsGuides } from './guides';
import {
  AXIS_REACH, END_ABSORBED, END_HOLES, END_LIGHT, END_ROULETTE, END_SKY, END_WALK, LEDGER_PLANES, LIMIT_ALL, LIMIT_DIFFUSE, LIMIT_OBJECT, LIMIT_REACH, MOST_LOST_RAYS, MOST_WALK_EVENTS, P_DEPTH_ALL,
  P_DEPTH_DIFFUSE, P_DEPTH_FOG, P_DEPTH_REFLECTION, P_DEPTH_TRANSMISSION, P_LIGHT_SAMPLES, P_LOST_CHANCE, P_REACH,
  P_SOFTEN_CAUSTICS, RAY_DIFFUSE, RAY_TRANSMISSION, RAY_TWIN, REACH_EXPONENT, SCRATCH_PARAMS,
} from './layout';
import { gatherFog, shadeFog } from './gather-fog';
import { IN_FOG, THROUGH } from './light-records';
import {
  DIFFUSE, FOG, REFLECTION, TRANSMISSION, decideByFacets, density, dirX, dirY, dirZ, hasRoughReflection, sampleByFacets, sampleLobe, weightB, weightG, weightR,
} from './lobes';
import { albedoD, albedoR, albedoT, coatShare, eb, eg, er, isClearPane, mirrorT, softenTo } from './material';
import {
  TWIN_LIST, anisotropyOf, cross, drawFlight, drawPhase, fade, isSolid, keepMedia, leftB, leftG, leftR, medium, phX, phY, phZ,
  recallMedia, scatters, weighFlight,
} from './media';
import { bookEmission, bookSeen, leave, leaveUnlit, roleOf } from './met';
import { chanceOfPath, chanceOfStep } from './roulette';
import { allows, hasRules, needsTwin } from './rules';
import { beginSight, passFog, passInside, passLobe } from './sight';
import { draw, fraction, hash, r0, r1 } from './sobol';
import { keepsTrail, noteEnd, noteFog, noteLeft, noteVertex } from './trail';
import { epsilon, front, gx, gy, gz, objectIndex, px, py, pz, record } from './vertex';

let lightSamples: i32 = 1;
let depthAll: i32 = 0, depthD: i32 = 0, depthR: i32 = 0, depthT: i32 = 0, depthF: i32 = 0;
let reach: f32 = 0;
let soften: f32 = 0;
let lostChance: f32 = 0;

export function bindWalk(base: usize): void {
  const p = base + SCRATCH_PARAMS;
  lightSamples = load<i32>(p, P_LIGHT_SAMPLES);
  depthAll = load<i32>(p, P_DEPTH_ALL);
  depthD = load<i32>(p, P_DEPTH_DIFFUSE);
  depthR = load<i32>(p, P_DEPTH_REFLECTION);
  depthT = load<i32>(p, P_DEPTH_TRANSMISSION);
  depthF = load<i32>(p, P_DEPTH_FOG);
  reach = load<f32>(p, P_REACH);
  soften = load<f32>(p, P_SOFTEN_CAUSTICS);
  lostChance = load<f32>(p, P_LOST_CHANCE);
}

/** Whether any path may go on from fog that the camera sees. */
export function goesOnFromFog(): bool {
  return (depthF > 0 && depthAll > 0) || keepsLost();
}

let fogX: f32 = 0, fogY: f32 = 0, fogZ: f32 = 0;

/** Notes the place in fog from which the next walk begins. */
export function beginInFog(x: f32, y: f32, z: f32): void {
  fogX = x; fogY = y; fogZ = z;
}

/** Makes what comes next light of a path without continuation rays, within all limits. */
export function beginBooking(): void {
  loseTo(-1);
  setLedger(0, 0, 0);
}

// @ts-ignore: decorator
@inline
function ends(reason: i32): void {
  if (keepsTrail()) noteEnd(reason, seenLight);
}

// @ts-ignore: decorator
@inline
export function hasGather(): bool {
  return albedoD > 0 || hasRoughReflection() || (albedoT > 0 && !mirrorT);
}

/**
 * Follows one path from the loaded first vertex through `lobe`, whose direction has just been sampled.
 * `copies` is how many such paths share the vertex on average, `firstPicks` how many light samples were taken there, w what is left of light on the way to the camera.
 */
export function walk(index: u32, lobe: i32, copies: f32, firstPicks: i32, wr: f32, wg: f32, wb: f32): void {
  beginBooking();
  if (keepsTrail()) noteLeft(lobe, wr, wg, wb);
  const firstLobe = lobe;
  const share = f32(1) / copies;
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
  // Whether what steers denoising is still to come.
  let guiding = inView && keepsGuides() && !hasGather();
  if (guiding) beginWay();
  beginSight();
  if (begins) passFog();
  else passLobe(lobe);
  leave(px, py, pz, objectIndex, roleOf(lobe, delta), delta, density * copies, f32(firstPicks));
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
  const survives = keepsLost() && fraction(hash(stream ^ hash(index + 0x51f15e9d))) < lostChance;
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
        if (count > MOST_LOST_RAYS) { ends(limit); return; }
      } else {
        if (count > depthAll) limit = LIMIT_ALL;
        else if (ofKind > most) limit = LIMIT_DIFFUSE + current;
        else if (leaving >= 0 && hasRules() && !allows(leaving, current, count, ofKind)) limit = LIMIT_OBJECT;
        alive = limit < 0;
        if (!alive && delta) {
          if (!survives) { ends(limit); return; }
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
        if (!survives) { ends(limit); return; }
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
    if (seenNothing) { ends(END_HOLES); return; }
    if (murky) {
      const scattered = seenLight == NOTHING;
      weighFlight(inside, min<f32>(flight, seenT), scattered);
      tr *= leftR; tg *= leftG; tb *= leftB;
      if (scattered) {
        if (++events > MOST_WALK_EVENTS) { ends(END_WALK); return; }
        if (!alive) {
          if (!survives) { ends(limit); return; }
          beyond = true; alive = true;
          loseTo(limit);
        }
        // Light that has scattered is no longer focused: what it makes is no caustic.
        if (state >= FOCUSED) state = MATT;
        passInside();
        walking = true;
        delta = true;
        leaveUnlit(THROUGH);
        straight = false;
        step++;
        draw(stream, index, pairAt(step, PAIR_PHASE));
        drawPhase(dx, dy, dz, anisotropyOf(inside), r0, r1);
        ox += dx * flight; oy += dy * flight; oz += dz * flight;
        dx = phX; dy = phY; dz = phZ;
        const p = chanceOfStep(tr, tg, tb);
        if (p < 1) {
          draw(stream, index, pairAt(step, PAIR_ROULETTE));
          if (r0 >= p) { ends(END_ROULETTE); return; }
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
          if (!survives) { ends(limit); return; }
          beyond = true; alive = true;
          loseTo(limit);
        }
        const x = ox + dx * t, y = oy + dy * t, z = oz + dz * t;
        recallFogAt(t);
        if (!inView) {
          draw(own, index, pairAt(step, PAIR_PICK));
          if (pickFogLight(x, y, z, count, r0))
            shadeFog(own, index, step, x, y, z, dx, dy, dz, tr, tg, tb, share, classOf(1, vertices + 1, firstLobe), count);
        }
        tr *= fogAlbedo(0); tg *= fogAlbedo(1); tb *= fogAlbedo(2);
        draw(own, index, pairAt(step, PAIR_PHASE));
        drawPhase(dx, dy, dz, fogAnisotropy(), r0, r1);
        ox = x; oy = y; oz = z;
        dx = phX; dy = phY; dz = phZ;
        current = FOG;
        if (keepsTrail()) noteFog(x, y, z, tr, tg, tb);
        leaving = -1;
        walking = false;
        state = MATT;
        passFog();
        delta = true;
        leaveUnlit(IN_FOG);
        straight = true;
        gathered = true;
        inView = false;
        vertices++;
        step++;
        const p = chanceOfPath(count, tr, tg, tb);
        if (p < 1) {
          draw(stream, index, pairAt(step, PAIR_ROULETTE));
          if (r0 >= p) { ends(END_ROULETTE); return; }
          tr /= p; tg /= p; tb /= p;
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
      if (!survives) { ends(LIMIT_REACH); return; }
      beyond = true; alive = true;
      loseTo(LIMIT_REACH);
    }
    if (seenLight != SURFACE) {
      if (!straight) bookSeen(dx, dy, dz, tr, tg, tb, share, classOf(state, vertices, firstLobe), count);
      ends(seenLight >= 0 ? END_LIGHT : END_SKY);
      return;
    }
    softenTo(state == NO_CAUSTIC ? f32(0) : soften);
    loadSurface(index);
    softenTo(0);
    if (keepsTrail()) noteVertex(objectIndex, px, py, pz, tr, tg, tb, seenT);
    if (guiding) {
      goOn(seenT);
      if (hasGather()) {
        guideSurface(tr, tg, tb, share);
        guiding = false;
      }
    }
    if (er + eg + eb > 0 && !straight) bookEmission(dx, dy, dz, tr, tg, tb, share, classOf(state, vertices, firstLobe), count);
    if (!beyond && (!alive || far)) {
      if (!survives) { ends(far ? LIMIT_REACH : limit); return; }
      beyond = true; alive = true;
      loseTo(far ? LIMIT_REACH : limit);
    }
    const whole = albedoD + albedoR + albedoT;
    if (whole <= 0) { ends(END_ABSORBED); return; }
    const facets = decideByFacets(true);
    const qD = albedoD / whole, qR = facets ? f32(1) : albedoR / whole, qT = facets ? f32(1) : albedoT / whole;
    let picks = 1;
    if (hasGather()) {
      picks = gathered ? 1 : lightSamples;
      gathered = true;
      gather(step, vertices, index, picks, qD, qR, qT, tr, tg, tb, share, state, firstLobe, count);
    }
    draw(stream, index, pairAt(step, PAIR_LOBE));
    const first = r0, pick = r1;
    draw(stream, index, pairAt(step, PAIR_DIRECTION));
    let q: f32 = 1;
    if (facets) {
      current = sampleByFacets(r0, r1, first);
      if (current < 0) { ends(END_ABSORBED); return; }
    } else {
      current = first < qD ? DIFFUSE : first < qD + qR ? REFLECTION : TRANSMISSION;
      if (current == TRANSMISSION && qT <= 0) current = qR > 0 ? REFLECTION : DIFFUSE;
      q = current == DIFFUSE ? qD : current == REFLECTION ? qR : qT;
      if (!sampleLobe(current, r0, r1, pick)) { ends(END_ABSORBED); return; }
    }
    tr *= weightR / q; tg *= weightG / q; tb *= weightB / q;
    if (keepsTrail()) noteLeft(current, tr, tg, tb);
    const passes = current == TRANSMISSION && isClearPane();
    straight = passes ? straight || !delta : false;
    // Turned back at the wall of a scattering interior, the light goes on with its walk.
    walking = murky && current == REFLECTION && !front && isSolid(record);
    if (walking) { if (++events > MOST_WALK_EVENTS) { ends(END_WALK); return; } }
    else {
      passLobe(current);
      state = murky && events > 0 && current == TRANSMISSION ? state : causticAfter(state, current);
    }
    delta = density == 0;
    leaving = objectIndex;
    leave(px, py, pz, objectIndex, roleOf(current, delta), delta, density * q, f32(picks));
    inView = inView && delta;
    guiding = guiding && inView;
    if (!walking) vertices++;
    step++;
    if (current == TRANSMISSION) {
      tr *= spreadR; tg *= spreadG; tb *= spreadB;
      keepWavelength();
      if (isSolid(record)) cross(record, front);
    }
    const p = chanceOfPath(count, tr, tg, tb);
    if (p < 1) {
      // Only a coat has needed what chose within the lobe.
      let u = pick;
      if (coatShare > 0) { draw(stream, index, pairAt(step, PAIR_ROULETTE)); u = r0; }
      if (u >= p) { ends(END_ROULETTE); return; }
      tr /= p; tg /= p; tb /= p;
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
