import { luminance } from '../image';
import { type LightControls, meshAt, pictureAt, type Scene } from '../scene';
import type { environmentDistribution } from './environment';
import { IDENTITY, point } from './instancing';
import {
  fieldOffset,
  LIGHT_BYTES,
  LIGHT_FIELDS,
  LIGHT_KIND,
  LIGHT_NODE_BYTES,
  LIGHT_NODE_FIELDS,
  LIGHT_ROLES,
  PORTAL_BYTES,
  PORTAL_FIELDS,
} from './layout';
import { buildLightTree, type TreeLight, type TreeNode } from './light-tree';
import type { PackPlan } from './pack-plan';
import { axesFacing, emissiveObjects, type ResolvedLight, resolveLights } from './resolve-lights';

/** A mesh light: an object whose material emits, its triangles in the world, weighed by area × luminance. */
interface MeshLight {
  object: number;
  cumulative: Float32Array;
  low: number[];
  high: number[];
  /** Σ area × luminance. */
  power: number;
  area: number;
}

/** Lists that the kernel walks, by light number, and where they lie. */
export interface LightPlan {
  lights: ResolvedLight[];
  meshes: MeshLight[];
  nodes: TreeNode[];
  count: number;
  records: number;
  shapes: number[];
  far: number[];
  own: number[];
  treeLights: number[];
  lists: { shapes: number; far: number; own: number; tree: number; meshOf: number };
  nodesAt: number;
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
  const scale = entry.format === 'byte' ? 1 / 255 : 1;
  return (u: number, v: number) => {
    const x = Math.floor(((((u * texture.scale[0] + texture.offset[0]) % 1) + 1) % 1) * width) % width;
    const y = Math.floor(((((v * texture.scale[1] + texture.offset[1]) % 1) + 1) % 1) * height) % height;
    const o = (y * width + x) * channels;
    const c = channels < 3 ? [0, 0, 0] : [0, 1, 2];
    return luminance(values[o + c[0]] * scale, values[o + c[1]] * scale, values[o + c[2]] * scale);
  };
}

function meshLight(scene: Scene, object: number): MeshLight {
  const o = scene.document.objects[object];
  const entry = scene.document.geometry.meshes.find((m) => m.name === o.mesh)!;
  const material = scene.document.materials.find((m) => m.name === o.material)!;
  const mesh = meshAt(scene.geometry, entry);
  const m = o.transform ?? IDENTITY;
  const picture = pictureLuminance(scene, material);
  const [r, g, b] = material.emission_color;
  const nits = material.emission_luminance * luminance(r, g, b);
  const cumulative = new Float32Array(entry.triangles);
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  const sums = new Float64Array(entry.triangles);
  let [sum, whole] = [0, 0];
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
    whole += area;
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
  return { object, cumulative, low, high, power, area: whole };
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

const halfSize = (l: ResolvedLight) => (l.kind === 'rectangle' ? Math.sqrt(l.halfU ** 2 + l.halfV ** 2) : l.radius);

function treeLight(l: ResolvedLight, number: number, gain: number): TreeLight {
  const half = halfSize(l);
  const faces = l.kind === 'rectangle' || l.kind === 'disk';
  return {
    number,
    low: l.position.map((c) => c - half),
    high: l.position.map((c) => c + half),
    power: l.power * gain,
    axis: [...l.n],
    cosine: faces ? 1 : l.kind === 'spot' ? l.outerCosine : -1,
  };
}

/** Decides the lights' numbers and lists; `take` hands out memory. */
export function planLights(scene: Scene, take: (bytes: number) => number): LightPlan {
  const lights = resolveLights(scene);
  const meshes = emissiveObjects(scene).map((o) => meshLight(scene, o));
  const materials = new Map(scene.document.materials.map((m) => [m.name, m]));
  const controlsOfMesh = (m: MeshLight) => materials.get(scene.document.objects[m.object].material)!.light;
  const count = lights.length + meshes.length;
  const all = [...lights.map((l) => l.controls), ...meshes.map(controlsOfMesh)];
  const isFar = (i: number) => i < lights.length && (lights[i].kind === 'environment' || lights[i].kind === 'distant');
  const numbers = Array.from({ length: count }, (_, i) => i);
  const own = numbers.filter((i) => all[i].samples !== null);
  const near: TreeLight[] = numbers
    .filter((i) => !isFar(i) && all[i].samples === null && surfaceGain(all[i]) > 0)
    .map((i) => {
      const gain = surfaceGain(all[i]);
      if (i < lights.length) return treeLight(lights[i], i, gain);
      const m = meshes[i - lights.length];
      return { number: i, low: m.low, high: m.high, power: m.power * gain, axis: [0, 0, 1], cosine: -1 };
    });
  const nodes = buildLightTree(near);
  const links = all.map((c, i) =>
    linksOf(scene, i < lights.length ? lights[i].name : materialName(scene, meshes[i - lights.length]), c),
  );
  const shapes = numbers.filter((i) => i < lights.length && !isFar(i) && lights[i].visible);
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
    cumulativeAt: meshes.map((m) => take(m.cumulative.byteLength)),
    links,
    linksAt: links.map((l) => (l ? take(l.byteLength) : 0)),
    portals: take(scene.document.portals.length * PORTAL_BYTES),
  };
}

const materialName = (scene: Scene, m: MeshLight) => scene.document.objects[m.object].material;

type Header = (field: string, value: number) => void;

/** The largest gain that a light has on surfaces: what its samples there can be worth. */
const surfaceGain = ({ gains }: LightControls) => Math.max(gains.diffuse, gains.reflection, gains.transmission);

function putPower(put: Header, power: number, controls: LightControls): void {
  put('power', power * surfaceGain(controls));
  put('fogPower', power * controls.gains.fog);
}

/** Left and right turns from the root to the leaf of each light. */
function trailsOf(nodes: TreeNode[]): Map<number, { trail: number; depth: number }> {
  const out = new Map<number, { trail: number; depth: number }>();
  const visit = (index: number, trail: number, depth: number) => {
    const n = nodes[index];
    for (const l of n.lights) out.set(l, { trail, depth });
    n.children?.forEach((c, side) => {
      visit(c, trail | (side << depth), depth + 1);
    });
  };
  if (nodes.length > 0) visit(0, 0, 0);
  return out;
}

/** Writes all lights; instances' addresses are those of the plan. `distribution` belongs to the environment. */
export function packLights(
  memory: ArrayBufferLike,
  scene: Scene,
  plan: PackPlan,
  groups: string[],
  distribution: ReturnType<typeof environmentDistribution> | null,
  header: Header,
): void {
  const view = new DataView(memory);
  const p = plan.light;
  const { lights, meshes } = p;
  const trails = trailsOf(p.nodes);
  const materials = new Map(scene.document.materials.map((m) => [m.name, m]));
  const record = (i: number) => {
    const at = p.records + i * LIGHT_BYTES;
    return {
      put: (field: string, value: number) => view.setFloat32(at + fieldOffset(LIGHT_FIELDS, field), value, true),
      whole: (field: string, value: number) => view.setInt32(at + fieldOffset(LIGHT_FIELDS, field), value, true),
    };
  };
  const putVector = (put: Header, base: string, v: readonly number[]) => {
    ['x', 'y', 'z'].forEach((axis, k) => {
      put(`${base}${axis}`, v[k]);
    });
  };
  const shared = (i: number, controls: LightControls, group: string) => {
    const { put, whole } = record(i);
    put('group', groups.indexOf(group));
    for (const role of LIGHT_ROLES) put(`gain${role[0].toUpperCase()}${role.slice(1)}`, controls.gains[role]);
    whole('samples', controls.samples ?? 0);
    whole('bounces', controls.bounces ?? 1 << 20);
    whole('links', p.linksAt[i]);
    whole('trail', trails.get(i)?.trail ?? 0);
    whole('trailDepth', trails.get(i)?.depth ?? -1);
    const bits = p.links[i];
    if (bits) new Uint32Array(memory, p.linksAt[i], bits.length).set(bits);
  };
  let envLight = -1;
  lights.forEach((l, i) => {
    const { put } = record(i);
    put('kind', LIGHT_KIND[l.kind]);
    put('visible', l.visible ? 1 : 0);
    putPower(put, l.kind === 'environment' ? (distribution?.total ?? 0) : l.power, l.controls);
    putVector(put, '', l.position);
    putVector(put, 'u', l.u);
    putVector(put, 'v', l.v);
    putVector(put, 'n', l.n);
    put('halfU', l.halfU);
    put('halfV', l.halfV);
    put('radius', l.radius);
    put('area', l.area);
    put('bound', halfSize(l));
    put('outerCosine', l.outerCosine);
    put('innerCosine', l.innerCosine);
    const limited = l.kind !== 'spot' && l.outerCosine > -1;
    put('apex', limited ? (halfSize(l) * l.outerCosine) / Math.sqrt(1 - l.outerCosine ** 2) : 0);
    ['R', 'G', 'B'].forEach((c, k) => {
      put(`radiance${c}`, l.radiance[k]);
    });
    shared(i, l.controls, l.group);
    if (l.kind === 'environment') envLight = i;
  });
  const meshOf = new Int32Array(memory, p.lists.meshOf, scene.document.objects.length).fill(-1);
  meshes.forEach((m, k) => {
    const i = lights.length + k;
    const { put, whole } = record(i);
    const material = materials.get(materialName(scene, m))!;
    put('kind', LIGHT_KIND.mesh);
    put('visible', 0);
    putPower(put, m.power, material.light);
    putVector(
      put,
      '',
      m.low.map((c, a) => (c + m.high[a]) / 2),
    );
    put('bound', Math.sqrt(m.low.reduce((s, c, a) => s + ((m.high[a] - c) / 2) ** 2, 0)));
    put('outerCosine', -1);
    put('innerCosine', -1);
    shared(i, material.light, material.light_group);
    const place = plan.places[m.object];
    whole('firstTriangle', place.firstTriangle);
    whole('triangles', m.cumulative.length);
    whole('cumulative', p.cumulativeAt[k]);
    whole('instance', place.instance);
    whole('twoSided', material.emission_double_sided ? 1 : 0);
    new Float32Array(memory, p.cumulativeAt[k], m.cumulative.length).set(m.cumulative);
    meshOf[m.object] = i;
  });
  packNodes(view, p, memory);
  const list = (at: number, numbers: number[]) => new Int32Array(memory, at, numbers.length).set(numbers);
  list(p.lists.shapes, p.shapes);
  list(p.lists.far, p.far);
  list(p.lists.own, p.own);
  list(p.lists.tree, p.treeLights);
  scene.document.portals.forEach((portal, i) => {
    const at = p.portals + i * PORTAL_BYTES;
    const put = (field: string, value: number) => view.setFloat32(at + fieldOffset(PORTAL_FIELDS, field), value, true);
    const { u, v, n } = axesFacing(portal.facing, portal.up, `portal ${portal.name}`);
    putVector(put, '', portal.position);
    putVector(put, 'u', u);
    putVector(put, 'v', v);
    putVector(put, 'n', n);
    put('halfU', portal.width / 2);
    put('halfV', portal.height / 2);
  });
  header('lightCount', p.count);
  header('lights', p.records);
  header('envLight', envLight);
  header('shapeCount', p.shapes.length);
  header('shapes', p.lists.shapes);
  header('farCount', p.far.length);
  header('farLights', p.lists.far);
  header('ownCount', p.own.length);
  header('ownLights', p.lists.own);
  header('lightTree', p.nodes.length > 0 ? p.nodesAt : 0);
  header('treeLights', p.lists.tree);
  header('meshLights', p.lists.meshOf);
  header('portalCount', scene.document.portals.length);
  header('portals', p.portals);
}

function packNodes(view: DataView, p: LightPlan, memory: ArrayBufferLike): void {
  let first = 0;
  p.nodes.forEach((n, i) => {
    const at = p.nodesAt + i * LIGHT_NODE_BYTES;
    const floats = new Float32Array(memory, at, 12);
    floats.set([...n.low, n.power, ...n.high, n.cosine, ...n.axis, Math.sqrt(Math.max(0, 1 - n.cosine * n.cosine))]);
    const whole = (field: string, value: number) =>
      view.setInt32(at + fieldOffset(LIGHT_NODE_FIELDS, field), value, true);
    whole('left', n.children ? p.nodesAt + n.children[0] * LIGHT_NODE_BYTES : 0);
    whole('right', n.children ? p.nodesAt + n.children[1] * LIGHT_NODE_BYTES : 0);
    whole('first', first);
    whole('count', n.lights.length);
    first += n.lights.length;
  });
}
