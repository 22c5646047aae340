import type { Trial } from '@/contract/trial';
import { layerInfo } from '@/core/film';
import type { Output } from '@/core/outputs';

/** Bytes of layers of a trial as an output stores them, before packing: by automatic depth from all as half to all as float. */
export function sizeOf(
  layers: readonly string[],
  trial: Trial | null,
  { depth }: Pick<Output, 'depth'>,
): { least: number; most: number } {
  const pixels = trial?.spec ? trial.spec.region.width * trial.spec.region.height : 0;
  const bytes = (light: number) =>
    layers.map(layerInfo).reduce((n, l) => n + l.planes * pixels * (l.exact ? 4 : light), 0);
  return { least: bytes(depth === 'float' ? 4 : 2), most: bytes(depth === 'half' ? 2 : 4) };
}
