import { FAMILIES, type FamilyName, layerInfo, OPENNESS } from '@/core/film';

export const FAMILY_ORDER = Object.keys(FAMILIES) as FamilyName[];

/** Layers in the order in which they are listed: by family; of features those that recipes ask for before what is kept by the way. */
export function listed(names: readonly string[]): string[] {
  const rank = (name: string) => {
    const { family, feature } = layerInfo(name);
    return FAMILY_ORDER.indexOf(family) * 2 + (feature === null && name !== OPENNESS.layer ? 1 : 0);
  };
  // Halves of single groups are there to measure noise: they are not listed one by one.
  return names.filter((n) => layerInfo(n).family !== 'group_half').sort((a, b) => rank(a) - rank(b));
}

/** A share of the light, short. */
export const percent = (share: number) =>
  share === 0 ? '0 %' : share < 0.001 ? '<0.1 %' : `${(share * 100).toFixed(1)} %`;
