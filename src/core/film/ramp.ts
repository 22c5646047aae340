import { layerInfo } from './catalogue';

/** A channel of data led through a ramp: 0 up to `from`, 1 from `to` on, between them in proportion; falling where `to` is less. */
export interface Ramp {
  layer: string;
  channel: string;
  from: number;
  to: number;
}

/** Whether a layer has channels of which a ramp makes sense: data that recipes ask for, of a few named channels. */
export function isRampable(layer: string): boolean {
  const { feature, channels } = layerInfo(layer);
  return feature !== null && channels.length > 0 && channels.length <= 3;
}

/** The ends that a ramp begins with: those of the data, where it has ends. */
export function rampEnds(layer: string): { from: number; to: number } {
  const { span } = layerInfo(layer);
  if (span === 'own') return { from: 0, to: 10 };
  return { from: span === 'signed' ? -1 : 0, to: 1 };
}

/** Layers that say something where nothing is seen: that it is far, or what falls on a catcher, which alpha leaves out. */
const BEYOND_ALPHA: readonly string[] = ['alpha', 'depth', 'distance', 'shadow'];

/** Whether data say nothing where nothing is seen, so that a ramp of them ends with alpha. */
export const endsWithAlpha = (layer: string): boolean => !BEYOND_ALPHA.includes(layer);

/**
 * Data of a layer through a ramp, times alpha where it is given, all from 0 to 1; what is no number gives 0, both ends alike a
 * step. Means over a pixel are those of what covers it: half of a stone has the stone's roughness, and half the mask.
 */
export function ramped(
  plane: ArrayLike<number>,
  { layer, from, to }: Pick<Ramp, 'layer' | 'from' | 'to'>,
  alpha: ArrayLike<number> | null = null,
): Float32Array {
  const isMean = layerInfo(layer).how === 'mean';
  const out = new Float32Array(plane.length);
  for (let i = 0; i < out.length; i++) {
    const seen = alpha ? Math.min(1, alpha[i]) : 1;
    if (seen <= 0) continue;
    const v = isMean ? plane[i] / seen : plane[i];
    const t = from === to ? (v >= to ? 1 : 0) : (v - from) / (to - from);
    if (t > 0) out[i] = Math.min(1, t) * seen;
  }
  return out;
}
