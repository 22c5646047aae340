import { FEATURE_NAMES, type FeatureName } from '../recipe';

/** A data plane: what its layer is called and holds, and how pixels get their values. */
export interface Feature {
  layer: string;
  channels: string[];
  /** `mean` over the samples; `nearest`: of the sample nearest to the pixel's centre; `own`: in a way of its own. */
  how: 'mean' | 'nearest' | 'own';
  /** Kept as 32-bit floats wherever it is stored. */
  exact: boolean;
  words: string;
}

/** The features of a film by their names in a recipe. */
export const FEATURES: Record<FeatureName, Feature> = {
  alpha: { layer: 'alpha', channels: ['A'], how: 'mean', exact: false, words: 'alpha' },
  depth: { layer: 'depth', channels: ['Z'], how: 'nearest', exact: true, words: 'depth' },
  distance: { layer: 'distance', channels: ['Z'], how: 'nearest', exact: true, words: 'distance' },
  position: { layer: 'P', channels: ['X', 'Y', 'Z'], how: 'nearest', exact: true, words: 'position' },
  uv: { layer: 'uv', channels: ['U', 'V'], how: 'nearest', exact: true, words: 'texture coordinates' },
  motion: { layer: 'motion', channels: ['X', 'Y'], how: 'nearest', exact: true, words: 'motion to the next frame' },
  normal: { layer: 'N', channels: ['X', 'Y', 'Z'], how: 'mean', exact: false, words: 'normal' },
  normal_geometric: {
    layer: 'Ng',
    channels: ['X', 'Y', 'Z'],
    how: 'mean',
    exact: false,
    words: 'normal of the triangles',
  },
  normal_camera: {
    layer: 'Nc',
    channels: ['X', 'Y', 'Z'],
    how: 'mean',
    exact: false,
    words: 'normal as the camera sees it',
  },
  albedo: { layer: 'albedo', channels: ['R', 'G', 'B'], how: 'mean', exact: false, words: 'albedo' },
  roughness: { layer: 'roughness', channels: ['Y'], how: 'mean', exact: false, words: 'roughness' },
  occlusion: { layer: 'occlusion', channels: ['Y'], how: 'mean', exact: false, words: 'openness to the surroundings' },
  coverage: { layer: 'coverage', channels: [], how: 'own', exact: true, words: 'mask by object' },
  coverage_material: { layer: 'coverage_material', channels: [], how: 'own', exact: true, words: 'mask by material' },
  coverage_set: { layer: 'coverage_set', channels: [], how: 'own', exact: true, words: 'mask by set' },
  shadow: { layer: 'shadow', channels: ['R', 'G', 'B'], how: 'own', exact: false, words: 'shadow on catchers' },
};

/** The feature whose layer has this name. */
export function featureOfLayer(layer: string): Feature | undefined {
  return FEATURE_NAMES.map((n) => FEATURES[n]).find((f) => f.layer === layer);
}

/** Layers from which masks are made, and what each tells apart. */
export const MASK_LAYERS = { coverage: 'object', coverage_material: 'material', coverage_set: 'set' } as const;
export type MaskLayer = keyof typeof MASK_LAYERS;

export function isMask(layer: string): layer is MaskLayer {
  return layer in MASK_LAYERS;
}

/** Layers of measurements a film always has. */
export const MEASURED_LAYERS = ['samples', 'cost', 'rays'];

/** Whether a layer is data that must keep all its digits. */
export function isExact(layer: string): boolean {
  return MEASURED_LAYERS.includes(layer) || featureOfLayer(layer)?.exact === true;
}

/** Whether a layer is data, never to be colour-managed. */
export function isData(layer: string): boolean {
  return MEASURED_LAYERS.includes(layer) || (layer !== 'albedo' && featureOfLayer(layer) !== undefined);
}
