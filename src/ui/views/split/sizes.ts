import type { Trial } from '@/contract/trial';
import { bytesStored, type Output } from '@/core/outputs';

/** Bytes of layers of a trial as an output stores them, before packing: by automatic depth from all as half to all as float. */
export const sizeOf = (layers: readonly string[], trial: Trial | null, output: Pick<Output, 'depth'>) =>
  bytesStored(layers, trial?.spec ? trial.spec.region.width * trial.spec.region.height : 0, output);
