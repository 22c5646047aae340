import { luminance, whiteOf } from '../image';
import { type LightControls, type Material, meshAt, pictureAt, type Scene, secondaryMaterials } from '../scene';
import { IDENTITY, point } from './instancing';
import { LIGHT_BYTES, LIGHT_MOMENT_BYTES, LIGHT_NODE_BYTES, LIGHT_POSE_BYTES, PORTAL_BYTES } from './layout';
import { buildLightTree, type TreeLight, type TreeNode } from './light-tree';
import { emissiveObjects, type MovingLight, movingLights, type ResolvedLight, resolveLights } from './resolve-lights';

/** A mesh light: an object whose material emits, its triangles in the world, weighed by area × luminance. */
interface MeshLight {
  object: number;
  /** Material that gives the light, and the one whose group and controls hold: the camera's where that emits. */
  material: Material;
  owner: Material;
  /** Light group. */
  group: string;
  cumulative: Float32Array;
  low: number[];
  high: number[];
  /** Σ area × luminance. */
  power: number;
}

/** Lists that the kernel walks, by light number, and where they lie. */
export interface LightPlan {
  lights: ResolvedLight[];
  meshes: MeshLight[];
  nodes: TreeNode[];
  count: number;
  /** Lights that move over the shutter, their records and where their moments lie. */
  moving: MovingLight[];
  poses: number;
  momentsAt: number[];
  records: number;
  shapes: number[];
  far: number[];
  own: number[];
  treeLights: number[];
  lists: { shapes: number; far: number; own: number; tree: number; meshOf: number };
  nodesAt: number;
  /** The tree by which shapes are met; without nodes where they are few. */
  shapeNodes: TreeNode[];
  shapeNodesAt: number;
  cumulativeAt: number[];
  /** Bits of the objects each light lights; null = all. */
  links: (Uint32Array | null)[];
  linksAt: number[];
  portals: number;
}

/** Mean luminance that a material's emission picture has over a triangle, at its corners and middle; 1 without one. */
function pictureLuminance(scene: Scene, material: Scene['document']['materials'][number]) {
  const texture = material.textures.find((t) => t.input === 'emission_color');
  const entry = texture && scene.document.geometry.pictures.find((p) => p.name === texture.picture);
  if (!texture || !entry) return null;
  const picture = pictureAt(scene.geometry, entry);
  const { width, height, channels, values } = picture;
  const scale = 1 / whiteOf(values);
  return (u: number, v: number) => {
    const x = Math.floor(((((u * texture.scale[0] + texture.offset[0]) % 1) + 1) % 1) * width) % width;
    const y = Math.floor(((((v * texture.scale[1] + texture.offset[1]) % 1) + 1) % 1) * height) % height;
    const o = (y * width + x) * channels;
    const c = channels < 3 ? [0, 0, 0] : [0, 1, 2];
    return luminance(values[o + c[0]] * scale, values[o + c[1]] * scale, values[o + c[2]] * scale);
  };
}

function meshLight(scene: Scene, object: number, lit: string): MeshLight {
  const o = scene.document.objects[object];
  const entry = scene.document.geometry.meshes.find((m) => m.name === o.mesh)!;
  const named = (name: string) => scene.document.materials.find((m) => m.name === name)!;
  const material = named(lit);
  const seen = named(o.material);
  const owner = seen.emission_luminance > 0 ? seen : material;
  const mesh = meshAt(scene.geometry, entry);
  const m = o.transform ?? IDENTITY;
  const picture = pictureLuminance(scene, material);
  const [r, g, b] = material.emission_color;
  const nits = material.emission_luminance * luminance(r, g, b);
  const cumulative = new Float32Array(entry.triangles);
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  const sums = new Float64Array(entry.triangles);
  let sum = 0;
  for (let t = 0; t < entry.triangles; t++) {
    const corners = [0, 1, 2].map((k) => mesh.indices[t * 3 + k]);
    const p = corners.map((i) => point(m, mesh.positions[i * 3], mesh.positions[i * 3 + 1], mesh.positions[i * 3 + 2]));
    const [e, f] = [1, 2].map((k) => p[k].map((c, a) => c - p[0][a]));
    const n = [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]];
    const area = Math.sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]) / 2;
    let y = 1;
    if (picture && mesh.uvs) {
      const uv = corners.map((i) => [mesh.uvs![i * 2], mesh.uvs![i * 2 + 1]]);
      const at = [
        [1, 1, 1],
        [4, 1, 1],
        [1, 4, 1],
        [1, 1, 4],
      ].map((w) => [0, 1].map((a) => (w[0] * uv[0][a] + w[1] * uv[1][a] + w[2] * uv[2][a]) / (w[0] + w[1] + w[2])));
      // A floor, so that no lit part of a triangle is left out for lying between the places looked at.
      y = Math.max(0.02, at.reduce((s, [u, v]) => s + picture(u, v), 0) / at.length);
    }
    sum += area * nits * y;
    sums[t] = sum;
    for (const q of p) {
      q.forEach((c, a) => {
        low[a] = Math.min(low[a], c);
        high[a] = Math.max(high[a], c);
      });
    }
  }
  for (let t = 0; t < entry.triangles; t++) cumulative[t] = sum > 0 ? sums[t] / sum : (t + 1) / entry.triangles;
  if (entry.triangles > 0) cumulative[entry.triangles - 1] = 1;
  const power = sum * (material.emission_double_sided ? 2 : 1);
  return { object, material, owner, group: o.lightGroup ?? owner.light_group, cumulative, low, high, power };
}

/** Bits of the objects that a light lights; null when it lights all. Throws for a name that is neither object nor set. */
function linksOf(scene: Scene, name: string, controls: LightControls): Uint32Array | null {
  const { objects, sets } = scene.document;
  if (controls.include === null && controls.exclude.length === 0) return null;
  const numbers = (names: string[]) =>
    names.flatMap((n) => {
      const members = Object.hasOwn(sets, n) ? sets[n] : [n];
      return members.map((o) => {
        const i = objects.findIndex((x) => x.name === o);
        if (i < 0) throw new Error(`light ${name}: neither object nor set is named ${o}`);
        return i;
      });
    });
  const bits = new Uint32Array(Math.ceil(objects.length / 32)).fill(controls.include === null ? 0xffffffff : 0);
  for (const i of numbers(controls.include ?? [])) bits[i >> 5] |= 1 << (i & 31);
  for (const i of numbers(controls.exclude)) bits[i >> 5] &= ~(1 << (i & 31));
  return bits;
}

export const halfSize = (l: ResolvedLight) =>
  l.kind === 'rectangle' ? Math.sqrt(l.halfU ** 2 + l.halfV ** 2) : l.radius;

/** A light as the tree has it; `moments` are where it stands over the shutter. */
function treeLight(l: ResolvedLight, moments: readonly ResolvedLight[], number: number, gain: number): TreeLight {
  const half = Math.max(...moments.map(halfSize));
  const faces = l.kind === 'rectangle' || l.kind === 'disk';
  const turns = moments.some((m) => m.n.some((c, k) => c !== moments[0].n[k]));
  return {
    number,
    low: l.position.map((_, k) => Math.min(...moments.map((m) => m.position[k])) - half),
    high: l.position.map((_, k) => Math.max(...moments.map((m) => m.position[k])) + half),
    power: l.power * gain,
    axis: [...l.n],
    // One that turns may face anywhere.
    cosine: turns ? -1 : faces ? 1 : l.kind === 'spot' ? l.outerCosine : -1,
  };
}

/** Shapes that are met one after another: a tree of so few is no quicker. */
const FEW_SHAPES = 8;

/** The box of a light's shape, of which the tree of shapes is made. */
const shapeOf = (l: ResolvedLight, moments: readonly ResolvedLight[] = [l], number: number): TreeLight => ({
  ...treeLight(l, moments, number, 1),
  ...{ power: 1, cosine: -1 },
});

/** Decides the lights' numbers and lists; `take` hands out memory. */
export function planLights(scene: Scene, take: (bytes: number) => number): LightPlan {
  const lights = resolveLights(scene);
  const lit = secondaryMaterials(scene.document);
  const meshes = emissiveObjects(scene).map((o) => meshLight(scene, o, lit[o]));
  const count = lights.length + meshes.length;
  const all = [...lights.map((l) => l.controls), ...meshes.map((m) => m.owner.light)];
  const moving = movingLights(scene);
  const momentsOf = new Map(moving.map((m) => [m.number, m.moments]));
  const isFar = (i: number) => i < lights.length && (lights[i].kind === 'environment' || lights[i].kind === 'distant');
  const numbers = Array.from({ length: count }, (_, i) => i);
  const own = numbers.filter((i) => all[i].samples !== null);
  const near: TreeLight[] = numbers
    .filter((i) => !isFar(i) && all[i].samples === null && surfaceGain(all[i]) > 0)
    .filter((i) => i < lights.length || meshes[i - lights.length].power > 0)
    .map((i) => {
      const gain = surfaceGain(all[i]);
      if (i < lights.length) return treeLight(lights[i], momentsOf.get(i) ?? [lights[i]], i, gain);
      const m = meshes[i - lights.length];
      return { number: i, low: m.low, high: m.high, power: m.power * gain, axis: [0, 0, 1], cosine: -1 };
    });
  const nodes = buildLightTree(near);
  const links = all.map((c, i) =>
    linksOf(scene, i < lights.length ? lights[i].name : meshes[i - lights.length].owner.name, c),
  );
  const visible = numbers.filter((i) => i < lights.length && !isFar(i) && lights[i].visible);
  const isFew = visible.length <= FEW_SHAPES;
  const shapeNodes = isFew ? [] : buildLightTree(visible.map((i) => shapeOf(lights[i], momentsOf.get(i), i)));
  const shapes = isFew ? visible : shapeNodes.flatMap((n) => n.lights);
  const far = numbers.filter(isFar);
  return {
    lights,
    meshes,
    nodes,
    count,
    records: take(count * LIGHT_BYTES),
    shapes,
    far,
    own,
    treeLights: nodes.flatMap((n) => n.lights),
    lists: {
      shapes: take(shapes.length * 4),
      far: take(far.length * 4),
      own: take(own.length * 4),
      tree: take(near.length * 4),
      meshOf: take(scene.document.objects.length * 4),
    },
    nodesAt: take(nodes.length * LIGHT_NODE_BYTES),
    shapeNodes,
    shapeNodesAt: take(shapeNodes.length * LIGHT_NODE_BYTES),
    cumulativeAt: meshes.map((m) => take(m.cumulative.byteLength)),
    links,
    linksAt: links.map((l) => (l ? take(l.byteLength) : 0)),
    portals: take(scene.document.portals.length * PORTAL_BYTES),
    moving,
    poses: take(moving.length * LIGHT_POSE_BYTES),
    momentsAt: moving.map((m) => take(m.moments.length * LIGHT_MOMENT_BYTES)),
  };
}

/** The largest gain that a light has on surfaces: what its samples there can be worth. */
export const surfaceGain = ({ gains }: LightControls) => Math.max(gains.diffuse, gains.reflection, gains.transmission);
