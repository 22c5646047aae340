import { blank, type Picture } from '../picture';
import type { Way } from '../ways';

const LEAST_DIVISOR = 1e-6;

const COLOR: Record<Way, (b: number, f: number, m: number, alpha: number) => number> = {
  over: (b, f, m, alpha) => b * (1 - alpha * m) + f * m,
  add: (b, f, m) => b + m * f,
  subtract: (b, f, m) => b - m * f,
  multiply: (b, f, m) => b * (1 - m + m * f),
  divide: (b, f, m) => {
    const by = 1 - m + m * f;
    return by > LEAST_DIVISOR ? b / by : b;
  },
  screen: (b, f, m) => {
    if (b >= 0 && b <= 1 && f >= 0 && f <= 1) return b + m * (f - f * b);
    return b + m * (Math.max(b, f) - b);
  },
  shadow: (b, f, m) => b * (1 - m * f),
  occlude: (b, f, m) => b * (1 - m * (1 - f)),
};
/**
 * Ways that bring something of their own, and with it alpha: one that stands over what is below covers more of it, α_B + α_F·m − α_B·α_F·m; light that is
 * added is of the same things, as parts of a film are: the larger of both. The others leave the alpha that is below.
 */
const ALPHA: Partial<Record<Way, (b: number, f: number) => number>> = {
  over: (b, f) => b + f - b * f,
  add: Math.max,
  screen: Math.max,
};

/** A layer joined with what is below it, in one of the ways; `mask` of the size of both, 0 to 1, null for all of it. What has no effect gives `below` itself. */
export function join(below: Picture, layer: Picture, way: Way, opacity: number, mask: Float32Array | null): Picture {
  if (opacity === 0) return below;
  const { width, height } = below;
  const out = blank(width, height);
  const color = COLOR[way];
  const alpha = ALPHA[way];
  const [bA, fA, oA] = [below.planes[3], layer.planes[3], out.planes[3]];
  for (let c = 0; c < 3; c++) {
    const [b, f, o] = [below.planes[c], layer.planes[c], out.planes[c]];
    for (let i = 0; i < o.length; i++) {
      const m = mask ? opacity * mask[i] : opacity;
      o[i] = m === 0 ? b[i] : color(b[i], f[i], m, fA[i]);
    }
  }
  for (let i = 0; i < oA.length; i++) {
    const m = mask ? opacity * mask[i] : opacity;
    oA[i] = alpha && m !== 0 ? alpha(bA[i], fA[i] * m) : bA[i];
  }
  return out;
}

/** What an operation made of a picture, taken at the opacity of its effect and its mask. */
export function blend(before: Picture, after: Picture, opacity: number, mask: Float32Array | null): Picture {
  if (after === before || opacity === 0) return before;
  if (opacity === 1 && mask === null) return after;
  const { width, height } = before;
  const out = blank(width, height);
  for (let c = 0; c < 4; c++) {
    const [b, a, o] = [before.planes[c], after.planes[c], out.planes[c]];
    for (let i = 0; i < o.length; i++) {
      const m = mask ? opacity * mask[i] : opacity;
      o[i] = m === 0 ? b[i] : m === 1 ? a[i] : b[i] + m * (a[i] - b[i]);
    }
  }
  return out;
}
