// The matt lobe: energy-preserving Oren–Nayar [Portsmouth, Kutz & Hill 2025, "EON"], Lambert's where roughness is 0.
import { wox, woy, woz } from './vertex';

/** ½ − 2/(3π) and ⅔ − 28/(15π) of the paper's eq. 6 and 17. */
const C1: f32 = f32(0.5 - 2 / (3 * Math.PI));
const C2: f32 = f32(2 / 3 - 28 / (15 * Math.PI));

let rough: f32 = 0;
let af: f32 = 1;
let missO: f32 = 0;
let roR: f32 = 0, roG: f32 = 0, roB: f32 = 0;
let msR: f32 = 0, msG: f32 = 0, msB: f32 = 0;

/** Albedo of a single bounce among facets, by the paper's fit (eq. 14). */
// @ts-ignore: decorator
@inline
function singleAlbedo(mu: f32): f32 {
  const m = f32(1) - mu;
  const g = m * (f32(0.0571085289) + m * (f32(0.491881867) + m * (f32(-0.332181442) + m * f32(0.0714429953))));
  return (f32(1) + rough * g) * af;
}


// @ts-ignore: decorator
@inline
function multiple(rho: f32, mean: f32): f32 {
  return rho * rho * mean / (f32(1) - rho * (f32(1) - mean)) / (f32(1) - mean);
}

/** Readies the lobe for a base colour and roughness. */
export function bindDiffuse(r: f32, g: f32, b: f32, roughness: f32): void {
  rough = roughness;
  roR = r; roG = g; roB = b;
  if (roughness == 0) return;
  af = f32(1) / (f32(1) + C1 * roughness);
  missO = f32(1) - singleAlbedo(woz);
  const mean = af * (f32(1) + C2 * roughness);
  msR = multiple(r, mean); msG = multiple(g, mean); msB = multiple(b, mean);
}

/** π times the BSDF of the last `matt`. */
export let mattR: f32 = 0;
export let mattG: f32 = 0;
export let mattB: f32 = 0;

/** Sets `matt*` for the local direction wi. */
export function matt(wix: f32, wiy: f32, wiz: f32): void {
  if (rough == 0) { mattR = roR; mattG = roG; mattB = roB; return; }
  const s = wox * wix + woy * wiy;
  const over = s > 0 ? s / max<f32>(woz, wiz) : s;
  const single = af * (f32(1) + rough * over);
  const miss = max<f32>(missO, 0) * max<f32>(f32(1) - singleAlbedo(wiz), 0);
  mattR = roR * single + msR * miss; mattG = roG * single + msG * miss; mattB = roB * single + msB * miss;
}

