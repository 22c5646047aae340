import { LAYER } from '@/core/film';
import { type Mask, type MaskPick, maskableOf, pickedBy } from '@/core/outputs';
import { coverageNames } from '@/core/scene';
import { useDesk } from '../../state/desk-store';
import { maskOf } from '../../state/masks';
import { useOutputs } from '../../state/outputs-store';
import { useScene } from '../../state/scene-store';
import { tell } from '../../state/tell';
import type { ViewEntry } from '../entry';

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
  const fault = put(`mask ${name}`, { ...outputs, list, masks: [...outputs.masks, { name, of: [] }] });
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

const isSame = (a: MaskPick, b: MaskPick) => a.kind === b.kind && a.name === b.name;

/** Takes picks into a mask. */
export function pickInto({ name }: Mask, picks: readonly MaskPick[]): string | null {
  const words = picks.length === 1 ? picks[0].name : `${picks.length} things`;
  return replace(
    `${words} in mask ${name}`,
    all().map((m) =>
      m.name === name ? { ...m, of: [...m.of, ...picks.filter((p) => !m.of.some((o) => isSame(o, p)))] } : m,
    ),
  );
}

/** Takes a pick out of a mask. */
export function unpick({ name }: Mask, pick: MaskPick): string | null {
  return replace(
    `${pick.name} out of mask ${name}`,
    all().map((m) => (m.name === name ? { ...m, of: m.of.filter((o) => !isSame(o, pick)) } : m)),
  );
}

/**
 * Takes objects out of a mask: picks of them go; a pick by material, set or pattern that holds one becomes the objects
 * that are left of it.
 */
export function takeOut({ name }: Mask, objects: readonly string[]): string | null {
  const { document } = useScene.getState();
  if (!document) return null;
  const from = maskableOf(document);
  const without = (pick: MaskPick): MaskPick[] => {
    const has = pickedBy({ of: [pick] }, from).names;
    if (!has.some((o) => objects.includes(o))) return [pick];
    return has.filter((o) => !objects.includes(o)).map((o) => ({ kind: 'object', name: o }));
  };
  const words = objects.length === 1 ? objects[0] : `${objects.length} things`;
  return replace(
    `${words} out of mask ${name}`,
    all().map((m) => {
      if (m.name !== name) return m;
      const of = m.of.flatMap(without);
      return { ...m, of: of.filter((p, i) => of.findIndex((q) => isSame(p, q)) === i) };
    }),
  );
}

/** While a mask is looked at, a click takes what lies there into it, and a box all that is in it. */
export const TAKES: NonNullable<ViewEntry['takes']> = {
  words: ({ layer, overlay }) =>
    overlay === 'none' && maskOf(all(), layer)
      ? 'Click takes in · Alt-click takes out · Shift-drag takes all in a box'
      : null,
  take: (client, area, out) => {
    const mask = maskOf(all(), useDesk.getState().layer);
    const { document } = useScene.getState();
    if (!mask || !document) return;
    client
      .ask('covering', { area, names: coverageNames(document) })
      .then((found) => {
        const names = area.w > 0 && area.h > 0 ? found : found.slice(0, 1);
        if (names.length === 0) throw new Error('no object is there');
        const fault = out
          ? takeOut(mask, names)
          : pickInto(
              mask,
              names.map((name) => ({ kind: 'object', name })),
            );
        if (fault) throw new Error(fault);
      })
      .catch(tell);
  },
};
