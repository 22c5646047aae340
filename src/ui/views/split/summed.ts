import { PARTINGS, type Parting } from '@/core/film';
import { useDesk } from '../../state/desk-store';

/** What is looked at when the picture stands against the sum of what is written of a family. */
const layerOf = (family: Parting) => `sum.${family}`;

/** The family whose written parts stand summed in B; null while another layer is looked at. */
export const summedFamily = (layer: string): Parting | null => PARTINGS.find((f) => layerOf(f) === layer) ?? null;

/** Puts the picture into A and the sum of what is written of a family into B, under the wipe; and takes both back. */
export function compareSum(family: Parting): void {
  const { a, layer, set } = useDesk.getState();
  if (summedFamily(layer) === family) set({ layer: 'beauty', b: null });
  else set({ layer: layerOf(family), overlay: 'none', range: null, b: a, compare: 'wipe' });
}
