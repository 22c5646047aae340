import { LAYER, layerInfo } from '../film';

const GUIDES = [LAYER.guides('a'), LAYER.guides('b'), 'depth', 'albedo', 'N', 'alpha', 'motion'];
const FILTERED = new Set(['beauty', 'half', 'group', 'group_half', 'class', 'bounce', 'pair']);

/** Whether denoising makes a layer anew. */
export const isFiltered = (name: string) => FILTERED.has(layerInfo(name).family);

/** Bytes of layers that a stored film, and those about it, may have to be denoised: copies and results are in memory as well. */
export const MOST_DENOISED_BYTES = 1.5e9;

/** Bytes of those of a film's layers that denoising goes by. */
export const neededBytes = (names: readonly string[], pixels: number): number =>
  names.filter(isNeeded).reduce((sum, n) => sum + layerInfo(n).planes * 4 * pixels, 0);

/** Whether denoising goes by a layer. */
export const isNeeded = (name: string) => GUIDES.includes(name) || isFiltered(name);
