import { LAYER } from './catalogue';
import type { Layer } from './layers';
import { PARTINGS, type Parting } from './tally';

type Planes = readonly Float32Array[];

/** Sum of layers of light, channel by channel; black where there are none. */
export function sumOf(layers: readonly Pick<Layer, 'planes'>[], size: number): Float32Array[] {
  return [0, 1, 2].map((c) => {
    const sum = new Float64Array(size);
    for (const { planes } of layers) for (let i = 0; i < size; i++) sum[i] += planes[c][i];
    return Float32Array.from(sum);
  });
}

/** The remainder: a picture less parts of it, so that both together are the picture. */
export function restOf(beauty: Planes, parts: readonly Pick<Layer, 'planes'>[]): Float32Array[] {
  return beauty.slice(0, 3).map((plane, c) => {
    const rest = Float64Array.from(plane);
    for (const { planes } of parts) for (let i = 0; i < rest.length; i++) rest[i] -= planes[c][i];
    return Float32Array.from(rest);
  });
}

/** The family whose remainder a layer is; null for any other. */
export function restFamily(layer: string): Parting | null {
  return PARTINGS.find((f) => LAYER.rest(f) === layer) ?? null;
}
