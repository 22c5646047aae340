// The lobes at the vertex: their values and densities for a direction, and directions drawn from them.
// Reflection holds coat, metal, highlight and glass; a solid refracts, a thin wall passes straight on.
//
// Where a smooth normal sends a direction to the wrong side of the triangle, that direction is mirrored in the
// triangle's plane. A direction so has up to two ways to be drawn; values and densities are sums over both, and
// nothing is lost on coarse meshes.
import { cosine, sine, turn } from './angles';
import {
  ca, coatF0, coatShare, coatWeight, compB, compG, compGlass, compR, diffB, diffG, diffR, albedoD, albedoR, albedoT, baseB, baseG,
  baseR, edgeB, edgeG, edgeR, eta, f0, glass, metal, mirrorC, mirrorR, mirrorT, opaque, paneIor, qx, qy, rx, ry, specB, specG, specR, thin,
  throughB, throughG, throughR, underB, underG, underR,
} from './material';
import { matt, mattB, mattG, mattR } from './diffuse';
import { fresnelDielectric, ggxD, ggxG1, ggxG2, mx, my, mz, sampleVisibleNormal, schlickWeight } from './optics';
import { paneReflectance } from './panes';
import { bx, by, bz, gn, gx, gy, gz, nx, ny, nz, tx, ty, tz, wox, woy, woz } from './vertex';

export const DIFFUSE: i32 = 0;
export const REFLECTION: i32 = 1;
export const TRANSMISSION: i32 = 2;
/** Scattering in fog; no lobe of a surface, but counted like one. */
export const FOG: i32 = 3;
const PI: f32 = f32(Math.PI);

/** Results of `evaluate`: BSDF times cosine, and density, of each lobe. Zero for delta lobes. */
export let fDR: f32 = 0;
export let fDG: f32 = 0;
export let fDB: f32 = 0;
export let fRR: f32 = 0;
export let fRG: f32 = 0;
export let fRB: f32 = 0;
export let fTR: f32 = 0;
export let fTG: f32 = 0;
export let fTB: f32 = 0;
export let pD: f32 = 0;
export let pR: f32 = 0;
export let pT: f32 = 0;

/** Whether each facet of glass decides between reflection and transmission; densities then hold their facets' shares. */
let byFacets: bool = false;

/** Whether facets of the vertex can decide: nothing but rough glass, alike for both lobes. They do, when asked to. */
export function decideByFacets(yes: bool): bool {
  byFacets = yes && glass > f32(0.9999) && albedoD <= 0 && coatShare <= 0 && !thin && !mirrorR && !mirrorT && rx == qx && ry == qy;
  return byFacets;
}

let frR: f32 = 0, frG: f32 = 0, frB: f32 = 0;
/** Reflectance below the coat at a half vector of cosine c to wo: metal, highlight and glass together. */
function reflectance(c: f32): void {
  const w = schlickWeight(c);
  const d = opaque * (f0 + (f32(1) - f0) * w);
  const g = glass > 0 ? glass * compGlass * (thin ? paneReflectance(c, paneIor) : fresnelDielectric(c, eta)) : 0;
  const edge = c * w * (f32(1) - c);
  frR = underR * (metal * max<f32>(baseR + (f32(1) - baseR) * w - edgeR * edge, 0) * compR + d * specR + g);
  frG = underG * (metal * max<f32>(baseG + (f32(1) - baseG) * w - edgeG * edge, 0) * compG + d * specG + g);
  frB = underB * (metal * max<f32>(baseB + (f32(1) - baseB) * w - edgeB * edge, 0) * compB + d * specB + g);
}

// @ts-ignore: decorator
@inline
function coatReflectance(c: f32): f32 {
  return coatWeight * (coatF0 + (f32(1) - coatF0) * schlickWeight(c));
}

/** Whether reflection has a part that is no mirror. */
export function hasRoughReflection(): bool {
  return albedoR > 0 && (coatShare > 0 ? !mirrorC || (!mirrorR && coatShare < 1) : !mirrorR);
}

/** Evaluates all lobes for the world direction d. */
export function evaluate(dx: f32, dy: f32, dz: f32): void {
  fDR = 0; fDG = 0; fDB = 0; fRR = 0; fRG = 0; fRB = 0; fTR = 0; fTG = 0; fTB = 0;
  pD = 0; pR = 0; pT = 0;
  const side = dx * gx + dy * gy + dz * gz;
  addAt(dx, dy, dz, side);
  // The direction that would be mirrored into d.
  const z = dx * nx + dy * ny + dz * nz - f32(2) * side * gn;
  if (side > 0 ? z > 0 : z < 0) addAt(dx - f32(2) * side * gx, dy - f32(2) * side * gy, dz - f32(2) * side * gz, side);
}

/** Adds the lobes' values for d that end on the side of the triangle that `side` has the sign of. */
function addAt(dx: f32, dy: f32, dz: f32, side: f32): void {
  const wix = dx * tx + dy * ty + dz * tz, wiy = dx * bx + dy * by + dz * bz, wiz = dx * nx + dy * ny + dz * nz;
  if (side > 0) {
    if (wiz <= 0) return;
    if (albedoD > 0) {
      const p = wiz / PI;
      matt(wix, wiy, wiz);
      pD += p;
      fDR += diffR * mattR * p; fDG += diffG * mattG * p; fDB += diffB * mattB * p;
    }
    if (albedoR > 0) reflectionAt(wix, wiy, wiz);
  } else if (side < 0 && wiz < 0 && albedoT > 0 && !mirrorT) {
    if (thin) thinAt(wix, wiy, -wiz); else refractionAt(wix, wiy, wiz);
  }
}

function reflectionAt(wix: f32, wiy: f32, wiz: f32): void {
  let hx = wox + wix, hy = woy + wiy, hz = woz + wiz;
  const k = f32(1) / sqrt<f32>(hx * hx + hy * hy + hz * hz);
  hx *= k; hy *= k; hz *= k;
  const c = wox * hx + woy * hy + woz * hz;
  const j = f32(1) / (f32(4) * woz);
  if (coatShare > 0 && !mirrorC) {
    const d = ggxD(hx, hy, hz, ca, ca) * j;
    pR += coatShare * ggxG1(wox, woy, woz, ca, ca) * d;
    const f = coatReflectance(c) * d * ggxG2(wox, woy, woz, wix, wiy, wiz, ca, ca);
    fRR += f; fRG += f; fRB += f;
  }
  if (mirrorR || coatShare >= 1) return;
  const d = ggxD(hx, hy, hz, rx, ry) * j;
  pR += (f32(1) - coatShare) * ggxG1(wox, woy, woz, rx, ry) * d * (byFacets ? fresnelDielectric(c, eta) : f32(1));
  const f = d * ggxG2(wox, woy, woz, wix, wiy, wiz, rx, ry);
  reflectance(c);
  fRR += frR * f; fRG += frG * f; fRB += frB * f;
}

/** A rough thin wall: the reflection lobe seen in a mirror, with what the two faces let through. */
function thinAt(wix: f32, wiy: f32, wiz: f32): void {
  let hx = wox + wix, hy = woy + wiy, hz = woz + wiz;
  const k = f32(1) / sqrt<f32>(hx * hx + hy * hy + hz * hz);
  hx *= k; hy *= k; hz *= k;
  const c = wox * hx + woy * hy + woz * hz;
  const d = ggxD(hx, hy, hz, qx, qy) / (f32(4) * woz);
  pT += ggxG1(wox, woy, woz, qx, qy) * d;
  const f = (f32(1) - paneReflectance(c, paneIor)) * d * ggxG2(wox, woy, woz, wix, wiy, wiz, qx, qy);
  fTR += throughR * f; fTG += throughG * f; fTB += throughB * f;
}

/** Rough refraction [Walter et al. 2007, eq. 17 and 21], radiance scaled into the denser side. */
function refractionAt(wix: f32, wiy: f32, wiz: f32): void {
  let hx = wox + eta * wix, hy = woy + eta * wiy, hz = woz + eta * wiz;
  const n2 = hx * hx + hy * hy + hz * hz;
  if (n2 < f32(1e-12)) return;
  const k = (hz < 0 ? f32(-1) : f32(1)) / sqrt<f32>(n2);
  hx *= k; hy *= k; hz *= k;
  const co = wox * hx + woy * hy + woz * hz, ci = wix * hx + wiy * hy + wiz * hz;
  if (co <= 0 || ci >= 0) return;
  const denom = co + eta * ci;
  const d = ggxD(hx, hy, hz, qx, qy) * co / woz * -ci / max<f32>(denom * denom, f32(1e-12));
  const passed = f32(1) - fresnelDielectric(co, eta);
  pT += ggxG1(wox, woy, woz, qx, qy) * d * eta * eta * (byFacets ? passed : f32(1));
  const f = passed * ggxG2(wox, woy, woz, wix, wiy, wiz, qx, qy) * d;
  fTR += throughR * f; fTG += throughG * f; fTB += throughB * f;
}

/** The direction last sampled (world), its weight BSDF·cos/density, and the density (0 for a delta). */
export let dirX: f32 = 0;
export let dirY: f32 = 0;
export let dirZ: f32 = 1;
export let weightR: f32 = 0;
export let weightG: f32 = 0;
export let weightB: f32 = 0;
export let density: f32 = 0;

/**
 * Takes the local direction as the one sampled, mirrored in the triangle's plane when it lies on the wrong side of
 * it. True when another direction leads to the same, or the weight is not yet known: both need `evaluate`.
 */
// @ts-ignore: decorator
@inline
function setDirection(x: f32, y: f32, z: f32): bool {
  dirX = x * tx + y * bx + z * nx;
  dirY = x * ty + y * by + z * ny;
  dirZ = x * tz + y * bz + z * nz;
  const k = f32(1) / sqrt<f32>(dirX * dirX + dirY * dirY + dirZ * dirZ);
  dirX *= k; dirY *= k; dirZ *= k;
  const side = dirX * gx + dirY * gy + dirZ * gz;
  const z2 = z - f32(2) * side * gn;
  if (z > 0 ? side <= 0 : side >= 0) {
    dirX -= f32(2) * side * gx; dirY -= f32(2) * side * gy; dirZ -= f32(2) * side * gz;
    return z > 0 ? z2 > 0 : z2 < 0;
  }
  return z > 0 ? z2 > 0 : z2 < 0;
}

/** Samples one lobe with (u, v); `pick` chooses between coat and what is below. False when nothing can come of it. */
export function sampleLobe(lobe: i32, u: f32, v: f32, pick: f32): bool {
  if (lobe == DIFFUSE) {
    const r = sqrt<f32>(u);
    turn(v);
    const x = r * cosine, y = r * sine, z = sqrt<f32>(max<f32>(f32(1) - u, f32(1e-9)));
    if (setDirection(x, y, z)) {
      evaluate(dirX, dirY, dirZ);
      return weigh(fDR, fDG, fDB, pD);
    }
    matt(x, y, z);
    density = z / PI;
    weightR = diffR * mattR; weightG = diffG * mattG; weightB = diffB * mattB;
    return true;
  }
  return lobe == REFLECTION ? sampleReflection(u, v, pick) : sampleTransmission(u, v);
}

/** Whether weight and density last given are sums over all ways to the direction. */
let weighed: bool = false;
function weigh(r: f32, g: f32, b: f32, p: f32): bool {
  if (!(p > 0)) return false;
  weighed = true;
  density = p;
  const k = f32(1) / p;
  weightR = r * k; weightG = g * k; weightB = b * k;
  return true;
}

function sampleReflection(u: f32, v: f32, pick: f32): bool {
  const ofCoat = pick < coatShare;
  const mirror = ofCoat ? mirrorC : mirrorR;
  const share = ofCoat ? coatShare : f32(1) - coatShare;
  let hx: f32 = 0, hy: f32 = 0, hz: f32 = 1;
  const ax = ofCoat ? ca : rx, ay = ofCoat ? ca : ry;
  if (!mirror) {
    sampleVisibleNormal(wox, woy, woz, ax, ay, u, v);
    hx = mx; hy = my; hz = mz;
  }
  const c = wox * hx + woy * hy + woz * hz;
  if (c <= 0) return false;
  const x = f32(2) * c * hx - wox, y = f32(2) * c * hy - woy, z = f32(2) * c * hz - woz;
  if (z <= 0) return false;
  const shared = setDirection(x, y, z);
  if (mirror) {
    density = 0;
    if (ofCoat) {
      weightR = coatReflectance(c) / share; weightG = weightR; weightB = weightR;
    } else {
      reflectance(c);
      weightR = frR / share; weightG = frG / share; weightB = frB / share;
    }
    return true;
  }
  weighed = false;
  if (shared || coatShare > 0) {
    evaluate(dirX, dirY, dirZ);
    return weigh(fRR, fRG, fRB, pR);
  }
  reflectance(c);
  const g1 = ggxG1(wox, woy, woz, ax, ay);
  const g = ggxG2(wox, woy, woz, x, y, z, ax, ay) / g1;
  density = g1 * ggxD(hx, hy, hz, ax, ay) / (f32(4) * woz);
  weightR = frR * g; weightG = frG * g; weightB = frB * g;
  return true;
}

/** Samples reflection or transmission as the facet drawn by (u, v) decides by `pick`; -1 when nothing can come of it. */
export function sampleByFacets(u: f32, v: f32, pick: f32): i32 {
  sampleVisibleNormal(wox, woy, woz, rx, ry, u, v);
  const c = wox * mx + woy * my + woz * mz;
  if (c <= 0) return -1;
  const f = fresnelDielectric(c, eta);
  const lobe = pick < f ? REFLECTION : TRANSMISSION;
  // The same facet again: what its lobe weighs is divided by the chance of that lobe.
  if (!(lobe == REFLECTION ? sampleReflection(u, v, 1) : sampleTransmission(u, v))) return -1;
  if (weighed) return lobe;
  const chance = lobe == REFLECTION ? f : f32(1) - f;
  weightR /= chance; weightG /= chance; weightB /= chance;
  density *= chance;
  return lobe;
}

function sampleTransmission(u: f32, v: f32): bool {
  let hx: f32 = 0, hy: f32 = 0, hz: f32 = 1;
  if (!mirrorT) {
    sampleVisibleNormal(wox, woy, woz, qx, qy, u, v);
    hx = mx; hy = my; hz = mz;
  }
  const c = wox * hx + woy * hy + woz * hz;
  if (c <= 0) return false;
  let x: f32, y: f32, z: f32, t: f32;
  if (thin) {
    t = f32(1) - paneReflectance(c, paneIor);
    x = f32(2) * c * hx - wox; y = f32(2) * c * hy - woy; z = woz - f32(2) * c * hz;
    if (mirrorT) { x = -wox; y = -woy; z = -woz; }
  } else {
    const k2 = f32(1) - (f32(1) - c * c) / (eta * eta);
    if (k2 <= 0) return false;
    const cosT = sqrt<f32>(k2), inv = f32(1) / eta;
    const s = c * inv - cosT;
    x = s * hx - wox * inv; y = s * hy - woy * inv; z = s * hz - woz * inv;
    t = (f32(1) - fresnelDielectric(c, eta)) * inv * inv;
  }
  if (z >= 0) return false;
  const shared = setDirection(x, y, z);
  if (mirrorT) {
    density = 0;
    weightR = throughR * t; weightG = throughG * t; weightB = throughB * t;
    return true;
  }
  weighed = false;
  if (shared) {
    evaluate(dirX, dirY, dirZ);
    return weigh(fTR, fTG, fTB, pT);
  }
  const g1 = ggxG1(wox, woy, woz, qx, qy);
  const g = t * ggxG2(wox, woy, woz, x, y, -z, qx, qy) / g1;
  const d = g1 * ggxD(hx, hy, hz, qx, qy);
  if (thin) density = d / (f32(4) * woz);
  else {
    const cosT = f32(-1) * (x * hx + y * hy + z * hz);
    const denom = c - eta * cosT;
    density = d * c / woz * eta * eta * cosT / max<f32>(denom * denom, f32(1e-12));
  }
  weightR = throughR * g; weightG = throughG * g; weightB = throughB * g;
  return true;
}
