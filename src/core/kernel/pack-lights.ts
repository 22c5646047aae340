import { groupNumber, type LightControls, resolveRules, type Scene } from '../scene';
import type { environmentDistribution } from '../sky';
import {
  fieldOffset,
  HEADER_FIELDS,
  LIGHT_BYTES,
  LIGHT_FIELDS,
  LIGHT_KIND,
  LIGHT_MOMENT_BYTES,
  LIGHT_MOMENT_TIME,
  LIGHT_NODE_BYTES,
  LIGHT_NODE_FIELDS,
  LIGHT_POSE_BYTES,
  LIGHT_ROLES,
  PORTAL_BYTES,
  PORTAL_FIELDS,
  SCENE_BASE,
} from './layout';
import { halfSize, type LightPlan, surfaceGain } from './light-plan';
import type { TreeNode } from './light-tree';
import type { PackPlan } from './pack-plan';
import { axesFacing, type ResolvedLight } from './resolve-lights';

type Header = (field: string, value: number) => void;

const PLACE_FLOATS = LIGHT_MOMENT_TIME / 4;

function putPower(put: Header, power: number, controls: LightControls): void {
  put('power', power * surfaceGain(controls));
  put('fogPower', power * controls.gains.fog);
  put('choice', 1);
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
    put('group', groupNumber(groups, group));
    for (const role of LIGHT_ROLES) put(`gain${role[0].toUpperCase()}${role.slice(1)}`, controls.gains[role]);
    whole('samples', controls.samples ?? 0);
    whole('bounces', controls.bounces ?? 1 << 20);
    whole('links', p.linksAt[i]);
    whole('trail', trails.get(i)?.trail ?? 0);
    whole('trailDepth', trails.get(i)?.depth ?? -1);
    const bits = p.links[i];
    if (bits) new Uint32Array(memory, p.linksAt[i], bits.length).set(bits);
  };
  const rules = resolveRules(scene.document);
  let envLight = -1;
  lights.forEach((l, i) => {
    const { put } = record(i);
    put('kind', LIGHT_KIND[l.kind]);
    put('visible', l.visible ? 1 : 0);
    putPower(put, l.kind === 'environment' ? (distribution?.total ?? 0) : l.power, l.controls);
    new Float32Array(memory, p.records + i * LIGHT_BYTES + fieldOffset(LIGHT_FIELDS, 'x'), PLACE_FLOATS).set(
      placeOf(l),
    );
    shared(i, l.controls, l.group);
    if (l.kind === 'environment') envLight = i;
  });
  packMoments(view, p);
  const meshOf = new Int32Array(memory, p.lists.meshOf, scene.document.objects.length).fill(-1);
  meshes.forEach((m, k) => {
    const i = lights.length + k;
    const { put, whole } = record(i);
    put('kind', LIGHT_KIND.mesh);
    // Seen by what looks for light unless its object is hidden from shadow rays.
    put('visible', rules[m.object].hiddenFrom.includes('shadow') ? 0 : 1);
    putPower(put, m.power, m.owner.light);
    putVector(
      put,
      '',
      m.low.map((c, a) => (c + m.high[a]) / 2),
    );
    put('bound', Math.sqrt(m.low.reduce((s, c, a) => s + ((m.high[a] - c) / 2) ** 2, 0)));
    put('outerCosine', -1);
    put('innerCosine', -1);
    shared(i, m.owner.light, m.group);
    const place = plan.places[m.object];
    whole('firstTriangle', place.firstTriangle);
    whole('triangles', m.cumulative.length);
    whole('cumulative', p.cumulativeAt[k]);
    whole('instance', place.instance);
    whole('twoSided', m.material.emission_double_sided ? 1 : 0);
    new Float32Array(memory, p.cumulativeAt[k], m.cumulative.length).set(m.cumulative);
    meshOf[m.object] = i;
  });
  packNodes(view, memory, p.nodes, p.nodesAt);
  packNodes(view, memory, p.shapeNodes, p.shapeNodesAt);
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
  header('movingLights', p.moving.length);
  header('lightPoses', p.poses);
  header('envLight', envLight);
  header('shapeCount', p.shapes.length);
  header('shapes', p.lists.shapes);
  header('shapeTree', p.shapeNodes.length > 0 ? p.shapeNodesAt : 0);
  header('envOpen', 0);
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

/** A light's place, axes, size, radiance and spread: the fields of its record from `x` to `apex`. */
function placeOf(l: ResolvedLight): number[] {
  const { position, radius, u, area, v, halfU, n, halfV, radiance, outerCosine, innerCosine } = l;
  const limited = l.kind !== 'spot' && outerCosine > -1;
  const apex = limited ? (halfSize(l) * outerCosine) / Math.sqrt(1 - outerCosine ** 2) : 0;
  const size = [...position, radius, ...u, area, ...v, halfU, ...n, halfV];
  return [...size, ...radiance, halfSize(l), outerCosine, innerCosine, apex];
}

/**
 * Tells what share of shadow rays arrives from each light without a place, in the order of `light.far`. They are weighed by its fourth root, for the root alone would starve places that are
 * more open than most; roulette goes by that of the sky. Packing lights anew forgets it. No thread may be tracing.
 */
export function tellOpenness(memory: ArrayBufferLike, { light }: PackPlan, shares: readonly number[] | null): void {
  const view = new DataView(memory);
  light.far.forEach((number, k) => {
    const at = light.records + number * LIGHT_BYTES + fieldOffset(LIGHT_FIELDS, 'choice');
    view.setFloat32(at, shares ? Math.sqrt(Math.sqrt(shares[k])) : 1, true);
  });
  const sky = light.far.findIndex((number) => light.lights[number].kind === 'environment');
  view.setFloat32(SCENE_BASE + fieldOffset(HEADER_FIELDS, 'envOpen'), (sky >= 0 && shares?.[sky]) || 0, true);
}

/** Writes how lights stand over the shutter. */
function packMoments(view: DataView, p: LightPlan): void {
  p.moving.forEach(({ number, times, moments }, k) => {
    const at = p.poses + k * LIGHT_POSE_BYTES;
    [number, moments.length, p.momentsAt[k], 0].forEach((v, i) => {
      view.setInt32(at + i * 4, v, true);
    });
    moments.forEach((m, i) => {
      const row = [...placeOf(m), times[i]];
      new Float32Array(view.buffer, p.momentsAt[k] + i * LIGHT_MOMENT_BYTES, row.length).set(row);
    });
  });
}

/** Writes the nodes of a tree from an address on. */
function packNodes(view: DataView, memory: ArrayBufferLike, nodes: readonly TreeNode[], nodesAt: number): void {
  let first = 0;
  nodes.forEach((n, i) => {
    const at = nodesAt + i * LIGHT_NODE_BYTES;
    const floats = new Float32Array(memory, at, 12);
    floats.set([...n.low, n.power, ...n.high, n.cosine, ...n.axis, Math.sqrt(Math.max(0, 1 - n.cosine * n.cosine))]);
    const whole = (field: string, value: number) =>
      view.setInt32(at + fieldOffset(LIGHT_NODE_FIELDS, field), value, true);
    whole('left', n.children ? nodesAt + n.children[0] * LIGHT_NODE_BYTES : 0);
    whole('right', n.children ? nodesAt + n.children[1] * LIGHT_NODE_BYTES : 0);
    whole('first', first);
    whole('count', n.lights.length);
    first += n.lights.length;
  });
}
