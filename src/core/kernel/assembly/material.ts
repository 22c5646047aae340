// What the surface at the vertex is made of: the strengths, colours and roughnesses of its lobes for this view.
// Layers from the top: coat, then metal, glass or opaque dielectric over matt; each lies under what the layers
// above reflect, by directional albedo [Turquin 2019].
import {
  ALBEDO_TABLE_SIZE, CAUSTIC_ROUGHNESS, GLASS_COSINES, GLASS_ROUGHNESSES, GLASS_SLAB_BYTES, H_ALBEDO_TABLE, H_GLASS_COUNT, H_GLASS_TABLE,
  MIRROR_ALPHA, M_ANISOTROPY, M_BASE_B, M_BASE_G, M_BASE_R, M_COAT_B, M_COAT_G, M_COAT_IOR, M_COAT_R, M_COAT_ROUGHNESS,
  M_COAT_WEIGHT, M_DIFFUSE_ROUGHNESS, M_DISPERSION, M_EMIT_B, M_EMIT_DOUBLE_SIDED, M_EMIT_G, M_EMIT_R, M_IOR, M_METALNESS,
  M_ROUGHNESS, M_SPECULAR_B, M_SPECULAR_G, M_SPECULAR_R, M_SPECULAR_WEIGHT, M_STRAIGHT_SHADOWS, M_THIN_WALLED, M_TINT_B, M_TINT_G,
  M_TINT_R, M_TRANSMISSION, M_TRANSMISSION_ROUGHNESS, SCENE_BASE,
} from './layout';
import { bindDiffuse } from './diffuse';
import { fresnelDielectric, schlickWeight } from './optics';
import { paneReflectance } from './panes';
import { front, material, woz } from './vertex';

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

let tabA: f32 = 0, tabB: f32 = 0;
/** Directional albedo of GGX with Schlick's Fresnel term: F0·tabA + tabB. */
function lookUpAlbedo(roughness: f32): void {
  const n = f32(ALBEDO_TABLE_SIZE - 1);
  const x = sqrt<f32>(min<f32>(woz, 1)) * n, y = min<f32>(max<f32>(roughness, 0), 1) * n;
  const i = min(i32(x), ALBEDO_TABLE_SIZE - 2), j = min(i32(y), ALBEDO_TABLE_SIZE - 2);
  const fx = x - f32(i), fy = y - f32(j);
  const row = usize(ALBEDO_TABLE_SIZE) * 8;
  const at = load<usize>(SCENE_BASE, H_ALBEDO_TABLE) + usize(j) * row + usize(i) * 8;
  const w00 = (f32(1) - fx) * (f32(1) - fy), w10 = fx * (f32(1) - fy), w01 = (f32(1) - fx) * fy, w11 = fx * fy;
  tabA = load<f32>(at) * w00 + load<f32>(at, 8) * w10 + load<f32>(at + row) * w01 + load<f32>(at + row, 8) * w11;
  tabB = load<f32>(at, 4) * w00 + load<f32>(at, 12) * w10 + load<f32>(at + row, 4) * w01 + load<f32>(at + row, 12) * w11;
}

// @ts-ignore: decorator
@inline
function mix(a: f32, b: f32, t: f32): f32 {
  return a + (b - a) * t;
}

/** What single scattering by rough glass keeps, from the table whose relative index is next to `eta`. */
function glassAlbedo(roughness: f32): f32 {
  const count = load<i32>(SCENE_BASE, H_GLASS_COUNT);
  const table = load<usize>(SCENE_BASE, H_GLASS_TABLE);
  let slab = table;
  for (let i = 1; i < count; i++) {
    const other = table + usize(i) * GLASS_SLAB_BYTES;
    if (abs(load<f32>(other) - eta) < abs(load<f32>(slab) - eta)) slab = other;
  }
  if (count == 0) return 1;
  const x = sqrt<f32>(min<f32>(woz, 1)) * f32(GLASS_COSINES - 1);
  const y = min<f32>(max<f32>(roughness, 0), 1) * f32(GLASS_ROUGHNESSES - 1);
  const i = min(i32(x), GLASS_COSINES - 2), j = min(i32(y), GLASS_ROUGHNESSES - 2);
  const fx = x - f32(i), fy = y - f32(j);
  const row = usize(GLASS_COSINES) * 4;
  const at = slab + 4 + usize(j) * row + usize(i) * 4;
  return mix(mix(load<f32>(at), load<f32>(at, 4), fx), mix(load<f32>(at + row), load<f32>(at + row, 4), fx), fy);
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
  setRoughness(roughness, load<f32>(m, M_ANISOTROPY), ownThrough);
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
    if (mirrorC) { tabB = schlickWeight(woz); tabA = f32(1) - tabB; } else lookUpAlbedo(rough);
    coatAlbedo = coatWeight * (coatF0 * tabA + tabB);
    const passes = f32(1) - coatAlbedo;
    underR = passes * (f32(1) + coatWeight * (load<f32>(m, M_COAT_R) - f32(1)));
    underG = passes * (f32(1) + coatWeight * (load<f32>(m, M_COAT_G) - f32(1)));
    underB = passes * (f32(1) + coatWeight * (load<f32>(m, M_COAT_B) - f32(1)));
  }
  if (mirrorR) { tabB = schlickWeight(woz); tabA = f32(1) - tabB; } else lookUpAlbedo(roughness);
  const whole = max<f32>(tabA + tabB, f32(1e-3));
  const lost = (f32(1) - whole) / whole;
  compR = f32(1) + baseR * lost; compG = f32(1) + baseG * lost; compB = f32(1) + baseB * lost;
  const e = f0 * tabA + tabB;
  diffR = opaque * underR * (f32(1) - specR * e); diffG = opaque * underG * (f32(1) - specG * e); diffB = opaque * underB * (f32(1) - specB * e);
  bindDiffuse(baseR, baseG, baseB, load<f32>(m, M_DIFFUSE_ROUGHNESS));
  albedoD = luminance(diffR * baseR, diffG * baseG, diffB * baseB);
  const tintR = load<f32>(m, M_TINT_R), tintG = load<f32>(m, M_TINT_G), tintB = load<f32>(m, M_TINT_B);
  compGlass = 1; compThrough = 1;
  let glassR: f32 = 0;
  if (glass > 0) {
    glassR = thin ? paneReflectance(woz, paneIor) : fresnelDielectric(woz, eta);
    if (thin) {
      if (!mirrorR) compGlass = f32(1) / whole;
      compThrough = compGlass;
      if (ownThrough >= 0) {
        compThrough = 1;
        if (!mirrorT) { const a = tabA, b = tabB; lookUpAlbedo(ownThrough); compThrough = f32(1) / max<f32>(tabA + tabB, f32(1e-3)); tabA = a; tabB = b; }
      }
    } else {
      if (!mirrorR) compGlass = f32(1) / glassAlbedo(roughness);
      compThrough = compGlass;
      if (ownThrough >= 0) compThrough = mirrorT ? f32(1) : f32(1) / glassAlbedo(ownThrough);
    }
  }
  throughR = glass * tintR * underR * compThrough; throughG = glass * tintG * underG * compThrough; throughB = glass * tintB * underB * compThrough;
  const baseY = luminance(baseR, baseG, baseB);
  const below = luminance(underR, underG, underB) *
    (metal * (baseY * tabA + tabB) * (f32(1) + baseY * lost) + opaque * luminance(specR, specG, specB) * e + glass * glassR);
  albedoR = coatAlbedo + below;
  coatShare = coatAlbedo > 0 ? coatAlbedo / albedoR : 0;
  // Microfacets turned towards the ray transmit even where the whole surface would reflect totally.
  albedoT = luminance(throughR, throughG, throughB) * (mirrorT ? f32(1) - glassR : max<f32>(f32(1) - glassR, f32(0.05)));
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
