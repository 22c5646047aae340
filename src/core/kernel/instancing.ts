import { resolveRules, type Scene } from '../scene';

/** A mesh with one material, in its own space, that several objects place in the world. */
export interface SharedTree {
  mesh: string;
  material: string;
  vertices: number;
  triangles: number;
  /** Numbers of the objects that place it. */
  objects: number[];
  /** Shapes it takes over the shutter; 0 = it keeps one. */
  shapes: number;
}

/** How a scene's objects are laid out: those in world space, and the trees that others share. */
export interface Instancing {
  /** Numbers of the objects whose triangles stand in the first tree, in world space. */
  ground: number[];
  shared: SharedTree[];
}

/** Smaller meshes are laid out in full: a tree and an instance for each would cost more than they save. */
const LEAST_TRIANGLES = 64;

/**
 * Decides which meshes have trees of their own: those of objects that move, and those that two objects or more place with the same material. What shadow rays
 * meet belongs to the key, since a tree knows which of its triangles they may pass.
 */
export function instancingOf(scene: Scene): Instancing {
  const { objects, geometry } = scene.document;
  const entries = new Map(geometry.meshes.map((m) => [m.name, m]));
  const rules = resolveRules(scene.document);
  const byKey = new Map<string, number[]>();
  objects.forEach((o, i) => {
    if (!entries.has(o.mesh)) throw new Error(`object ${o.name}: no mesh ${o.mesh}`);
    const { secondaryMaterial, hiddenFrom } = rules[i];
    const pose = scene.poses?.get(i);
    const own = pose?.shapes ? i : pose !== undefined;
    const key = JSON.stringify([o.mesh, o.material, secondaryMaterial, hiddenFrom.includes('shadow'), own]);
    byKey.set(key, [...(byKey.get(key) ?? []), i]);
  });
  const ground: number[] = [];
  const shared: SharedTree[] = [];
  for (const numbers of byKey.values()) {
    const { mesh, material } = objects[numbers[0]];
    const { vertices, triangles } = entries.get(mesh)!;
    const holdsFog = numbers.some((i) => scene.document.fogs.some((f) => f.within === objects[i].name));
    const pose = scene.poses?.get(numbers[0]);
    const few = !pose && (numbers.length < 2 || triangles < LEAST_TRIANGLES);
    if (holdsFog || few) ground.push(...numbers);
    else shared.push({ mesh, material, vertices, triangles, objects: numbers, shapes: pose?.shapes?.length ?? 0 });
  }
  ground.sort((a, b) => a - b);
  return { ground, shared };
}

export const IDENTITY: readonly number[] = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];

/** Rotates and moves a point by a column-major matrix. */
export function point(m: readonly number[], x: number, y: number, z: number): [number, number, number] {
  return [
    m[0] * x + m[4] * y + m[8] * z + m[12],
    m[1] * x + m[5] * y + m[9] * z + m[13],
    m[2] * x + m[6] * y + m[10] * z + m[14],
  ];
}

/** Cofactors of the upper 3×3, by columns: what normals are multiplied by, up to length. */
export function normalMatrix(m: readonly number[]): number[] {
  return [
    m[5] * m[10] - m[6] * m[9],
    m[6] * m[8] - m[4] * m[10],
    m[4] * m[9] - m[5] * m[8],
    m[2] * m[9] - m[1] * m[10],
    m[0] * m[10] - m[2] * m[8],
    m[1] * m[8] - m[0] * m[9],
    m[1] * m[6] - m[2] * m[5],
    m[2] * m[4] - m[0] * m[6],
    m[0] * m[5] - m[1] * m[4],
  ];
}

export function determinant(m: readonly number[]): number {
  const n = normalMatrix(m);
  return m[0] * n[0] + m[4] * n[3] + m[8] * n[6];
}

/**
 * The matrices of an instance by rows of 4: to its own space and to the world. Throws when the transform flattens
 * the object, since then it has no inverse.
 */
export function instanceMatrices(transform: readonly number[], name: string): { toLocal: number[]; toWorld: number[] } {
  const m = transform;
  const d = determinant(m);
  if (!(Math.abs(d) > 1e-30)) throw new Error(`object ${name}: its transform flattens it`);
  const n = normalMatrix(m);
  const rows = [0, 3, 6].map((i) => [n[i], n[i + 1], n[i + 2]].map((c) => c / d));
  const toLocal = rows.flatMap((r) => [...r, -(r[0] * m[12] + r[1] * m[13] + r[2] * m[14])]);
  const toWorld = [0, 1, 2].flatMap((i) => [m[i], m[4 + i], m[8 + i], m[12 + i]]);
  return { toLocal, toWorld };
}

/** Box in the world of a box in an object's space, widened by what single precision may lose. */
export function worldBox(
  transform: readonly number[],
  low: readonly number[],
  high: readonly number[],
): { low: number[]; high: number[] } {
  const out = { low: [Infinity, Infinity, Infinity], high: [-Infinity, -Infinity, -Infinity] };
  for (let corner = 0; corner < 8; corner++) {
    const pick = (a: number) => ((corner >> a) & 1 ? high[a] : low[a]);
    point(transform, pick(0), pick(1), pick(2)).forEach((v, a) => {
      out.low[a] = Math.min(out.low[a], v);
      out.high[a] = Math.max(out.high[a], v);
    });
  }
  const slack = 4e-7 * Math.max(...[...out.low, ...out.high].map(Math.abs));
  return { low: out.low.map((v) => v - slack), high: out.high.map((v) => v + slack) };
}
