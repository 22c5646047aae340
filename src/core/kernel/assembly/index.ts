// Entry points of the kernel. Each thread makes its own instance over the shared memory and calls
// `bind` with the address of its scratch area.
export { beginTree, beginTrees, beginWorld, growTree, halveReferences, referTriangles, rootTask, treeEnd } from './bvh-build';
export { keepEnergy } from './energy';
import { closest, hitInstance, hitT, hitTriangle, hitU, hitV, occluded, setTraversalStack } from './bvh-trace';
import { bindCamera } from './camera';
import { bindEnvironment } from './environment';
import { bindFeatures } from './features';
import { bindGuides } from './guides';
import { beginPixel, bindFilm, countPairs, endPixel } from './film';
import { SCRATCH_STACK, TILE_SIZE } from './layout';
import { bindLightChoice } from './light-choice';
import { bindLights } from './light-records';
import { meet, metLight, metT } from './light-shapes';
import { bindMedia } from './media';
import { bindPath, renderSample } from './path';
import { bindPoses, posedEnd } from './poses';
import { bindRayRecords, stopRayRecords } from './ray-records';
import { draw, r0, r1, streamOf } from './sobol';
import { bindStudy } from './study';
import { bindTextures } from './textures';
import { front, gx, gy, gz, loadVertex, objectIndex, px, py, pz } from './vertex';
export { rayRecordCount } from './ray-records';
export { setTrail, trailLength } from './trail';

let scratch: usize = 0;

/** Makes this instance use the scratch area at `base` and read its parameters. */
export function bind(base: usize): void {
  scratch = base;
  stopRayRecords();
  setTraversalStack(base + SCRATCH_STACK);
  bindFilm(base);
  bindFeatures(base);
  bindGuides(base);
  bindCamera(base);
  bindPoses(base);
  bindLights(posedEnd);
  bindLightChoice();
  bindStudy(base);
  bindEnvironment();
  bindTextures(base);
  bindMedia(base);
  bindPath(base);
  bindRayRecords(base);
}

/** Renders samples [first, first + count) of the tile whose corner is (x0, y0), clipped to w × h pixels. */
export function renderTile(x0: i32, y0: i32, w: i32, h: i32, first: i32, count: i32): void {
  for (let y = 0; y < h; y++) {
    for (let x = 0; x < w; x++) {
      beginPixel(y * TILE_SIZE + x);
      for (let s = first; s < first + count; s++) renderSample(x0 + x, y0 + y, s);
      if (count > 1) endPixel();
    }
  }
  if (count > 1) countPairs(count >> 1);
}

/** Nearest hits of `count` rays (origin, direction, tMax, unused: 8 floats each) as (t, triangle, u, v). */
export function traceRays(rays: usize, count: i32, hits: usize): void {
  for (let i = 0; i < count; i++) {
    const r = rays + usize(i) * 32, h = hits + usize(i) * 16;
    closest(load<f32>(r), load<f32>(r, 4), load<f32>(r, 8), load<f32>(r, 12), load<f32>(r, 16), load<f32>(r, 20), 0, load<f32>(r, 24));
    store<f32>(h, hitT);
    store<i32>(h, hitTriangle, 4);
    store<f32>(h, hitU, 8);
    store<f32>(h, hitV, 12);
  }
}

/**
 * What `count` rays (as for `traceRays`) meet, objects or shapes of lights: t, object (-1 nothing, -2 - n the light n),
 * whether its front, 0, position, geometric normal towards the ray, 0, 0; 12 fields a ray.
 */
export function lookAlong(rays: usize, count: i32, out: usize): void {
  for (let i = 0; i < count; i++) {
    const r = rays + usize(i) * 32, h = out + usize(i) * 48;
    const ox = load<f32>(r), oy = load<f32>(r, 4), oz = load<f32>(r, 8), dx = load<f32>(r, 12), dy = load<f32>(r, 16), dz = load<f32>(r, 20);
    const far = load<f32>(r, 24);
    memory.fill(h, 0, 48);
    closest(ox, oy, oz, dx, dy, dz, 0, far);
    meet(ox, oy, oz, dx, dy, dz, 0, far);
    store<i32>(h, -1, 4);
    if (metLight >= 0 && metT < hitT) {
      store<f32>(h, metT);
      store<i32>(h, -2 - metLight, 4);
      store<f32>(h, ox + dx * metT, 16); store<f32>(h, oy + dy * metT, 20); store<f32>(h, oz + dz * metT, 24);
    } else if (hitTriangle >= 0) {
      loadVertex(hitTriangle, hitInstance, hitU, hitV, dx, dy, dz);
      store<f32>(h, hitT);
      store<i32>(h, objectIndex, 4);
      store<i32>(h, front ? 1 : 0, 8);
      store<f32>(h, px, 16); store<f32>(h, py, 20); store<f32>(h, pz, 24);
      store<f32>(h, gx, 28); store<f32>(h, gy, 32); store<f32>(h, gz, 36);
    }
  }
}

/** How many of `count` rays are blocked within their tMax. */
export function traceShadows(rays: usize, count: i32): i32 {
  let blocked = 0;
  for (let i = 0; i < count; i++) {
    const r = rays + usize(i) * 32;
    if (occluded(load<f32>(r), load<f32>(r, 4), load<f32>(r, 8), load<f32>(r, 12), load<f32>(r, 16), load<f32>(r, 20), 0, load<f32>(r, 24))) blocked++;
  }
  return blocked;
}

/** Writes the pair `pair` of points [0, count) of a pixel's half as (x, y) floats. */
export function samplePairs(seed: u32, pixel: u32, half: u32, pair: u32, count: i32, out: usize): void {
  const stream = streamOf(seed, pixel, half);
  for (let i = 0; i < count; i++) {
    draw(stream, u32(i), pair);
    store<f32>(out + usize(i) * 8, r0);
    store<f32>(out + usize(i) * 8, r1, 4);
  }
}
