import {
  Box3,
  BoxGeometry,
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  Group,
  InstancedMesh,
  type Material,
  type Matrix4,
  MeshLambertMaterial,
  type Raycaster,
} from 'three';
import { IDENTITY_TRANSFORM, type SceneDocument } from '@/core/scene';
import type { SpaceGeometry } from '@/render/questions/geometry';
import { matrixOf } from './glyphs';

type Look = 'plain' | 'chosen' | 'glass' | 'wires';

const grey = (color: string, more = {}) => new MeshLambertMaterial({ color, side: DoubleSide, ...more });

interface Batch {
  mesh: InstancedMesh;
  names: string[];
}

/** Objects of a scene in the working view: one draw for all that share a mesh and a look. */
export class Solids {
  readonly group = new Group();
  private geometry: SpaceGeometry | null = null;
  private readonly geometries = new Map<string, BufferGeometry>();
  private readonly batches = new Map<string, Batch>();
  /** Mesh and place of each object that is drawn. */
  private places = new Map<string, { geometry: BufferGeometry; matrix: Matrix4 }>();
  private readonly looks: Record<Look, Material> = {
    plain: grey('#7c7c7c'),
    chosen: grey('#d8d8d8'),
    glass: grey('#7c7c7c', { transparent: true, opacity: 0.25, depthWrite: false }),
    wires: grey('#7c7c7c', { wireframe: true }),
  };

  get isEmpty(): boolean {
    return this.places.size === 0;
  }

  private geometryOf(name: string): BufferGeometry | null {
    const known = this.geometries.get(name);
    if (known) return known;
    const source = this.geometry;
    const entry = source?.meshes.find((m) => m.name === name);
    if (!source || !entry) return null;
    if (source.boxes) {
      const [low, high] = source.boxes[name];
      const size = high.map((c, k) => Math.max(1e-4, c - low[k]));
      const box = new BoxGeometry(...(size as [number, number, number]));
      box.translate(...(low.map((c, k) => c + size[k] / 2) as [number, number, number]));
      box.computeBoundingBox();
      this.geometries.set(name, box);
      return box;
    }
    const made = new BufferGeometry();
    const { offset, vertices, triangles } = entry;
    made.setAttribute('position', new BufferAttribute(new Float32Array(source.bytes, offset, vertices * 3), 3));
    made.setAttribute(
      'normal',
      new BufferAttribute(new Float32Array(source.bytes, offset + vertices * 12, vertices * 3), 3),
    );
    const indices = offset + vertices * 24 + (entry.uvs ? vertices * 8 : 0);
    made.setIndex(new BufferAttribute(new Uint32Array(source.bytes, indices, triangles * 3), 1));
    made.computeBoundingBox();
    this.geometries.set(name, made);
    return made;
  }

  private forget(): void {
    for (const { mesh } of this.batches.values()) {
      this.group.remove(mesh);
      mesh.dispose();
    }
    this.batches.clear();
  }

  /** Draws a scene's objects; the names of those that are chosen are lit up. */
  show(document: SceneDocument, geometry: SpaceGeometry | null, chosen: ReadonlySet<string>): void {
    if (geometry !== this.geometry) {
      this.forget();
      for (const g of this.geometries.values()) g.dispose();
      this.geometries.clear();
      this.geometry = geometry;
    }
    const glass = new Set(document.materials.filter((m) => m.transmission_weight > 0.5).map((m) => m.name));
    const wanted = new Map<string, { geometry: BufferGeometry; look: Look; names: string[]; matrices: Matrix4[] }>();
    this.places = new Map();
    for (const o of document.objects) {
      const shape = this.geometryOf(o.mesh);
      if (!shape) continue;
      const look: Look = document.fogs.some((f) => f.within === o.name)
        ? 'wires'
        : chosen.has(o.name)
          ? 'chosen'
          : glass.has(o.material)
            ? 'glass'
            : 'plain';
      const matrix = matrixOf(o.transform ?? o.motion?.[0].transform ?? IDENTITY_TRANSFORM);
      this.places.set(o.name, { geometry: shape, matrix });
      const key = `${look} ${o.mesh}`;
      const batch = wanted.get(key) ?? { geometry: shape, look, names: [], matrices: [] };
      wanted.set(key, batch);
      batch.names.push(o.name);
      batch.matrices.push(matrix);
    }
    for (const [key, { mesh }] of this.batches)
      if (wanted.get(key)?.matrices.length !== mesh.count) {
        this.group.remove(mesh);
        mesh.dispose();
        this.batches.delete(key);
      }
    for (const [key, { geometry: shape, look, names, matrices }] of wanted) {
      let mesh = this.batches.get(key)?.mesh;
      if (!mesh) {
        mesh = new InstancedMesh(shape, this.looks[look], matrices.length);
        this.group.add(mesh);
      }
      this.batches.set(key, { mesh, names });
      for (let i = 0; i < matrices.length; i++) mesh.setMatrixAt(i, matrices[i]);
      mesh.instanceMatrix.needsUpdate = true;
      mesh.computeBoundingSphere();
    }
  }

  /** The box around objects; null when none of them is drawn. */
  boundsOf(names: Iterable<string>): Box3 | null {
    const out = new Box3();
    const own = new Box3();
    for (const n of names) {
      const place = this.places.get(n);
      if (place) out.union(own.copy(place.geometry.boundingBox!).applyMatrix4(place.matrix));
    }
    return out.isEmpty() ? null : out;
  }

  /** The box around all that is drawn. */
  bounds(): Box3 | null {
    return this.boundsOf(this.places.keys());
  }

  /** Name of the object that a ray meets first. */
  pick(raycaster: Raycaster): string | null {
    const [hit] = raycaster.intersectObjects(this.group.children);
    if (!hit) return null;
    for (const { mesh, names } of this.batches.values())
      if (mesh === hit.object) return names[hit.instanceId ?? 0] ?? null;
    return null;
  }

  dispose(): void {
    this.forget();
    for (const g of this.geometries.values()) g.dispose();
    for (const m of Object.values(this.looks)) m.dispose();
  }
}
