import type { AnimationSampler, Document, Node, Primitive, Skin } from '@gltf-transform/core';
import { type Mesh, slerp } from '../scene';
import { plainValues } from './values';

/** Frames a second at which the times of a glTF file are counted. */
const PER_SECOND = 24;
/** Keys a frame that placements are kept at. */
const KEYS_A_FRAME = 2;
/** Frames of the longest animation taken: almost seven minutes. */
const MOST_FRAMES = 10000;
/** Most vertices kept of one object over all its keys. */
const MOST_SHAPE_VERTICES = 8e6;

type Path = 'translation' | 'rotation' | 'scale' | 'weights';

/** Value of a sampler at `t` seconds (glTF 2.0, appendix C). */
export function sampleAt(sampler: AnimationSampler, t: number, isRotation: boolean): number[] {
  const input = sampler.getInput()!.getArray()!;
  const output = sampler.getOutput()!;
  const cubic = sampler.getInterpolation() === 'CUBICSPLINE';
  // Weights lie flat: as many values a key as there are targets.
  const whole = output.getArray()!;
  const normal = output.getNormalized();
  const width = whole.length / (input.length * (cubic ? 3 : 1));
  const scale = normal ? (whole instanceof Int8Array || whole instanceof Uint8Array ? 127 : 32767) : 1;
  const unsigned = normal && (whole instanceof Uint8Array || whole instanceof Uint16Array);
  const at = (key: number, part = 0) => {
    const from = (cubic ? key * 3 + part : key) * width;
    const k = unsigned ? (whole instanceof Uint8Array ? 255 : 65535) : scale;
    return Array.from({ length: width }, (_, c) => whole[from + c] / k);
  };
  const last = input.length - 1;
  const value = (key: number) => at(key, cubic ? 1 : 0);
  if (t <= input[0]) return value(0);
  if (t >= input[last]) return value(last);
  let i = 0;
  while (input[i + 1] <= t) i++;
  const span = input[i + 1] - input[i];
  const u = (t - input[i]) / span;
  if (sampler.getInterpolation() === 'STEP') return value(i);
  if (!cubic) {
    const [a, b] = [value(i), value(i + 1)];
    return isRotation ? slerp(a, b, u) : a.map((v, k) => v + (b[k] - v) * u);
  }
  const [a, out, b, into] = [at(i, 1), at(i, 2), at(i + 1, 1), at(i + 1, 0)];
  const [u2, u3] = [u * u, u * u * u];
  const mixed = a.map(
    (v, k) =>
      (2 * u3 - 3 * u2 + 1) * v +
      span * (u3 - 2 * u2 + u) * out[k] +
      (3 * u2 - 2 * u3) * b[k] +
      span * (u3 - u2) * into[k],
  );
  const length = isRotation ? Math.sqrt(mixed.reduce((s, v) => s + v * v, 0)) : 1;
  return mixed.map((v) => v / length);
}

function compose(move: readonly number[], [x, y, z, w]: readonly number[], scale: readonly number[]): number[] {
  const rows = [
    [1 - 2 * (y * y + z * z), 2 * (x * y + z * w), 2 * (x * z - y * w)],
    [2 * (x * y - z * w), 1 - 2 * (x * x + z * z), 2 * (y * z + x * w)],
    [2 * (x * z + y * w), 2 * (y * z - x * w), 1 - 2 * (x * x + y * y)],
  ];
  return [...rows.flatMap((r, i) => [...r.map((v) => v * scale[i]), 0]), ...move, 1];
}

/** Product of two column-major matrices. */
function multiply(a: readonly number[], b: readonly number[]): number[] {
  const out = new Array<number>(16).fill(0);
  for (let c = 0; c < 4; c++)
    for (let r = 0; r < 4; r++) for (let k = 0; k < 4; k++) out[c * 4 + r] += a[k * 4 + r] * b[c * 4 + k];
  return out;
}

/** Adds a matrix's product with a vector, weighed, to `out` at `o`. */
function addProduct(
  out: Float32Array,
  o: number,
  m: readonly number[],
  v: Float32Array,
  at: number,
  w: number,
  k: number,
): void {
  const [x, y, z] = [v[at], v[at + 1], v[at + 2]];
  for (let r = 0; r < 3; r++) out[o + r] += k * (m[r] * x + m[4 + r] * y + m[8 + r] * z + m[12 + r] * w);
}

function normalized(normals: Float32Array): Float32Array {
  for (let i = 0; i < normals.length; i += 3) {
    const l = Math.sqrt(normals[i] ** 2 + normals[i + 1] ** 2 + normals[i + 2] ** 2) || 1;
    for (let k = 0; k < 3; k++) normals[i + k] /= l;
  }
  return normals;
}

/** The animations of a glTF file: where its nodes are, and what shape their meshes have, at any frame. */
export class GltfAnimation {
  private readonly channels = new Map<Node, Partial<Record<Path, AnimationSampler>>>();
  /** Frames of the file that are not taken, at its end. */
  readonly cut: number;
  readonly frames: { first: number; last: number; perSecond: number };

  constructor(gltf: Document) {
    let seconds = 0;
    for (const animation of gltf.getRoot().listAnimations()) {
      for (const channel of animation.listChannels()) {
        const node = channel.getTargetNode();
        const path = channel.getTargetPath();
        const sampler = channel.getSampler();
        const times = sampler?.getInput()?.getArray();
        if (!node || !path || !sampler || !times || times.length === 0 || !sampler.getOutput()) continue;
        this.channels.set(node, { ...this.channels.get(node), [path]: sampler });
        seconds = Math.max(seconds, times[times.length - 1]);
      }
    }
    const last = 1 + Math.ceil(seconds * PER_SECOND - 1e-6);
    this.cut = last > MOST_FRAMES ? last - MOST_FRAMES : 0;
    this.frames = { first: 1, last: Math.min(last, MOST_FRAMES), perSecond: PER_SECOND };
  }

  private chain(node: Node): Node[] {
    const out = [node];
    for (let n = node.getParentNode(); n; n = n.getParentNode()) out.unshift(n);
    return out;
  }

  /** Whether a node's place changes. */
  moves(node: Node): boolean {
    return this.chain(node).some((n) => {
      const c = this.channels.get(n);
      return c?.translation || c?.rotation || c?.scale;
    });
  }

  /** Whether the mesh of a node changes its shape: by a skin whose joints move, or by morph weights. */
  bends(node: Node): boolean {
    const skin = node.getSkin();
    return skin?.listJoints().some((j) => this.moves(j)) === true || this.channels.get(node)?.weights !== undefined;
  }

  /** A node's place in the world at a frame, column-major. */
  placeAt(node: Node, frame: number): number[] {
    const t = (frame - 1) / PER_SECOND;
    return this.chain(node)
      .map((n) => {
        const c = this.channels.get(n);
        if (!c) return n.getMatrix() as number[];
        return compose(
          c.translation ? sampleAt(c.translation, t, false) : n.getTranslation(),
          c.rotation ? sampleAt(c.rotation, t, true) : n.getRotation(),
          c.scale ? sampleAt(c.scale, t, false) : n.getScale(),
        );
      })
      .reduce(multiply);
  }

  /** Frames at which placements are kept. */
  keys(): number[] {
    const { first, last } = this.frames;
    const count = Math.max(1, (last - first) * KEYS_A_FRAME);
    return Array.from({ length: count + 1 }, (_, i) => first + ((last - first) * i) / count);
  }

  /** Frames at which shapes of a mesh of so many vertices are kept: every one unless that is too much. */
  shapeKeys(vertices: number): number[] {
    const { first, last } = this.frames;
    const step = Math.max(1, Math.ceil(((last - first + 1) * vertices) / MOST_SHAPE_VERTICES));
    const out: number[] = [];
    for (let f = first; f < last; f += step) out.push(f);
    return [...out, last];
  }

  /** The mesh of a node's primitive as morph weights and skin make it at a frame; a skinned one stands in the world. */
  shapeAt(node: Node, primitive: Primitive, mesh: Mesh, frame: number): Mesh {
    const t = (frame - 1) / PER_SECOND;
    const sampler = this.channels.get(node)?.weights;
    const still = node.getWeights().length > 0 ? node.getWeights() : (node.getMesh()?.getWeights() ?? []);
    const weights = sampler ? sampleAt(sampler, t, false) : still;
    let positions: Float32Array = mesh.positions.slice();
    let normals: Float32Array = mesh.normals.slice();
    primitive.listTargets().forEach((target, k) => {
      const w = weights[k] ?? 0;
      if (w === 0) return;
      for (const [name, out] of [
        ['POSITION', positions],
        ['NORMAL', normals],
      ] as const) {
        const delta = plainValues(target.getAttribute(name));
        if (delta && delta.length === out.length) for (let i = 0; i < out.length; i++) out[i] += w * delta[i];
      }
    });
    const skin = node.getSkin();
    if (skin) [positions, normals] = this.skinned(skin, primitive, positions, normals, frame);
    return { ...mesh, positions, normals: normalized(normals) };
  }

  private skinned(
    skin: Skin,
    primitive: Primitive,
    positions: Float32Array,
    normals: Float32Array,
    frame: number,
  ): [Float32Array, Float32Array] {
    const joints = primitive.getAttribute('JOINTS_0');
    const weights = primitive.getAttribute('WEIGHTS_0');
    if (!joints || !weights) return [positions, normals];
    const binds = skin.getInverseBindMatrices();
    const matrices = skin.listJoints().map((joint, j) => {
      const place = this.placeAt(joint, frame);
      return binds ? multiply(place, binds.getElement(j, [])) : place;
    });
    const outP = new Float32Array(positions.length);
    const outN = new Float32Array(normals.length);
    for (let v = 0; v < positions.length / 3; v++) {
      const j = joints.getElement(v, []);
      const w = weights.getElement(v, []);
      const sum = w.reduce((a, b) => a + b, 0) || 1;
      for (let k = 0; k < 4; k++) {
        if (w[k] === 0) continue;
        addProduct(outP, v * 3, matrices[j[k]], positions, v * 3, 1, w[k] / sum);
        addProduct(outN, v * 3, matrices[j[k]], normals, v * 3, 0, w[k] / sum);
      }
    }
    return [outP, outN];
  }
}
