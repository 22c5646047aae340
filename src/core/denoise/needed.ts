import { LAYER, layerInfo } from '../film';

const GUIDES = [LAYER.guides('a'), LAYER.guides('b'), 'depth', 'albedo', 'N', 'alpha', 'motion'];
const FILTERED = new Set(['beauty', 'half', 'group', 'group_half', 'class', 'bounce', 'pair']);

/** Whether denoising makes a layer anew. */
export const isFiltered = (name: string) => FILTERED.has(layerInfo(name).family);

/** Whether denoising goes by a layer. */
export const isNeeded = (name: string) => GUIDES.includes(name) || isFiltered(name);
