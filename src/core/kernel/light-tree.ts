import { MOST_LEAF_LIGHTS } from './layout';

/** What the tree needs to know of a light: where it is, how large, how strong, and the cone of directions it faces. */
export interface TreeLight {
  number: number;
  low: number[];
  high: number[];
  power: number;
  /** Axis of the cone of normals, and its half angle's cosine; −1 faces everywhere. */
  axis: number[];
  cosine: number;
}

export interface TreeNode extends Omit<TreeLight, 'number'> {
  /** Indices of the children, or the lights of a leaf. */
  children: [number, number] | null;
  lights: number[];
}

const { acos, cos } = { acos: Math.acos, cos: Math.cos };

/** Cone around two cones [Conty Estevez & Kulla 2018, section 4.1]. Angles only steer the choice, so `Math` will do. */
function joinCones(a: Pick<TreeLight, 'axis' | 'cosine'>, b: Pick<TreeLight, 'axis' | 'cosine'>) {
  if (a.cosine <= -1 || b.cosine <= -1) return { axis: a.axis, cosine: -1 };
  const [wide, narrow] = a.cosine <= b.cosine ? [a, b] : [b, a];
  const clamp = (v: number) => Math.min(1, Math.max(-1, v));
  const [tw, tn] = [acos(clamp(wide.cosine)), acos(clamp(narrow.cosine))];
  const between = acos(clamp(wide.axis.reduce((s, c, i) => s + c * narrow.axis[i], 0)));
  if (Math.min(between + tn, Math.PI) <= tw) return { axis: wide.axis, cosine: wide.cosine };
  const half = (tw + between + tn) / 2;
  if (half >= Math.PI) return { axis: wide.axis, cosine: -1 };
  // Turn the wide axis towards the narrow one.
  const turn = half - tw;
  const s = Math.sin(between) || 1;
  const axis = wide.axis.map((c, i) => (Math.sin(between - turn) / s) * c + (Math.sin(turn) / s) * narrow.axis[i]);
  const l = Math.hypot(...axis) || 1;
  return { axis: axis.map((c) => c / l), cosine: cos(half) };
}

type Bounds = Omit<TreeLight, 'number'>;

const joined = (a: Bounds, b: Bounds): Bounds => ({
  low: [Math.min(a.low[0], b.low[0]), Math.min(a.low[1], b.low[1]), Math.min(a.low[2], b.low[2])],
  high: [Math.max(a.high[0], b.high[0]), Math.max(a.high[1], b.high[1]), Math.max(a.high[2], b.high[2])],
  power: a.power + b.power,
  ...joinCones(a, b),
});

const boundsOf = ({ low, high, power, axis, cosine }: TreeLight): Bounds => ({ low, high, power, axis, cosine });

/** Surface area times the cone's measure times power: what a split is to keep small (ibid., section 4.4). */
function cost({ low, high, power, cosine }: Bounds): number {
  const d = high.map((c, i) => c - low[i] + 1e-4);
  const cone = 2 * Math.PI * (1 - cosine) + 1;
  return power * cone * (d[0] * d[1] + d[1] * d[2] + d[2] * d[0]);
}

/** Cost of the first lights in a row: of one, of two, and so on. */
function costs(lights: readonly TreeLight[]): Float64Array {
  const out = new Float64Array(lights.length);
  let all = boundsOf(lights[0]);
  for (let i = 0; i < lights.length; i++) {
    if (i > 0) all = joined(all, boundsOf(lights[i]));
    out[i] = cost(all);
  }
  return out;
}

/** Builds the tree over lights that have a place; the root is node 0. Lights of a leaf are at most `MOST_LEAF_LIGHTS`. */
export function buildLightTree(lights: TreeLight[]): TreeNode[] {
  const nodes: TreeNode[] = [];
  const grow = (range: TreeLight[]): number => {
    const index = nodes.length;
    nodes.push({ ...range.map(boundsOf).reduce(joined), children: null, lights: range.map((l) => l.number) });
    if (range.length <= MOST_LEAF_LIGHTS) return index;
    const n = range.length;
    let best: { cost: number; left: TreeLight[]; right: TreeLight[] } | null = null;
    for (let axis = 0; axis < 3; axis++) {
      const sorted = [...range].sort(
        (a, b) => a.low[axis] + a.high[axis] - b.low[axis] - b.high[axis] || a.number - b.number,
      );
      const [left, right] = [costs(sorted), costs([...sorted].reverse())];
      let at = 1;
      for (let cut = 2; cut < n; cut++)
        if (left[cut - 1] + right[n - cut - 1] < left[at - 1] + right[n - at - 1]) at = cut;
      const c = left[at - 1] + right[n - at - 1];
      if (!best || c < best.cost) best = { cost: c, left: sorted.slice(0, at), right: sorted.slice(at) };
    }
    nodes[index].children = [grow(best!.left), grow(best!.right)];
    nodes[index].lights = [];
    return index;
  };
  if (lights.length > 0) grow(lights);
  return nodes;
}
