// The surface at a hit: position, frame, material, and its diffuse, reflection and transmission lobes.
// Reflection holds the metal and the dielectric highlight; a solid dielectric refracts, a thin-walled
// one passes straight on. Directions in lobes are local, z = shading normal on the side of wo.
import {
  ALBEDO_TABLE_SIZE, CAUSTIC_ROUGHNESS, H_ALBEDO_TABLE, H_INDICES, H_MATERIALS, H_NORMALS, H_POSITIONS, H_TRIANGLE_INFO,
  I_OBJECT, I_TO_LOCAL0, I_TO_WORLD0,
  MATERIAL_BYTES, MIRROR_ALPHA, M_ABSORB_B, M_ABSORB_G, M_ABSORB_R, M_BASE_B, M_BASE_G, M_BASE_R, M_EMIT_B,
  M_EMIT_DOUBLE_SIDED, M_EMIT_G, M_EMIT_R, M_IOR, M_METALNESS, M_ROUGHNESS, M_SPECULAR_B, M_SPECULAR_G, M_SPECULAR_R,
  M_SPECULAR_WEIGHT, M_THIN_WALLED, M_TRANSMISSION, SCENE_BASE, TRIANGLE_MATERIAL_SHIFT,
} from './layout';
import {
  fresnelDielectric, ggxD, ggxG1, ggxG2, mx, my, mz, sampleVisibleNormal, schlickWeight,
} from './optics';
import { paneReflectance } from './panes';

export const DIFFUSE: i32 = 0;
export const REFLECTION: i32 = 1;
export const TRANSMISSION: i32 = 2;
const PI: f32 = f32(Math.PI);

export let px: f32 = 0;
export let py: f32 = 0;
export let pz: f32 = 0;
/** Geometric normal on the side of wo. */
export let gx: f32 = 0;
export let gy: f32 = 0;
export let gz: f32 = 0;
/** Shading normal (local z) and the tangents. */
export let nx: f32 = 0;
export let ny: f32 = 0;
export let nz: f32 = 1;
let tx: f32 = 1, ty: f32 = 0, tz: f32 = 0;
let bx: f32 = 0, by: f32 = 1, bz: f32 = 0;
let wox: f32 = 0, woy: f32 = 0, woz: f32 = 1;
export let front: bool = true;
export let objectIndex: i32 = 0;
export let material: usize = 0;
/** Step off the surface, so that the next ray does not meet it again. */
export let epsilon: f32 = 1e-4;

export let alpha: f32 = 1;
export let isMirror: bool = false;
export let isSharp: bool = false;
let eta: f32 = 1;
let metal: f32 = 0, trans: f32 = 0, thin: bool = false, f0: f32 = 0;
/** Share of the metal, the glass and the opaque dielectric; tints of each. */
let baseR: f32 = 0, baseG: f32 = 0, baseB: f32 = 0;
let specR: f32 = 0, specG: f32 = 0, specB: f32 = 0;
let compR: f32 = 1, compG: f32 = 1, compB: f32 = 1;
let diffR: f32 = 0, diffG: f32 = 0, diffB: f32 = 0;
/** Estimated albedo of each lobe for this wo: zero when the lobe is absent. */
export let albedoD: f32 = 0;
export let albedoR: f32 = 0;
export let albedoT: f32 = 0;

let tabA: f32 = 0, tabB: f32 = 0;
/** Directional albedo of GGX with Schlick's Fresnel term: F0·tabA + tabB [Turquin 2019]. */
function lookUpAlbedo(cosine: f32, roughness: f32): void {
  const n = f32(ALBEDO_TABLE_SIZE - 1);
  const x = min<f32>(max<f32>(cosine, 0), 1) * n, y = min<f32>(max<f32>(roughness, 0), 1) * n;
  const i = min(i32(x), ALBEDO_TABLE_SIZE - 2), j = min(i32(y), ALBEDO_TABLE_SIZE - 2);
  const fx = x - f32(i), fy = y - f32(j);
  const row = usize(ALBEDO_TABLE_SIZE) * 8;
  const at = load<usize>(SCENE_BASE, H_ALBEDO_TABLE) + usize(j) * row + usize(i) * 8;
  const w00 = (f32(1) - fx) * (f32(1) - fy), w10 = fx * (f32(1) - fy), w01 = (f32(1) - fx) * fy, w11 = fx * fy;
  tabA = load<f32>(at) * w00 + load<f32>(at, 8) * w10 + load<f32>(at + row) * w01 + load<f32>(at + row, 8) * w11;
  tabB = load<f32>(at, 4) * w00 + load<f32>(at, 12) * w10 + load<f32>(at + row, 4) * w01 + load<f32>(at + row, 12) * w11;
}

/** Radiance the surface emits towards wo. */
export let er: f32 = 0;
export let eg: f32 = 0;
export let eb: f32 = 0;

/**
 * Fills the module's vertex from triangle `triangle` of `instance` (0 = world) at barycentric (u, v), met along the
 * unit direction d.
 */
export function loadVertex(triangle: i32, instance: usize, u: f32, v: f32, dx: f32, dy: f32, dz: f32): void {
  const tri = load<usize>(SCENE_BASE, H_INDICES) + usize(triangle) * 12;
  const positions = load<usize>(SCENE_BASE, H_POSITIONS), normals = load<usize>(SCENE_BASE, H_NORMALS);
  const i0 = usize(load<u32>(tri)) * 12, i1 = usize(load<u32>(tri, 4)) * 12, i2 = usize(load<u32>(tri, 8)) * 12;
  const a = positions + i0, b = positions + i1, c = positions + i2;
  const ax = load<f32>(a), ay = load<f32>(a, 4), az = load<f32>(a, 8);
  const e1x = load<f32>(b) - ax, e1y = load<f32>(b, 4) - ay, e1z = load<f32>(b, 8) - az;
  const e2x = load<f32>(c) - ax, e2y = load<f32>(c, 4) - ay, e2z = load<f32>(c, 8) - az;
  px = ax + u * e1x + v * e2x; py = ay + u * e1y + v * e2y; pz = az + u * e1z + v * e2z;
  gx = e1y * e2z - e1z * e2y; gy = e1z * e2x - e1x * e2z; gz = e1x * e2y - e1y * e2x;
  const w = f32(1) - u - v;
  const na = normals + i0, nb = normals + i1, nc = normals + i2;
  nx = w * load<f32>(na) + u * load<f32>(nb) + v * load<f32>(nc);
  ny = w * load<f32>(na, 4) + u * load<f32>(nb, 4) + v * load<f32>(nc, 4);
  nz = w * load<f32>(na, 8) + u * load<f32>(nb, 8) + v * load<f32>(nc, 8);
  if (instance) toWorld(instance);
  let k = f32(1) / max<f32>(sqrt<f32>(gx * gx + gy * gy + gz * gz), f32(1e-30));
  gx *= k; gy *= k; gz *= k;
  front = gx * dx + gy * dy + gz * dz < 0;
  k = nx * nx + ny * ny + nz * nz;
  if (k < f32(1e-12)) { nx = gx; ny = gy; nz = gz; } else { k = f32(1) / sqrt<f32>(k); nx *= k; ny *= k; nz *= k; }
  if (nx * gx + ny * gy + nz * gz < 0) { nx = -nx; ny = -ny; nz = -nz; }
  if (!front) { gx = -gx; gy = -gy; gz = -gz; nx = -nx; ny = -ny; nz = -nz; }
  // A shading normal turned away from the viewer would lose light; the geometric one stands in.
  if (nx * dx + ny * dy + nz * dz > f32(-1e-3)) { nx = gx; ny = gy; nz = gz; }
  epsilon = f32(3e-5) * max<f32>(f32(1), max<f32>(abs(px), max<f32>(abs(py), abs(pz))));
  const sign: f32 = nz >= 0 ? 1 : -1;
  const p = f32(-1) / (sign + nz), q = nx * ny * p;
  tx = f32(1) + sign * nx * nx * p; ty = sign * q; tz = -sign * nx;
  bx = q; by = sign + ny * ny * p; bz = -ny;
  wox = -(dx * tx + dy * ty + dz * tz);
  woy = -(dx * bx + dy * by + dz * bz);
  woz = max<f32>(-(dx * nx + dy * ny + dz * nz), f32(1e-5));
  const info = load<u32>(load<usize>(SCENE_BASE, H_TRIANGLE_INFO) + (usize(triangle) << 2));
  objectIndex = instance ? load<i32>(instance, I_OBJECT) : info & 0xffff;
  material = load<usize>(SCENE_BASE, H_MATERIALS) + usize(info >> TRIANGLE_MATERIAL_SHIFT) * MATERIAL_BYTES;
  loadMaterial();
}

/** Takes the vertex's place and normals from the space of `instance` into the world's. */
function toWorld(instance: usize): void {
  const m = instance + I_TO_WORLD0, n = instance + I_TO_LOCAL0;
  const x = px, y = py, z = pz;
  px = load<f32>(m) * x + load<f32>(m, 4) * y + load<f32>(m, 8) * z + load<f32>(m, 12);
  py = load<f32>(m, 16) * x + load<f32>(m, 20) * y + load<f32>(m, 24) * z + load<f32>(m, 28);
  pz = load<f32>(m, 32) * x + load<f32>(m, 36) * y + load<f32>(m, 40) * z + load<f32>(m, 44);
  const a = gx, b = gy, c = gz;
  gx = load<f32>(n) * a + load<f32>(n, 16) * b + load<f32>(n, 32) * c;
  gy = load<f32>(n, 4) * a + load<f32>(n, 20) * b + load<f32>(n, 36) * c;
  gz = load<f32>(n, 8) * a + load<f32>(n, 24) * b + load<f32>(n, 40) * c;
  const d = nx, e = ny, f = nz;
  nx = load<f32>(n) * d + load<f32>(n, 16) * e + load<f32>(n, 32) * f;
  ny = load<f32>(n, 4) * d + load<f32>(n, 20) * e + load<f32>(n, 36) * f;
  nz = load<f32>(n, 8) * d + load<f32>(n, 24) * e + load<f32>(n, 40) * f;
}

function loadMaterial(): void {
  const m = material;
  baseR = load<f32>(m, M_BASE_R); baseG = load<f32>(m, M_BASE_G); baseB = load<f32>(m, M_BASE_B);
  const roughness = load<f32>(m, M_ROUGHNESS);
  alpha = roughness * roughness;
  isMirror = alpha < MIRROR_ALPHA;
  isSharp = roughness <= CAUSTIC_ROUGHNESS;
  metal = load<f32>(m, M_METALNESS);
  trans = load<f32>(m, M_TRANSMISSION);
  thin = load<f32>(m, M_THIN_WALLED) > 0;
  const ior = load<f32>(m, M_IOR);
  eta = front || thin ? ior : f32(1) / ior;
  const r = (ior - f32(1)) / (ior + f32(1));
  f0 = r * r;
  const weight = load<f32>(m, M_SPECULAR_WEIGHT);
  specR = load<f32>(m, M_SPECULAR_R) * weight; specG = load<f32>(m, M_SPECULAR_G) * weight; specB = load<f32>(m, M_SPECULAR_B) * weight;
  if (isMirror) { tabB = schlickWeight(woz); tabA = f32(1) - tabB; } else lookUpAlbedo(woz, roughness);
  const whole = max<f32>(tabA + tabB, f32(1e-3));
  const lost = (f32(1) - whole) / whole;
  compR = f32(1) + baseR * lost; compG = f32(1) + baseG * lost; compB = f32(1) + baseB * lost;
  const e = f0 * tabA + tabB;
  const opaque = (f32(1) - metal) * (f32(1) - trans), glass = (f32(1) - metal) * trans;
  diffR = opaque * baseR * (f32(1) - specR * e); diffG = opaque * baseG * (f32(1) - specG * e); diffB = opaque * baseB * (f32(1) - specB * e);
  albedoD = luminance(diffR, diffG, diffB);
  const baseY = luminance(baseR, baseG, baseB);
  const glassR = glass > 0 ? (thin ? paneReflectance(woz, ior) : fresnelDielectric(woz, eta)) : 0;
  albedoR = metal * (baseY * tabA + tabB) * (f32(1) + baseY * lost) + opaque * luminance(specR, specG, specB) * e + glass * glassR;
  // Microfacets turned towards the ray transmit even where the whole surface would reflect totally.
  albedoT = glass * baseY * (isMirror ? f32(1) - glassR : max<f32>(f32(1) - glassR, f32(0.05)));
  er = 0; eg = 0; eb = 0;
  if (front || load<f32>(m, M_EMIT_DOUBLE_SIDED) > 0) {
    er = load<f32>(m, M_EMIT_R); eg = load<f32>(m, M_EMIT_G); eb = load<f32>(m, M_EMIT_B);
  }
}

// @ts-ignore: decorator
@inline
export function luminance(r: f32, g: f32, b: f32): f32 {
  return r * f32(0.2126) + g * f32(0.7152) + b * f32(0.0722);
}

/** Mean colour of the surface for the albedo feature: what leaves it under even white light, roughly. */
export function featureAlbedo(channel: i32): f32 {
  const base = channel == 0 ? baseR : channel == 1 ? baseG : baseB;
  const spec = channel == 0 ? specR : channel == 1 ? specG : specB;
  const e = (f0 * tabA + tabB) * spec;
  const opaque = (f32(1) - metal) * (f32(1) - trans), glass = (f32(1) - metal) * trans;
  return metal * base + opaque * (base * (f32(1) - e) + e) + glass * base;
}

/** Whether the ray that led here ran inside a solid dielectric; then its absorption. */
export function insideAbsorbs(): bool {
  return !front && !thin && trans > 0;
}
export function absorption(channel: i32, t: f32): f32 {
  const s = channel == 0 ? load<f32>(material, M_ABSORB_R) : channel == 1 ? load<f32>(material, M_ABSORB_G) : load<f32>(material, M_ABSORB_B);
  return s > 0 ? NativeMathf.exp(-s * t) : 1;
}

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

let frR: f32 = 0, frG: f32 = 0, frB: f32 = 0;
/** Reflectance at a half vector of cosine c to wo: metal, highlight and glass together. */
function reflectance(c: f32): void {
  const w = schlickWeight(c);
  const opaque = (f32(1) - metal) * (f32(1) - trans) * (f0 + (f32(1) - f0) * w), glass = (f32(1) - metal) * trans;
  const g = glass > 0 ? glass * (thin ? paneReflectance(c, load<f32>(material, M_IOR)) : fresnelDielectric(c, eta)) : 0;
  frR = metal * (baseR + (f32(1) - baseR) * w) * compR + opaque * specR + g;
  frG = metal * (baseG + (f32(1) - baseG) * w) * compG + opaque * specG + g;
  frB = metal * (baseB + (f32(1) - baseB) * w) * compB + opaque * specB + g;
}

/** Evaluates all lobes for the world direction d. */
export function evaluate(dx: f32, dy: f32, dz: f32): void {
  fDR = 0; fDG = 0; fDB = 0; fRR = 0; fRG = 0; fRB = 0; fTR = 0; fTG = 0; fTB = 0;
  pD = 0; pR = 0; pT = 0;
  const wix = dx * tx + dy * ty + dz * tz, wiy = dx * bx + dy * by + dz * bz, wiz = dx * nx + dy * ny + dz * nz;
  const side = dx * gx + dy * gy + dz * gz;
  if (wiz > 0 && side > 0) {
    if (albedoD > 0) {
      pD = wiz / PI;
      fDR = diffR * pD; fDG = diffG * pD; fDB = diffB * pD;
    }
    if (albedoR > 0 && !isMirror) reflectionAt(wix, wiy, wiz);
  } else if (wiz < 0 && side < 0 && albedoT > 0 && !isMirror) {
    if (thin) thinAt(wix, wiy, -wiz); else refractionAt(wix, wiy, wiz);
  }
}

function reflectionAt(wix: f32, wiy: f32, wiz: f32): void {
  let hx = wox + wix, hy = woy + wiy, hz = woz + wiz;
  const k = f32(1) / sqrt<f32>(hx * hx + hy * hy + hz * hz);
  hx *= k; hy *= k; hz *= k;
  const c = wox * hx + woy * hy + woz * hz;
  const d = ggxD(hz, alpha);
  pR = ggxG1(woz, alpha) * d / (f32(4) * woz);
  const f = d * ggxG2(woz, wiz, alpha) / (f32(4) * woz);
  reflectance(c);
  fRR = frR * f; fRG = frG * f; fRB = frB * f;
}

/** A rough thin wall: the reflection lobe seen in a mirror, with what the two faces let through. */
function thinAt(wix: f32, wiy: f32, wiz: f32): void {
  let hx = wox + wix, hy = woy + wiy, hz = woz + wiz;
  const k = f32(1) / sqrt<f32>(hx * hx + hy * hy + hz * hz);
  hx *= k; hy *= k; hz *= k;
  const c = wox * hx + woy * hy + woz * hz;
  const d = ggxD(hz, alpha);
  pT = ggxG1(woz, alpha) * d / (f32(4) * woz);
  const f = (f32(1) - metal) * trans * (f32(1) - paneReflectance(c, load<f32>(material, M_IOR))) * d * ggxG2(woz, wiz, alpha) / (f32(4) * woz);
  fTR = baseR * f; fTG = baseG * f; fTB = baseB * f;
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
  const d = ggxD(hz, alpha);
  const denom = co + eta * ci;
  const jacobian = -ci / max<f32>(denom * denom, f32(1e-12));
  pT = ggxG1(woz, alpha) * d * co / woz * eta * eta * jacobian;
  const f = (f32(1) - metal) * trans * (f32(1) - fresnelDielectric(co, eta)) * ggxG2(woz, -wiz, alpha) * d * co / woz * jacobian;
  fTR = baseR * f; fTG = baseG * f; fTB = baseB * f;
}

/** The direction last sampled (world), its weight BSDF·cos/density, and the density (0 for a delta). */
export let dirX: f32 = 0;
export let dirY: f32 = 0;
export let dirZ: f32 = 1;
export let weightR: f32 = 0;
export let weightG: f32 = 0;
export let weightB: f32 = 0;
export let density: f32 = 0;

// @ts-ignore: decorator
@inline
function setDirection(x: f32, y: f32, z: f32): f32 {
  dirX = x * tx + y * bx + z * nx;
  dirY = x * ty + y * by + z * ny;
  dirZ = x * tz + y * bz + z * nz;
  const k = f32(1) / sqrt<f32>(dirX * dirX + dirY * dirY + dirZ * dirZ);
  dirX *= k; dirY *= k; dirZ *= k;
  return dirX * gx + dirY * gy + dirZ * gz;
}

/** Samples one lobe with (u, v). False when the direction leaves on the wrong side. */
export function sampleLobe(lobe: i32, u: f32, v: f32): bool {
  if (lobe == DIFFUSE) {
    const r = sqrt<f32>(u), phi = v * f32(2 * Math.PI);
    const z = sqrt<f32>(max<f32>(f32(1) - u, f32(1e-9)));
    density = z / PI;
    weightR = diffR; weightG = diffG; weightB = diffB;
    return setDirection(r * NativeMathf.cos(phi), r * NativeMathf.sin(phi), z) > 0;
  }
  let hx: f32 = 0, hy: f32 = 0, hz: f32 = 1;
  if (!isMirror) {
    sampleVisibleNormal(wox, woy, woz, alpha, u, v);
    hx = mx; hy = my; hz = mz;
  }
  const c = wox * hx + woy * hy + woz * hz;
  if (c <= 0) return false;
  if (lobe == REFLECTION) {
    const x = f32(2) * c * hx - wox, y = f32(2) * c * hy - woy, z = f32(2) * c * hz - woz;
    if (z <= 0) return false;
    reflectance(c);
    const g = isMirror ? f32(1) : ggxG2(woz, z, alpha) / ggxG1(woz, alpha);
    density = isMirror ? 0 : ggxG1(woz, alpha) * ggxD(hz, alpha) / (f32(4) * woz);
    weightR = frR * g; weightG = frG * g; weightB = frB * g;
    return setDirection(x, y, z) > 0;
  }
  const glass = (f32(1) - metal) * trans;
  if (thin) {
    const x = f32(2) * c * hx - wox, y = f32(2) * c * hy - woy, z = f32(2) * c * hz - woz;
    if (z <= 0) return false;
    const g = isMirror ? f32(1) : ggxG2(woz, z, alpha) / ggxG1(woz, alpha);
    const t = glass * g * (f32(1) - paneReflectance(c, load<f32>(material, M_IOR)));
    density = isMirror ? 0 : ggxG1(woz, alpha) * ggxD(hz, alpha) / (f32(4) * woz);
    weightR = baseR * t; weightG = baseG * t; weightB = baseB * t;
    return (isMirror ? setDirection(-wox, -woy, -woz) : setDirection(x, y, -z)) < 0;
  }
  const k2 = f32(1) - (f32(1) - c * c) / (eta * eta);
  if (k2 <= 0) return false;
  const cosT = sqrt<f32>(k2), inv = f32(1) / eta;
  const s = c * inv - cosT;
  const x = s * hx - wox * inv, y = s * hy - woy * inv, z = s * hz - woz * inv;
  if (z >= 0) return false;
  const g = isMirror ? f32(1) : ggxG2(woz, -z, alpha) / ggxG1(woz, alpha);
  const t = glass * (f32(1) - fresnelDielectric(c, eta)) * g * inv * inv;
  weightR = baseR * t; weightG = baseG * t; weightB = baseB * t;
  density = 0;
  if (!isMirror) {
    const denom = c - eta * cosT;
    density = ggxG1(woz, alpha) * ggxD(hz, alpha) * c / woz * eta * eta * cosT / max<f32>(denom * denom, f32(1e-12));
  }
  return setDirection(x, y, z) < 0;
}

/** Whether transmission here goes straight through, as shadow rays are let through. */
export function isClearPane(): bool {
  return thin && isMirror && trans > 0;
}
