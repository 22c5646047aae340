// Light that falls on a surface with and without what stands in its way, told by light samples alone: of shadow catchers, and
// of all that the camera meets.
import { clearB, clearG, clearR, fogGained, fogPassed, occluded, seeCatchersAlone } from './bvh-trace';
import { addShadow, countCatcher, countShadow, keepsShadow } from './film';
import { fogToLight, hasFog } from './fog';
import { PAIR_LIGHT, PAIR_PICK, fadeToLight, pairAt, stream } from './gather';
import { H_OWN_COUNT, H_OWN_LIGHTS, SCENE_BASE } from './layout';
import { picked, pickedChance, pickLight } from './light-choice';
import { IN_REFLECTION, ON_DIFFUSE, THROUGH, gainOf, groupOf, lights, ownSamples } from './light-records';
import { lightBlocks } from './light-shapes';
import { lb, lg, lr, sDistance, sPdf, sampleLight, sx, sy, sz } from './lights';
import { evaluate, fDB, fDG, fDR, fRB, fRG, fRR, fTB, fTG, fTR } from './lobes';
import { leftB, leftG, leftR } from './media';
import { draw, hash, r0, r1 } from './sobol';
import { epsilon, gx, gy, gz, objectIndex, px, py, pz } from './vertex';

/** What receives the light: a catcher, or else a surface whose light comes to the camera by this much. */
let catcher: bool = true;
let toCameraR: f32 = 1, toCameraG: f32 = 1, toCameraB: f32 = 1;

/** One light sample at the loaded vertex; `part` is its share of all that are taken of the light. */
function receive(light: i32, chance: f32, part: f32): void {
  if (!lights(light, objectIndex, 0) || !sampleLight(light, chance, px, py, pz, r0, r1)) return;
  evaluate(sx, sy, sz);
  const d = gainOf(light, ON_DIFFUSE), r = gainOf(light, IN_REFLECTION), t = gainOf(light, THROUGH);
  let kr = (fDR * d + fRR * r + fTR * t) * lr, kg = (fDG * d + fRG * r + fTG * t) * lg, kb = (fDB * d + fRB * r + fTB * t) * lb;
  if (!(kr + kg + kb > 0)) return;
  const dx = sx, dy = sy, dz = sz;
  const up = dx * gx + dy * gy + dz * gz > 0;
  const out: f32 = up ? epsilon : -epsilon;
  const ox = px + gx * out, oy = py + gy * out, oz = pz + gz * out;
  const far = sDistance * f32(0.9999) - epsilon;
  let k = part / sPdf;
  const shut = lightBlocks(ox, oy, oz, dx, dy, dz, 0, far, light);
  if (catcher) {
    // What catchers throw on each other stays with the plate.
    if (shut) return;
    seeCatchersAlone(true);
    const own = occluded(ox, oy, oz, dx, dy, dz, 0, far);
    seeCatchersAlone(false);
    if (own) return;
  }
  countShadow(groupOf(light));
  const blocked = occluded(ox, oy, oz, dx, dy, dz, 0, far) || shut;
  if (fadeToLight(up, sDistance)) { kr *= leftR; kg *= leftG; kb *= leftB; }
  if (hasFog()) k *= fogToLight(ox, oy, oz, dx, dy, dz, sDistance, fogPassed, fogGained);
  kr *= k * toCameraR; kg *= k * toCameraG; kb *= k * toCameraB;
  addShadow(kr, kg, kb, false, catcher);
  if (!blocked) addShadow(kr * clearR, kg * clearG, kb * clearB, true, catcher);
}

/** Keeps the shadow on the catcher at the loaded vertex, from `count` picks among all lights and each light's own samples. */
export function catchShadow(index: u32, count: i32): void {
  countCatcher();
  if (!keepsShadow()) return;
  catcher = true;
  toCameraR = 1; toCameraG = 1; toCameraB = 1;
  receiveAll(index, count);
}

/** Keeps direct light at the loaded vertex with and without shadow, as so much of it comes to the camera. */
export function receiveUnshadowed(index: u32, count: i32, tr: f32, tg: f32, tb: f32): void {
  catcher = false;
  toCameraR = tr; toCameraG = tg; toCameraB = tb;
  receiveAll(index, count);
}

function receiveAll(index: u32, count: i32): void {
  for (let j = 0; j < count; j++) {
    const i = index * u32(count) + u32(j);
    draw(stream, i, pairAt(0, PAIR_PICK));
    if (!pickLight(px, py, pz, r0)) continue;
    draw(stream, i, pairAt(0, PAIR_LIGHT));
    receive(picked, pickedChance, f32(1) / f32(count));
  }
  const own = load<i32>(SCENE_BASE, H_OWN_COUNT);
  for (let k = 0; k < own; k++) {
    const light = load<i32>(load<usize>(SCENE_BASE, H_OWN_LIGHTS) + (usize(k) << 2));
    const n = ownSamples(light);
    for (let j = 0; j < n; j++) {
      draw(stream ^ hash(u32(light + 1)), index * u32(n) + u32(j), pairAt(0, PAIR_LIGHT));
      receive(light, 1, f32(1) / f32(n));
    }
  }
}
