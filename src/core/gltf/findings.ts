import {
  type Bounds,
  geometryOf,
  groupForEach,
  IDENTITY_TRANSFORM,
  lightSources,
  type Mesh,
  meshAt,
  multiply,
  objectBounds,
  type Scene,
  type SceneDocument,
  sceneBounds,
  smoothNormals,
  UNASSIGNED,
  withGeometry,
  withGroups,
} from '../scene';
import type { GlbNotes } from './read';

/** Something about a scene from outside that the user should know. */
export interface Finding {
  code: string;
  words: string;
  about: string[];
  /** What a button to mend it says; null where mending would be a guess. */
  fix: string | null;
}

/** Light groups that sources get which nobody has chosen one for. */
const READERS_GROUPS = ['lights', UNASSIGNED];

/** How the edges of a mesh join up, and which way it faces. */
interface Shell {
  /** Share of edges that belong to one triangle alone. */
  open: number;
  /** Signed volume: below 0 the faces look inwards. */
  volume: number;
}

function shellOf(mesh: Mesh): Shell {
  // Corners in the same place are one, whatever their normals.
  const at = new Map<string, number>();
  const p = mesh.positions;
  const same = new Uint32Array(p.length / 3);
  const grid = Math.max(1e-12, p.reduce((most, v) => Math.max(most, Math.abs(v)), 0) * 1e-5);
  for (let i = 0; i < same.length; i++) {
    const key = `${Math.round(p[i * 3] / grid)} ${Math.round(p[i * 3 + 1] / grid)} ${Math.round(p[i * 3 + 2] / grid)}`;
    const known = at.get(key);
    if (known === undefined) at.set(key, i);
    same[i] = known ?? i;
  }
  const edges = new Map<number, number>();
  let volume = 0;
  const n = same.length;
  for (let t = 0; t < mesh.indices.length; t += 3) {
    const c = [0, 1, 2].map((k) => mesh.indices[t + k]);
    const [a, b, d] = c.map((i) => [p[i * 3], p[i * 3 + 1], p[i * 3 + 2]]);
    volume +=
      (a[0] * (b[1] * d[2] - b[2] * d[1]) - a[1] * (b[0] * d[2] - b[2] * d[0]) + a[2] * (b[0] * d[1] - b[1] * d[0])) /
      6;
    const s = c.map((i) => same[i]);
    if (s[0] === s[1] || s[1] === s[2] || s[0] === s[2]) continue;
    for (let k = 0; k < 3; k++) {
      const [u, v] = [s[k], s[(k + 1) % 3]];
      const key = Math.min(u, v) * n + Math.max(u, v);
      edges.set(key, (edges.get(key) ?? 0) + 1);
    }
  }
  let open = 0;
  for (const count of edges.values()) if (count === 1) open++;
  return { open: edges.size > 0 ? open / edges.size : 1, volume };
}

/** Triangles of meshes that are looked at for open edges; beyond that it would take too long. */
const MOST_TRIANGLES = 1_000_000;
/** Share of open edges up to which a shell counts as closed. */
const NEARLY_CLOSED = 0.002;

const inside = (a: Bounds, b: Bounds, slack: number) =>
  [0, 1, 2].every((k) => a.low[k] >= b.low[k] - slack && a.high[k] <= b.high[k] + slack);

/** Looks a scene over for what would make its picture wrong. */
export function findingsOf(scene: Scene, notes: GlbNotes): Finding[] {
  const out: Finding[] = [];
  const { document } = scene;
  const some = (names: string[]) =>
    names.length <= 3 ? names.join(', ') : `${names.slice(0, 3).join(', ')} and ${names.length - 3} more`;
  const add = (code: string, words: string, about: string[], fix: string | null) =>
    out.push({ code, words, about, fix });
  const box = sceneBounds(scene);
  const size = Math.max(...box.high.map((c, k) => c - box.low[k]));
  if (size > 250)
    add(
      'too-large',
      `The scene is ${size.toFixed(0)} m across. Is it in centimetres?`,
      [],
      'It is in centimetres: shrink to 1/100',
    );
  else if (size < 0.05)
    add('too-small', `The scene is ${(size * 1000).toFixed(1)} mm across. Is it in metres?`, [], 'Enlarge 100 times');
  if (notes.cameraMade) add('no-camera', 'There is no camera; one is put before everything.', [], null);
  if (
    document.lights.length === 0 &&
    !document.environment &&
    document.materials.every((m) => m.emission_luminance === 0)
  )
    add('no-light', 'There is no light; the picture will be black until you add one.', [], 'Add a sky');
  const together = lightSources(document).filter((l) => READERS_GROUPS.includes(l.group));
  if (together.length > 1)
    add(
      'light-groups',
      `${together.length} sources of light share their light groups: compositing could not tell them apart.`,
      [],
      'A light group for each',
    );
  if (notes.withoutNormals.length > 0)
    add(
      'no-normals',
      `${some(notes.withoutNormals)}: no normals, so flat facets are shown.`,
      notes.withoutNormals,
      'Smooth them',
    );
  if (notes.withoutMaterial.length > 0)
    add(
      'no-material',
      `${some(notes.withoutMaterial)}: no material; shown as glTF’s default, a rough metal.`,
      notes.withoutMaterial,
      'Give them plain grey',
    );
  if (notes.doubled.length > 0)
    add(
      'doubled-names',
      `${some(notes.doubled)}: the name was there more than once; numbers tell them apart now.`,
      notes.doubled,
      null,
    );
  const materials = new Map(document.materials.map((m) => [m.name, m]));
  const entries = new Map(document.geometry.meshes.map((m) => [m.name, m]));
  const shells = new Map<string, Shell>();
  let left = MOST_TRIANGLES;
  const shell = (name: string): Shell | null => {
    const known = shells.get(name);
    const entry = entries.get(name);
    if (known || !entry || entry.triangles > left) return known ?? null;
    left -= entry.triangles;
    const made = shellOf(meshAt(scene.geometry, entry));
    shells.set(name, made);
    return made;
  };
  const isGlass = (o: SceneDocument['objects'][number]) => {
    const m = materials.get(o.material);
    return m !== undefined && m.transmission_weight > 0.5 && !m.geometry_thin_walled;
  };
  const openGlass: string[] = [];
  const inverted: string[] = [];
  for (const o of document.objects) {
    const s = shell(o.mesh);
    if (!s) continue;
    if (isGlass(o) && s.open > NEARLY_CLOSED) openGlass.push(o.name);
    if (s.open <= NEARLY_CLOSED && s.volume < 0) inverted.push(o.name);
  }
  if (openGlass.length > 0)
    add(
      'open-glass',
      `${some(openGlass)}: glass without thickness, its shell is open, so light would enter and never leave.`,
      openGlass,
      'Treat it as thin panes',
    );
  if (inverted.length > 0) add('inverted', `${some(inverted)}: faces look inwards.`, inverted, 'Turn them outwards');
  const boxes = objectBounds(scene);
  const vessels = document.objects.filter(isGlass);
  for (const liquid of vessels) {
    const m = materials.get(liquid.material)!;
    if (m.specular_ior < 1.3 || m.specular_ior > 1.38) continue;
    const own = boxes.get(liquid.name)!;
    const vessel = vessels.find((v) => v !== liquid && inside(own, boxes.get(v.name)!, 0.001));
    if (!vessel) continue;
    if (m.transmission_priority > (materials.get(vessel.material)?.transmission_priority ?? 0)) continue;
    const walls = distanceToWall(scene, liquid.name, vessel.name);
    if (walls > 0)
      add(
        'liquid-gap',
        `${liquid.name} ends ${(walls * 1000).toFixed(2)} mm before the wall of ${vessel.name}: a film of air would show between them. Let it overlap the glass.`,
        [liquid.name, vessel.name],
        null,
      );
  }
  return out;
}

/** Levels at which a liquid is compared with its vessel. */
const LEVELS = 12;

/** Least gap in metres between a liquid's corners and its vessel's, looked at sideways; 0 where it reaches into it. */
function distanceToWall(scene: Scene, liquid: string, vessel: string): number {
  const corners = (name: string) => {
    const o = scene.document.objects.find((x) => x.name === name)!;
    const { positions } = meshAt(scene.geometry, scene.document.geometry.meshes.find((m) => m.name === o.mesh)!);
    const m = o.transform ?? IDENTITY_TRANSFORM;
    const out: number[][] = [];
    const step = Math.max(1, Math.floor(positions.length / 3 / 800)) * 3;
    for (let i = 0; i < positions.length; i += step)
      out.push(
        [0, 1, 2].map(
          (k) => m[k] * positions[i] + m[4 + k] * positions[i + 1] + m[8 + k] * positions[i + 2] + m[12 + k],
        ),
      );
    return out;
  };
  const [a, b] = [corners(liquid), corners(vessel)];
  const middle = [0, 2].map((k) => a.reduce((sum, p) => sum + p[k], 0) / a.length);
  const out = (p: number[]) => Math.hypot(p[0] - middle[0], p[2] - middle[1]);
  const heights = a.map((p) => p[1]);
  const [low, high] = [Math.min(...heights), Math.max(...heights)];
  // Level by level: how far the liquid reaches, and where the vessel's wall begins about it.
  const levelOf = (p: number[]) => Math.floor(((p[1] - low) / (high - low || 1)) * LEVELS * 0.999999);
  const reach = new Array<number>(LEVELS).fill(0);
  for (const p of a) reach[levelOf(p)] = Math.max(reach[levelOf(p)], out(p));
  const wall = new Array<number>(LEVELS).fill(Infinity);
  for (const p of b) {
    const level = levelOf(p);
    if (level >= 0 && level < LEVELS && out(p) > reach[level] * 0.5) wall[level] = Math.min(wall[level], out(p));
  }
  const gaps = wall.flatMap((w, i) => (Number.isFinite(w) && reach[i] > 0 ? [w - reach[i]] : []));
  // At the ends levels are slopes; the belly between tells.
  const belly = gaps.slice(Math.floor(gaps.length / 4), Math.ceil((gaps.length * 3) / 4));
  return belly.length === 0 ? 0 : Math.max(0, Math.min(...belly));
}

/** The scene with the fix of a finding made. */
export function fixFinding(scene: Scene, finding: Finding): Scene {
  const { document } = scene;
  const about = new Set(finding.about);
  switch (finding.code) {
    case 'too-large':
      return scaled(scene, 0.01);
    case 'too-small':
      return scaled(scene, 100);
    case 'light-groups':
      return { ...scene, document: withGroups(document, groupForEach(document)) };
    case 'no-normals':
      return reshaped(scene, about, (m) => smoothed(m));
    case 'inverted':
      return reshaped(scene, about, (m) => turned(m));
    case 'open-glass': {
      const named = new Set(document.objects.filter((o) => about.has(o.name)).map((o) => o.material));
      return {
        ...scene,
        document: {
          ...document,
          materials: document.materials.map((m) => (named.has(m.name) ? { ...m, geometry_thin_walled: true } : m)),
        },
      };
    }
    case 'no-material':
      return {
        ...scene,
        document: {
          ...document,
          materials: document.materials.map((m) =>
            document.objects.some((o) => about.has(o.name) && o.material === m.name)
              ? { ...m, base_metalness: 0, base_color: [0.18, 0.18, 0.18], specular_weight: 0 }
              : m,
          ),
        },
      };
    default:
      return scene;
  }
}

function scaled(scene: Scene, k: number): Scene {
  const size = [k, 0, 0, 0, 0, k, 0, 0, 0, 0, k, 0, 0, 0, 0, 1];
  const times = (v: readonly number[]) => v.map((c) => c * k) as [number, number, number];
  const { document } = scene;
  return {
    ...scene,
    document: {
      ...document,
      objects: document.objects.map((o) => ({
        ...o,
        transform: multiply(size, o.transform ?? IDENTITY_TRANSFORM),
        motion: o.motion?.map((m) => ({ ...m, transform: multiply(size, m.transform) })),
      })),
      cameras: document.cameras.map((c) => ({
        ...c,
        position: times(c.position),
        target: times(c.target),
        clipNear: c.clipNear * k,
        clipFar: c.clipFar && c.clipFar * k,
        focusMetres: c.focusMetres && c.focusMetres * k,
        motion: c.motion?.map((m) => ({ ...m, position: times(m.position), target: times(m.target) })),
      })),
      // Candela at a distance: the light that arrives stays the same.
      lights: document.lights.map((l) => ({
        ...l,
        ...('position' in l ? { position: times(l.position) } : {}),
        ...(l.kind === 'point' || l.kind === 'spot' ? { power: l.power * k * k } : {}),
      })) as SceneDocument['lights'],
    },
  };
}

/** New triangles for the meshes of some objects. */
function reshaped(scene: Scene, about: ReadonlySet<string>, change: (m: Mesh) => Mesh): Scene {
  const { meshes, pictures } = geometryOf(scene);
  const names = new Set(scene.document.objects.filter((o) => about.has(o.name)).map((o) => o.mesh));
  for (const name of names) if (Object.hasOwn(meshes, name)) meshes[name] = change(meshes[name]);
  return withGeometry(scene, meshes, pictures);
}

/** Corners in one place joined, and normals taken from all triangles about them. */
function smoothed(mesh: Mesh): Mesh {
  const at = new Map<string, number>();
  const p = mesh.positions;
  const joined = Uint32Array.from(mesh.indices, (i) => {
    const key = `${p[i * 3]} ${p[i * 3 + 1]} ${p[i * 3 + 2]}`;
    const known = at.get(key);
    if (known !== undefined) return known;
    at.set(key, i);
    return i;
  });
  const shared = smoothNormals({ positions: p, indices: joined });
  const normals = new Float32Array(p.length);
  mesh.indices.forEach((i, k) => {
    normals.set(shared.subarray(joined[k] * 3, joined[k] * 3 + 3), i * 3);
  });
  return { ...mesh, normals };
}

function turned(mesh: Mesh): Mesh {
  const indices = mesh.indices.slice();
  for (let t = 0; t < indices.length; t += 3) [indices[t + 1], indices[t + 2]] = [indices[t + 2], indices[t + 1]];
  return { ...mesh, indices, normals: mesh.normals.map((v) => -v) };
}
