import { LAYER, layerInfo } from '@/core/film';
import type { Mask } from '@/core/outputs';
import { pickableOf, type ThingPick } from '@/core/scene';
import { useDesk } from '../../state/desk-store';
import { useOutputs } from '../../state/outputs-store';
import { useScene } from '../../state/scene-store';
import { withoutObjects, withoutPick, withPicks } from './picks';

/** Puts other masks, and layers of outputs, in the place of what there is; the fault in words when they are refused. */
function replace(
  words: string,
  masks: readonly Mask[],
  layerOf: (layer: string) => string | null = (l) => l,
): string | null {
  const { outputs, replace: put } = useOutputs.getState();
  if (!outputs) return null;
  const list = outputs.list.map((o) => ({ ...o, layers: o.layers.flatMap((l) => layerOf(l) ?? []) }));
  return put(words, { ...outputs, list, masks: [...masks] });
}

const all = (): readonly Mask[] => useOutputs.getState().outputs?.masks ?? [];

/** Adds an empty mask, to be written by the output, and shows it. */
export function addMask(output: string): string | null {
  const taken = all().map((m) => m.name);
  let name = 'mask';
  for (let n = 2; taken.includes(name); n++) name = `mask_${n}`;
  const { outputs, replace: put } = useOutputs.getState();
  if (!outputs) return null;
  const layer = LAYER.mask(name);
  const list = outputs.list.map((o) =>
    o.id === output && !o.layers.includes('mask.*') ? { ...o, layers: [...o.layers, layer] } : o,
  );
  const fault = put(`mask ${name}`, { ...outputs, list, masks: [...outputs.masks, { name, of: [], ramp: null }] });
  if (!fault) useDesk.getState().set({ layer, overlay: 'none' });
  return fault;
}

/** Takes a mask away, from outputs too. */
export function removeMask({ name }: Mask): string | null {
  const layer = LAYER.mask(name);
  const fault = replace(
    `mask ${name} taken away`,
    all().filter((m) => m.name !== name),
    (l) => (l === layer ? null : l),
  );
  if (!fault && useDesk.getState().layer === layer) useDesk.getState().set({ layer: 'beauty' });
  return fault;
}

/** Gives a mask another name, in outputs too. */
export function renameMask({ name }: Mask, to: string): string | null {
  if (to === name) return null;
  const [from, layer] = [LAYER.mask(name), LAYER.mask(to)];
  const fault = replace(
    `mask ${name} is ${to}`,
    all().map((m) => (m.name === name ? { ...m, name: to } : m)),
    (l) => (l === from ? layer : l),
  );
  if (!fault && useDesk.getState().layer === from) useDesk.getState().set({ layer });
  return fault;
}

/** Leads a mask through a ramp of data, another one, or none. */
export function rampMask({ name }: Mask, ramp: Mask['ramp']): string | null {
  const words = ramp ? `mask ${name} by ${layerInfo(ramp.layer).words}` : `mask ${name} without ramp`;
  return replace(
    words,
    all().map((m) => (m.name === name ? { ...m, ramp } : m)),
  );
}

/** Takes picks into a mask. */
export function pickInto({ name }: Mask, picks: readonly ThingPick[]): string | null {
  const words = picks.length === 1 ? picks[0].name : `${picks.length} things`;
  return replace(
    `${words} in mask ${name}`,
    all().map((m) => (m.name === name ? { ...m, of: withPicks(m.of, picks) } : m)),
  );
}

/** Takes a pick out of a mask. */
export function unpick({ name }: Mask, pick: ThingPick): string | null {
  return replace(
    `${pick.name} out of mask ${name}`,
    all().map((m) => (m.name === name ? { ...m, of: withoutPick(m.of, pick) } : m)),
  );
}

/** Takes objects out of a mask. */
export function takeOut({ name }: Mask, objects: readonly string[]): string | null {
  const { document } = useScene.getState();
  if (!document) return null;
  const from = pickableOf(document);
  const words = objects.length === 1 ? objects[0] : `${objects.length} things`;
  return replace(
    `${words} out of mask ${name}`,
    all().map((m) => (m.name === name ? { ...m, of: withoutObjects(m.of, objects, from) } : m)),
  );
}
