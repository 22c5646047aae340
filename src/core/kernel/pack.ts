import { lightGroups, type Scene } from '../scene';
import { madeEnvironment } from '../sky';
import { slabFloats, slabValues } from './energy';
import {
  ENERGY_HEAD_BYTES,
  ENERGY_KINDS,
  ENV_CUTS,
  ENV_PIXEL_BYTES,
  fieldOffset,
  HEADER_FIELDS,
  SCENE_BASE,
} from './layout';
import { packFogs } from './pack-fog';
import { packLights } from './pack-lights';
import { packMaterials, packTextures } from './pack-materials';
import { packObjects } from './pack-objects';
import type { PackPlan } from './pack-plan';
import { packRules } from './pack-rules';

/**
 * Writes the scene into linear memory at the plan's addresses; the tree is left to the kernel's
 * builder. Deterministic: the same scene gives the same bytes in every engine.
 */
export function packScene(module: WebAssembly.Module, memory: ArrayBufferLike, scene: Scene, plan: PackPlan): void {
  const { document } = scene;
  const view = new DataView(memory);
  const header = (field: string, value: number) =>
    view.setInt32(SCENE_BASE + fieldOffset(HEADER_FIELDS, field), value, true);
  packObjects(memory, scene, plan);
  packTextures(memory, scene, plan.textures);
  packRecords(module, memory, scene, plan);
  header('vertexCount', plan.vertexCount);
  header('triangleCount', plan.triangleCount);
  header('instanceCount', plan.instanceCount);
  header('objectCount', document.objects.length);
  header('materialCount', document.materials.length);
  header('positions', plan.positions);
  header('normals', plan.normals);
  header('indices', plan.indices);
  header('triangleInfo', plan.triangleInfo);
  header('trees', plan.trees);
  header('instances', plan.instances);
  header('moving', plan.moving);
  header('materials', plan.materials);
  header('textures', plan.textures.records);
  header('decodeTable', plan.textures.decode);
  header('uvs', plan.uvs);
  header('envPixels', plan.envPixels);
  header('envMarginal', plan.envMarginal);
  header('envRows', plan.envRows);
  header('envCuts', plan.envCuts);
}

/** Writes what an edit of materials, lights, environment or fog changes, at the same addresses; an environment that `before` had there already stays. */
export function packRecords(
  module: WebAssembly.Module,
  memory: ArrayBufferLike,
  scene: Scene,
  plan: PackPlan,
  before?: Scene,
): void {
  const groups = lightGroups(scene.document);
  const view = new DataView(memory);
  const header = (field: string, value: number) =>
    view.setInt32(SCENE_BASE + fieldOffset(HEADER_FIELDS, field), value, true);
  packMaterials(memory, plan.materials, scene, plan.textures);
  header('energySlabs', plan.energySlabs);
  header('energyCount', plan.energy.length);
  let at = plan.energySlabs;
  for (const slab of plan.energy) {
    const floats = slabFloats(slab);
    const bytes = ENERGY_HEAD_BYTES + floats * 4;
    view.setInt32(at, ENERGY_KINDS.indexOf(slab.kind), true);
    view.setFloat32(at + 4, slab.index, true);
    view.setFloat32(at + 8, slab.anisotropy, true);
    view.setInt32(at + 12, bytes, true);
    new Float32Array(memory, at + ENERGY_HEAD_BYTES, floats).set(slabValues(module, slab));
    at += bytes;
  }
  const environment = madeEnvironment(scene);
  if (environment && (!before || madeEnvironment(before) !== environment)) {
    const { picture, distribution } = environment;
    const { marginal, conditional, rows } = distribution;
    const pixels = new Float32Array(memory, plan.envPixels, (conditional.length * ENV_PIXEL_BYTES) / 4);
    for (let i = 0, at = 0; i < conditional.length; i++) {
      for (let c = 0; c < 3; c++) pixels[at++] = picture.pixels[i * 3 + c];
      pixels[at++] = conditional[i];
    }
    new Float32Array(memory, plan.envMarginal, marginal.length).set(marginal);
    new Float32Array(memory, plan.envRows, rows.length).set(rows);
    const { width, height } = picture;
    const cuts = new Uint16Array(memory, plan.envCuts, (height + 1) * ENV_CUTS);
    const row = (y: number) => conditional.subarray(y * width, (y + 1) * width);
    for (let y = -1; y < height; y++)
      writeCuts(y < 0 ? marginal : row(y), cuts.subarray((y + 1) * ENV_CUTS, (y + 2) * ENV_CUTS));
    header('envWidth', picture.width);
    header('envHeight', picture.height);
    view.setFloat32(SCENE_BASE + fieldOffset(HEADER_FIELDS, 'envShift'), picture.shift ?? 0, true);
  }
  packLights(memory, scene, plan, groups, environment?.distribution ?? null, header);
  packFogs(memory, scene, plan, header);
  packRules(memory, scene, plan, header);
}

/** Of even steps k/n of a random number: the first cumulative value that is greater. */
function writeCuts(cumulative: Float32Array, out: Uint16Array): void {
  let i = 0;
  for (let k = 0; k < out.length; k++) {
    while (i < cumulative.length - 1 && cumulative[i] <= k / out.length) i++;
    out[k] = i;
  }
}
