import type { Output } from '@/core/outputs';

/** How an output has some of its layers written, as the server is asked for it. */
export const cutQuery = (
  output: Output,
  layers: readonly string[],
  denoised: 'no' | 'instead' | 'beside' = 'no',
): URLSearchParams =>
  new URLSearchParams({
    layers: layers.join(','),
    written: output.layers.join(','),
    reach: output.reachMetres === null ? '' : String(output.reachMetres),
    depth: output.depth,
    compression: output.compression,
    tiles: output.tilePx === null ? '' : String(output.tilePx),
    parts: output.parts,
    prefix: output.prefix,
    denoised,
  });
