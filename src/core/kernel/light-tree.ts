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

function join(lights: TreeLight[]): Omit<TreeLight, 'number'> {
  return lights
    .map(({ low, high, power, axis, cosine }) => ({ low, high, power, axis, cosine }))
    .reduce((a, b) => ({
      low: a.low.map((c, i) => Math.min(c, b.low[i])),
      high: a.high.map((c, i) => Math.max(c, b.high[i])),
      power: a.power + b.power,
      ...joinCones(a, b),
    }));
}

/** Surface area times the cone's measure times power: what a split is to keep small (ibid., section 4.4). */
function cost(lights: TreeLight[]): number {
  const n = join(lights);
  const d = n.high.map((c, i) => c - n.low[i] + 1e-4);
  const cone = 2 * Math.PI * (1 - n.cosine) + 1;
  return n.power * cone * (d[0] * d[1] + d[1] * d[2] + d[2] * d[0]);
}

/** Builds the tree over lights that have a place; the root is node 0. Lights of a leaf are at most `MOST_LEAF_LIGHTS`. */
export function buildLightTree(lights: TreeLight[]): TreeNode[] {
  const nodes: TreeNode[] = [];
  const grow = (range: TreeLight[]): number => {
    const index = nodes.length;
    nodes.push({ ...join(range), children: null, lights: range.map((l) => l.number) });
    if (range.length <= MOST_LEAF_LIGHTS) return index;
    let best: { cost: number; left: TreeLight[]; right: TreeLight[] } | null = null;
    for (let axis = 0; axis < 3; axis++) {
      const sorted = [...range].sort(
        (a, b) => a.low[axis] + a.high[axis] - b.low[axis] - b.high[axis] || a.number - b.number,
      );
      for (let k = 1; k < 12; k++) {
        const cut = Math.round((sorted.length * k) / 12);
        if (cut < 1 || cut >= sorted.length) continue;
        const [left, right] = [sorted.slice(0, cut), sorted.slice(cut)];
        const c = cost(left) + cost(right);
        if (!best || c < best.cost) best = { cost: c, left, right };
      }
    }
    nodes[index].children = [grow(best!.left), grow(best!.right)];
    nodes[index].lights = [];
    return index;
  };
  if (lights.length > 0) grow(lights);
  return nodes;
}
