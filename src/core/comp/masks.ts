import type { OfLast } from './held';
import type { MaskData, MaskHow, StackMask } from './mask-schema';
import { shapeMask } from './shapes';

/** Masks join as a + b − a·b, a·(1 − b) and a·b. */
const HOW: Record<MaskHow, (a: number, b: number) => number> = {
  with: (a, b) => a + b - a * b,
  without: (a, b) => a * (1 - b),
  within: (a, b) => a * b,
};

/** A mask as a plane from 0 to 1; `data` gives what is picked of films, or led through a ramp. The first item begins it. */
export function maskPlane(
  { of, invert }: StackMask,
  width: number,
  height: number,
  data: (item: MaskData) => Float32Array,
): Float32Array {
  const out = new Float32Array(width * height);
  of.forEach((item, k) => {
    const plane = item.kind === 'picked' || item.kind === 'ramp' ? data(item) : shapeMask(item, width, height);
    for (let i = 0; i < out.length; i++) {
      const b = item.invert ? 1 - plane[i] : plane[i];
      out[i] = k === 0 ? b : HOW[item.how](out[i], b);
    }
  });
  if (invert) for (let i = 0; i < out.length; i++) out[i] = 1 - out[i];
  return out;
}

/** Planes of a stack's masks by their names, each made once for what it is; null stands for everywhere. */
export const masksOf =
  (
    masks: Readonly<Record<string, StackMask>>,
    { width, height, mask }: { width: number; height: number; mask: (item: MaskData) => Float32Array },
    made: OfLast<Float32Array>,
  ) =>
  (name: string | null): Float32Array | null =>
    name === null ? null : made.of(masks[name], () => maskPlane(masks[name], width, height, mask));
