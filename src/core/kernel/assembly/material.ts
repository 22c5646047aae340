// What the surface at the vertex is made of: the strengths, colours and roughnesses of its lobes for this view.
// Layers from the top: coat, then metal, glass or opaque dielectric over matt; each lies under what the layers
// above reflect, by directional albedo [Turquin 2019].
import {
  CAUSTIC_ROUGHNESS, ENERGY_AZIMUTHS, ENERGY_COSINES, ENERGY_HEAD_BYTES, ENERGY_OPAQUE, ENERGY_PANE, ENERGY_ROUGHNESSES, ENERGY_SOLID,
  H_ENERGY_COUNT, H_ENERGY_SLABS,
  MIRROR_ALPHA, M_ANISOTROPY, M_BASE_B, M_BASE_G, M_BASE_R, M_COAT_B, M_COAT_G, M_COAT_IOR, M_COAT_R, M_COAT_ROUGHNESS,
  M_COAT_WEIGHT, M_DIFFUSE_ROUGHNESS, M_DISPERSION, M_EMIT_B, M_EMIT_DOUBLE_SIDED, M_EMIT_G, M_EMIT_R, M_IOR, M_METALNESS,
  M_ROUGHNESS, M_SPECULAR_B, M_SPECULAR_G, M_SPECULAR_R, M_SPECULAR_WEIGHT, M_STRAIGHT_SHADOWS, M_THIN_WALLED, M_TINT_B, M_TINT_G,
  M_TINT_R, M_TRANSMISSION, M_TRANSMISSION_ROUGHNESS, SCENE_BASE,
} from './layout';
import { bindDiffuse } from './diffuse';
import { fresnelDielectric, schlickWeight } from './optics';
import { paneReflectance } from './panes';
import { front, material, wox, woy, woz } from './vertex';

// @ts-ignore: decorator
@inline
export function luminance(r: f32, g: f32, b: f32): f32 {
  return r * f32(0.2126) + g * f32(0.7152) + b * f32(0.0722);
}

/** GGX roughness of reflection, of the coat and of transmission, and whether each is a mirror or makes caustics. */
export let rx: f32 = 1;
export let ry: f32 = 1;
export let ca: f32 = 1;
export let qx: f32 = 1;
export let qy: f32 = 1;
export let mirrorR: bool = false;
export let mirrorC: bool = false;
export let mirrorT: bool = false;
export let sharpR: bool = false;
export let sharpT: bool = false;

/** Index beyond over index before the surface; of the medium outside; a pane's own. */
export let eta: f32 = 1;
export let paneIor: f32 = 1;
export let thin: bool = false;
/** Shares of metal, opaque dielectric and glass. */
export let metal: f32 = 0;
export let opaque: f32 = 1;
export let glass: f32 = 0;
export let baseR: f32 = 0;
export let baseG: f32 = 0;
export let baseB: f32 = 0;
export let specR: f32 = 0;
export let specG: f32 = 0;
export let specB: f32 = 0;
/** Edge tint of metal: what Schlick's term loses towards 82° (OpenPBR 1.1, F82-tint). */
export let edgeR: f32 = 0;
export let edgeG: f32 = 0;
export let edgeB: f32 = 0;
export let f0: f32 = 0;
export let coatF0: f32 = 0;
export let coatWeight: f32 = 0;
/** What the coat lets through to the layers below. */
export let underR: f32 = 1;
export let underG: f32 = 1;
export let underB: f32 = 1;
/** Multiple scattering given back: metal by channel, glass reflection and transmission. */
export let compR: f32 = 1;
export let compG: f32 = 1;
export let compB: f32 = 1;
export let compGlass: f32 = 1;
export let compThrough: f32 = 1;
/** Colour of transmission, glass share and coat included. */
export let throughR: f32 = 0;
export let throughG: f32 = 0;
export let throughB: f32 = 0;
/** Strength of the matt lobe, the layers above taken off. */
export let diffR: f32 = 0;
export let diffG: f32 = 0;
export let diffB: f32 = 0;
/** Estimated albedo of each lobe for this wo: zero when the lobe is absent; and the coat's share of reflection. */
export let albedoD: f32 = 0;
export let albedoR: f32 = 0;
export let albedoT: f32 = 0;
export let coatShare: f32 = 0;
/** Radiance the surface emits towards wo. */
export let er: f32 = 0;
export let eg: f32 = 0;
export let eb: f32 = 0;

/** Directional albedo of reflection with Schlick's Fresnel term: F0·tabA + tabB. */
let tabA: f32 = 0, tabB: f32 = 0;
/** What facets keep of the light, in two parts (see ../energy.ts). */
let keptA: f32 = 0, keptB: f32 = 0;

// @ts-ignore: decorator
@inline
function mix(a: f32, b: f32, t: f32): f32 {
  return a + (b - a) * t;
}

// @ts-ignore: decorator
@inline
function between(at: usize, fx: f32, fy: f32): f32 {
  const row = usize(ENERGY_COSINES) * 8;
  return mix(mix(load<f32>(at), load<f32>(at, 8), fx), mix(load<f32>(at + row), load<f32>(at + row, 8), fx), fy);
}

/** Looks up one slab, for facets that are stretched as it says. */
function lookUp(slab: usize, roughness: f32): void {
  const x = sqrt<f32>(min<f32>(woz, 1)) * f32(ENERGY_COSINES - 1);
  const y = min<f32>(max<f32>(roughness, 0), 1) * f32(ENERGY_ROUGHNESSES - 1);
  const i = min(i32(x), ENERGY_COSINES - 2), j = min(i32(y), ENERGY_ROUGHNESSES - 2);
  const fx = x - f32(i), fy = y - f32(j);
  let at = slab + ENERGY_HEAD_BYTES + usize(j * ENERGY_COSINES + i) * 8;
  if (load<f32>(slab, 8) == 0) { keptA = between(at, fx, fy); keptB = between(at + 4, fx, fy); return; }
  const flat = wox * wox + woy * woy;
  const z = (flat > 0 ? woy * woy / flat : f32(0)) * f32(ENERGY_AZIMUTHS - 1);
  const k = min(i32(z), ENERGY_AZIMUTHS - 2);
  const fz = z - f32(k);
  const sheet = usize(ENERGY_COSINES * ENERGY_ROUGHNESSES) * 8;
  at += usize(k) * sheet;
  keptA = mix(between(at, fx, fy), between(at + sheet, fx, fy), fz);
  keptB = mix(between(at + 4, fx, fy), between(at + sheet + 4, fx, fy), fz);
}

/**
 * Sets `kept*` for facets of this roughness and stretch, from the slabs whose relative index is next to `index`, between those
 * whose stretches are next to this. False when there is none of the kind.
 */
function lookUpKept(kind: i32, index: f32, roughness: f32, stretch: f32): bool {
  let slab = load<usize>(SCENE_BASE, H_ENERGY_SLABS);
  if (kind == ENERGY_OPAQUE && stretch == 0) { lookUp(slab, roughness); return true; }
  let low: usize = 0, high: usize = 0, nearest = f32.MAX_VALUE;
  for (let i = load<i32>(SCENE_BASE, H_ENERGY_COUNT); i > 0; i--) {
    if (load<i32>(slab) == kind) {
      const off = kind == ENERGY_OPAQUE ? f32(0) : abs(load<f32>(slab, 4) - index), s = load<f32>(slab, 8);
      if (off < nearest) { nearest = off; low = 0; high = 0; }
      if (off == nearest) {
        if (s <= stretch && (low == 0 || s > load<f32>(low, 8))) low = slab;
        if (s >= stretch && (high == 0 || s < load<f32>(high, 8))) high = slab;
      }
    }
    slab += load<i32>(slab, 12);
  }
  if (low == 0) low = high;
  if (high == 0) high = low;
  if (low == 0) return false;
  lookUp(low, roughness);
  if (low == high) return true;
  const a = keptA, b = keptB, s = load<f32>(low, 8);
  lookUp(high, roughness);
  const t = (stretch - s) / (load<f32>(high, 8) - s);
  keptA = mix(a, keptA, t); keptB = mix(b, keptB, t);
  return true;
}

/** The most that light which passes facets is raised by, where less passes them than is not reflected. */
const MOST_RAISED: f32 = 4;
/** What facets of glass reflect and let through, lost light given back: shares of the light, with 1 for their sum. */
let glassR: f32 = 0, glassT: f32 = 0;
/** How often either is to be followed, together as often as glass is. */
let drawnR: f32 = 0, drawnT: f32 = 0;

/**
 * Shares the light that meets glass out between reflection and transmission, which may differ in roughness. From outside,
 * reflected is what facets of its roughness reflect of all they keep, and the rest passes; from inside, what facets of the
 * other's roughness let out passes, and the rest is reflected, or sharp reflection would hold light beyond the critical
 * angle for ever. Where facets that let light through let next to none of it, reflection has that too.
 */
function shareGlass(roughness: f32, own: f32, stretch: f32): void {
  const f = thin ? paneReflectance(woz, paneIor) : fresnelDielectric(woz, eta);
  glassR = f; glassT = f32(1) - f;
  drawnR = glassR; drawnT = glassT;
  compGlass = 1; compThrough = 1;
  if (mirrorR && mirrorT) return;
  const apart = own >= 0 && own != roughness;
  if (thin && !apart) {
    // Both keep the same of it.
    lookUpKept(ENERGY_OPAQUE, 1, roughness, stretch);
    compGlass = f32(1) / max<f32>(keptA + keptB, f32(1e-3));
    compThrough = compGlass;
    return;
  }
  const kind = thin ? ENERGY_PANE : ENERGY_SOLID, index = thin ? paneIor : eta;
  let back = f, on = f32(1) - f;
  if (!mirrorR && lookUpKept(kind, index, roughness, stretch)) { back = keptA; on = keptB; }
  let passes = on / (back + on);
  if (mirrorT) on = f32(1) - f;
  else if (apart || mirrorR) {
    let whole: f32 = 1;
    if (lookUpKept(kind, index, apart ? own : roughness, stretch)) { on = keptB; whole = keptA + keptB; }
    if (eta < 1) passes = on / whole;
  }
  if (mirrorT && eta < 1) passes = on;
  compThrough = min<f32>(passes / max<f32>(on, f32(1e-4)), MOST_RAISED);
  glassT = compThrough * on;
  glassR = f32(1) - glassT;
  compGlass = glassR / max<f32>(back, f32(1e-4));
  drawnR = glassR; drawnT = glassT;
  if (eta >= 1) return;
  // From inside each facet reflects all or next to nothing, so that a lobe of little light is next to none in most draws
  // and all of it in few: the root of the share is the deviation that its draws have.
  const a = sqrt<f32>(glassR), b = sqrt<f32>(glassT);
  drawnR = a / (a + b); drawnT = b / (a + b);
}

/** Schlick's loss towards 82° that makes the reflectance there `tint` times as high. */
function edgeLoss(base: f32, tint: f32): f32 {
  const c: f32 = f32(1) / f32(7);
  const w = schlickWeight(c);
  return (base + (f32(1) - base) * w) * (f32(1) - tint) / (c * w * (f32(1) - c));
}

/** The index for the wavelength (nm) of a path, by Cauchy's formula through the index at 589 nm; 0 = no wavelength. */
function indexAt(wavelength: f32): f32 {
  const ior = load<f32>(material, M_IOR);
  const spread = load<f32>(material, M_DISPERSION);
  if (spread == 0 || wavelength == 0) return ior;
  const um = wavelength * f32(1e-3);
  return max<f32>(ior + spread * (f32(1) / (um * um) - f32(1 / (0.5893 * 0.5893))), 1);
}

/** Whether glass here spreads colours. */
export function disperses(): bool {
  return load<f32>(material, M_DISPERSION) != 0 && load<f32>(material, M_TRANSMISSION) > 0;
}

/** Least roughness of reflection and transmission, by which caustics are softened; what is sharp is told without it. */
let softness: f32 = 0;
export function softenTo(roughness: f32): void {
  softness = roughness;
}

function setRoughness(roughness: f32, anisotropy: f32, own: f32): void {
  // OpenPBR 1.1, "Microfacet model": the mean square roughness is kept.
  const k = f32(1) - anisotropy;
  const stretch = anisotropy == 0 ? f32(1) : sqrt<f32>(f32(2) / (f32(1) + k * k));
  let a = roughness * roughness * stretch;
  mirrorR = roughness * roughness < MIRROR_ALPHA;
  rx = a; ry = max<f32>(a * k, f32(1e-4));
  const through = own < 0 ? roughness : own;
  a = through * through * stretch;
  mirrorT = through * through < MIRROR_ALPHA;
  qx = a; qy = max<f32>(a * k, f32(1e-4));
}

/** Readies the lobes at the loaded vertex in a medium of index `outer`, for a path of this wavelength (nm, 0 = all). */
export function loadMaterial(outer: f32, wavelength: f32): void {
  const m = material;
  baseR = load<f32>(m, M_BASE_R); baseG = load<f32>(m, M_BASE_G); baseB = load<f32>(m, M_BASE_B);
  thin = load<f32>(m, M_THIN_WALLED) > 0;
  let roughness = load<f32>(m, M_ROUGHNESS), ownThrough = load<f32>(m, M_TRANSMISSION_ROUGHNESS);
  const through = ownThrough < 0 ? roughness : ownThrough;
  sharpR = roughness <= CAUSTIC_ROUGHNESS;
  sharpT = through <= CAUSTIC_ROUGHNESS;
  if (softness > 0) {
    // Clear panes stay clear, since shadow rays go straight through them.
    const clear = (thin || load<f32>(m, M_STRAIGHT_SHADOWS) > 0) && through * through < MIRROR_ALPHA;
    ownThrough = clear ? through : ownThrough < 0 ? ownThrough : max<f32>(ownThrough, softness);
    roughness = max<f32>(roughness, softness);
  }
  const stretch = load<f32>(m, M_ANISOTROPY);
  setRoughness(roughness, stretch, ownThrough);
  metal = load<f32>(m, M_METALNESS);
  const trans = load<f32>(m, M_TRANSMISSION);
  opaque = (f32(1) - metal) * (f32(1) - trans);
  glass = (f32(1) - metal) * trans;
  const ior = indexAt(wavelength);
  paneIor = ior / outer;
  eta = front || thin ? ior / outer : outer / ior;
  const r = (ior - outer) / (ior + outer);
  f0 = r * r;
  const weight = load<f32>(m, M_SPECULAR_WEIGHT);
  const colorR = load<f32>(m, M_SPECULAR_R), colorG = load<f32>(m, M_SPECULAR_G), colorB = load<f32>(m, M_SPECULAR_B);
  specR = colorR * weight; specG = colorG * weight; specB = colorB * weight;
  edgeR = 0; edgeG = 0; edgeB = 0;
  if (metal > 0 && colorR + colorG + colorB != 3) {
    edgeR = edgeLoss(baseR, colorR); edgeG = edgeLoss(baseG, colorG); edgeB = edgeLoss(baseB, colorB);
  }
  coatWeight = load<f32>(m, M_COAT_WEIGHT);
  underR = 1; underG = 1; underB = 1;
  let coatAlbedo: f32 = 0;
  if (coatWeight > 0) {
    const own = load<f32>(m, M_COAT_ROUGHNESS), rough = max<f32>(own, softness), index = load<f32>(m, M_COAT_IOR);
    ca = rough * rough;
    mirrorC = ca < MIRROR_ALPHA;
    sharpR = own <= CAUSTIC_ROUGHNESS;
    const k = (index - outer) / (index + outer);
    coatF0 = k * k;
    if (mirrorC) { keptB = schlickWeight(woz); keptA = f32(1) - keptB; } else lookUpKept(ENERGY_OPAQUE, 1, rough, 0);
    coatAlbedo = coatWeight * (coatF0 * keptA + keptB);
    const passes = f32(1) - coatAlbedo;
    underR = passes * (f32(1) + coatWeight * (load<f32>(m, M_COAT_R) - f32(1)));
    underG = passes * (f32(1) + coatWeight * (load<f32>(m, M_COAT_G) - f32(1)));
    underB = passes * (f32(1) + coatWeight * (load<f32>(m, M_COAT_B) - f32(1)));
  }
  if (mirrorR) { keptB = schlickWeight(woz); keptA = f32(1) - keptB; } else lookUpKept(ENERGY_OPAQUE, 1, roughness, stretch);
  tabA = keptA; tabB = keptB;
  const whole = max<f32>(tabA + tabB, f32(1e-3));
  const lost = (f32(1) - whole) / whole;
  compR = f32(1) + baseR * lost; compG = f32(1) + baseG * lost; compB = f32(1) + baseB * lost;
  const e = f0 * tabA + tabB;
  diffR = opaque * underR * (f32(1) - specR * e); diffG = opaque * underG * (f32(1) - specG * e); diffB = opaque * underB * (f32(1) - specB * e);
  bindDiffuse(baseR, baseG, baseB, load<f32>(m, M_DIFFUSE_ROUGHNESS));
  albedoD = luminance(diffR * baseR, diffG * baseG, diffB * baseB);
  const tintR = load<f32>(m, M_TINT_R), tintG = load<f32>(m, M_TINT_G), tintB = load<f32>(m, M_TINT_B);
  compGlass = 1; compThrough = 1;
  drawnR = 0; drawnT = 0;
  if (glass > 0) shareGlass(roughness, ownThrough, stretch);
  throughR = glass * tintR * underR * compThrough; throughG = glass * tintG * underG * compThrough; throughB = glass * tintB * underB * compThrough;
  const baseY = luminance(baseR, baseG, baseB);
  const below = luminance(underR, underG, underB) *
    (metal * (baseY * tabA + tabB) * (f32(1) + baseY * lost) + opaque * luminance(specR, specG, specB) * e + glass * drawnR);
  albedoR = coatAlbedo + below;
  coatShare = coatAlbedo > 0 ? coatAlbedo / albedoR : 0;
  albedoT = glass > 0 ? luminance(throughR, throughG, throughB) * drawnT / max<f32>(compThrough, f32(1e-6)) : f32(0);
  er = 0; eg = 0; eb = 0;
  if (front || load<f32>(m, M_EMIT_DOUBLE_SIDED) > 0) {
    er = load<f32>(m, M_EMIT_R); eg = load<f32>(m, M_EMIT_G); eb = load<f32>(m, M_EMIT_B);
  }
}

/** Mean colour of the surface for the albedo feature: what leaves it under even white light, roughly. */
export function featureAlbedo(channel: i32): f32 {
  const base = channel == 0 ? baseR : channel == 1 ? baseG : baseB;
  const spec = channel == 0 ? specR : channel == 1 ? specG : specB;
  const e = (f0 * tabA + tabB) * spec;
  return metal * base + opaque * (base * (f32(1) - e) + e) + glass * base;
}

/** Whether transmission here goes straight on, as shadow rays are let through. */
export function isClearPane(): bool {
  return glass > 0 && mirrorT && (thin || load<f32>(material, M_STRAIGHT_SHADOWS) > 0);
}
