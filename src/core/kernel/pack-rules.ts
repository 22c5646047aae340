import { type ResolvedRules, type RuleRay, resolveRules, type Scene } from '../scene';
import { fieldOffset, MATERIAL_BYTES, OBJECT_BYTES, OBJECT_FIELDS, OBJECT_FLAG, RAY_KINDS } from './layout';
import type { PackPlan } from './pack-plan';

/** Flag that hides an object from a kind of ray; shadow rays and twins alike look for lights. */
const hiddenBit = (ray: RuleRay) => 1 << RAY_KINDS.indexOf(ray === 'shadow' ? 'twin' : ray);

function flagsOf(rules: ResolvedRules): number {
  let flags = rules.hiddenFrom.reduce((bits, ray) => bits | hiddenBit(ray), 0);
  if (rules.role !== 'ordinary') flags |= OBJECT_FLAG[rules.role];
  if (!rules.castsCaustics) flags |= OBJECT_FLAG.focusesNoLight;
  if (!rules.receivesCaustics) flags |= OBJECT_FLAG.showsNoCaustics;
  if (!rules.backs) flags |= OBJECT_FLAG.hidesBacks;
  return flags;
}

/** Writes the objects' rules, and whether there are any. */
export function packRules(
  memory: ArrayBufferLike,
  scene: Scene,
  plan: PackPlan,
  header: (field: string, value: number) => void,
): void {
  const { document } = scene;
  const view = new DataView(memory);
  let ruled = false;
  let twinKinds = 0;
  resolveRules(document).forEach((rules, i) => {
    const at = plan.objects + i * OBJECT_BYTES;
    const put = (field: string, value: number) => view.setInt32(at + fieldOffset(OBJECT_FIELDS, field), value, true);
    const flags = flagsOf(rules);
    const second = document.materials.findIndex((m) => m.name === rules.secondaryMaterial);
    if (rules.secondaryMaterial !== null && second < 0)
      throw new Error(`object ${document.objects[i].name}: no material ${rules.secondaryMaterial}`);
    put('flags', flags);
    put('secondary', second < 0 ? 0 : plan.materials + second * MATERIAL_BYTES);
    put('depthAll', rules.rayDepth.all);
    put('depthDiffuse', rules.rayDepth.diffuse);
    put('depthReflection', rules.rayDepth.reflection);
    put('depthTransmission', rules.rayDepth.transmission);
    put('depthFog', rules.rayDepth.fog);
    view.setFloat32(at + fieldOffset(OBJECT_FIELDS, 'samples'), rules.samples, true);
    const limited = Object.values(rules.rayDepth).some((n) => n <= 64);
    ruled ||= flags !== 0 || second >= 0 || limited || rules.samples !== 1;
    const hidden = hiddenBit('shadow') & flags ? (1 << RAY_KINDS.length) - 1 : 0;
    twinKinds |= flags ^ hidden;
  });
  header('objects', plan.objects);
  header('ruled', ruled ? 1 : 0);
  const kinds = (['diffuse', 'reflection', 'transmission', 'fog'] as const).reduce((b, k) => b | hiddenBit(k), 0);
  header('twinKinds', twinKinds & kinds);
}
