import type { SceneDocument } from '../scene';

/** Objects that bound fogs, each with which of them it does. Records of these boundaries stand behind those of materials, in this order. */
export function fogBounds({ fogs }: Pick<SceneDocument, 'fogs'>): { object: string; fogs: number[] }[] {
  const bounds = new Map<string, number[]>();
  fogs.forEach(({ within }, i) => {
    if (within !== null) bounds.set(within, [...(bounds.get(within) ?? []), i]);
  });
  return [...bounds].map(([object, own]) => ({ object, fogs: own }));
}
