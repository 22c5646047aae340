// Light gathered in fog: a light sample and, where the light may fill much of what the phase function sees, a direction
// of that as well, weighed by the balance heuristic [Veach & Guibas 1995] at the same place and for the same light.
import {
  clearB, clearG, clearR, closest, fogGained, fogPassed, hitInstance, hitT, hitTriangle, hitU, hitV, keepHit, occluded, passedAny, recallHit,
} from './bvh-trace';
import { contribute, countShadow } from './film';
import {
  drawLitPlace, fogAlbedo, fogAnisotropy, fogChance, fogDensity, fogLight, fogT, fogToLight, recallFogAt, scatteredAt,
} from './fog';
import { FAR } from './follow';
import { PAIR_FLIGHT, PAIR_LIGHT, PAIR_PHASE, PAIR_PICK, pairAt, stream } from './gather';
import {
  KIND_DISTANT, KIND_ENVIRONMENT, KIND_MESH, KIND_POINT, KIND_SPOT, L_BOUND, L_RADIUS, L_X, L_Y, L_Z,
} from './layout';
import { IN_FOG, gainOf, groupOf, kindOf, lightAt, reaches } from './light-records';
import { lightBlocks, meetAlone } from './light-shapes';
import {
  farRadiance, lb, lg, lr, ownDensity, radianceOf, sDistance, sPdf, sampleLight, setLight, sx, sy, sz,
} from './lights';
import { inFogs, phX, phY, phZ, drawPhase, phase, setInFogs } from './media';
import { mB, mG, mR, mTwoSided, meetMesh, meshLightOf, mnx, mny, mnz } from './mesh-lights';
import { paneAlong, paneExtinction, paneIsBoundary, paneTransmittance } from './panes';
import { infoOf, objectOf } from './rules';
import { sightPastFog } from './sight';
import { draw, hash, r0, r1 } from './sobol';
import { lightsAlone } from './study';

/** Light's share of what the phase function sees, at its peak, above which that is worth a ray. */
const WORTH: f32 = 0.3;
/** Edges of fog that a ray is followed through to a light. */
const MOST_EDGES: i32 = 8;

/** Whether directions of the phase function find a light as well as light samples do, from a place. */
function isWide(light: i32, x: f32, y: f32, z: f32): bool {
  if (lightsAlone) return false;
  const l = lightAt(light);
  const kind = kindOf(l);
  if (kind == KIND_POINT || kind == KIND_SPOT) return false;
  const g = abs(fogAnisotropy());
  const peak = (f32(1) + g) / (f32(4 * Math.PI) * (f32(1) - g) * (f32(1) - g));
  if (kind == KIND_ENVIRONMENT) return g > f32(0.5);
  const r = load<f32>(l, L_RADIUS);
  if (kind == KIND_DISTANT) return r > 0 && peak * f32(Math.PI) * r * r > WORTH;
  const ex = load<f32>(l, L_X) - x, ey = load<f32>(l, L_Y) - y, ez = load<f32>(l, L_Z) - z;
  const bound = load<f32>(l, L_BOUND);
  const share = bound * bound / max<f32>(ex * ex + ey * ey + ez * ez, f32(1e-12));
  return peak * f32(Math.PI) * min<f32>(share, 2) > WORTH;
}

/** Of the light met along the direction last drawn by phase: how far, how densely light samples go there, what fog leaves. */
let metAt: f32 = 0, metDensity: f32 = 0, metLeft: f32 = 0;

/** Whether `light` is seen along d with nothing but fog before it; its radiance goes to lr, lg, lb. */
function seesLight(light: i32, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32): bool {
  const kind = kindOf(lightAt(light));
  if (kind == KIND_MESH) return seesMesh(light, x, y, z, dx, dy, dz);
  if (kind == KIND_ENVIRONMENT || kind == KIND_DISTANT) {
    if (!farRadiance(light, dx, dy, dz)) return false;
    metAt = FAR;
  } else {
    metAt = meetAlone(light, x, y, z, dx, dy, dz);
    if (metAt <= 0) return false;
    radianceOf(light, dx, dy, dz);
    if (lr + lg + lb <= 0) return false;
  }
  metDensity = ownDensity(light, x, y, z, dx, dy, dz, metAt, -1, 1);
  // Within a ball that cannot be seen there is none of its light.
  if (metDensity <= 0) return false;
  const far = metAt * f32(0.9999);
  if (lightBlocks(x, y, z, dx, dy, dz, 0, far, light) || occluded(x, y, z, dx, dy, dz, 0, far) || passedAny) return false;
  metLeft = fogToLight(x, y, z, dx, dy, dz, metAt, fogPassed, fogGained);
  return true;
}

function seesMesh(light: i32, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32): bool {
  let passed: f32 = 0, from: f32 = 0;
  let gained: f64 = 0;
  for (let i = 0; i < MOST_EDGES; i++) {
    closest(x, y, z, dx, dy, dz, from, FAR);
    if (hitTriangle < 0) return false;
    if (meshLightOf(objectOf(infoOf(hitTriangle), hitInstance)) == light) {
      meetMesh(light, hitTriangle, hitU, hitV);
      let cosine = -(dx * mnx + dy * mny + dz * mnz);
      if (mTwoSided) cosine = abs(cosine);
      if (cosine <= f32(1e-6) || lightBlocks(x, y, z, dx, dy, dz, 0, hitT * f32(0.9999), light)) return false;
      metAt = hitT;
      metDensity = ownDensity(light, x, y, z, dx, dy, dz, hitT, hitTriangle, cosine);
      setLight(mR, mG, mB);
      metLeft = fogToLight(x, y, z, dx, dy, dz, hitT, passed, gained);
      return true;
    }
    paneTransmittance(hitTriangle, hitInstance, dx, dy, dz, hitT, hitU, hitV);
    if (!paneIsBoundary) return false;
    const own = paneAlong < 0 ? paneExtinction : -paneExtinction;
    passed -= f32(own) * hitT;
    gained += own;
    from = hitT * f32(1.00001);
  }
  return false;
}

/**
 * Light of the light last drawn (by `drawLitPlace` or `pickFogLight`) that fog at (x, y, z) scatters against the direction
 * d; its parts as for `gather`, its random numbers those of `own`.
 */
export function shadeFog(
  own: u32, index: u32, step: i32, x: f32, y: f32, z: f32, dx: f32, dy: f32, dz: f32,
  tr: f32, tg: f32, tb: f32, part: f32, pathClass: i32, bounce: i32,
): void {
  const light = fogLight, chance = fogChance;
  if (!reaches(light, bounce)) return;
  const group = groupOf(light);
  const g = fogAnisotropy();
  const k = gainOf(light, IN_FOG) / chance;
  const kr = tr * k * fogAlbedo(0), kg = tg * k * fogAlbedo(1), kb = tb * k * fogAlbedo(2);
  const wide = isWide(light, x, y, z);
  draw(own, index, pairAt(step, PAIR_LIGHT));
  if (sampleLight(light, 1, x, y, z, r0, r1)) {
    const far = sDistance * f32(0.9999);
    countShadow(group);
    if (!lightBlocks(x, y, z, sx, sy, sz, 0, far, light) && !occluded(x, y, z, sx, sy, sz, 0, far)) {
      const p = phase(sx * dx + sy * dy + sz * dz, g);
      const w = p * fogToLight(x, y, z, sx, sy, sz, sDistance, fogPassed, fogGained) / (wide && !passedAny ? sPdf + p : sPdf);
      contribute(kr * lr * clearR * w, kg * lg * clearG * w, kb * lb * clearB * w, part, group, sightPastFog(), pathClass, bounce);
    }
  }
  if (!wide) return;
  draw(own ^ u32(0x3c6ef372), index, pairAt(step, PAIR_PHASE));
  drawPhase(dx, dy, dz, g, r0, r1);
  countShadow(group);
  keepHit();
  if (seesLight(light, x, y, z, phX, phY, phZ)) {
    const p = phase(phX * dx + phY * dy + phZ * dz, g);
    const w = p * metLeft / (metDensity + p);
    contribute(kr * lr * w, kg * lg * w, kb * lb * w, part, group, sightPastFog(), pathClass, bounce);
  }
  recallHit();
}

/** Direct light in the fog on the ray just followed, at `count` places of one light each. */
export function gatherFog(
  step: i32, index: u32, count: i32, ox: f32, oy: f32, oz: f32, dx: f32, dy: f32, dz: f32,
  tr: f32, tg: f32, tb: f32, share: f32, pathClass: i32, bounce: i32,
): void {
  const own = hash(stream ^ 0x51ed270b);
  const after = inFogs();
  for (let j = 0; j < count; j++) {
    const i = index * u32(count) + u32(j);
    draw(own, i, pairAt(step, PAIR_FLIGHT));
    const place = r0, technique = r1;
    draw(own, i, pairAt(step, PAIR_PICK));
    if (!drawLitPlace(ox, oy, oz, dx, dy, dz, bounce, r0, place, technique)) continue;
    recallFogAt(fogT);
    const k = scatteredAt(fogT) / fogDensity;
    shadeFog(
      own, i, step, ox + dx * fogT, oy + dy * fogT, oz + dz * fogT, dx, dy, dz,
      tr * k, tg * k, tb * k, share / f32(count), pathClass, bounce,
    );
  }
  setInFogs(after);
}
