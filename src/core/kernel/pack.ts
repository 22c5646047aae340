import { lightGroups, type Scene } from '../scene';
import { type EnvironmentPicture, environmentDistribution, environmentPicture } from '../sky';
import { albedoTable, glassSlab } from './albedo-table';
import { ALBEDO_TABLE_SIZE, fieldOffset, GLASS_SLAB_BYTES, HEADER_FIELDS, SCENE_BASE } from './layout';
import { packFog } from './pack-fog';
import { packLights } from './pack-lights';
import { packMaterials, packTextures } from './pack-materials';
import { packObjects } from './pack-objects';
import type { PackPlan } from './pack-plan';
import { packRules } from './pack-rules';

/**
 * Writes the scene into linear memory at the plan's addresses; the tree is left to the kernel's
 * builder. Deterministic: the same scene gives the same bytes in every engine.
 */
export function packScene(memory: ArrayBufferLike, scene: Scene, plan: PackPlan): void {
  const { document } = scene;
  const view = new DataView(memory);
  const header = (field: string, value: number) =>
    view.setInt32(SCENE_BASE + fieldOffset(HEADER_FIELDS, field), value, true);
  packObjects(memory, scene, plan);
  packTextures(memory, scene, plan.textures);
  new Float32Array(memory, plan.albedoTable, ALBEDO_TABLE_SIZE * ALBEDO_TABLE_SIZE * 2).set(albedoTable());
  packRecords(memory, scene, plan);
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
  header('albedoTable', plan.albedoTable);
  header('glassTable', plan.glassTable);
  header('glassCount', plan.glassIndices.length);
  header('textures', plan.textures.records);
  header('decodeTable', plan.textures.decode);
  header('uvs', plan.uvs);
  header('envPixels', plan.envPixels);
  header('envMarginal', plan.envMarginal);
  header('envConditional', plan.envConditional);
  header('envRows', plan.envRows);
}

/** Writes what an edit of materials, lights, environment or fog changes, at the same addresses. */
export function packRecords(memory: ArrayBufferLike, scene: Scene, plan: PackPlan): void {
  const groups = lightGroups(scene.document);
  const view = new DataView(memory);
  const header = (field: string, value: number) =>
    view.setInt32(SCENE_BASE + fieldOffset(HEADER_FIELDS, field), value, true);
  packMaterials(memory, plan.materials, scene, plan.textures, groups);
  plan.glassIndices.forEach((eta, i) => {
    const slab = new Float32Array(memory, plan.glassTable + i * GLASS_SLAB_BYTES, GLASS_SLAB_BYTES / 4);
    slab[0] = eta;
    slab.set(glassSlab(eta), 1);
  });
  const environment = environmentOf(scene);
  if (environment) {
    const { picture, distribution } = environment;
    const { marginal, conditional, rows } = distribution;
    new Float32Array(memory, plan.envPixels, picture.pixels.length).set(picture.pixels);
    new Float32Array(memory, plan.envMarginal, marginal.length).set(marginal);
    new Float32Array(memory, plan.envConditional, conditional.length).set(conditional);
    new Float32Array(memory, plan.envRows, rows.length).set(rows);
    header('envWidth', picture.width);
    header('envHeight', picture.height);
  }
  packLights(memory, scene, plan, groups, environment?.distribution ?? null, header);
  packFog(memory, scene, plan, header);
  packRules(memory, scene, plan, header);
}

interface MadeEnvironment {
  picture: EnvironmentPicture;
  distribution: ReturnType<typeof environmentDistribution>;
}

/** Environments last made, by what they were made of: an edit elsewhere need not make them anew. */
const made = new WeakMap<object, MadeEnvironment>();

function environmentOf(scene: Scene): MadeEnvironment | null {
  const key = scene.document.environment;
  if (!key) return null;
  const known = made.get(key);
  if (known) return known;
  const picture = environmentPicture(scene)!;
  const environment = { picture, distribution: environmentDistribution(picture) };
  // A picture is looked up by name in the scene, so its document alone does not tell it.
  if (key.kind !== 'picture') made.set(key, environment);
  return environment;
}
